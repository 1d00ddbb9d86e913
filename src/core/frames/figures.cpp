// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/figures.h>

#include <stdexcept>

namespace impasto::frames {
namespace {

template <std::optional<stats::Low> Lows::*low>
std::optional<double> lowOf(const Summary& s, stats::LowRule rule) {
    const auto& found = s.of(rule).*low;
    return found ? std::optional(found->rate.value()) : std::nullopt;
}
template <std::array<stats::Doubt, 3> RunDoubt::*low>
const stats::Doubt* lowDoubt(const RunDoubt& d, stats::LowRule rule) {
    return &(d.*low)[static_cast<std::size_t>(rule)];
}
template <double Summary::*value>
std::optional<double> plain(const Summary& s, stats::LowRule) {
    return s.*value;
}
template <stats::Doubt RunDoubt::*value>
const stats::Doubt* plainDoubt(const RunDoubt& d, stats::LowRule) {
    return &(d.*value);
}

constexpr Figure table[]{
    {averageFps, "average", Unit::Fps, true, 0.02, true,
     [](const Summary& s, stats::LowRule) { return std::optional(s.average.value()); }, plainDoubt<&RunDoubt::average>},
    {onePercentLowFps, "1% low", Unit::Fps, true, 0.05, true, lowOf<&Lows::onePercent>,
     lowDoubt<&RunDoubt::onePercentLow>, false, true},
    {tenthPercentLowFps, "0.1% low", Unit::Fps, true, 0.05, true, lowOf<&Lows::tenthPercent>,
     lowDoubt<&RunDoubt::tenthPercentLow>, false, true},
    {"slowest_second_fps", "slowest second", Unit::Fps, true, 0.05, true,
     [](const Summary& s, stats::LowRule) { return std::optional(s.slowestSecond.value()); }},
    {"fastest_second_fps", "fastest second", Unit::Fps, false, 0.05, true,
     [](const Summary& s, stats::LowRule) { return std::optional(s.fastestSecond.value()); }},
    {"median_ms", "median frame time", Unit::Ms, false, 0.02, true, plain<&Summary::medianMs>,
     plainDoubt<&RunDoubt::median>},
    {"p95_ms", "95% of frames under", Unit::Ms, false, 0.05, true, plain<&Summary::p95Ms>, plainDoubt<&RunDoubt::p95>},
    {"p99_ms", "99% of frames under", Unit::Ms, true, 0.05, true, plain<&Summary::p99Ms>, plainDoubt<&RunDoubt::p99>},
    {"p999_ms", "99.9% of frames under", Unit::Ms, false, 0.05, true, plain<&Summary::p999Ms>,
     plainDoubt<&RunDoubt::p999>},
    {"worst_ms", "slowest frame", Unit::Ms, false, 0.05, true, plain<&Summary::worstMs>},
    {"pacing.mean_step_ms", "step from frame to frame", Unit::Ms, false, 0.05, true, plain<&Summary::stepMs>},
    {"pacing.spread_ms", "spread around neighbours", Unit::Ms, false, 0.05, true, plain<&Summary::spreadMs>},
    {hitchesPerMinute, "hitches per minute", Unit::PerMinute, true, 1, false,
     [](const Summary& s, stats::LowRule) { return std::optional(s.hitchesPerMinute()); }, nullptr, true},
    {"lost_in_hitches_ms", "time lost in hitches", Unit::Ms, false, 0.1, true, plain<&Summary::lostMs>},
    {"stalled_ms", "time in stalls", Unit::Ms, false, 0.1, true,
     [](const Summary& s, stats::LowRule) { return std::optional(s.stalledMs()); }},
    {"on_time_share", "on-time frames", Unit::Share, true, 0.02, false,
     [](const Summary& s, stats::LowRule) { return s.onTimeShare; }},
    {"half_rate_share", "frames at half rate", Unit::Share, false, 0.02, false,
     [](const Summary& s, stats::LowRule) { return s.halfRateShare; }}};

/// Of every run, or empty.
std::vector<double> valuesOf(std::span<const Summary> runs, const Figure& figure, stats::LowRule rule) {
    std::vector<double> out;
    for (const auto& s : runs) {
        const auto v = figure.of(s, rule);
        if (!v) return {};
        out.push_back(*v);
    }
    return out;
}

/// The runs' own standard errors of a figure, where they are known.
std::vector<double> errorsOf(std::span<const RunDoubt> doubt, const Figure& figure, stats::LowRule rule) {
    std::vector<double> out;
    if (figure.doubt == nullptr) return out;
    for (const auto& d : doubt) out.push_back(figure.doubt(d, rule)->standardError);
    return out;
}

stats::Count countOf(std::span<const Summary> runs) {
    stats::Count out;
    for (const auto& s : runs) {
        out.events += static_cast<double>(s.hitches.size());
        out.exposure += s.durationMs / 60000;
    }
    return out;
}

} // namespace

std::span<const Figure> figures() {
    return table;
}

const Figure& figure(std::string_view key) {
    for (const auto& f : table)
        if (f.key == key) return f;
    throw std::logic_error("no such figure");
}

std::map<std::string_view, stats::Family> familiesOf(std::span<const Summary> runs, stats::LowRule rule,
                                                     std::span<const RunDoubt> doubt) {
    std::map<std::string_view, stats::Family> out;
    for (const auto& figure : figures()) {
        if (!figure.compared) continue;
        const auto values = valuesOf(runs, figure, rule);
        if (values.empty()) continue;
        auto family = *stats::familyOf(values, errorsOf(doubt, figure, rule));
        if (figure.isCount)
            family.mean.halfWidth = stats::wider(family.mean.halfWidth, stats::rateHalfWidth(countOf(runs)));
        out[figure.key] = family;
    }
    return out;
}

std::vector<FigureComparison> compareFigures(std::span<const Summary> before, std::span<const Summary> after,
                                             stats::LowRule rule, std::optional<double> averageMargin,
                                             std::span<const RunDoubt> doubtBefore,
                                             std::span<const RunDoubt> doubtAfter) {
    const auto families = familiesOf(before, rule, doubtBefore), others = familiesOf(after, rule, doubtAfter);
    std::vector<FigureComparison> out;
    for (const auto& figure : figures()) {
        const auto one = families.find(figure.key), other = others.find(figure.key);
        if (one == families.end() || other == others.end()) continue;
        const auto first = valuesOf(before, figure, rule), second = valuesOf(after, figure, rule);
        const double share = figure.key == averageFps ? averageMargin.value_or(figure.margin) : figure.margin;
        const double margin = figure.marginIsShare ? share * one->second.mean.estimate : share;
        auto comparison = *stats::compare(first, second, margin, errorsOf(doubtBefore, figure, rule),
                                          errorsOf(doubtAfter, figure, rule));
        if (figure.isCount) comparison = stats::compareCounts(comparison, countOf(before), countOf(after), margin);
        const auto rank = stats::rankTest(first, second);
        out.push_back({&figure, one->second, other->second, comparison, stats::equivalenceP(first, second, margin),
                       rank ? std::optional(rank->p) : std::nullopt});
    }
    return out;
}

} // namespace impasto::frames
