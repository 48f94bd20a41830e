#include "core/mending/doubt_list.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>
#include <utility>
#include <vector>

namespace yarngap {

namespace {

constexpr int blockSide = 8; // cells

/// What a block of cells shows.
struct Block {
    double apart = 0;    ///< mean difference of both pictures along the motion, in 8-bit steps
    double oneSided = 0; ///< share of cells seen from one side only
    double outside = 0;  ///< share of cells whose place lies off one of the pictures
};

/// A plane of luma read between its samples.
float between(const CellPicture& picture, float x, float y) {
    const int ix = std::clamp(static_cast<int>(x), 0, picture.width - 2);
    const int iy = std::clamp(static_cast<int>(y), 0, picture.height - 2);
    const float fx = std::clamp(x - static_cast<float>(ix), 0.F, 1.F);
    const float fy = std::clamp(y - static_cast<float>(iy), 0.F, 1.F);
    const float* p =
        picture.luma.data() + static_cast<std::size_t>(iy) * static_cast<std::size_t>(picture.width) + ix;
    return (1 - fy) * ((1 - fx) * p[0] + fx * p[1]) +
           fy * ((1 - fx) * p[picture.width] + fx * p[picture.width + 1]);
}

/// A motion by blocks, and what is counted over a part of them.
class Blocks {
  public:
    explicit Blocks(const MotionLook& look)
        : look_(look)
        , columns_((look.motion.width + blockSide - 1) / blockSide)
        , rows_((look.motion.height + blockSide - 1) / blockSide)
        , blocks_(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_)) {
        for (int row = 0; row < rows_; ++row)
            for (int column = 0; column < columns_; ++column)
                measure(row, column);
    }

    /// Around the worst block, those that join it and are nearly as bad; in blocks.
    [[nodiscard]] PictureBox worst() const {
        const auto cost = [this](int i) {
            const Block& b = blocks_[static_cast<std::size_t>(i)];
            return b.apart * (1 + 0.5 * b.oneSided);
        };
        int peak = 0;
        for (int i = 1; i < static_cast<int>(blocks_.size()); ++i)
            if (cost(i) > cost(peak)) peak = i;
        const double enough = 0.4 * cost(peak);
        std::vector<char> seen(blocks_.size(), 0);
        std::vector<int> open{peak};
        seen[static_cast<std::size_t>(peak)] = 1;
        int left = columns_;
        int top = rows_;
        int right = 0;
        int bottom = 0;
        while (!open.empty()) {
            const int at = open.back();
            open.pop_back();
            const int row = at / columns_;
            const int column = at % columns_;
            left = std::min(left, column);
            right = std::max(right, column);
            top = std::min(top, row);
            bottom = std::max(bottom, row);
            for (int y = std::max(0, row - 1); y <= std::min(rows_ - 1, row + 1); ++y)
                for (int x = std::max(0, column - 1); x <= std::min(columns_ - 1, column + 1); ++x) {
                    const int next = y * columns_ + x;
                    if (seen[static_cast<std::size_t>(next)] != 0 || cost(next) < enough) continue;
                    seen[static_cast<std::size_t>(next)] = 1;
                    open.push_back(next);
                }
        }
        return {left, top, right - left + 1, bottom - top + 1};
    }
    /// The mean over the blocks of a box.
    template <typename What>
    [[nodiscard]] double mean(const PictureBox& box, What what) const {
        double sum = 0;
        for (int y = box.y; y < box.y + box.height; ++y)
            for (int x = box.x; x < box.x + box.width; ++x)
                sum += what(at(y, x));
        return sum / std::max(1, box.width * box.height);
    }
    [[nodiscard]] PictureBox all() const { return {0, 0, columns_, rows_}; }

  private:
    [[nodiscard]] std::size_t placeOf(int row, int column) const {
        return static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) +
               static_cast<std::size_t>(column);
    }
    [[nodiscard]] const Block& at(int row, int column) const { return blocks_[placeOf(row, column)]; }
    Block& at(int row, int column) { return blocks_[placeOf(row, column)]; }

    void measure(int row, int column) {
        const MidMotion& motion = look_.motion;
        Block& block = at(row, column);
        const auto t = static_cast<float>(look_.phase);
        const auto isOff = [&](float x, float y) {
            return x < 0 || y < 0 || x > static_cast<float>(motion.width - 1) ||
                   y > static_cast<float>(motion.height - 1);
        };
        int count = 0;
        int judged = 0;
        for (int y = row * blockSide; y < std::min(motion.height, (row + 1) * blockSide); ++y)
            for (int x = column * blockSide; x < std::min(motion.width, (column + 1) * blockSide);
                 ++x, ++count) {
                const MidCell& cell = motion.row(y)[x];
                const float ax = static_cast<float>(x) - t * cell.vx;
                const float ay = static_cast<float>(y) - t * cell.vy;
                const float bx = static_cast<float>(x) + (1 - t) * cell.vx;
                const float by = static_cast<float>(y) + (1 - t) * cell.vy;
                constexpr float one = 0.03F;
                if (cell.shareB < one || cell.shareB > 1 - one) block.oneSided += 1;
                if (isOff(ax, ay) || isOff(bx, by)) {
                    block.outside += 1;
                    continue;
                }
                constexpr double steps = 255;
                block.apart += steps * std::abs(between(look_.a, ax, ay) - between(look_.b, bx, by));
                ++judged;
            }
        block.apart /= std::max(1, judged);
        block.oneSided /= std::max(1, count);
        block.outside /= std::max(1, count);
    }

    const MotionLook& look_;
    int columns_, rows_;
    std::vector<Block> blocks_;
};

/// The cells of a box of blocks.
template <typename Visit>
void forEachCell(const MidMotion& motion, const PictureBox& box, Visit visit) {
    for (int y = box.y * blockSide; y < std::min(motion.height, (box.y + box.height) * blockSide); ++y)
        for (int x = box.x * blockSide; x < std::min(motion.width, (box.x + box.width) * blockSide); ++x)
            visit(x, y);
}

/// How far things move in a box, in cells: further than all but a tenth.
double farthestIn(const MidMotion& motion, const PictureBox& box) {
    std::vector<double> lengths;
    forEachCell(motion, box, [&](int x, int y) {
        const MidCell& cell = motion.row(y)[x];
        lengths.push_back(std::hypot(cell.vx, cell.vy));
    });
    if (lengths.empty()) return 0;
    const auto at = lengths.begin() + static_cast<std::ptrdiff_t>(lengths.size() * 9 / 10);
    std::nth_element(lengths.begin(), at, lengths.end());
    return *at;
}

/// The share of cells in a box at which motions part.
double seamsIn(const MidMotion& motion, const PictureBox& box) {
    if (motion.seams.empty()) return 0;
    double seams = 0;
    double count = 0;
    forEachCell(motion, box, [&](int x, int y) {
        const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(motion.width) +
                       static_cast<std::size_t>(x);
        seams += motion.seams[i] != 0 ? 1 : 0;
        count += 1;
    });
    return count > 0 ? seams / count : 0;
}

/// Whether what a box (of blocks) shows looks the same a little further: 6 to 24 cells away the picture
/// differs from itself by less than a fourth of what unlike places do, and half way there by nearly all of
/// that.
bool repeatsIn(const CellPicture& picture, const PictureBox& box) {
    constexpr int farthest = 24;
    constexpr int nearest = 6;
    constexpr int most = 48; // cells across that are looked at
    const int side = std::min({most, box.width * blockSide, box.height * blockSide,
                               picture.width - 2 * farthest, picture.height - 2 * farthest});
    if (side < 2 * nearest) return false;
    const auto first = [&](int middle, int size) {
        return std::clamp(middle - side / 2, farthest, size - farthest - side);
    };
    const int left = first((2 * box.x + box.width) * blockSide / 2, picture.width);
    const int top = first((2 * box.y + box.height) * blockSide / 2, picture.height);
    const auto differs = [&](int dx, int dy) {
        double sum = 0;
        for (int y = top; y < top + side; y += 2)
            for (int x = left; x < left + side; x += 2) {
                const auto at = [&](int px, int py) {
                    return picture
                        .luma[static_cast<std::size_t>(py) * static_cast<std::size_t>(picture.width) +
                              static_cast<std::size_t>(px)];
                };
                sum += std::abs(at(x, y) - at(x + dx, y + dy));
            }
        constexpr double steps = 255;
        const int across = (side + 1) / 2; // cells that were looked at
        return steps * sum / across / across;
    };
    struct Further {
        int x, y;
        double difference;
    };
    std::vector<Further> all;
    double mean = 0; // what unlike places differ by
    for (int dy = -farthest; dy <= farthest; dy += 2)
        for (int dx = 0; dx <= farthest; dx += 2) {
            const int away = dx * dx + dy * dy;
            if (away < nearest * nearest || away > farthest * farthest) continue;
            all.push_back({dx, dy, differs(dx, dy)});
            mean += all.back().difference;
        }
    mean /= static_cast<double>(all.size());
    constexpr double contrast = 5; // steps
    constexpr double alike = 0.25;
    constexpr double unlike = 0.7;
    return mean > contrast && std::ranges::any_of(all, [&](const Further& f) {
               return f.difference < alike * mean && differs(f.x / 2, f.y / 2) > unlike * mean;
           });
}

/// Whether what a box shows has contrast but no sharp outline.
bool isBlurred(const CellPicture& picture, const MidMotion& motion, const PictureBox& box) {
    double sum = 0;
    double squares = 0;
    double count = 0;
    std::vector<float> steps;
    forEachCell(motion, box, [&](int x, int y) {
        if (x + 1 >= picture.width || y + 1 >= picture.height) return;
        const float* p =
            picture.luma.data() + static_cast<std::size_t>(y) * static_cast<std::size_t>(picture.width) + x;
        sum += p[0];
        squares += static_cast<double>(p[0]) * p[0];
        count += 1;
        steps.push_back(std::hypot(p[1] - p[0], p[picture.width] - p[0]));
    });
    if (count < 64) return false;
    const double deviation = std::sqrt(std::max(0.0, squares / count - sum * sum / count / count));
    const auto sharpest = steps.begin() + static_cast<std::ptrdiff_t>(steps.size() * 49 / 50);
    std::nth_element(steps.begin(), sharpest, steps.end());
    constexpr double contrast = 0.06;
    constexpr double soft = 0.55; // of the deviation, from a cell to the next
    return deviation > contrast && *sharpest < soft * deviation;
}

/// By how many 8-bit steps the whole picture gets lighter along the motion; 0 where parts of it disagree.
double lightChange(const MotionLook& look) {
    double sum = 0;
    int lighter = 0;
    int count = 0;
    constexpr int every = 4;
    for (int y = 0; y < look.motion.height; y += every)
        for (int x = 0; x < look.motion.width; x += every) {
            const MidCell& cell = look.motion.row(y)[x];
            const auto t = static_cast<float>(look.phase);
            const float change =
                between(look.b, static_cast<float>(x) + (1 - t) * cell.vx,
                        static_cast<float>(y) + (1 - t) * cell.vy) -
                between(look.a, static_cast<float>(x) - t * cell.vx, static_cast<float>(y) - t * cell.vy);
            sum += 255.0 * change;
            lighter += change > 0 ? 1 : 0;
            ++count;
        }
    if (count == 0) return 0;
    const double mean = sum / count;
    const double agreed =
        mean > 0 ? static_cast<double>(lighter) / count : 1 - static_cast<double>(lighter) / count;
    constexpr double most = 0.75;
    return agreed > most ? std::abs(mean) : 0;
}

/// How much both pictures differ along the motion, |d| smoothed over 3 x 3 cells, in 8-bit steps.
struct DifferenceAlongMotion {
    double squares = 0;     ///< mean of d²
    double fourths = 0;     ///< mean of d⁴
    double slopesTimes = 0; ///< mean of slope² (steps per cell) times speed (cells)
};

DifferenceAlongMotion differenceOf(const MotionLook& look) {
    const MidMotion& motion = look.motion;
    const auto t = static_cast<float>(look.phase);
    const auto width = static_cast<std::size_t>(motion.width);
    constexpr float nowhere = -1;
    std::vector<float> off(motion.cells.size(), nowhere);
    double slopes = 0;
    double seen = 0;
    for (int y = 0; y < motion.height; ++y)
        for (int x = 0; x < motion.width; ++x) {
            const MidCell& cell = motion.row(y)[x];
            const float ax = static_cast<float>(x) - t * cell.vx;
            const float ay = static_cast<float>(y) - t * cell.vy;
            const float bx = static_cast<float>(x) + (1 - t) * cell.vx;
            const float by = static_cast<float>(y) + (1 - t) * cell.vy;
            const auto isOn = [&](float px, float py) {
                return px >= 0 && py >= 0 && px <= static_cast<float>(motion.width - 1) &&
                       py <= static_cast<float>(motion.height - 1);
            };
            if (!isOn(ax, ay) || !isOn(bx, by)) continue;
            constexpr float steps = 255;
            const float a = between(look.a, ax, ay);
            off[static_cast<std::size_t>(y) * width + static_cast<std::size_t>(x)] =
                steps * std::abs(a - between(look.b, bx, by));
            const float across = steps * (between(look.a, ax + 1, ay) - a);
            const float down = steps * (between(look.a, ax, ay + 1) - a);
            const float speed = std::sqrt(cell.vx * cell.vx + cell.vy * cell.vy);
            slopes += static_cast<double>(across * across + down * down) * speed;
            seen += 1;
        }
    DifferenceAlongMotion out;
    double count = 0;
    for (int y = 1; y + 1 < motion.height; ++y)
        for (int x = 1; x + 1 < motion.width; ++x) {
            const float* at = off.data() + static_cast<std::size_t>(y) * width + static_cast<std::size_t>(x);
            if (*at == nowhere) continue;
            float mean = 0;
            for (const std::ptrdiff_t row :
                 {-static_cast<std::ptrdiff_t>(width), std::ptrdiff_t{0}, static_cast<std::ptrdiff_t>(width)})
                for (const std::ptrdiff_t i : {row - 1, row, row + 1})
                    mean += std::max(0.F, at[i]);
            const double square = static_cast<double>(mean / 9) * (mean / 9);
            out.squares += square;
            out.fourths += square * square;
            count += 1;
        }
    out.squares /= std::max(1.0, count);
    out.fourths /= std::max(1.0, count);
    out.slopesTimes = slopes / std::max(1.0, seen);
    return out;
}

/// See doubtIn().
double localDoubt(const MotionLook& look) {
    const DifferenceAlongMotion found = differenceOf(look);
    constexpr double missed = 0.05; // of the way: by so much (squared) the motion misses its place
    constexpr double ofAll = 0.7;
    constexpr double ofRemakes = 0.3;
    constexpr double scale = 25;
    const double all = found.squares + missed * found.slopesTimes;
    const double local = std::sqrt(found.fourths);
    const double badness = std::pow(all, ofAll) * std::pow(local, 1 - ofAll) *
                           std::pow(1 + std::max(0.0, look.remakeError.value_or(0)), ofRemakes);
    return 1 - std::exp(-std::sqrt(4 * look.phase * (1 - look.phase) * badness) / scale);
}

} // namespace

std::string_view name(DoubtReason reason) {
    constexpr std::array<std::string_view, 9> words{
        "moves too far", "something is uncovered", "things cross",      "leaves the picture", "is blurred",
        "light changes", "motion jerks",           "pictures disagree", "repeats in texture"};
    return words.at(static_cast<std::size_t>(reason));
}

DoubtfulGap doubtIn(const MotionLook& look, int width, int height) {
    DoubtfulGap gap;
    gap.doubt = localDoubt(look);
    if (look.motion.width < 2 || look.motion.height < 2) return gap;
    const Blocks blocks(look);
    const PictureBox box = blocks.worst();
    const double cell = static_cast<double>(width) / look.motion.width;
    gap.farthest = farthestIn(look.motion, box) * cell;
    gap.widthShare = gap.farthest / width;
    const auto scaled = [](int blocksAway, double side, int most) {
        return std::min(most, static_cast<int>(std::lround(blocksAway * blockSide * side)));
    };
    const double cellHeight = static_cast<double>(height) / look.motion.height;
    gap.box.x = scaled(box.x, cell, width);
    gap.box.y = scaled(box.y, cellHeight, height);
    gap.box.width = scaled(box.x + box.width, cell, width) - gap.box.x;
    gap.box.height = scaled(box.y + box.height, cellHeight, height) - gap.box.y;

    using enum DoubtReason;
    constexpr double far = 0.03; // of the width; beyond it even calm clips lose
    if (gap.widthShare > far) gap.why.push_back(movesFar);
    const double apart = blocks.mean(box, [](const Block& b) { return b.apart; });
    const double oneSided = blocks.mean(box, [](const Block& b) { return b.oneSided; });
    const double outside = blocks.mean(box, [](const Block& b) { return b.outside; });
    constexpr double much = 0.12;
    if (outside > much) gap.why.push_back(leavesPicture);
    if (oneSided - outside > much) gap.why.push_back(uncovered);
    if (seamsIn(look.motion, box) > 0.05) gap.why.push_back(crossing);
    if (repeatsIn(look.a, box)) gap.why.push_back(repeats);
    if (isBlurred(look.a, look.motion, box)) gap.why.push_back(blurred);
    constexpr double lighter = 3;
    if (lightChange(look) > lighter) gap.why.push_back(lightChanges);
    // What both pictures agree on, and the frames beside do not.
    const double all = blocks.mean(blocks.all(), [](const Block& b) { return b.apart * b.apart; });
    constexpr double uneven = 100;
    if (look.remakeError && *look.remakeError > uneven && *look.remakeError > 3 * all)
        gap.why.push_back(jerks);
    constexpr double clear = 4; // 8-bit steps
    if (gap.why.empty() && apart > clear) gap.why.push_back(differs);
    return gap;
}

} // namespace yarngap
