// What it costs to know a file by its content: the pass that counts frames and hashes every packet, beside a
// plain pass of the library over all packets, three times in turn.
//
//     bench_identity CLIP
//
// Read the file once before, so that the disk's speed is left out.

#include "core/media/library_messages.h"
#include "core/media/media_identity.h"
#include "seconds_of.h"

extern "C" {
#include <libavformat/avformat.h>
}

#include <algorithm>
#include <array>
#include <cstdio>
#include <iostream>

using namespace yarngap;

namespace {

void readAllPackets(const char* file) {
    AVFormatContext* format = nullptr;
    if (avformat_open_input(&format, file, nullptr, nullptr) < 0)
        throw std::runtime_error("It cannot be read.");
    avformat_find_stream_info(format, nullptr);
    AVPacket* packet = av_packet_alloc();
    while (av_read_frame(format, packet) >= 0)
        av_packet_unref(packet);
    av_packet_free(&packet);
    avformat_close_input(&format);
}

} // namespace

int main(int argc, char** argv) {
    if (argc != 2) {
        std::cerr << "Usage: bench_identity CLIP\n";
        return 2;
    }
    silenceMediaLibraries();
    try {
        std::array<double, 3> prices{};
        for (double& price : prices) {
            const double plain = secondsOf([&] { readAllPackets(argv[1]); });
            std::string identity;
            const double known = secondsOf([&] { identity = buildIndex(argv[1]).identity; });
            price = known - plain;
            std::printf("packets %.2f s, frames counted and known %.2f s, price %.2f s (%s)\n", plain, known,
                        price, identity.c_str());
        }
        std::sort(prices.begin(), prices.end());
        std::printf("median price %.2f s\n", prices[1]);
        return 0;
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
