#include "cli/json_output.h"

#include "core/decimal.h"
#include "core/project/time_map_json.h"
#include "core/time/timecode.h"

#include <iostream>
#include <sstream>

namespace yarngap::cli {

namespace {

constexpr std::initializer_list<FrameKind> kinds{FrameKind::original, FrameKind::repeat, FrameKind::blend,
                                                 FrameKind::flow, FrameKind::held};

std::string_view key(Tail tail) {
    switch (tail) {
    case Tail::none:
        return "none";
    case Tail::beyondTrim:
        return "beyond-trim";
    case Tail::held:
        return "held";
    }
    return "";
}

} // namespace

nlohmann::ordered_json toJson(const MediaFacts& f) {
    return {{"path", f.path.string()},
            {"bytes", f.fileBytes},
            {"container", f.container},
            {"codec", f.codec},
            {"width", f.width},
            {"height", f.height},
            {"pixelAspect", f.pixelAspect.toString()},
            {"pixelFormat", f.pixelFormat},
            {"depth", f.layout.depth},
            {"layout", f.layout.describe()},
            {"colour",
             {{"primaries", f.colour.primaries},
              {"transfer", f.colour.transfer},
              {"matrix", f.colour.matrix},
              {"range", f.colour.fullRange ? "full" : "limited"}}},
            {"scan", name(f.scan)},
            {"rotation", f.rotation},
            {"sound", f.hasSound},
            {"timecode", f.timecode},
            {"reel", f.reel},
            {"rate", f.rate.toString()},
            {"constantRate", f.constantRate},
            {"frames", f.frames},
            {"seconds", f.seconds().toDouble()},
            {"remark", f.remark}};
}

namespace {

nlohmann::ordered_json toJson(const CleanFindings& clean) {
    const auto frames = [](const std::vector<FoundFrame>& found) {
        auto list = nlohmann::ordered_json::array();
        for (const FoundFrame& f : found)
            list.push_back({{"frame", f.frame}, {"certainty", f.certainty}});
        return list;
    };
    auto damage = nlohmann::ordered_json::array();
    for (const FoundDamage& d : clean.damage) {
        auto places = nlohmann::ordered_json::array();
        for (const DamagedPlace& p : d.places)
            places.push_back({p.x, p.y, p.width, p.height});
        damage.push_back({{"frame", d.frame}, {"certainty", d.certainty}, {"places", places}});
    }
    auto losses = nlohmann::ordered_json::array();
    for (const FoundLoss& l : clean.losses)
        losses.push_back({{"after", l.after}, {"missing", l.missing}, {"certainty", l.certainty}});
    return {{"repeats", frames(clean.repeats)},
            {"figureHolds", frames(clean.figureHolds)},
            {"damage", damage},
            {"losses", losses}};
}

} // namespace

nlohmann::ordered_json toJson(const MediaIndex& index, const ShotFindings& findings) {
    nlohmann::ordered_json runs = nlohmann::ordered_json::array();
    for (const CadenceRun& run : findings.cadence) {
        nlohmann::ordered_json r{{"first", run.first}, {"last", run.last}, {"kind", name(run.kind)}};
        if (run.kind != CadenceKind::progressive) r["order"] = run.topFirst ? "top" : "bottom";
        if (run.kind == CadenceKind::pulldown32 || run.kind == CadenceKind::pulldown2332)
            r["phase"] = run.phase;
        r["evidence"] = run.evidence;
        runs.push_back(std::move(r));
    }
    nlohmann::ordered_json proposals = nlohmann::ordered_json::array();
    auto drops = nlohmann::ordered_json::array();
    for (const Drop& d : findings.drops)
        drops.push_back({{"after", d.after}, {"missing", d.missing}, {"filled", d.filled}});
    for (const Proposal& p : proposalsFor(index, findings, {}))
        proposals.push_back({{"sentence", p.sentence}, {"action", p.action}});
    return {{"frames", findings.frames},
            {"summary", findings.describe()},
            {"decided", findings.decided()},
            {"cadence", runs},
            {"breaks", findings.breaks()},
            {"repeats", findings.repeats.frames},
            {"heldFor", findings.repeats.heldFor},
            {"partHeldFor", findings.heldPart.heldFor},
            {"exposure", findings.camera.exposure},
            {"shakenGaps", findings.camera.gaps.size()},
            {"drops", drops},
            {"flicker", findings.flicker},
            {"otherSizes", findings.otherSizes},
            {"undecodable", findings.undecodable},
            {"cuts", findings.cuts},
            {"clean", toJson(findings.clean)},
            {"proposals", proposals}};
}

nlohmann::ordered_json toJson(const Suitability& s) {
    return {{"sentence", s.sentence()},
            {"lowestSpeedPercent", s.lowestSpeed * 100},
            {"placesTried", s.placesTried},
            {"placesMoving", s.placesMoving},
            {"typicalMotionPixels", s.typicalMotion},
            {"largestMotionPixels", s.largestMotion},
            {"largestMotionShare", s.largestShare},
            {"visibleShare", s.visible},
            {"worstVisibleShare", s.worstVisible},
            {"grainSteps", s.quality.noise},
            {"edgeWidthPixels", s.quality.edgeWidth},
            {"clippedShare", s.quality.clipped},
            {"meanLuma", s.quality.meanLuma},
            {"repeatingShare", s.quality.repeating},
            {"repeatStepPixels", s.quality.repeatStep},
            {"shakePixels", s.shake},
            {"remarks", s.remarks}};
}

std::string toText(const Suitability& s) {
    std::string text = s.sentence() + '\n';
    if (s.placesMoving > 0)
        text += "Moves " + decimal(s.typicalMotion, 1) + " px a frame, at most " +
                decimal(s.largestMotion, 0) + " (" + decimal(100 * s.largestShare, 1) + " % of the width).\n";
    for (const std::string& remark : s.remarks)
        text += remark + '\n';
    return text;
}

namespace {

/// A line for each sort of finding: "Repeats: 5 (99 %), 7 to 11 (98 %)".
template <typename List, typename Frame>
std::string lineOf(const char* what, const List& found, Frame frame) {
    if (found.empty()) return {};
    std::string line = what;
    const char* before = ": ";
    const auto percent = [&](std::size_t i) {
        return static_cast<int>(std::floor(found[i].certainty * 100));
    };
    for (std::size_t i = 0; i < found.size(); ++i) {
        const std::size_t first = i;
        while (i + 1 < found.size() && frame(found[i + 1]) == frame(found[i]) + 1 &&
               percent(i + 1) == percent(first))
            ++i;
        line += before + std::to_string(frame(found[first]));
        if (i > first) line += (i == first + 1 ? ", " : " to ") + std::to_string(frame(found[i]));
        line += " (" + std::to_string(percent(first)) + " %)";
        before = ", ";
    }
    return line + '\n';
}

std::string toText(const CleanFindings& clean) {
    const auto frame = [](const auto& found) { return found.frame; };
    std::vector<FoundDamage> places;
    std::vector<FoundDamage> whole;
    for (const FoundDamage& damage : clean.damage)
        (damage.places.empty() ? whole : places).push_back(damage);
    return lineOf("Repeats", clean.repeats, frame) + lineOf("Holds of the figure", clean.figureHolds, frame) +
           lineOf("Damaged places", places, frame) + lineOf("Bad frames", whole, frame) +
           lineOf("Frames lost after", clean.losses, [](const FoundLoss& loss) { return loss.after; });
}

} // namespace

std::string toText(const MediaIndex& index, const ShotFindings& findings) {
    std::string text = "Measured: " + findings.describe() + '\n';
    for (const Proposal& p : proposalsFor(index, findings, {}))
        if (!p.sentence.empty()) text += p.sentence + '\n';
    text += toText(findings.clean);
    return text;
}

namespace {

std::string_view name(SourceMark::Made made) {
    switch (made) {
    case SourceMark::Made::no:
        break;
    case SourceMark::Made::passedOver:
        return "passed-over";
    case SourceMark::Made::rebuilt:
        return "rebuilt";
    case SourceMark::Made::restored:
        return "restored";
    case SourceMark::Made::putIn:
        return "put-in";
    }
    return {};
}

nlohmann::ordered_json toJson(const SourceMark& mark) {
    nlohmann::ordered_json out{{"frame", mark.frame}, {"repeated", mark.repeated}, {"leftOut", mark.leftOut}};
    if (mark.made != SourceMark::Made::no) out["made"] = name(mark.made);
    if (mark.takenOut > 0) out["takenOut"] = mark.takenOut;
    return out;
}

} // namespace

nlohmann::ordered_json toJson(const Timing& t, const FramePlan& plan) {
    nlohmann::ordered_json counts;
    for (const FrameKind kind : kinds)
        counts[std::string(name(kind))] = plan.count(kind);
    nlohmann::ordered_json marks = nlohmann::ordered_json::array();
    for (const SourceMark& mark : plan.marks)
        marks.push_back(toJson(mark));
    nlohmann::ordered_json rows = nlohmann::ordered_json::array();
    for (const PlanRow& row : plan.rows) {
        nlohmann::ordered_json r{
            {"output", row.output},   {"frame", row.position.frame}, {"phase", row.position.phase.toString()},
            {"kind", name(row.kind)}, {"first", row.first},          {"last", row.last}};
        if (row.kind == FrameKind::blend) {
            r["shares"] = nlohmann::ordered_json::array();
            for (std::int64_t n = row.first; n <= row.last; ++n)
                r["shares"].push_back(blendShare(row, n));
        }
        if (row.open > Rational(0)) r["open"] = row.open.toString();
        if (row.atCut) r["atCut"] = true;
        if (row.bridged) r["bridged"] = true;
        if (row.subject) r["subject"] = {{"first", row.subject->first}, {"last", row.subject->second}};
        rows.push_back(std::move(r));
    }
    return {
        {"source",
         {{"rate", t.sourceRate.toString()}, {"from", t.from}, {"to", t.to}, {"frames", t.sourceFrames()}}},
        {"speed", t.varies() ? nlohmann::ordered_json("varies") : nlohmann::ordered_json(t.speed.toString())},
        {"speedPercent", 100 / t.lengthFactor().toDouble()},
        {"timeMap", writeKeys(t.asKeys())},
        {"lengthFactor", t.lengthFactor().toDouble()},
        {"output",
         {{"rate", t.outputRate.toString()},
          {"frames", t.outputFrames()},
          {"seconds", t.outputSeconds().toDouble()},
          {"timecode", Timecode(t.outputRate).format(t.outputFrames())}}},
        {"tail", {{"kind", key(plan.tail)}, {"frames", plan.tailFrames}, {"sentence", plan.endsSentence()}}},
        {"counts", counts},
        {"sourceMarks", marks},
        {"rows", rows}};
}

nlohmann::ordered_json toJson(const RenderReport& r) {
    return {{"frames", r.frames},
            {"counts",
             {{"original", r.originals},
              {"repeat", r.repeats},
              {"blend", r.blends},
              {"flow", r.flows},
              {"held", r.held},
              {"standIn", r.standIns}}},
            {"seconds",
             {{"total", r.seconds},
              {"read", r.readSeconds},
              {"estimate", r.estimateSeconds},
              {"synthesise", r.synthesiseSeconds},
              {"write", r.writeSeconds}}},
            {"edgeScale", r.edgeScale},
            {"finishedBefore", r.finished},
            {"resumed", r.resumed},
            {"sound", r.hasSound},
            {"notes", r.notes}};
}

std::string toText(const MediaFacts& f) {
    std::ostringstream out;
    out << f.path.string() << '\n'
        << f.frames << " frames at " << f.rate.display() << " fps (" << f.rate.toString() << "), "
        << decimal(f.seconds().toDouble(), 3) << " s" << (f.constantRate ? "" : ", timestamps vary") << '\n'
        << f.width << " x " << f.height << ", pixel aspect " << f.pixelAspect.toString() << ", "
        << f.layout.describe() << ", " << (f.colour.fullRange ? "full" : "limited") << " range, "
        << name(f.scan) << '\n'
        << f.codec << " in " << f.container << (f.hasSound ? ", with sound" : ", no sound") << '\n';
    if (!f.timecode.empty())
        out << "begins at timecode " << f.timecode << (f.reel.empty() ? "" : " of reel " + f.reel) << '\n';
    if (f.rotation != 0)
        out << "The file asks to be turned by " << f.rotation << " degrees; frames are used as coded.\n";
    if (!f.remark.empty()) out << f.remark << '\n';
    return out.str();
}

std::string toText(const Timing& t, const FramePlan& plan) {
    std::ostringstream out;
    out << t.sourceFrames() << " source frames (" << t.from << " to " << t.to << ") -> " << t.outputFrames()
        << " output frames\nspeed " << (t.varies() ? "varies" : displayPercent(t.speed)) << ", length x"
        << decimal(t.lengthFactor().toDouble(), 3) << ", " << t.sourceRate.display() << " -> "
        << t.outputRate.display() << " fps, " << decimal(t.outputSeconds().toDouble(), 3) << " s, "
        << Timecode(t.outputRate).format(t.outputFrames()) << '\n';
    const char* separator = "";
    for (const FrameKind kind : kinds)
        if (const auto n = plan.count(kind); n > 0) {
            out << separator << n << ' ' << name(kind);
            separator = ", ";
        }
    out << '\n';
    if (plan.tail != Tail::none) out << plan.endsSentence() << '\n';
    return out.str();
}

std::string toText(const RenderReport& r, const std::string& target) {
    std::ostringstream out;
    out << target << ": " << r.frames << " frames (" << r.originals << " original, " << r.repeats
        << " repeat, " << r.blends << " blend, " << r.flows << " flow, " << r.held << " held"
        << (r.standIns > 0 ? ", " + std::to_string(r.standIns) + " with a stand-in" : std::string())
        << ") in " << decimal(r.seconds, 1) << " s; read " << decimal(r.readSeconds, 1) << ", estimate "
        << decimal(r.estimateSeconds, 1) << ", synthesise " << decimal(r.synthesiseSeconds, 1) << ", write "
        << decimal(r.writeSeconds, 1) << " s\n";
    if (r.resumed > 0) out << r.resumed << " of them were there from an earlier run\n";
    for (const std::string& note : r.notes)
        out << note << '\n';
    return out.str();
}

void print(const nlohmann::ordered_json& json) {
    std::cout << json.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) << '\n';
}

} // namespace yarngap::cli
