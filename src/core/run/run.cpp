// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/run/run.h>

#include <impasto/base/keys.h>

namespace impasto::run {
namespace {

constexpr Keys<Lane, 3> lanes{{{Lane::Cpu, "cpu"}, {Lane::Gpu, "gpu"}, {Lane::Frame, "frame"}}};
constexpr Keys<Style, 6> styles{{{Style::Competitive, "competitive"},
                                 {Style::Cinematic, "cinematic"},
                                 {Style::Battery, "battery"},
                                 {Style::WeakMachine, "weak-machine"},
                                 {Style::Headset, "headset"},
                                 {Style::Quiet, "quiet"}}};
constexpr Keys<Steering, 2> steerings{{{Steering::Mouse, "mouse"}, {Steering::Pad, "pad"}}};
constexpr Keys<FloorOf, 2> floors{
    {{FloorOf::OnePercentLow, "one-percent-low"}, {FloorOf::SlowestSecond, "slowest-second"}}};
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
constexpr Keys<WindowMode, 3> windowModes{{{WindowMode::FullScreen, "full-screen"},
                                           {WindowMode::Borderless, "borderless"},
                                           {WindowMode::Windowed, "windowed"}}};
constexpr Keys<Supply, 2> supplies{{{Supply::Mains, "mains"}, {Supply::Battery, "battery"}}};
constexpr Keys<Purpose, 7> purposes{{{Purpose::WarmUp, "warm-up"},
                                     {Purpose::Baseline, "baseline"},
                                     {Purpose::Cost, "cost"},
                                     {Purpose::Check, "check"},
                                     {Purpose::ProofBefore, "proof-before"},
                                     {Purpose::ProofAfter, "proof-after"},
                                     {Purpose::Test, "test"}}};
constexpr Keys<Maker, 3> makers{
    {{Maker::SimulatedRig, "simulated-rig"}, {Maker::Hand, "hand"}, {Maker::Dropped, "dropped"}}};

} // namespace

std::string_view keyOf(Lane v) {
    return keyIn(lanes, v);
}
std::string_view keyOf(Style v) {
    return keyIn(styles, v);
}
std::optional<Style> styleOf(std::string_view key) {
    return valueIn(styles, key);
}
const StyleRule& ruleOf(Style style) {
    static constexpr std::array<StyleRule, 6> rules{{{0.99, 0.05, 0.5, false, false},
                                                     {0.97, 0.10, 0, true, false},
                                                     {0.95, 0.10, 0, true, true},
                                                     {0.95, 0.15, 0, true, true},
                                                     {0.99, 0.10, 0.5, false, true},
                                                     {0.97, 0.10, 0, true, false}}};
    return rules.at(static_cast<std::size_t>(style));
}
std::string_view keyOf(Steering v) {
    return keyIn(steerings, v);
}
std::optional<Steering> steeringOf(std::string_view key) {
    return valueIn(steerings, key);
}
double Brief::latencyWeight() const {
    const double weight = ruleOf(style).latencyWeight;
    if (steering == Steering::Pad) return weight / 2;
    return steering == Steering::Mouse ? std::max(weight, 0.2) : weight;
}
std::string_view keyOf(FloorOf v) {
    return keyIn(floors, v);
}
std::optional<FloorOf> floorOfKey(std::string_view key) {
    return valueIn(floors, key);
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
std::string_view keyOf(WindowMode v) {
    return keyIn(windowModes, v);
}
std::optional<WindowMode> windowModeOf(std::string_view key) {
    return valueIn(windowModes, key);
}
bool comparable(const Conditions& a, const Conditions& b) {
    Conditions same = b;
    same.warmUpSeconds = a.warmUpSeconds;
    same.driverUpdated = a.driverUpdated;
    same.reload = a.reload;
    return a == same;
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

double ReadOff::doubt() const {
    // A test that tells its low has counted frames, and so has a table of rates; a range says how far the counter went;
    // else it was watched.
    constexpr double counted = 0.015, watched = 0.03, wholeMs = 30'000, widest = 0.1;
    if (!rates.empty()) { // of less than half a minute less is known
        const double longMs = static_cast<double>(rates.size()) * stepMs.value_or(1000);
        return std::min(widest, counted * std::sqrt(std::max(1.0, wholeMs / longMs)));
    }
    const double range = least && most ? (most->value() - least->value()) / average.value() / 6 : 0;
    return std::max({onePercentLow ? counted : watched, std::min(range, widest), 0.5 / average.value()});
}

std::optional<ReadOffFault> faultOf(const ReadOff& r) {
    constexpr double slowest = 0.1, fastest = 20000, largest = 1e7;
    const auto outside = [](std::string_view key, double value, double low, double high) {
        return value >= low && value <= high ? std::optional<ReadOffFault>()
                                             : std::optional(ReadOffFault{key, fmt::format("{:g} to {:g}", low, high)});
    };
    const double average = r.average.value();
    auto fault = outside("average_fps", average, slowest, fastest);
    if (!fault && r.least) fault = outside("least_fps", r.least->value(), 0, average);
    if (!fault && r.most) fault = outside("most_fps", r.most->value(), average, fastest);
    if (!fault && r.onePercentLow) fault = outside("one_percent_low_fps", r.onePercentLow->value(), slowest, average);
    constexpr std::size_t mostRates = 100'000;
    if (!fault && r.rates.size() > mostRates) fault = ReadOffFault{"rates", fmt::format("0 to {} of them", mostRates)};
    for (std::size_t i = 0; i < r.rates.size() && !fault; ++i) fault = outside("rates", r.rates[i], 0, fastest);
    if (!fault && r.stepMs) fault = outside("step_ms", *r.stepMs, 1, 1e7);
    if (!fault && r.gpuMemory) fault = outside("gpu_memory_mib", r.gpuMemory->value(), 1, largest);
    return fault;
}

} // namespace impasto::run
