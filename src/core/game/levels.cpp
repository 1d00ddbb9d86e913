// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/levels.h>

#include <algorithm>
#include <cmath>
#include <impasto/base/text.h>

namespace impasto::game {
namespace {

/// "75%", "2.5 m": a number and what follows it.
struct Measure {
    double value = 0;
    std::string unit; // with the space before it
};

std::optional<Measure> measureIn(std::string_view text) {
    text = trimmed(text);
    const auto end = std::min(text.find_first_not_of("+-0123456789."), text.size());
    const auto value = parseDouble(text.substr(0, end));
    if (!value || std::abs(*value) > 1e6) return std::nullopt;
    return Measure{*value, std::string(text.substr(end))};
}

constexpr std::string_view oneOf = "one of ";

std::string stepName(double value, const std::string& unit) {
    return shortestText(std::round(1000 * value) / 1000) + unit;
}

/// The least of 1, 2, 2.5 and 5 times a power of ten that divides the range in twelve steps at most; else a tenth.
double usualStep(double span) {
    const double least = std::pow(10.0, std::floor(std::log10(span / 12)));
    for (const double step : {1.0, 2.0, 2.5, 5.0, 10.0, 20.0, 25.0, 50.0}) {
        const double steps = span / (step * least);
        if (steps <= 12 + 1e-9 && std::abs(steps - std::round(steps)) < 1e-6) return step * least;
    }
    return span / 10;
}

/// The steps of "25% to 100% by 5%"; nothing where it is none, or has too many.
std::optional<std::vector<std::string>> stepsOf(std::string_view text) {
    const auto to = text.find(" to ");
    if (to == std::string_view::npos) return std::nullopt;
    const auto by = text.find(" by ", to + 4);
    const auto from = measureIn(text.substr(0, to));
    const auto last = measureIn(text.substr(to + 4, by == std::string_view::npos ? by : by - to - 4));
    if (!from || !last || !(last->value > from->value) || (!from->unit.empty() && from->unit != last->unit))
        return std::nullopt;
    const double span = last->value - from->value;
    double step = usualStep(span);
    if (by != std::string_view::npos) {
        const auto said = measureIn(text.substr(by + 4));
        if (!said || !(said->value > 0)) return std::nullopt;
        step = said->value;
    }
    const double steps = std::ceil(span / step - 1e-9);
    if (steps >= static_cast<double>(mostLevels)) return std::nullopt;
    std::vector<std::string> out;
    for (int i = 0; i < static_cast<int>(steps); ++i) out.push_back(stepName(from->value + i * step, last->unit));
    out.push_back(stepName(last->value, last->unit)); // which a step may not fall on
    return out;
}

} // namespace

bool saysUnordered(std::string_view text) {
    return trimmed(text).starts_with(oneOf);
}

std::optional<std::vector<std::string>> levelNames(std::string_view text) {
    if (saysUnordered(text)) text = trimmed(text).substr(oneOf.size());
    std::vector<std::string> out;
    const auto add = [&](const std::string& name) {
        if (!name.empty() && std::find(out.begin(), out.end(), name) == out.end()) out.push_back(name);
    };
    for (std::size_t at = 0; at <= text.size();) {
        const auto comma = std::min(text.find(',', at), text.size());
        const auto word = trimmed(text.substr(at, comma - at));
        if (const auto steps = stepsOf(word))
            for (const auto& name : *steps) add(name);
        else
            add(std::string(word));
        at = comma + 1;
    }
    if (out.size() < 2 || out.size() > mostLevels) return std::nullopt;
    return out;
}

std::string levelsText(const std::vector<std::string>& names, bool unordered) {
    std::string out;
    for (const auto& name : names) out += (out.empty() ? "" : ", ") + name;
    if (unordered) return std::string(oneOf) + out;
    if (names.size() < 5) return out;
    const auto first = measureIn(names[0]), second = measureIn(names[1]);
    if (!first || !second) return out;
    const std::string range =
        names.front() + " to " + names.back() + " by " + stepName(second->value - first->value, first->unit);
    return levelNames(range) == names ? range : out;
}

} // namespace impasto::game
