// What measuring a shot costs beside reading it: decodes a file once without and once with measuring, three
// times in turn.
//
//     bench_inspection CLIP

#include "core/inspection/shot_findings.h"
#include "core/media/frame_decoder.h"
#include "core/media/library_messages.h"
#include "seconds_of.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <iostream>

using namespace yarngap;

int main(int argc, char** argv) {
    if (argc != 2) {
        std::cerr << "Usage: bench_inspection CLIP\n";
        return 2;
    }
    silenceMediaLibraries();
    try {
        const auto index = std::make_shared<const MediaIndex>(buildIndex(argv[1]));
        std::array<double, 3> ratios{};
        for (double& ratio : ratios) {
            const double plain = secondsOf([&] {
                FrameDecoder decoder(index);
                for (std::int64_t n = 0; n < index->frames(); ++n)
                    decoder.decode(n);
            });
            std::string found;
            const double measured = secondsOf([&] { found = inspectShot(index).describe(); });
            ratio = measured / plain;
            std::printf("%lld frames: decode %.2f s, decode and measure %.2f s, ratio %.2f (%s)\n",
                        static_cast<long long>(index->frames()), plain, measured, ratio, found.c_str());
        }
        std::sort(ratios.begin(), ratios.end());
        std::printf("median ratio %.2f\n", ratios[1]);
        return 0;
    } catch (const std::exception& error) {
        std::cerr << error.what() << '\n';
        return 1;
    }
}
