// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands.h"

#include <impasto/capture/import.h>
#include <impasto/report/json.h>

namespace impasto::cli {
namespace {

/// The runs of one side.
struct Side {
    std::vector<stats::Summary> summaries;
    std::vector<stats::RunDoubt> doubt; // empty where a run is too short for it
};

Result<Side> read(const std::vector<std::string>& logs, std::optional<Fps> target) {
    Side side;
    for (const auto& path : logs) {
        const auto capture = capture::readLog(path);
        if (!capture) return tl::unexpected(capture.error());
        side.summaries.push_back(*stats::summarize(capture->framesMs, target));
        if (const auto doubt = stats::doubtOf(*capture)) side.doubt.push_back(*doubt);
    }
    if (side.doubt.size() != side.summaries.size()) side.doubt.clear();
    return side;
}

void print(const stats::FigureComparison& f) {
    const report::Wording w;
    const auto& d = f.comparison.difference;
    fmt::print("{:<20} {:>18}   {:>18}   {:>18} {:>7}   {}\n", w.figure(f.figure),
               w.figureValue(f.figure, f.before.mean, false), w.figureValue(f.figure, f.after.mean, false),
               w.figureValue(f.figure, d, true),
               f.before.mean.estimate > 0 && f.figure != stats::Figure::WithinBudget
                   ? report::signedPlusMinus(100 * d.estimate / f.before.mean.estimate, {}, 1) + "%"
                   : "",
               w.verdict(f));
    if (f.rankP && f.equivalenceP)
        fmt::print("  p: {:.3g} of the rank test, {:.3g} of being no further apart than what does not matter\n",
                   *f.rankP, *f.equivalenceP);
    for (const auto& [side, family] : {std::pair("before", &f.before), {"after", &f.after}})
        if (const auto more = w.moreRuns(f.figure, *family);
            !more.empty() && f.comparison.verdict == stats::Verdict::NotEnoughRuns)
            fmt::print("  {}: {}\n", side, more);
}

/// Runs a side for a wished precision of the averages, at the spread of the runs that are there.
void printRunsFor(const stats::FigureComparison& average, double percent) {
    for (const auto& [side, family] : {std::pair("before", &average.before), {"after", &average.after}}) {
        if (!family->spreadSd) {
            fmt::print("{}: one run does not say how much runs differ\n", side);
            continue;
        }
        const auto runs = stats::runsFor(*family->spreadSd, percent / 100 * family->mean.estimate);
        fmt::print("{}: {} for +- {}% of the average\n", side, runs ? fmt::format("{} runs", *runs) : "over 1,000 runs",
                   percent);
    }
}

} // namespace

int compare(const CompareOptions& options) {
    const auto target = options.targetFps ? std::optional(Fps(*options.targetFps)) : std::nullopt;
    const auto before = read(options.before, target), after = read(options.after, target);
    if (!before) return failed(before.error());
    if (!after) return failed(after.error());
    const auto school = *run::lowSchoolOf(options.school);
    const stats::Margins margins{options.marginPercent / 100};
    const auto figures =
        stats::compareFigures(before->summaries, after->summaries, school, margins, before->doubt, after->doubt);
    if (options.json) {
        fmt::print("{}\n", report::comparisonJson(figures, school));
        return 0;
    }
    fmt::print("{} against {} runs, lows by {}, 95% intervals\n\n", before->summaries.size(), after->summaries.size(),
               report::Wording().school(school));
    fmt::print("{:<20} {:>18}   {:>18}   {:>18} {:>7}\n", "", "before", "after", "difference", "");
    for (const auto& f : figures) print(f);
    if (!figures.empty()) fmt::print("\naverage: {}\n", report::Wording().averageDifference(figures.front()));
    if (options.precisionPercent && !figures.empty()) printRunsFor(figures.front(), *options.precisionPercent);
    return 0;
}

} // namespace impasto::cli
