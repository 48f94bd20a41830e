// Cures: mends tried on a gap, and judged on real frames beside it.
#pragma once

#include "core/mending/doubt_list.h"
#include "core/settings/mend.h"

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yarngap {

/// A mend that may be tried.
struct Cure {
    std::string name; ///< "stiffer"
    MendChanges changes;

    friend bool operator==(const Cure&, const Cure&) = default;
};

/// What is tried on a gap made with `settings`: as it is first, then thorough, stiffer, looser, on outlines,
/// straight paths, from before, from after, blended, repeated. What would change nothing is left out.
std::vector<Cure> usualCures(const GapSettings& settings);

/// How a cure does on real frames.
struct JudgedCure {
    Cure cure;
    /// PSNR over luma, in decibels, of the source frames beside, made again with it; higher is better. Absent
    /// where there are no such frames.
    std::optional<double> mark;
    /// The same of each of those frames by itself.
    std::vector<double> marks = {};

    friend bool operator==(const JudgedCure&, const JudgedCure&) = default;
};

/// Cures whose marks lie nearer than this are as good as each other, in decibels.
inline constexpr double aTie = 0.1;

/// By how much a cure has to be better than the frame as it is to be taken without anybody looking, in
/// decibels. Gaps between every second frame are harder than those that are mended; what is better there by
/// less is often no better here (see bench_mending).
inline constexpr double clearlyBetter = 0.3;

/// A gap between two source frames.
struct GapToCure {
    std::int64_t first = 0, last = 0;
};

/// Judges cures for gaps of one shot. Each source frame at an end of the gap is made again, at
/// the half, from the frames before and after it, as far as no cut and no end of the shot lies between, and
/// compared with what it truly is, as a whole: the doubtful place alone foretells less. The mark is over all
/// of them together. Thread-safe.
class CureJudge {
  public:
    /// `findings`: cuts and repeats, as the plan knows them.
    CureJudge(std::shared_ptr<ShotFrames> source, std::shared_ptr<VectorStore> vectors, GapFindings findings,
              Matte matte = {});

    /// The mark of one cure on settings `made`. Throws what making frames throws, and Cancelled.
    [[nodiscard]] JudgedCure judge(const GapToCure& gap, const GapSettings& made, const Cure& cure,
                                   const std::stop_token& stop = {}) const;
    /// All of them, the best first.
    [[nodiscard]] std::vector<JudgedCure> judged(const GapToCure& gap, const GapSettings& made,
                                                 const std::vector<Cure>& cures,
                                                 const Progress& progress = {},
                                                 const std::stop_token& stop = {}) const;

  private:
    [[nodiscard]] bool isUsable(std::int64_t frame) const;

    std::shared_ptr<ShotFrames> source_;
    std::shared_ptr<VectorStore> vectors_;
    GapFindings findings_;
    Matte matte_;
};

/// The picture of one row of `frames` under other settings. Its gap and place stay; of blending and sampling
/// the row becomes what these make of it.
Image madeWith(const PlannedFrames& frames, const PlanRow& row, const GapSettings& settings,
               const std::shared_ptr<VectorStore>& vectors, const Matte& matte,
               const std::stop_token& stop = {});

/// The best of judged cures that is clearly better than the frame as it is, and on no real frame worse. None
/// where there is no such. A repeat is never taken: it stutters, which no mark tells, and where something
/// rattles it has a good one by chance.
std::optional<Cure> bestCure(const std::vector<JudgedCure>& judged);

} // namespace yarngap
