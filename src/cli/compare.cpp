// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"

#include <impasto/exports/json.h>
#include <impasto/frames/places.h>
#include <impasto/logs/import.h>
#include <impasto/wording/logs.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>
#include <impasto/wording/runs.h>

namespace impasto::cli {
namespace {

struct CompareOptions {
    std::vector<std::string> before, after;
    std::optional<double> targetFps;
    std::string lows = "worst-mean";
    double marginPercent = 2;               // of the average
    std::optional<double> precisionPercent; // wished half width of the average
    bool json = false;
};

/// The runs of one side.
struct Side {
    std::vector<frames::Summary> summaries;
    std::vector<frames::AllMeasured> measured;
    std::vector<frames::RunDoubt> doubt; // empty where a run is too short for it
};

/// Errors: the logs'; UnlikeKinds where one holds displayed frames and another started ones.
Result<Side> read(const std::vector<std::string>& logs, std::optional<Fps> target,
                  std::optional<capture::IntervalKind>& kind) {
    Side side;
    std::vector<capture::Capture> captures;
    for (const auto& path : logs) {
        auto capture = logs::readLog(path);
        if (!capture) return tl::unexpected(capture.error());
        if (!kind || *kind == capture::IntervalKind::Unknown) kind = capture->kind;
        if (!capture::alike(*kind, capture->kind)) return fail(ErrorCode::UnlikeKinds, {}, {path, {}, {}, {}});
        side.summaries.push_back(
            *frames::summarize(capture->framesMs, target ? std::optional(frames::OnTime{*target}) : std::nullopt));
        if (const auto doubt = frames::doubtOf(*capture)) side.doubt.push_back(*doubt);
        side.measured.push_back(frames::measuredOf(*capture));
        captures.push_back(std::move(*capture));
    }
    if (side.doubt.size() != side.summaries.size()) side.doubt.clear();
    frames::Captures runs;
    for (const auto& capture : captures) runs.push_back(&capture);
    frames::takeRouteOut(side.doubt, runs);
    return side;
}

void print(const frames::FigureComparison& f) {
    const wording::Words w;
    const auto& d = f.comparison.difference;
    const bool relative = f.before.mean.estimate > 0 && f.figure->unit != frames::Unit::Share;
    fmt::print("{:<20} {:>18}   {:>18}   {:>18} {:>7}   {}\n", wording::figure(w, *f.figure),
               wording::figureValue(*f.figure, f.comparison.before, false),
               wording::figureValue(*f.figure, f.comparison.after, false), wording::figureValue(*f.figure, d, true),
               relative ? wording::signedPlusMinus(100 * d.estimate / f.before.mean.estimate, {}, 1) + "%" : "",
               wording::verdict(w, f));
    if (f.rankP && f.equivalenceP)
        fmt::print("  p = {:.3g} (rank test), {:.3g} (equivalence)\n", *f.rankP, *f.equivalenceP);
    for (const auto& [side, family] : {std::pair("before", &f.before), {"after", &f.after}})
        if (const auto more = wording::moreRuns(w, *f.figure, *family);
            !more.empty() && f.comparison.verdict == stats::Verdict::NotEnoughRuns)
            fmt::print("  {}: {}\n", side, more);
}

void print(const frames::MeasuredComparison& m) {
    const auto& c = m.comparison;
    const auto value = [&](const stats::Interval& i, bool difference) {
        const auto text = difference ? wording::signedPlusMinus : wording::plusMinus;
        return fmt::format("{} {}", text(i.estimate, i.halfWidth, 1), wording::measuredUnit(m.key));
    };
    fmt::print("{:<20} {:>18}   {:>18}   {:>18} {:>7}\n", wording::measured(wording::Words(), m.key),
               value(c.before, false), value(c.after, false), value(c.difference, true),
               c.before.estimate > 0
                   ? wording::signedPlusMinus(100 * c.difference.estimate / c.before.estimate, {}, 1) + "%"
                   : "");
}

/// Runs a side for a wished precision of the averages, at the spread of the runs that are there.
void printRunsFor(const frames::FigureComparison& average, double percent) {
    for (const auto& [side, family] : {std::pair("before", &average.before), {"after", &average.after}}) {
        if (!family->spreadSd) {
            fmt::print("{}: one run does not show how much runs differ\n", side);
            continue;
        }
        const auto runs = stats::runsFor(*family->spreadSd, percent / 100 * family->mean.estimate);
        fmt::print("{}: {} for +- {}% of the average\n", side, runs ? fmt::format("{} runs", *runs) : "over 1,000 runs",
                   percent);
    }
}

int compare(const CompareOptions& options) {
    const auto target = options.targetFps ? std::optional(Fps(*options.targetFps)) : std::nullopt;
    std::optional<capture::IntervalKind> kind;
    const auto before = read(options.before, target, kind);
    if (!before) return failed(before.error());
    const auto after = read(options.after, target, kind);
    if (!after) return failed(after.error());
    const auto rule = *stats::lowRuleOf(options.lows);
    const auto figures = frames::compareFigures(before->summaries, after->summaries, rule, options.marginPercent / 100,
                                                before->doubt, after->doubt);
    const auto measured = frames::compareMeasured(before->measured, after->measured);
    if (options.json) {
        fmt::print("{}\n", exports::comparisonJson(figures, measured, rule));
        return 0;
    }
    const wording::Words w;
    fmt::print("{} and {} runs, lows: {}, 95% intervals\n\n", before->summaries.size(), after->summaries.size(),
               wording::lowRule(w, rule));
    fmt::print("{:<20} {:>18}   {:>18}   {:>18} {:>7}\n", "", "before", "after", "difference", "");
    for (const auto& f : figures) print(f);
    for (const auto& m : measured) print(m);
    if (!figures.empty()) fmt::print("\naverage: {}\n", wording::averageDifference(w, figures.front()));
    if (options.precisionPercent && !figures.empty()) printRunsFor(figures.front(), *options.precisionPercent);
    return 0;
}

} // namespace

Command compareCommand() {
    const auto o = std::make_shared<CompareOptions>();
    return {"compare",
            "Two variants side by side: logs before, --vs logs after",
            {{"before", "Frame logs of the first variant, one per run", &o->before, {}, {}, true},
             {"--vs", "Frame logs of the second variant, one per run", &o->after, {}, {}, true},
             {"--target", "Rate to hold, fps", &o->targetFps, std::pair(1.0, 2000.0)},
             lowsOption(o->lows),
             {"--margin", "Difference of the average that does not matter, percent", &o->marginPercent,
              std::pair(0.01, 50.0)},
             {"--precision", "Says how many runs per side bring the averages to +- so many percent",
              &o->precisionPercent, std::pair(0.01, 50.0)},
             {"--json", "Machine-readable, docs/formats.md", &o->json}},
            [o] { return compare(*o); }};
}

} // namespace impasto::cli
