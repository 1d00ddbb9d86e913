// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/power.h>

#include <algorithm>
#include <cmath>

namespace impasto::pace {
namespace {

/// Mean of a track over a stretch of its time, [from, to) as shares of the whole.
std::optional<double> meanIn(const capture::Track& track, double from, double to) {
    if (track.timeMs.empty()) return std::nullopt;
    const double first = track.timeMs.front(), span = track.timeMs.back() - first;
    double sum = 0;
    std::size_t n = 0;
    for (std::size_t i = 0; i < track.values.size(); ++i) {
        const double at = span > 0 ? (track.timeMs[i] - first) / span : 0;
        if (at < from || at >= to || !std::isfinite(track.values[i])) continue;
        sum += track.values[i];
        ++n;
    }
    return n > 0 ? std::optional(sum / static_cast<double>(n)) : std::nullopt;
}

/// The last third of a temperature, where it is within 1.5 degrees of the third before it.
std::optional<double> settled(const capture::Capture& capture, capture::Sensor sensor) {
    const auto* track = capture.track(sensor);
    if (track == nullptr || track->values.size() < 6) return std::nullopt;
    const auto before = meanIn(*track, 1.0 / 3, 2.0 / 3), last = meanIn(*track, 2.0 / 3, 1.01);
    if (!before || !last || std::abs(*last - *before) > 1.5) return std::nullopt;
    return last;
}

std::optional<Band> hoursOn(const Power& power, const Band& watts) {
    if (power.batteryWh.value_or(0) <= 0 || power.uncapped().of != PowerOf::System) return std::nullopt;
    return Band{*power.batteryWh / watts.high, *power.batteryWh / watts.middle, *power.batteryWh / watts.low};
}

} // namespace

std::optional<Drawn> drawnIn(const capture::Capture& capture) {
    using capture::Sensor;
    const auto system = trackMean(capture, Sensor::SystemPower), gpu = trackMean(capture, Sensor::GpuPower),
               cpu = trackMean(capture, Sensor::CpuPower);
    Drawn out;
    if (system) {
        out.watts = *system;
    } else if (gpu && cpu) {
        out.of = PowerOf::Chips;
        out.watts = *gpu + *cpu;
    } else if (gpu) {
        out.of = PowerOf::Gpu;
        out.watts = *gpu;
    }
    const double ms = capture::durationMs(capture);
    if (!(out.watts > 0) || !(ms > 0)) return std::nullopt;
    out.rate = Fps(1000 * static_cast<double>(capture.frames()) / ms);
    out.celsius = settled(capture, Sensor::GpuTemperature);
    if (const auto* fan = capture.track(Sensor::Fan); fan != nullptr && out.celsius)
        if (const auto last = meanIn(*fan, 2.0 / 3, 1.01)) out.fan = *last / 100;
    return out;
}

std::optional<Drawn> meanOf(std::span<const Drawn> all) {
    if (all.empty()) return std::nullopt;
    Drawn out = all.front();
    const double n = static_cast<double>(all.size());
    double rate = 0, watts = 0, celsius = 0, fan = 0;
    for (const auto& each : all) {
        if (each.of != out.of) return std::nullopt;
        rate += each.rate.value() / n;
        watts += each.watts / n;
        out.celsius = out.celsius && each.celsius ? out.celsius : std::nullopt;
        out.fan = out.fan && each.fan ? out.fan : std::nullopt;
        celsius += each.celsius.value_or(0) / n;
        fan += each.fan.value_or(0) / n;
    }
    out.rate = Fps(rate);
    out.watts = watts;
    if (out.celsius) out.celsius = celsius;
    if (out.fan) out.fan = fan;
    return out;
}

std::optional<Power> uncappedPower(std::span<const std::shared_ptr<const capture::Capture>> recordings, Clocks clocks,
                                   std::optional<double> batteryWh) {
    std::vector<Drawn> drawn;
    for (const auto& capture : recordings)
        if (const auto told = drawnIn(*capture)) drawn.push_back(*told);
    const auto mean = meanOf(drawn);
    return mean ? std::optional(Power{{{std::nullopt, *mean}}, clocks, batteryWh}) : std::nullopt;
}

const Drawn* Power::provenAt(const CapPlan& plan) const {
    for (const auto& point : points)
        if (point.plan == plan) return &point.drawn;
    return nullptr;
}

Band wattsAt(const Power& power, Fps rate, const PowerRules& rules) {
    const auto& rule = rules.of(power.uncapped().of == PowerOf::Gpu, power.clocks);
    const auto far = [&](const Drawn& d) { return std::log(rate.value() / d.rate.value()); };
    const Drawn *under = nullptr, *over = nullptr; // the nearest that were measured
    for (const auto& [plan, drawn] : power.points) {
        if (plan && plan->generation) continue; // what invents draws, too
        if (far(drawn) >= 0 && (under == nullptr || far(drawn) < far(*under))) under = &drawn;
        if (far(drawn) <= 0 && (over == nullptr || far(drawn) > far(*over))) over = &drawn;
    }
    const auto band = [&](double watts, double below, double above) {
        return Band{watts * std::exp(-below - rules.noise), watts, watts * std::exp(above + rules.noise)};
    };
    const double less = rule.exponent - rule.least, more = rule.most - rule.exponent;
    if (under == nullptr) {
        const double x = -far(*over);
        return band(over->watts * std::exp(-rule.exponent * x), more * x, less * x);
    }
    const double up = far(*under);
    if (over == nullptr) return band(under->watts * std::exp(rule.exponent * up), less * up, more * up);
    const double down = -far(*over), whole = up + down;
    if (!(whole > 0)) return band(under->watts, 0, 0);
    const double doubt = std::max(less, more) * up * down / whole; // none at either end
    return band(under->watts * std::pow(over->watts / under->watts, up / whole), doubt, doubt);
}

Draws drawsAt(const Power& power, Fps rate, const PowerRules& rules) {
    const auto& is = power.uncapped();
    Draws out{wattsAt(power, rate, rules), {}, {}, hoursOn(power, wattsAt(power, rate, rules))};
    const auto heatLeft = [&](double watts) { return std::min(1.0, watts / is.watts); };
    if (out.watts.middle > is.watts) return out;
    if (is.celsius && *is.celsius > rules.roomC) {
        const double coolest = rules.roomC + heatLeft(out.watts.low) * (*is.celsius - rules.roomC);
        out.celsius = Band{coolest, (coolest + *is.celsius) / 2, *is.celsius};
    }
    if (is.fan) out.fan = Band{*is.fan * heatLeft(out.watts.low), *is.fan * heatLeft(out.watts.middle), *is.fan};
    return out;
}

Draws drawsOf(const Power& power, const Drawn& drawn) {
    const auto exactly = [](double value) { return Band{value, value, value}; };
    Draws out{exactly(drawn.watts), {}, {}, hoursOn(power, exactly(drawn.watts))};
    if (drawn.celsius) out.celsius = exactly(*drawn.celsius);
    if (drawn.fan) out.fan = exactly(*drawn.fan);
    return out;
}

std::optional<double> batteryOf(const machine::Machine* machine) {
    return machine == nullptr ? std::nullopt : machine::numberIn(machine->facts, "power.battery_wh");
}

std::optional<Draws> drawsWith(const Power& power, const CapPlan& plan, Fps average, const PowerRules& rules) {
    if (const auto* drawn = power.provenAt(plan)) return drawsOf(power, *drawn);
    if (plan.generation) return std::nullopt;
    return drawsAt(power, average, rules);
}

run::BoundFigures boundFigures(const capture::Capture& capture, std::optional<double> batteryWh) {
    using capture::Sensor;
    const auto highest = [&](Sensor sensor) -> std::optional<double> {
        const auto* track = capture.track(sensor);
        if (track == nullptr || track->values.empty()) return std::nullopt;
        return *std::max_element(track->values.begin(), track->values.end());
    };
    const auto share = [](std::optional<double> percent) { return percent ? std::optional(*percent / 100) : percent; };
    run::BoundFigures out;
    if (capture.latencyMs) out[run::Bound::Latency] = stats::finiteMean(*capture.latencyMs);
    if (const auto drawn = drawnIn(capture)) {
        out[run::Bound::Power] = drawn->watts;
        if (batteryWh.value_or(0) > 0 && drawn->of == PowerOf::System)
            out[run::Bound::BatteryHours] = *batteryWh / drawn->watts;
    }
    out[run::Bound::GpuTemperature] = highest(Sensor::GpuTemperature);
    out[run::Bound::GpuLoad] = share(trackMean(capture, Sensor::GpuLoad));
    out[run::Bound::Fan] = share(highest(Sensor::Fan));
    return out;
}

run::BoundFigures boundFigures(const CapPrediction& prediction, const std::optional<Draws>& draws) {
    run::BoundFigures out;
    out[run::Bound::Latency] = prediction.latencyMs;
    out[run::Bound::GpuLoad] = prediction.gpuBusy;
    if (!draws) return out;
    const auto middle = [](const std::optional<Band>& band) {
        return band ? std::optional(band->middle) : std::nullopt;
    };
    out[run::Bound::Power] = draws->watts.middle;
    out[run::Bound::BatteryHours] = middle(draws->hours);
    out[run::Bound::GpuTemperature] = middle(draws->celsius);
    out[run::Bound::Fan] = middle(draws->fan);
    return out;
}

std::optional<double> fillFor(const run::BoundFigures& asked, const Power& power, const PowerRules& rules) {
    const auto end = [](const std::optional<Band>& band, double Band::*which) {
        return band ? std::optional(Band{(*band).*which, (*band).*which, (*band).*which}) : std::nullopt;
    };
    const auto keeps = [&](double fill) {
        const auto told = drawsAt(power, power.uncapped().rate * fill, rules);
        const Draws best{*end(told.watts, &Band::low), end(told.celsius, &Band::low), end(told.fan, &Band::low),
                         end(told.hours, &Band::high)};
        return run::missOf(asked, boundFigures({}, best)) <= 0;
    };
    if (keeps(1)) return 1.0;
    if (!keeps(leastFill)) return std::nullopt;
    double low = leastFill, high = 1;
    while (high - low > 1e-3) (keeps((low + high) / 2) ? low : high) = (low + high) / 2;
    return low;
}

double fanNoiseDb(double from, double to) {
    return 50 * std::log10(to / from);
}

double kwhAYear(double watts, double hoursAWeek) {
    return watts * hoursAWeek * 52 / 1000;
}

Fps restingCap(const std::optional<display::Panel>& panel) {
    constexpr double least = 30;
    if (!panel || panel->headset) return Fps(least);
    if (panel->variable) return Fps(std::max(least, panel->variable->lowest.value()));
    double slowest = panel->refresh.value();
    for (const auto& mode : modesOf(panel))
        for (const auto even : display::evenCaps(mode, Fps(least))) slowest = std::min(slowest, even.value());
    return Fps(slowest);
}

std::optional<Resting> atRest(const Power& power, double playing, Fps resting, double share, const PowerRules& rules) {
    const Fps rate = std::min(resting, power.uncapped().rate);
    const Band then = wattsAt(power, rate, rules);
    if (!(playing > then.middle) || !(share > 0)) return std::nullopt;
    const auto saved = [&](double watts) { return share * std::max(0.0, playing - watts); };
    return Resting{{saved(then.high), saved(then.middle), saved(then.low)}, 1000 / rate.value()};
}

} // namespace impasto::pace
