// SPDX-License-Identifier: GPL-3.0-or-later
#include "nature.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <functional>

namespace impasto::logs {
namespace {

double medianOf(std::vector<double> v) {
    if (v.empty()) return 0.0;
    std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
    return v[v.size() / 2];
}

double unevennessOf(std::vector<double> steps, double usual) {
    for (double& s : steps) s = std::abs(s - usual) / usual;
    const auto most = steps.begin() + static_cast<std::ptrdiff_t>(steps.size() - steps.size() / 50 - 1);
    std::nth_element(steps.begin(), most, steps.end());
    return *most;
}

} // namespace

double meanOf(const std::vector<double>& values) {
    double sum = 0;
    std::size_t n = 0;
    for (const double v : values) {
        if (!std::isfinite(v)) continue;
        sum += v;
        ++n;
    }
    return n == 0 ? 0 : sum / static_cast<double>(n);
}

std::string whatTheyComeTo(std::vector<double> rates) {
    std::erase_if(rates, [](double v) { return !std::isfinite(v); });
    if (rates.empty()) return {};
    const auto [least, most] = std::minmax_element(rates.begin(), rates.end());
    return fmt::format(" (average {:.1f}, {:.1f} to {:.1f} fps)", meanOf(rates), *least, *most);
}

std::vector<double> stepsOf(const std::vector<double>& v) {
    std::vector<double> out;
    for (std::size_t i = 1; i < v.size(); ++i) out.push_back(v[i] - v[i - 1]);
    return out;
}

Nature natureOf(std::vector<double> v, std::size_t missing) {
    Nature nature;
    const std::size_t all = v.size();
    std::erase_if(v, [](double x) { return std::isnan(x); });
    if (v.empty() || 4 * missing > all) return nature;
    if (all - v.size() - missing > std::max<std::size_t>(all >= 4 ? 1 : 0, all / 50)) return nature;
    nature.whole = std::all_of(v.begin(), v.end(), [](double x) { return x == std::floor(x); });
    nature.constant = std::adjacent_find(v.begin(), v.end(), std::not_equal_to<>()) == v.end();
    const auto steps = stepsOf(v);
    const auto rising = std::count_if(steps.begin(), steps.end(), [](double s) { return s > 0; });
    const bool neverFalls = std::none_of(steps.begin(), steps.end(), [](double s) { return s < 0; });
    // Few rows may be missing between; whole seconds in a row are a clock where the heading says so.
    const auto ones = std::count_if(steps.begin(), steps.end(), [](double s) { return s == 1.0; });
    const bool index = nature.whole && static_cast<double>(ones) >= 0.9 * static_cast<double>(steps.size());
    constexpr double upward = 0.45; // rows may be written twice
    const bool mostlyRises =
        steps.size() >= 2 && static_cast<double>(rising) >= upward * static_cast<double>(steps.size());
    if (neverFalls && mostlyRises) {
        nature.cumulative = !index;
        nature.counts = index;
        nature.typical = medianOf(steps);
        if (nature.typical == 0) {
            auto ahead = steps;
            std::erase(ahead, 0);
            nature.typical = medianOf(std::move(ahead));
        }
        if (steps.size() >= 5) nature.uneven = unevennessOf(steps, nature.typical);
        return nature;
    }
    // A clock that stands still for rows on end, or falls and goes on rising, is no list of frame times; those of a
    // game that slows down evenly lie close together.
    constexpr std::size_t enough = 20;
    if (neverFalls && rising > 0 && v.size() >= enough) return nature;
    const auto falling = std::count_if(steps.begin(), steps.end(), [](double s) { return s < 0; });
    const double share = static_cast<double>(falling) / static_cast<double>(std::max<std::size_t>(1, steps.size()));
    nature.falls = v.size() >= enough && rising == 0 && share >= upward;
    nature.mostlyFalls = nature.falls || (v.size() >= enough && share >= 0.98);
    if (v.size() >= enough && static_cast<double>(rising) >= 0.98 * static_cast<double>(steps.size())) {
        const auto fall = std::find_if(steps.begin(), steps.end(), [](double s) { return s < 0; });
        nature.fall = static_cast<std::size_t>(fall - steps.begin()) + 1;
        const auto [least, most] = std::minmax_element(v.begin(), v.end());
        nature.wide = *most - *least > 0.5 * std::abs(medianOf(v));
    }
    const auto positive = std::count_if(v.begin(), v.end(), [](double x) { return x > 0; });
    nature.typical = medianOf(v);
    nature.positive = static_cast<double>(positive) / static_cast<double>(v.size());
    nature.perFrame = nature.positive >= 0.9 && nature.typical > 0;
    return nature;
}

TimeUnit plausibleUnit(double typical) {
    if (typical < 0.25) return TimeUnit::Seconds;
    if (typical < 500.0) return TimeUnit::Milliseconds;
    if (typical < 250000.0) return TimeUnit::Microseconds;
    return TimeUnit::Nanoseconds;
}

std::optional<std::string> unsettledUnits(const Nature& nature) {
    if (!nature.cumulative) return {};
    if (nature.typical >= 50'000 && nature.typical < 500'000) return "us/100ns";
    if (nature.uneven > 0.05 || nature.typical < 0.4) return {};
    const bool large = nature.typical > 100;
    const double step = large ? nature.typical / 1000 : nature.typical;
    constexpr std::array round{0.5, 1.0, 2.0, 5.0, 10.0};
    const auto is = [step](double r) { return std::abs(step / r - 1) < 0.02; };
    if (std::none_of(round.begin(), round.end(), is)) return {};
    return large ? "ms/us" : "s/ms";
}

bool inOrderOfSize(std::vector<double> v) {
    constexpr std::size_t fewest = 100, ends = 50; // of the values, at each end
    std::erase_if(v, [](double x) { return std::isnan(x); });
    if (v.size() < fewest) return false;
    if (v.front() > v.back()) std::reverse(v.begin(), v.end());
    if (!(v.front() > 0) || v.back() > 30 * v.front() || !std::is_sorted(v.begin(), v.end())) return false;
    const auto at = [&v](std::size_t i) { return v[i]; };
    const std::size_t last = v.size() - 1, end = v.size() / ends;
    const double span = at(last) - at(0), atEnds = at(end) - at(0) + at(last) - at(last - end);
    const double usual = medianOf(stepsOf(v)), mean = span / static_cast<double>(last);
    return span > 0.1 * at(last / 2) && atEnds > 0.25 * span &&
           mean > 1.4 * usual; // no clock that counts from long ago
}

bool repeatsSteps(const std::vector<double>& stamps, const std::vector<double>& frames, double factor) {
    const auto steps = stepsOf(stamps);
    std::vector<double> atEnd, atStart; // where the stamp stands of its frame
    double total = 0.0;
    for (std::size_t i = 0; i < steps.size(); ++i) {
        if (steps[i] == 0 && frames[i + 1] == frames[i]) continue; // written twice
        atEnd.push_back(std::abs(steps[i] * factor - frames[i + 1]));
        atStart.push_back(std::abs(steps[i] * factor - frames[i]));
        total += frames[i];
    }
    return std::min(withoutWorst(atEnd), withoutWorst(atStart)) < 0.05 * total;
}

double meanStep(const std::vector<double>& values) {
    std::vector<double> told = values;
    std::erase_if(told, [](double x) { return std::isnan(x); });
    return told.size() < 2 ? 0 : (told.back() - told.front()) / static_cast<double>(told.size() - 1);
}

double withoutWorst(std::vector<double> v) {
    const auto kept = static_cast<std::ptrdiff_t>(v.size() - v.size() / 50);
    std::nth_element(v.begin(), v.begin() + std::max<std::ptrdiff_t>(0, kept - 1), v.end());
    double sum = 0;
    for (auto it = v.begin(); it != v.begin() + kept; ++it) sum += *it;
    return sum;
}

} // namespace impasto::logs
