// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"

#include <cmath>
#include <impasto/base/shown.h>
#include <impasto/exports/json.h>
#include <impasto/logs/import.h>
#include <impasto/wording/logs.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>
#include <impasto/wording/runs.h>

namespace impasto::cli {
namespace {

using exports::SummarizedLog;

struct SummarizeOptions {
    std::vector<std::string> logs;
    std::optional<double> targetFps;
    std::string lows = "worst-mean", dialect; // dialect: as printed, corrected by hand; empty: found
    frames::HitchRule hitch;
    double mostRows = 200e6, mostGib = 16;
    bool json = false;
};

SummarizedLog summarized(const std::string& path, const capture::Capture& capture, std::optional<Fps> target,
                         const frames::HitchRule& rule) {
    const auto note = [&](const char* key) {
        const auto it = capture.notes.find(key);
        return it == capture.notes.end() ? std::string() : it->second;
    };
    return {path,
            note("dialect"),
            note("packing"),
            logs::notesOf(capture),
            *frames::summarize(capture.framesMs, target ? std::optional(frames::OnTime{*target}) : std::nullopt, rule,
                               capture::partsOf(capture)),
            frames::doubtOf(capture, {capture.frames() > 200000 ? 100U : 250U}),
            frames::examine(capture),
            frames::pollutionOf(capture),
            frames::measuredOf(capture),
            {}};
}

/// What is proposed to be trimmed, with what the others lose in mind.
void cutAlike(std::vector<SummarizedLog>& logs, const std::vector<capture::Capture>& captures) {
    std::vector<std::vector<capture::Span>> proposed;
    for (const auto& log : logs) proposed.push_back(log.proposedTrims);
    const auto ends = frames::expectedIn(proposed);
    if (ends == frames::Ends()) return;
    for (std::size_t i = 0; i < logs.size(); ++i) logs[i].proposedTrims = frames::pollutionOf(captures[i], ends);
}

/// Where the hitches of each come from, beside the others.
void findOrigins(std::vector<SummarizedLog>& logs, std::span<const std::vector<double>> partStarts) {
    std::vector<frames::HitchedRun> runs;
    for (std::size_t i = 0; i < logs.size(); ++i) runs.push_back({logs[i].summary.hitches, partStarts[i]});
    for (std::size_t i = 0; i < logs.size(); ++i) {
        auto others = runs;
        others.erase(others.begin() + static_cast<std::ptrdiff_t>(i));
        logs[i].origin = frames::originOf(runs[i], others);
    }
}

/// "63.7 fps, 62.9 to 64.4 fps", and how many frames a low is from.
std::string valueOf(const frames::Figure& figure, const SummarizedLog& log, stats::LowRule rule) {
    const auto value = figure.of(log.summary, rule);
    if (!value) return {};
    std::string out = wording::figureValue(figure, {*value, {}, 1}, false);
    if (log.doubt && figure.doubt != nullptr) {
        const auto* doubt = figure.doubt(*log.doubt, rule);
        out += fmt::format(" ({} to {})", wording::figureValue(figure, {doubt->low, {}, 1}, false),
                           wording::figureValue(figure, {doubt->high, {}, 1}, false));
    }
    if (figure.byRule) {
        const auto& lows = log.summary.of(rule);
        const auto& low = figure.key == frames::onePercentLowFps ? lows.onePercent : lows.tenthPercent;
        out += fmt::format(" from {} frames", wording::count(static_cast<std::size_t>(std::ceil(low->frames))));
    }
    return out;
}

void print(const SummarizedLog& log, stats::LowRule rule) {
    using namespace wording;
    const Words w;
    const auto& s = log.summary;
    fmt::print("{}\n", shown(log.name));
    if (!log.packing.empty()) fmt::print("  {:<26} {}\n", "packing", log.packing);
    if (!log.dialect.empty()) fmt::print("  {:<26} {}\n", "read as", shown(log.dialect));
    for (const auto& note : log.notes) fmt::print("  {:<26} {}\n", "note", importNote(w, note));
    fmt::print("  {:<26} {} in {:.1f} s; lows: {}\n", "frames", count(s.frames), s.durationMs / 1000, lowRule(w, rule));
    for (const auto& f : frames::figures())
        if (const auto value = valueOf(f, log, rule); !value.empty()) fmt::print("  {:<26} {}\n", figure(w, f), value);
    for (const auto& [key, m] : log.measured) {
        const auto range = m.least < m.most ? fmt::format(" ({:.1f} to {:.1f})", m.least, m.most) : std::string();
        fmt::print("  {:<26} {:.1f} {}{}\n", measured(w, key), m.mean, measuredUnit(key), range);
    }
    if (const auto origin = hitchOrigin(w, log.origin); !origin.empty())
        fmt::print("  {:<26} {}\n", "hitches come", origin);
    for (const auto& stall : s.stalls)
        fmt::print("  {:<26} {:.1f} to {:.1f} s: {}\n", "stall", stall.fromMs / 1000, stall.toMs / 1000,
                   stall.frames == 1 ? "1 frame" : count(stall.frames) + " frames");
    if (s.worstDip)
        fmt::print("  {:<26} {} fps for half a second at {:.1f} s, under the target for {:.1f} s\n", "worst dip",
                   fps(s.worstDip->lowest.value()), s.worstDip->atMs / 1000, s.worstDip->lengthMs / 1000);
    for (const auto& e : log.examined) {
        const auto words = finding(w, e);
        fmt::print("  {:<26} {}: {}\n", e.found ? "look at" : "checked", words.title, words.detail);
    }
    for (const auto& span : log.proposedTrims)
        fmt::print("  {:<26} {:.1f} to {:.1f} s looks like loading or a menu\n", "look at", span.fromMs / 1000,
                   span.toMs / 1000);
}

int summarize(const SummarizeOptions& options) {
    const auto target = options.targetFps ? std::optional(Fps(*options.targetFps)) : std::nullopt;
    const auto dialect = logs::dialectOf(options.dialect);
    if (!options.dialect.empty() && !dialect)
        return failed({ErrorCode::BadValue, "a dialect as summarize prints it", {{}, {}, {}, "dialect"}});
    logs::ReadOptions reading;
    reading.dialect = dialect;
    reading.mostRows = static_cast<std::size_t>(options.mostRows);
    reading.mostBytes = static_cast<std::size_t>(options.mostGib * 1024 * 1024 * 1024);
    std::vector<SummarizedLog> logs;
    std::vector<std::vector<double>> partStarts;
    std::vector<capture::Capture> captures;
    int code = 0;
    for (const auto& path : options.logs) {
        auto capture = readLogOrInput(path, reading);
        if (!capture) {
            code = failed(capture.error());
            continue;
        }
        logs.push_back(summarized(path, *capture, target, options.hitch));
        partStarts.push_back(frames::partStartsOf(*capture));
        if (options.logs.size() > 1) captures.push_back(std::move(*capture));
    }
    if (logs.size() > 1) cutAlike(logs, captures);
    findOrigins(logs, partStarts);
    if (!options.json)
        for (const auto& log : logs) print(log, *stats::lowRuleOf(options.lows));
    if (options.json) fmt::print("{}\n", exports::summariesJson(logs, target));
    return code;
}

} // namespace

Command summarizeCommand() {
    const auto o = std::make_shared<SummarizeOptions>();
    return {
        "summarize",
        "Average, lows and hitches of frame logs (delimited text or JSON of any tool)",
        {{"logs", "Frame logs; - reads the standard input", &o->logs, {}, {}, true},
         {"--target", "Rate to hold, fps", &o->targetFps, std::pair(1.0, 2000.0)},
         lowsOption(o->lows),
         {"--dialect", "How to read the logs, as printed and corrected", &o->dialect},
         {"--hitch-ratio", "A hitch takes more than so many times the median of its neighbours", &o->hitch.ratio,
          std::pair(1.0, 10.0)},
         {"--hitch-excess", "and so many ms more", &o->hitch.excessMs, std::pair(0.0, 1000.0)},
         {"--hitch-outright", "or so many ms more, whatever the ratio", &o->hitch.outrightMs, std::pair(0.1, 1000.0)},
         {"--most-rows", "Logs of more rows are refused", &o->mostRows, std::pair(1.0, 1e11)},
         {"--most-gib", "and those that are, or unpack to, more", &o->mostGib, std::pair(1e-6, 4096.0)},
         {"--json", "Machine-readable, docs/formats.md", &o->json}},
        [o] { return summarize(*o); }};
}

} // namespace impasto::cli
