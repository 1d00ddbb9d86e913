// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/bounds.h>

#include <impasto/wording/numbers.h>
#include <impasto/wording/power.h>

namespace impasto::wording {
namespace {

bool isShare(run::Bound bound) {
    return bound == run::Bound::GpuLoad || bound == run::Bound::Fan;
}

} // namespace

std::string boundName(const Words& w, run::Bound bound) {
    return w.say(run::nameOf(bound));
}

std::string boundUnit(const Words& w, run::Bound bound) {
    switch (bound) {
    case run::Bound::Latency:
        return w.say("ms");
    case run::Bound::Power:
        return w.say("W");
    case run::Bound::BatteryHours:
        return w.say("h");
    case run::Bound::GpuTemperature:
        return w.say("°C");
    case run::Bound::GpuLoad:
    case run::Bound::Fan:
        return "%";
    }
    return {};
}

std::string boundFigure(const Words& w, run::Bound bound, double value) {
    switch (bound) {
    case run::Bound::Latency:
        return w.say("{} ms", fmt::format("{:.1f}", value));
    case run::Bound::Power:
        return watts(w, value);
    case run::Bound::BatteryHours:
        return w.say("{} h", fmt::format("{:.1f}", value));
    case run::Bound::GpuTemperature:
        return w.say("{} °C", fmt::format("{:.0f}", value));
    case run::Bound::GpuLoad:
    case run::Bound::Fan:
        return percent(value);
    }
    return {};
}

double typedFrom(run::Bound bound, double typed) {
    return isShare(bound) ? typed / 100 : typed;
}

std::string boundAsked(const Words& w, run::Bound bound, double asked) {
    const std::string figure =
        isShare(bound) ? percent(asked) : wishFps(Fps(asked)) + " " + boundUnit(w, bound); // as it was typed
    if (bound == run::Bound::GpuTemperature) return w.say("GPU at most {}", figure);
    return run::isLeast(bound) ? w.say("{} at least {}", boundName(w, bound), figure)
                               : w.say("{} at most {}", boundName(w, bound), figure);
}

std::string boundMissed(const Words& w, run::Bound bound, double asked, double is) {
    return w.say("{}: {}", boundAsked(w, bound, asked), boundFigure(w, bound, is));
}

std::string boundTold(const Words& w, run::Bound bound) {
    switch (bound) {
    case run::Bound::Latency:
        return w.say("the latency of each frame");
    case run::Bound::Power:
        return w.say("watts");
    case run::Bound::BatteryHours:
        return w.say("watts of the whole machine, and Bench the battery's Wh");
    case run::Bound::GpuTemperature:
        return w.say("the GPU's temperature");
    case run::Bound::GpuLoad:
        return w.say("the GPU's load");
    case run::Bound::Fan:
        return w.say("the fan's speed");
    }
    return {};
}

bool asksOfSettings(const run::Brief& brief) {
    return std::any_of(run::allBounds.begin(), run::allBounds.end(),
                       [&](run::Bound bound) { return bound != run::Bound::Latency && brief.bounds[bound]; });
}

std::string fillAsked(const Words& w, const run::Brief& brief, const std::optional<double>& fill) {
    if (fill && *fill >= 1) return {};
    std::vector<std::string> asked;
    for (const auto bound : run::allBounds)
        if (brief.bounds[bound] && bound != run::Bound::Latency && bound != run::Bound::GpuLoad)
            asked.push_back(boundAsked(w, bound, *brief.bounds[bound]));
    if (!fill) return w.say("No settings are expected to keep {} at {} fps.", listed(w, asked), wishFps(brief.target));
    return w.say("For {} frames may fill at most {} of the time, as far as can be foretold.", listed(w, asked),
                 percent(*fill));
}

} // namespace impasto::wording
