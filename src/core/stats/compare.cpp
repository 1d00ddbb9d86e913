// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/compare.h>

#include <cmath>
#include <impasto/base/keys.h>

#include "distributions.h"

namespace impasto::stats {
namespace {

constexpr Keys<Figure, 6> figureKeys{{{Figure::Average, "average_fps"},
                                      {Figure::OnePercentLow, "one_percent_low_fps"},
                                      {Figure::TenthPercentLow, "tenth_percent_low_fps"},
                                      {Figure::P99, "p99_ms"},
                                      {Figure::HitchesPerMinute, "hitches_per_minute"},
                                      {Figure::WithinBudget, "within_budget_share"}}};

} // namespace

std::optional<Family> familyOf(std::span<const double> perRun, std::span<const double> standardErrors) {
    const auto interval = meanInterval(perRun);
    if (!interval) return std::nullopt;
    Family out{*interval, standardDeviation(perRun), {}, {}};
    if (standardErrors.empty()) return out;
    double squares = 0;
    for (const double e : standardErrors) squares += e * e;
    out.withinSd = std::sqrt(squares / static_cast<double>(standardErrors.size()));
    if (out.spreadSd)
        out.betweenSd = std::sqrt(std::max(0.0, *out.spreadSd * *out.spreadSd - *out.withinSd * *out.withinSd));
    return out;
}

std::optional<double> halfWidthAt(double sd, std::size_t runs, double confidence) {
    if (runs < 2) return std::nullopt;
    const double n = static_cast<double>(runs);
    return studentQuantile(0.5 + confidence / 2, n - 1) * sd / std::sqrt(n);
}

std::optional<std::size_t> runsFor(double sd, double wishedHalfWidth, std::size_t most, double confidence) {
    for (std::size_t n = 2; n <= most; ++n)
        if (*halfWidthAt(sd, n, confidence) <= wishedHalfWidth) return n;
    return std::nullopt;
}

std::size_t sampleSize(double sd, double halfWidth, double confidence) {
    const double root = normalQuantile(0.5 + confidence / 2) * sd / halfWidth;
    return static_cast<std::size_t>(std::ceil(root * root));
}

std::optional<double> equivalenceP(std::span<const double> before, std::span<const double> after, double margin) {
    const auto w = welch(before, after);
    if (!w || w->standardError <= 0) return std::nullopt;
    const double low = 1 - studentCdf((w->difference + margin) / w->standardError, w->degreesOfFreedom);
    const double high = studentCdf((w->difference - margin) / w->standardError, w->degreesOfFreedom);
    return std::max(low, high);
}

std::optional<Comparison> compare(std::span<const double> before, std::span<const double> after, double margin) {
    const auto wide = differenceInterval(before, after, 0.95), narrow = differenceInterval(before, after, 0.90);
    if (!wide) return std::nullopt;
    Comparison out{*meanInterval(before), *meanInterval(after), *wide, 0, Verdict::NotEnoughRuns};
    if (!narrow->halfWidth) return out;
    out.largest = std::abs(narrow->estimate) + *narrow->halfWidth;
    if (wide->excludesZero())
        out.verdict = Verdict::Differs;
    else if (out.largest < margin)
        out.verdict = Verdict::NoLargerDifference;
    return out;
}

std::string_view keyOf(Figure figure) {
    return keyIn(figureKeys, figure);
}

std::optional<double> figureOf(const Summary& s, Figure figure, run::LowSchool school) {
    switch (figure) {
    case Figure::Average:
        return s.average.value();
    case Figure::OnePercentLow:
        return s.of(school).onePercent->rate.value();
    case Figure::TenthPercentLow:
        return s.of(school).tenthPercent->rate.value();
    case Figure::P99:
        return s.p99Ms;
    case Figure::HitchesPerMinute:
        return s.hitchesPerMinute();
    case Figure::WithinBudget:
        return s.withinBudget;
    }
    return std::nullopt;
}

double Margins::of(Figure figure, double before) const {
    switch (figure) {
    case Figure::Average:
        return average * before;
    case Figure::OnePercentLow:
    case Figure::TenthPercentLow:
        return lows * before;
    case Figure::P99:
        return p99 * before;
    case Figure::HitchesPerMinute:
        return hitches;
    case Figure::WithinBudget:
        return withinBudget;
    }
    return 0;
}

namespace {

/// Of every run, or empty.
std::vector<double> valuesOf(std::span<const Summary> runs, Figure figure, run::LowSchool school) {
    std::vector<double> out;
    for (const auto& s : runs) {
        const auto v = figureOf(s, figure, school);
        if (!v) return {};
        out.push_back(*v);
    }
    return out;
}

/// The runs' own standard errors of a figure, where they are known.
std::vector<double> errorsOf(std::span<const RunDoubt> doubt, Figure figure, run::LowSchool school) {
    std::vector<double> out;
    const auto index = static_cast<std::size_t>(school);
    for (const auto& d : doubt) {
        if (figure == Figure::Average) out.push_back(d.average.standardError);
        if (figure == Figure::OnePercentLow) out.push_back(d.onePercentLow[index].standardError);
        if (figure == Figure::TenthPercentLow) out.push_back(d.tenthPercentLow[index].standardError);
    }
    return out;
}

} // namespace

std::map<Figure, Family> familiesOf(std::span<const Summary> runs, run::LowSchool school,
                                    std::span<const RunDoubt> doubt) {
    std::map<Figure, Family> out;
    for (const auto& [figure, key] : figureKeys)
        if (const auto values = valuesOf(runs, figure, school); !values.empty())
            out[figure] = *familyOf(values, errorsOf(doubt, figure, school));
    return out;
}

std::vector<FigureComparison> compareFigures(std::span<const Summary> before, std::span<const Summary> after,
                                             run::LowSchool school, const Margins& margins,
                                             std::span<const RunDoubt> doubtBefore,
                                             std::span<const RunDoubt> doubtAfter) {
    const auto families = familiesOf(before, school, doubtBefore), others = familiesOf(after, school, doubtAfter);
    std::vector<FigureComparison> out;
    for (const auto& [figure, family] : families) {
        const auto other = others.find(figure);
        if (other == others.end()) continue;
        const auto first = valuesOf(before, figure, school), second = valuesOf(after, figure, school);
        const double margin = margins.of(figure, family.mean.estimate);
        const auto rank = rankTest(first, second);
        out.push_back({figure, family, other->second, *compare(first, second, margin),
                       equivalenceP(first, second, margin), rank ? std::optional(rank->p) : std::nullopt});
    }
    return out;
}

} // namespace impasto::stats
