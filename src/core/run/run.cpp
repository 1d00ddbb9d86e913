// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/run/run.h>

#include <impasto/base/keys.h>
#include <impasto/base/text.h>

namespace impasto::run {
namespace {

constexpr Keys<Lane, 3> lanes{{{Lane::Cpu, "cpu"}, {Lane::Gpu, "gpu"}, {Lane::Frame, "frame"}}};
constexpr Keys<LowSchool, 3> schools{{{LowSchool::Percentile, "percentile"},
                                      {LowSchool::WorstMean, "worst-mean"},
                                      {LowSchool::TimeShare, "time-share"}}};
constexpr Keys<Style, 6> styles{{{Style::Competitive, "competitive"},
                                 {Style::Cinematic, "cinematic"},
                                 {Style::Battery, "battery"},
                                 {Style::WeakMachine, "weak-machine"},
                                 {Style::Headset, "headset"},
                                 {Style::Quiet, "quiet"}}};
constexpr Keys<Sync, 3> syncs{{{Sync::None, "none"}, {Sync::Fixed, "fixed"}, {Sync::Variable, "variable"}}};
constexpr Keys<Purpose, 5> purposes{{{Purpose::Baseline, "baseline"},
                                     {Purpose::Cost, "cost"},
                                     {Purpose::Check, "check"},
                                     {Purpose::ProofBefore, "proof-before"},
                                     {Purpose::ProofAfter, "proof-after"}}};
constexpr Keys<Maker, 3> makers{
    {{Maker::SimulatedRig, "simulated-rig"}, {Maker::Hand, "hand"}, {Maker::Dropped, "dropped"}}};

} // namespace

std::string_view keyOf(Lane v) {
    return keyIn(lanes, v);
}
std::string_view keyOf(LowSchool v) {
    return keyIn(schools, v);
}
std::optional<LowSchool> lowSchoolOf(std::string_view key) {
    return valueIn(schools, key);
}
std::string_view keyOf(Style v) {
    return keyIn(styles, v);
}
std::optional<Style> styleOf(std::string_view key) {
    return valueIn(styles, key);
}
std::string_view keyOf(Sync v) {
    return keyIn(syncs, v);
}
std::optional<Sync> syncOf(std::string_view key) {
    return valueIn(syncs, key);
}
std::string_view keyOf(Purpose v) {
    return keyIn(purposes, v);
}
std::optional<Purpose> purposeOf(std::string_view key) {
    return valueIn(purposes, key);
}
std::string_view keyOf(Maker v) {
    return keyIn(makers, v);
}
std::optional<Maker> makerOf(std::string_view key) {
    return valueIn(makers, key);
}

std::string canonicalText(const Variant& variant) {
    std::string out = fmt::format("resolution={};cap={};sync={}", display::keyText(variant.resolution),
                                  variant.cap ? shortestText(variant.cap->value()) : "none", keyOf(variant.sync));
    for (const auto& [id, level] : variant.values) out += fmt::format(";{}={}", id, level);
    return out;
}

} // namespace impasto::run
