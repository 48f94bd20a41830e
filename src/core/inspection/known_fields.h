// The fields of what KnownMedia keeps, in the order in which they are written and read. Whoever changes what
// one of them means raises `generation` in known_media.cpp.
#pragma once

#include "core/inspection/shot_findings.h"
#include "core/inspection/suitability.h"
#include "core/media/media_index.h"

#include <cereal/archives/portable_binary.hpp>
#include <cereal/types/array.hpp>
#include <cereal/types/optional.hpp>

#include <cstdint>
#include <filesystem>
#include <string>
#include <utility>
#include <vector>

// Texts and lists are read entry by entry, so that a length that makes no sense takes no memory: the file
// ends first.
namespace cereal {

template <typename Archive, typename List>
void saveEntries(Archive& archive, const List& list) {
    archive(static_cast<std::uint64_t>(list.size()));
    for (const auto& entry : list)
        archive(entry);
}
template <typename Archive, typename List>
void loadEntries(Archive& archive, List& list) {
    std::uint64_t size = 0;
    archive(size);
    list.clear();
    for (std::uint64_t i = 0; i < size; ++i) {
        typename List::value_type entry{};
        archive(entry);
        list.push_back(std::move(entry));
    }
}
template <typename Archive>
void save(Archive& archive, const std::string& text) {
    saveEntries(archive, text);
}
template <typename Archive>
void load(Archive& archive, std::string& text) {
    loadEntries(archive, text);
}
template <typename Archive, typename Entry>
void save(Archive& archive, const std::vector<Entry>& list) {
    saveEntries(archive, list);
}
template <typename Archive, typename Entry>
void load(Archive& archive, std::vector<Entry>& list) {
    loadEntries(archive, list);
}

} // namespace cereal

namespace yarngap {

template <typename Archive>
void save(Archive& archive, const Rational& value) {
    archive(value.num(), value.den());
}
template <typename Archive>
void load(Archive& archive, Rational& value) {
    std::int64_t num = 0;
    std::int64_t den = 1;
    archive(num, den);
    value = Rational(num, den);
}
template <typename Archive>
void save(Archive& archive, const Rate& value) {
    archive(value.value());
}
template <typename Archive>
void load(Archive& archive, Rate& value) {
    Rational number;
    archive(number);
    value = Rate(number);
}
template <typename Archive>
void serialize(Archive& archive, FileEdition& e) {
    archive(e.place.device, e.place.inode, e.bytes, e.modified, e.changed);
}
template <typename Archive>
void serialize(Archive& archive, PixelLayout& l) {
    archive(l.model, l.alpha, l.depth, l.chromaShiftX, l.chromaShiftY, l.samples);
}
template <typename Archive>
void serialize(Archive& archive, ColourTags& c) {
    archive(c.primaries, c.transfer, c.matrix, c.fullRange, c.chromaSite);
}
/// All but the path, which is that of the file asked for.
template <typename Archive>
void serialize(Archive& archive, MediaFacts& f) {
    archive(f.fileBytes, f.container, f.codec, f.pixelFormat, f.width, f.height, f.pixelAspect, f.layout,
            f.colour, f.scan, f.rotation, f.hasSound, f.soundStreams, f.rate, f.constantRate, f.frames,
            f.indexed, f.remark, f.timecode, f.reel);
}
template <typename Archive>
void serialize(Archive& archive, PacketEntry& p) {
    archive(p.pts, p.dts, p.filePosition, p.hash, p.size, p.key, p.shownAs);
}
/// Of a video; sequences have more.
template <typename Archive>
void serialize(Archive& archive, MediaIndex& i) {
    archive(i.facts, i.packets, i.displayPacket, i.identity, i.edition, i.file, i.codecHash, i.timeBase);
}
template <typename Archive>
void serialize(Archive& archive, CadenceRun& r) {
    archive(r.first, r.last, r.kind, r.topFirst, r.phase, r.evidence);
}
template <typename Archive>
void serialize(Archive& archive, Shake& s) {
    archive(s.gap, s.firstX, s.firstY, s.lastX, s.lastY, s.told);
}
template <typename Archive>
void serialize(Archive& archive, Drop& d) {
    archive(d.after, d.missing, d.filled, d.certainty);
}
template <typename Archive>
void serialize(Archive& archive, DamagedPlace& p) {
    archive(p.x, p.y, p.width, p.height);
}
template <typename Archive>
void serialize(Archive& archive, FoundFrame& f) {
    archive(f.frame, f.certainty);
}
template <typename Archive>
void serialize(Archive& archive, FoundDamage& d) {
    archive(d.frame, d.certainty, d.places);
}
template <typename Archive>
void serialize(Archive& archive, FoundLoss& l) {
    archive(l.after, l.missing, l.certainty);
}
template <typename Archive>
void serialize(Archive& archive, CleanFindings& c) {
    archive(c.repeats, c.figureHolds, c.damage, c.losses);
}
template <typename Archive>
void serialize(Archive& archive, ShotFindings& f) {
    archive(f.frames, f.cadence, f.cuts, f.cutFields, f.undecodable, f.repeats.frames, f.repeats.heldFor,
            f.heldPart.heldFor, f.heldPart.changesAt, f.camera.exposure, f.camera.certainty, f.camera.gaps,
            f.drops, f.otherSizes, f.firstOtherSize, f.flicker, f.typicalChange, f.clean, f.besideCamera);
}
template <typename Archive>
void serialize(Archive& archive, PictureQuality& q) {
    archive(q.noise, q.edgeWidth, q.clipped, q.meanLuma, q.repeating, q.repeatStep);
}
template <typename Archive>
void serialize(Archive& archive, Suitability& s) {
    archive(s.placesTried, s.placesMoving, s.typicalMotion, s.largestMotion, s.largestShare, s.visible,
            s.worstVisible, s.quality, s.shake, s.lowestSpeed, s.remarks);
}

} // namespace yarngap
