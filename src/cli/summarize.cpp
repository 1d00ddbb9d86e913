// SPDX-License-Identifier: GPL-3.0-or-later
#include "commands.h"

#include <impasto/capture/import.h>
#include <impasto/report/json.h>

namespace impasto::cli {
namespace {

using report::SummarizedLog;

SummarizedLog summarized(const std::string& path, const capture::Capture& capture, std::optional<Fps> target,
                         const stats::HitchRule& rule) {
    const auto note = [&](const char* key) {
        const auto it = capture.notes.find(key);
        return it == capture.notes.end() ? std::string() : it->second;
    };
    return {path,
            note("dialect"),
            note("packing"),
            *stats::summarize(capture.framesMs, target, rule),
            stats::doubtOf(capture, {250}),
            stats::examine(capture),
            stats::pollutionOf(capture)};
}

void print(const SummarizedLog& log, const capture::Capture& capture, run::LowSchool school) {
    using namespace report;
    const Wording w;
    const auto& s = log.summary;
    const auto range = [&](const stats::Doubt& d) {
        return log.doubt ? fmt::format(", {} to {}", fps(d.low), fps(d.high)) : std::string();
    };
    const stats::RunDoubt doubt = log.doubt.value_or(stats::RunDoubt());
    const auto index = static_cast<std::size_t>(school);
    const auto low = [&](const std::optional<stats::Low>& l, const stats::Doubt& d) {
        return l ? fmt::format("{} fps{} on {} frames", fps(l->rate.value()), range(d),
                               count(static_cast<std::size_t>(l->standsOn)))
                 : "not known";
    };
    fmt::print("{}\n", log.name);
    if (!log.packing.empty()) fmt::print("  packing   {}\n", log.packing);
    if (!log.dialect.empty()) fmt::print("  read as   {}\n", log.dialect);
    fmt::print("  frames    {} in {:.1f} s\n  average   {} fps{}\n", count(s.frames), s.durationMs / 1000,
               fps(s.average.value()), range(doubt.average));
    if (capture.invented)
        fmt::print("  shown     {} fps, with frames that were not rendered\n",
                   fps(capture::shownRate(capture).value()));
    fmt::print("  1% low    {} ({})\n  0.1% low  {}\n", low(s.of(school).onePercent, doubt.onePercentLow[index]),
               w.school(school), low(s.of(school).tenthPercent, doubt.tenthPercentLow[index]));
    const auto time = [&](double value, const stats::Doubt& d) {
        return ms(value) + (log.doubt ? fmt::format(" ({} to {})", ms(d.low), ms(d.high)) : std::string());
    };
    fmt::print("  median    {} ms, 95% under {}, 99% under {}, 99.9% under {}, worst {}\n",
               time(s.medianMs, doubt.median), time(s.p95Ms, doubt.p95), time(s.p99Ms, doubt.p99),
               time(s.p999Ms, doubt.p999), ms(s.worstMs));
    if (s.withinBudget) fmt::print("  in budget {}\n", percent(*s.withinBudget));
    if (s.worstDip)
        fmt::print("  dip       {} fps for half a second at {:.1f} s, under the target for {:.1f} s\n",
                   fps(s.worstDip->lowest.value()), s.worstDip->atMs / 1000, s.worstDip->lengthMs / 1000);
    fmt::print("  pacing    {} ms from frame to frame, {} ms around the median of the neighbours\n", ms(s.stepMs),
               ms(s.spreadMs));
    fmt::print("  hitches   {} ({:.1f} a minute), {:.1f} s lost in them\n", s.hitches.size(), s.hitchesPerMinute(),
               s.lostMs / 1000);
    for (const auto& e : log.examined) {
        const auto words = w.finding(e);
        fmt::print("  {} {}: {}\n", e.found ? "look at  " : "checked  ", words.title, words.detail);
    }
    for (const auto& span : log.proposedTrims)
        fmt::print("  look at   {:.1f} to {:.1f} s look like loading, a menu or a stall\n", span.fromMs / 1000,
                   span.toMs / 1000);
}

} // namespace

int summarize(const SummarizeOptions& options) {
    const auto target = options.targetFps ? std::optional(Fps(*options.targetFps)) : std::nullopt;
    const auto dialect = capture::dialectOf(options.dialect);
    if (!options.dialect.empty() && !dialect)
        return failed({ErrorCode::BadValue, "a dialect as summarize prints it", {{}, {}, {}, "dialect"}});
    std::vector<SummarizedLog> logs;
    int code = 0;
    for (const auto& path : options.logs) {
        const auto capture = capture::readLog(path, {dialect});
        if (!capture) {
            code = failed(capture.error());
            continue;
        }
        logs.push_back(summarized(path, *capture, target, options.hitch));
        if (!options.json) print(logs.back(), *capture, *run::lowSchoolOf(options.school));
    }
    if (options.json) fmt::print("{}\n", report::summariesJson(logs, target));
    return code;
}

} // namespace impasto::cli
