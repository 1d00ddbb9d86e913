// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/power.h>

#include <cmath>
#include <impasto/wording/numbers.h>

namespace impasto::wording {
namespace {

/// Three digits: 8.42, 18.4, 184.
std::string threeDigits(double value) {
    return fmt::format("{:.{}f}", value, value < 9.995 ? 2 : value < 99.95 ? 1 : 0);
}

/// Both ends in one unit.
std::string between(const Words& w, const char* one, const char* both, const std::string& low,
                    const std::string& high) {
    return low == high ? w.say(one, low) : w.say(both, low, high);
}

std::string whole(double value) {
    return fmt::format("{:.0f}", value);
}

} // namespace

std::string powerOf(const Words& w, pace::PowerOf of) {
    switch (of) {
    case pace::PowerOf::System:
        return w.say("of the whole machine");
    case pace::PowerOf::Chips:
        return w.say("of CPU and GPU");
    case pace::PowerOf::Gpu:
        return w.say("of the GPU alone");
    }
    return {};
}

std::string watts(const Words& w, double value) {
    return w.say("{} W", value < 50 ? fmt::format("{:.1f}", value) : whole(value));
}

std::string watts(const Words& w, const pace::Band& band) {
    const auto text = [&](double v) { return band.high < 50 ? fmt::format("{:.1f}", v) : whole(v); };
    return between(w, "{} W", "{} to {} W", text(band.low), text(band.high));
}

std::string celsius(const Words& w, const pace::Band& band) {
    return between(w, "{} °C", "{} to {} °C", whole(band.low), whole(band.high));
}

std::string fan(const Words& w, const pace::Band& band) {
    return between(w, "{}%", "{} to {}%", whole(100 * band.low), whole(100 * band.high));
}

std::string hours(const Words& w, const pace::Band& band) {
    const auto text = [](double h) { return fmt::format("{:.1f}", h); };
    return between(w, "{} h", "{} to {} h", text(band.low), text(band.high));
}

std::string energy(const Words& w, double kwh) {
    return w.say("{} kWh", threeDigits(kwh));
}

std::string money(double amount) {
    return fmt::format("{:.2f}", amount);
}

std::string powerCaution(const Words& w) {
    return w.say("Keep air moving and stay within what the maker allows: its limits count, not these figures.");
}

Why whyPower(const Words& w, const pace::Power& power, const pace::PowerRules& rules) {
    const auto& rule = rules.of(power.uncapped().of == pace::PowerOf::Gpu, power.clocks);
    return {
        w.say("Power under a cap"),
        w.say("watts at the nearest rate that was measured × (rate / that rate)^{:.2f}, and between two measured rates "
              "on the line through them; the band has {:.2f} and {:.2f} in its place, and {} more for what runs "
              "differ by",
              rule.exponent, rule.least, rule.most, percent(rules.noise)),
        w.say("Power {} in the runs of the chosen settings: {} at {} fps without a cap, and {} with a cap.",
              powerOf(w, power.uncapped().of), watts(w, power.uncapped().watts), fps(power.uncapped().rate.value()),
              power.points.size() == 1 ? w.say("none") : w.say("{} more", power.points.size() - 1)),
        w.say("The exponents come from simulated machines, so that 94 of 100 proofs lie inside; another machine "
              "may differ. Temperature and fan share the saving: either everything cools and the fan turns as "
              "before, or the fan slows and nothing cools; the truth lies between. Noise follows the usual fan "
              "law and is rough."),
        w.say("A run with the cap: its watts are measured, and the bands near it shrink.")};
}

} // namespace impasto::wording
