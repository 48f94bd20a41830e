#include "core/media/demuxer.h"

#include "core/error.h"
#include "core/files/write_failure.h"
#include "core/media/media_identity.h"
#include "core/time/timecode.h"

extern "C" {
#include <libavutil/display.h>
#include <libavutil/pixdesc.h>
}

#include <algorithm>
#include <array>
#include <cmath>
#include <span>
#include <string_view>
#include <thread>

namespace yarngap {

namespace {

/// Containers that are opened, by the first of FFmpeg's names for them.
constexpr std::array<std::string_view, 41> openedFormats{
    "mov",  "matroska", "avi",   "mpeg", "mpegts",       "mpegvideo", "mxf",  "ogg", "flv",
    "asf",  "asf_o",    "dv",    "h264", "hevc",         "av1",       "obu",  "ivf", "nut",
    "gxf",  "lxf",      "m4v",   "vc1",  "vc1test",      "dirac",     "wtv",  "rm",  "gif",
    "apng", "h263",     "mjpeg", "h261", "yuv4mpegpipe", "r3d",       "aiff", "wav", "w64",
    "caf",  "mp3",      "flac",  "aac",  "ac3"};

/// Formats that name other files or need a network, for the right words.
constexpr std::array<std::string_view, 9> playlists{
    "hls", "dash", "concat", "imf", "sdp", "rtsp", "rtp", "webm_dash_manifest", "ffmetadata"};

template <typename List>
bool holds(const List& list, std::string_view name) {
    return std::find(list.begin(), list.end(), name) != list.end();
}

std::string errorText(int code) {
    std::array<char, AV_ERROR_MAX_STRING_SIZE> text{};
    av_strerror(code, text.data(), text.size());
    return text.data();
}

Error unreadable(const std::filesystem::path& path, const std::string& why) {
    return Error(path.string() + " cannot be read as video (" + why +
                 "). It may be damaged or of another kind; copy it again or convert it first.");
}

Rational toRational(AVRational r, Rational fallback) {
    return r.num > 0 && r.den > 0 ? Rational(r.num, r.den) : fallback;
}

Scan scanOf(AVFieldOrder order) {
    switch (order) {
    case AV_FIELD_PROGRESSIVE:
        return Scan::progressive;
    case AV_FIELD_TT:
    case AV_FIELD_TB:
        return Scan::topFieldFirst;
    case AV_FIELD_BB:
    case AV_FIELD_BT:
        return Scan::bottomFieldFirst;
    default:
        return Scan::unknown;
    }
}

} // namespace

std::string tidyReel(std::string_view text) {
    constexpr std::size_t most = 64;
    std::string tidy;
    for (const char c : text.substr(0, most))
        if (static_cast<unsigned char>(c) >= ' ' && c != '\x7f') tidy += c;
    tidy.erase(tidy.find_last_not_of(' ') + 1);
    return tidy;
}

std::string_view name(Scan scan) {
    switch (scan) {
    case Scan::unknown:
        return "scan not stated";
    case Scan::progressive:
        return "progressive";
    case Scan::topFieldFirst:
        return "interlaced, top field first";
    case Scan::bottomFieldFirst:
        return "interlaced, bottom field first";
    }
    return "";
}

PacketPtr makePacket() {
    PacketPtr packet(av_packet_alloc());
    if (!packet) throw Error(outOfMemory);
    return packet;
}

Demuxer::Demuxer(const std::filesystem::path& path, StreamKind wanted, const std::stop_token& stop)
    : path_(path)
    , input_(std::make_unique<MediaInput>(path, stop)) {
    if (input_->file().bytes() == 0)
        throw Error(path.string() + " is empty (0 bytes). Copy it again from where it came from.");
    const std::string url = "file:" + path.string(); // some formats are told by the ending
    open(recognised(url), url);
    choose(wanted);
    if (wanted == StreamKind::pictures) refusePicturesUnfit();
}

const AVInputFormat& Demuxer::recognised(const std::string& url) {
    const AVInputFormat* kind = nullptr;
    const int probed = av_probe_input_buffer2(input_->io(), &kind, url.c_str(), nullptr, 0, 0);
    input_->rethrow();
    if (probed == AVERROR(ENOMEM)) throw Error(outOfMemory);
    if (probed < 0 || !kind) throw unreadable(path_, "its kind is not recognised");
    const std::string_view names = kind->name;
    const std::string_view first = names.substr(0, names.find(','));
    if (holds(openedFormats, first)) return *kind;
    if (holds(playlists, first))
        throw Error(path_.string() +
                    " is a playlist that refers to other files. Open the video files themselves.");
    if (first.ends_with("_pipe") || first.starts_with("image2"))
        throw Error(path_.string() +
                    " holds a picture of a kind that is not opened, or under a wrong ending. "
                    "Convert it to PNG, TIFF or EXR.");
    throw Error(path_.string() + " is of a kind that is not opened (" + std::string(first) +
                "). Convert it to MOV, MP4, MKV, MXF or AVI first.");
}

void Demuxer::open(const AVInputFormat& kind, const std::string& url) {
    AVFormatContext* raw = avformat_alloc_context();
    if (!raw) throw Error(outOfMemory);
    raw->pb = input_->io();
    raw->interrupt_callback = input_->interruptCallback();
    AVDictionary* options = nullptr;
    av_dict_set(&options, "protocol_whitelist", "file", 0);
    if (std::string_view(kind.name).starts_with("mov")) av_dict_set(&options, "enable_drefs", "0", 0);
    const int result = avformat_open_input(&raw, url.c_str(), &kind, &options);
    format_.reset(raw); // null on failure
    av_dict_free(&options);
    input_->rethrow();
    if (result == AVERROR(ENOMEM)) throw Error(outOfMemory);
    if (result < 0) throw unreadable(path_, errorText(result));
    const int found = avformat_find_stream_info(raw, nullptr);
    input_->rethrow();
    if (found == AVERROR(ENOMEM)) throw Error(outOfMemory);
    if (found < 0) throw unreadable(path_, errorText(found));
}

void Demuxer::choose(StreamKind wanted) {
    AVFormatContext* raw = format_.get();
    const bool sound = wanted == StreamKind::sound;
    stream_ = av_find_best_stream(raw, sound ? AVMEDIA_TYPE_AUDIO : AVMEDIA_TYPE_VIDEO, -1, -1, nullptr, 0);
    if (sound && stream_ < 0) throw Error(path_.string() + " has no sound.");
    if (stream_ < 0 || (raw->streams[stream_]->disposition & AV_DISPOSITION_ATTACHED_PIC) != 0)
        throw Error(path_.string() + " has no picture stream. Choose a file with moving pictures.");
    for (unsigned i = 0; i < raw->nb_streams; ++i)
        if (static_cast<int>(i) != stream_) raw->streams[i]->discard = AVDISCARD_ALL;
    if (const AVCodecID codec = stream().codecpar->codec_id; !avcodec_find_decoder(codec))
        throw Error(path_.string() + " is coded as " + avcodec_get_name(codec) +
                    ", which cannot be decoded here. Convert it to another codec first.");
}

void Demuxer::refuseChanged() const {
    if (input_->file().hasChanged()) throw changedOnDisk(path_);
}

void Demuxer::refusePicturesUnfit() const {
    const AVCodecParameters& par = *stream().codecpar;
    if (par.width < 1 || par.height < 1 || !layoutOf(static_cast<AVPixelFormat>(par.format)))
        throw unreadable(path_, "its picture size or pixel format cannot be found out");
    if (std::int64_t{par.width} * par.height > Image::maxPixels)
        throw Error(path_.string() + " has pictures of " + std::to_string(par.width) + " x " +
                    std::to_string(par.height) + " pixels, more than can be worked on. Scale it down first.");
}

bool Demuxer::next(AVPacket& packet, const std::stop_token& stop) {
    input_->setStop(stop);
    while (true) {
        av_packet_unref(&packet);
        const int result = av_read_frame(format_.get(), &packet);
        input_->rethrow();
        if (result == AVERROR(EAGAIN)) continue;
        if (result == AVERROR(ENOMEM)) throw Error(outOfMemory);
        if (result < 0) {
            refuseChanged(); // a file that was cut short ends early
            endedOnError_ = result != AVERROR_EOF;
            return false;
        }
        if (packet.stream_index == stream_) return true;
    }
}

bool Demuxer::seek(std::int64_t timestamp, const std::stop_token& stop) {
    input_->setStop(stop);
    const bool found = avformat_seek_file(format_.get(), stream_, INT64_MIN, timestamp, timestamp, 0) >= 0;
    input_->rethrow();
    return found;
}

double Demuxer::position() const {
    const std::int64_t size = avio_size(format_->pb);
    return size > 0
               ? std::clamp(static_cast<double>(avio_tell(format_->pb)) / static_cast<double>(size), 0.0, 1.0)
               : 0.0;
}

std::string Demuxer::told(const char* key) const {
    const auto in = [key](const AVDictionary* dictionary) -> std::string {
        const AVDictionaryEntry* entry = av_dict_get(dictionary, key, nullptr, 0);
        return entry ? entry->value : "";
    };
    std::string text = in(stream().metadata);
    if (text.empty()) text = in(format_->metadata);
    for (unsigned i = 0; text.empty() && i < format_->nb_streams; ++i)
        text = in(format_->streams[i]->metadata);
    return text;
}

MediaFacts Demuxer::facts() const {
    const AVCodecParameters& par = *stream().codecpar;
    const auto format = static_cast<AVPixelFormat>(par.format);
    MediaFacts f;
    f.path = path_;
    f.fileBytes = input_->file().bytes();
    f.container = format_->iformat->name;
    f.codec = avcodec_get_name(par.codec_id);
    f.pixelFormat = av_get_pix_fmt_name(format);
    f.width = par.width;
    f.height = par.height;
    AVStream* own = format_->streams[stream_];
    f.pixelAspect = toRational(av_guess_sample_aspect_ratio(format_.get(), own, nullptr), 1);
    f.layout = *layoutOf(format);
    f.colour.primaries = par.color_primaries;
    f.colour.transfer = par.color_trc;
    f.colour.matrix = par.color_space;
    f.colour.fullRange = par.color_range == AVCOL_RANGE_JPEG || f.pixelFormat.starts_with("yuvj") ||
                         f.layout.model == ColourModel::rgb;
    f.colour.chromaSite = par.chroma_location;
    f.scan = scanOf(par.field_order);
    for (unsigned i = 0; i < format_->nb_streams; ++i)
        f.soundStreams += format_->streams[i]->codecpar->codec_type == AVMEDIA_TYPE_AUDIO ? 1 : 0;
    f.hasSound = f.soundStreams > 0;
    if (const auto* matrix = reinterpret_cast<const std::int32_t*>(
            av_stream_get_side_data(own, AV_PKT_DATA_DISPLAYMATRIX, nullptr))) {
        const double degrees = -av_display_rotation_get(matrix);
        if (std::isfinite(degrees)) f.rotation = (static_cast<int>(std::lround(degrees)) % 360 + 360) % 360;
    }
    const Rational claimed = toRational(own->avg_frame_rate, toRational(own->r_frame_rate, 25));
    const bool sane = claimed >= Rational(1, 1000) && claimed <= Rational(100000);
    f.rate = Rate::snapped(sane ? claimed : Rational(25));
    f.frames = own->nb_frames;
    f.timecode = tidyTimecode(told("timecode"));
    f.reel = tidyReel(told("reel_name"));
    return f;
}

std::uint64_t Demuxer::codecHash() const {
    const AVCodecParameters& par = *stream().codecpar;
    const std::array<std::uint64_t, 5> parts{
        hashOf(std::as_bytes(std::span(par.extradata, static_cast<std::size_t>(par.extradata_size)))),
        static_cast<std::uint64_t>(par.codec_id), static_cast<std::uint64_t>(par.width),
        static_cast<std::uint64_t>(par.height), static_cast<std::uint64_t>(par.format)};
    return hashOf(std::as_bytes(std::span(parts)));
}

Decoder::Decoder(const AVStream& stream, DecodedFor purpose) {
    const AVCodec* codec = avcodec_find_decoder(stream.codecpar->codec_id);
    context_.reset(avcodec_alloc_context3(codec));
    if (!context_ || avcodec_parameters_to_context(context_.get(), stream.codecpar) < 0)
        throw Error("The decoder cannot be set up. Close other programs and try again.");
    context_->pkt_timebase = stream.time_base;
    context_->max_pixels = Image::maxPixels;
    if (purpose == DecodedFor::order) context_->skip_loop_filter = AVDISCARD_ALL;
    context_->thread_count = static_cast<int>(std::clamp(std::thread::hardware_concurrency(), 1U, 16U));
    const int opened = avcodec_open2(context_.get(), codec, nullptr);
    if (opened == AVERROR(ENOMEM)) throw Error(outOfMemory);
    if (opened < 0)
        throw Error(std::string("The ") + codec->name +
                    " decoder refuses this stream. Convert the file first.");
}

bool Decoder::send(const AVPacket* packet) {
    if (packet && packet->size == 0) return false; // would be taken for the end of the stream
    const int result = avcodec_send_packet(context_.get(), packet);
    if (result == AVERROR(ENOMEM)) throw Error(outOfMemory);
    return result >= 0;
}

bool Decoder::receive(AVFrame& frame) {
    while (true) {
        av_frame_unref(&frame);
        const int result = avcodec_receive_frame(context_.get(), &frame);
        if (result >= 0) return true;
        if (result == AVERROR(ENOMEM)) throw Error(outOfMemory);
        // A broken frame is reported once; the ones behind it may be fine.
        if (result == AVERROR(EAGAIN) || result == AVERROR_EOF) return false;
    }
}

void Decoder::flush() {
    avcodec_flush_buffers(context_.get());
}

} // namespace yarngap
