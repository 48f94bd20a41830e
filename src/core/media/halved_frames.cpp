#include "core/media/halved_frames.h"

#include "core/image/sample_types.h"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <type_traits>

namespace yarngap {

namespace {

template <typename Sample>
Sample meanOf(Sample a, Sample b, Sample c, Sample d) {
    if constexpr (std::is_floating_point_v<Sample>)
        return (a + b + c + d) / 4;
    else
        return static_cast<Sample>((std::uint32_t{a} + b + c + d + 2) / 4);
}

} // namespace

Image halved(const Image& image) {
    Image out((image.width() + 1) / 2, (image.height() + 1) / 2, image.layout());
    withSampleType(image.layout(), [&](auto sample) {
        using Sample = decltype(sample);
        for (int p = 0; p < image.planeCount(); ++p) {
            const int lastColumn = image.plane(p).width - 1;
            const int lastRow = image.plane(p).height - 1;
            tbb::parallel_for(0, out.plane(p).height, [&](int y) {
                const auto above = image.row<Sample>(p, std::min(2 * y, lastRow));
                const auto below = image.row<Sample>(p, std::min(2 * y + 1, lastRow));
                const auto to = out.row<Sample>(p, y);
                for (std::size_t x = 0; x < to.size(); ++x) {
                    const std::size_t left = std::min(2 * x, static_cast<std::size_t>(lastColumn));
                    const std::size_t right = std::min(2 * x + 1, static_cast<std::size_t>(lastColumn));
                    to[x] = meanOf(above[left], above[right], below[left], below[right]);
                }
            });
        }
    });
    return out;
}

HalvedFrames::HalvedFrames(std::shared_ptr<ShotFrames> whole)
    : whole_(std::move(whole))
    , facts_(whole_->facts()) {
    facts_.width = (facts_.width + 1) / 2;
    facts_.height = (facts_.height + 1) / 2;
}

ImagePtr HalvedFrames::frame(std::int64_t n, const std::stop_token& stop) {
    if (auto kept = frames_.find(n)) return *kept;
    const ImagePtr whole = whole_->frame(n, stop);
    auto made = std::make_shared<const Image>(halved(*whole));
    frames_.insert(n, made, made->byteCount());
    return made;
}

} // namespace yarngap
