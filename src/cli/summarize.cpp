// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands.h"

#include <impasto/capture/import.h>
#include <impasto/report/json.h>

namespace impasto::cli {
namespace {

void print(const std::string& name, const capture::Capture& capture, const stats::Summary& s, run::LowSchool school) {
    using namespace report;
    const Wording w;
    const auto low = [&](const std::optional<stats::Low>& l) {
        return l ? fmt::format("{} fps on {} frames", fps(l->rate.value()),
                               count(static_cast<std::size_t>(l->standsOn)))
                 : "not known";
    };
    fmt::print("{}\n", name);
    if (const auto note = capture.notes.find("dialect"); note != capture.notes.end())
        fmt::print("  read as   {}\n", note->second);
    fmt::print("  frames    {} in {:.1f} s\n  average   {} fps\n", count(s.frames), s.durationMs / 1000,
               fps(s.average.value()));
    if (capture.invented)
        fmt::print("  shown     {} fps, with frames that were not rendered\n",
                   fps(capture::shownRate(capture).value()));
    fmt::print("  1% low    {} ({})\n  0.1% low  {}\n", low(s.of(school).onePercent), w.school(school),
               low(s.of(school).tenthPercent));
    fmt::print("  median    {} ms, 95% under {}, 99% under {}, worst {}\n", ms(s.medianMs), ms(s.p95Ms), ms(s.p99Ms),
               ms(s.worstMs));
    if (s.withinBudget) fmt::print("  in budget {}\n", percent(*s.withinBudget));
    if (s.worstDip)
        fmt::print("  dip       {} fps for half a second at {:.1f} s, under the target for {:.1f} s\n",
                   fps(s.worstDip->lowest.value()), s.worstDip->atMs / 1000, s.worstDip->lengthMs / 1000);
    fmt::print("  pacing    {} ms from frame to frame, {} ms around the median of the neighbours\n", ms(s.stepMs),
               ms(s.spreadMs));
    fmt::print("  hitches   {} ({:.1f} a minute), {:.1f} s lost in them\n", s.hitches.size(), s.hitchesPerMinute(),
               s.lostMs / 1000);
}

} // namespace

int summarize(const SummarizeOptions& options) {
    const auto target = options.targetFps ? std::optional(Fps(*options.targetFps)) : std::nullopt;
    const auto dialect = capture::dialectOf(options.dialect);
    if (!options.dialect.empty() && !dialect)
        return failed({ErrorCode::BadValue, "a dialect as summarize prints it", {{}, {}, {}, "dialect"}});
    std::vector<stats::Summary> summaries;
    std::vector<std::string> names;
    int code = 0;
    for (const auto& path : options.logs) {
        const auto capture = capture::readLog(path, {dialect});
        if (!capture) {
            code = failed(capture.error());
            continue;
        }
        summaries.push_back(*stats::summarize(capture->framesMs, target, options.hitch));
        names.push_back(path);
        if (!options.json) print(path, *capture, summaries.back(), *run::lowSchoolOf(options.school));
    }
    if (options.json) fmt::print("{}\n", report::summariesJson(names, summaries, target));
    return code;
}

} // namespace impasto::cli
