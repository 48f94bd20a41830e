#include "core/media/deinterlacer.h"

#include "core/error.h"
#include "core/image/ffmpeg_image.h"

extern "C" {
#include <libavfilter/avfilter.h>
#include <libavfilter/buffersink.h>
#include <libavfilter/buffersrc.h>
#include <libavutil/pixdesc.h>
}

#include <array>
#include <string>

namespace yarngap {

namespace {

struct GraphFreer {
    void operator()(AVFilterGraph* g) const { avfilter_graph_free(&g); }
};

} // namespace

Image deinterlace(const Image& before, const Image& now, const Image& after, bool topFirst, bool second) {
    const AVPixelFormat format = formatOf(now.layout());
    const auto failed = [&] {
        return Error("Frames of " + now.layout().describe() +
                     " cannot be deinterlaced. Take the fields as coded, or convert the file first.");
    };
    const std::unique_ptr<AVFilterGraph, GraphFreer> graph(avfilter_graph_alloc());
    if (!graph) throw failed();
    graph->nb_threads = 1; // frames are made side by side already
    const std::string input = "video_size=" + std::to_string(now.width()) + "x" +
                              std::to_string(now.height()) + ":pix_fmt=" + std::to_string(format) +
                              ":time_base=1/25:pixel_aspect=1/1";
    AVFilterContext* source = nullptr;
    AVFilterContext* filter = nullptr;
    AVFilterContext* sink = nullptr;
    const std::string options = std::string("mode=send_field:deint=all:parity=") + (topFirst ? "tff" : "bff");
    if (avfilter_graph_create_filter(&source, avfilter_get_by_name("buffer"), "in", input.c_str(), nullptr,
                                     graph.get()) < 0 ||
        avfilter_graph_create_filter(&filter, avfilter_get_by_name("bwdif"), "fields", options.c_str(),
                                     nullptr, graph.get()) < 0 ||
        avfilter_graph_create_filter(&sink, avfilter_get_by_name("buffersink"), "out", nullptr, nullptr,
                                     graph.get()) < 0 ||
        avfilter_link(source, 0, filter, 0) < 0 || avfilter_link(filter, 0, sink, 0) < 0 ||
        avfilter_graph_config(graph.get(), nullptr) < 0)
        throw failed();

    std::int64_t pts = 0;
    for (const Image* image : {&before, &now, &after}) {
        const FramePtr frame = toFrame(*image, {}, format, false);
        frame->pts = pts++;
        frame->interlaced_frame = 1;
        frame->top_field_first = topFirst ? 1 : 0;
        if (av_buffersrc_write_frame(source, frame.get()) < 0) throw failed();
    }
    // Output times count half frames; the fields of `now`, frame 1, are 2 and 3.
    const std::int64_t wanted = second ? 3 : 2;
    const FramePtr out = makeFrame();
    while (av_buffersink_get_frame(sink, out.get()) >= 0) {
        if (out->pts == wanted) return toImage(*out, now.layout(), now.width(), now.height());
        av_frame_unref(out.get());
    }
    throw failed();
}

} // namespace yarngap
