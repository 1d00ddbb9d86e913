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
constexpr Keys<Sync, 5> syncs{{{Sync::None, "none"},
                               {Sync::Fixed, "fixed"},
                               {Sync::Latest, "latest"},
                               {Sync::Variable, "variable"},
                               {Sync::VariableTearing, "variable-tearing"}}};
constexpr Keys<LimiterPlace, 4> places{{{LimiterPlace::Engine, "engine"},
                                        {LimiterPlace::Present, "present"},
                                        {LimiterPlace::Driver, "driver"},
                                        {LimiterPlace::Compositor, "compositor"}}};
constexpr Keys<GenerationKind, 3> generations{{{GenerationKind::BuiltIn, "built-in"},
                                               {GenerationKind::Driver, "driver"},
                                               {GenerationKind::External, "external"}}};
constexpr Keys<FanProfile, 3> fanProfiles{
    {{FanProfile::Automatic, "automatic"}, {FanProfile::Quiet, "quiet"}, {FanProfile::Full, "full"}}};
constexpr Keys<PowerPlan, 3> plans{
    {{PowerPlan::Balanced, "balanced"}, {PowerPlan::Performance, "performance"}, {PowerPlan::Saving, "saving"}}};
constexpr Keys<Supply, 2> supplies{{{Supply::Mains, "mains"}, {Supply::Battery, "battery"}}};
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
std::string_view keyOf(LimiterPlace v) {
    return keyIn(places, v);
}
std::optional<LimiterPlace> limiterPlaceOf(std::string_view key) {
    return valueIn(places, key);
}
std::string_view keyOf(GenerationKind v) {
    return keyIn(generations, v);
}
std::optional<GenerationKind> generationKindOf(std::string_view key) {
    return valueIn(generations, key);
}
std::string_view keyOf(FanProfile v) {
    return keyIn(fanProfiles, v);
}
std::optional<FanProfile> fanProfileOf(std::string_view key) {
    return valueIn(fanProfiles, key);
}
std::string_view keyOf(PowerPlan v) {
    return keyIn(plans, v);
}
std::optional<PowerPlan> powerPlanOf(std::string_view key) {
    return valueIn(plans, key);
}
std::string_view keyOf(Supply v) {
    return keyIn(supplies, v);
}
std::optional<Supply> supplyOf(std::string_view key) {
    return valueIn(supplies, key);
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
    if (variant.idleCap) out += fmt::format(";idle_cap={}", shortestText(variant.idleCap->value()));
    if (variant.cap && variant.limiter != LimiterPlace::Engine)
        out += fmt::format(";limiter={}", keyOf(variant.limiter));
    if (variant.refresh) out += fmt::format(";refresh={}", shortestText(variant.refresh->value()));
    if (variant.upscaling)
        out += fmt::format(";upscaler={} {}", game::keyOf(variant.upscaling->kind),
                           shortestText(variant.upscaling->ratio));
    if (variant.sharpening > 0) out += fmt::format(";sharpening={}", shortestText(variant.sharpening));
    if (const auto& g = variant.generation)
        out += fmt::format(";generation={} {}{}", keyOf(g->kind),
                           g->target ? fmt::format("to {}", shortestText(g->target->value()))
                                     : fmt::format("x{}", g->multiplier),
                           g->onSecondGpu ? " second-gpu" : "");
    if (variant.direct) out += ";direct";
    for (const auto& [id, level] : variant.values) out += fmt::format(";{}={}", id, level);
    return out;
}

} // namespace impasto::run
