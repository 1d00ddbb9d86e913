// SPDX-License-Identifier: GPL-3.0-or-later
// What follows from costs: the next run, the costs themselves, the choice, every best set, and why a level is not in
// it.
#include "source.h"

#include <impasto/exports/choice_json.h>
#include <impasto/results/power.h>
#include <impasto/wording/bounds.h>
#include <impasto/wording/choice.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>
#include <impasto/wording/power.h>
#include <impasto/wording/walk.h>

namespace impasto::cli {
namespace {

using wording::Words;

struct ChoiceOptions {
    Source source;
    std::string setting, level;
    bool json = false;
};

const std::string& labelOf(const Sourced& s, const std::string& setting) {
    return s.session.game()->setting(setting)->label;
}

void printValues(const Sourced& s, const game::Values& values) {
    for (const auto& setting : s.session.game()->settings)
        if (const auto it = values.find(setting.id); it != values.end())
            fmt::print("  {:<24} {}\n", setting.label, it->second);
}

/// What changes against the settings in use.
std::string changesOf(const Sourced& s, const game::Values& values) {
    std::vector<std::string> out;
    for (const auto& line : wording::changes(*s.session.game(), s.session.edits->settings.baseline, values))
        out.push_back(line.setting + " " + line.after);
    return out.empty() ? "as now" : wording::listed(Words(), out);
}

int plan(const Sourced& s, const ChoiceOptions& options) {
    if (options.json) {
        fmt::print("{}\n", exports::planJson(s.session, s.results));
        return 0;
    }
    const auto* next = s.results.get<results::NextRun>();
    if (s.results.get<results::Walking>() != nullptr) {
        const auto stride = wording::stride(Words(), s.session, s.results);
        fmt::print("{}\n", stride.empty() ? "The walk is at its end." : "Next: " + stride);
        return 0;
    }
    if (next == nullptr || !next->values) {
        fmt::print("No further test run: the choice is expected to miss {} of the picture.\n",
                   wording::percent(next == nullptr ? 0 : next->gain));
        return 0;
    }
    fmt::print("Next: {}\n", changesOf(s, *next->values));
    std::vector<std::string> asks;
    for (const auto& id : next->asks) asks.push_back(labelOf(s, id));
    if (!asks.empty()) fmt::print("Still open: {}\n", wording::listed(Words(), asks));
    fmt::print("Expected: {} to {} more test runs; the choice so far is expected to miss {} of the picture\n",
               next->least, next->most, wording::percent(next->gain));
    return 0;
}

int fit(const Sourced& s, const ChoiceOptions& options) {
    if (options.json) {
        fmt::print("{}\n", exports::fitJson(s.session, s.results));
        return 0;
    }
    const auto& costs = *s.results.get<results::Costs>();
    fmt::print("Against the settings in use, ms, 95% intervals, and runs that held them{}\n",
               costs.hidden ? "; from frame times alone" : "");
    for (const auto& lane : costs.lanes) {
        fmt::print("{} in {}: {} ms as now\n", wording::lane(Words(), lane.lane),
                   wording::part(Words(), lane.worstPart),
                   wording::plusMinus(lane.levels.estimate[0], lane.levels.halfWidth(0), 2));
        for (std::size_t i = 0; i < lane.levels.columns.size(); ++i)
            fmt::print("  {:<24} {:<12} {:<16} {}\n", labelOf(s, lane.levels.columns[i].setting),
                       lane.levels.columns[i].level,
                       wording::signedPlusMinus(lane.levels.estimate[i + 1], lane.levels.halfWidth(i + 1), 2),
                       lane.levels.runs[i + 1]);
    }
    return 0;
}

/// The accepted choice of a session, or else the best.
Result<game::Values> choiceOf(const Sourced& s, const choose::Ground& ground) {
    if (s.session.edits->settings.choice) return s.session.edits->settings.choice->values;
    auto best = choose::propose(ground, s.target);
    if (!best) return tl::unexpected(best.error());
    return std::move(best->values);
}

/// What is asked of watts and what follows from them.
void printAsked(const Sourced& s) {
    const auto& brief = s.session.edits->goal.brief;
    const auto asked = brief ? wording::fillAsked(Words(), *brief, results::fillOf(s.results)) : std::string();
    if (!asked.empty()) fmt::print("{}\n", asked);
}

int choice(const Sourced& s, const ChoiceOptions& options) {
    const auto ground = *results::groundOf(s.results);
    const auto best = choose::propose(ground, s.target);
    if (!best) return failed(best.error());
    const auto& brief = s.session.edits->goal.brief;
    const auto least = choose::leastMemoryFor(ground, s.target, brief ? brief->pictureFloor.value_or(0) : 0);
    if (!least) return failed(least.error());
    if (options.json) {
        fmt::print("{}\n", exports::chooseJson(s.session, s.target, *best, *least));
        return 0;
    }
    printValues(s, best->values);
    fmt::print("{} of the picture at {} fps. {} One run of it holds with a chance of at least {}.\n",
               wording::percent(best->picture), wording::wishFps(s.target), wording::proven(Words(), *best),
               wording::percent(best->chance));
    if (*least) fmt::print("{}\n", wording::leastMemory(Words(), **least, s.target));
    printAsked(s);
    return 0;
}

/// With what each draws, capped at the target.
exports::WithDraws withDraws(const Sourced& s, choose::Standpoint point) {
    auto draws = results::drawsOf(s.results, point.values, s.target, pace::CapRules().power);
    return {std::move(point), draws};
}

int front(const Sourced& s, const ChoiceOptions& options) {
    const auto ground = *results::groundOf(s.results);
    auto points = choose::frontOf(ground);
    if (!points) return failed(points.error());
    std::vector<exports::WithDraws> all;
    for (auto& point : *points) all.push_back(withDraws(s, std::move(point)));
    std::vector<std::pair<std::string, exports::WithDraws>> presets;
    for (const auto& preset : s.session.game()->presets)
        if (auto point = choose::standpointOf(ground, preset.values))
            presets.emplace_back(preset.name, withDraws(s, std::move(*point)));
    if (options.json) {
        fmt::print("{}\n", exports::frontJson(all, presets));
        return 0;
    }
    const auto print = [](const exports::WithDraws& set, const std::string& name) {
        const auto& draws = set.draws;
        const auto column = [](const std::string& text) { return fmt::format("  {:>14}", text); };
        const std::string power = draws ? column(wording::watts(Words(), draws->watts)) : "",
                          hours = draws && draws->hours ? column(wording::hours(Words(), *draws->hours)) : "";
        fmt::print("{:>7} fps  {:>5}{}{}  {}\n", wording::fps(set.point.holds.value()),
                   wording::percent(set.point.picture), power, hours, name);
    };
    for (const auto& set : all) print(set, changesOf(s, set.point.values));
    for (const auto& [name, set] : presets) print(set, "preset " + name);
    return 0;
}

int ways(const Sourced& s, const ChoiceOptions& options) {
    const auto all = choose::waysTo(*results::groundOf(s.results), s.target);
    if (!all) return failed(all.error());
    if (options.json) {
        fmt::print("{}\n", exports::waysJson(s.target, *all));
        return 0;
    }
    if (all->empty()) fmt::print("The rendered size cannot be varied, or no size fits.\n");
    for (const auto& way : *all)
        fmt::print("{:<14} {:>5} of the picture  {}\n", way.size.name, wording::percent(way.proposal.picture),
                   changesOf(s, way.proposal.values));
    return 0;
}

int whyNot(const Sourced& s, const ChoiceOptions& options) {
    const auto ground = *results::groundOf(s.results);
    const auto values = choiceOf(s, ground);
    if (!values) return failed(values.error());
    const auto answer = choose::whyNot(ground, *values, s.target, {options.setting, options.level});
    if (!answer) return failed(answer.error());
    if (options.json) {
        fmt::print("{}\n", exports::whyNotJson(s.target, *answer));
        return 0;
    }
    fmt::print("{}\n{}\n", wording::whyNot(Words(), s.session, *answer, s.target),
               wording::whatHasToGo(Words(), *answer));
    if (answer->with)
        for (const auto& line : wording::changes(*s.session.game(), *values, answer->with->values))
            fmt::print("  {:<24} {} -> {}\n", line.setting, line.before, line.after);
    return 0;
}

Command command(const char* name, const char* help, int (*run)(const Sourced&, const ChoiceOptions&),
                bool asks = false) {
    const auto o = std::make_shared<ChoiceOptions>();
    auto options = sourceOptions(o->source);
    if (asks) {
        options.push_back({"--setting", "Id of the setting", &o->setting, {}, {}, true});
        options.push_back({"--level", "Its level", &o->level, {}, {}, true});
    }
    options.push_back({"--json", "Machine-readable, docs/formats.md", &o->json});
    return {name, help, std::move(options), [o, run] {
                const auto sourced = read(o->source);
                return sourced ? run(*sourced, *o) : failed(sourced.error());
            }};
}

} // namespace

std::vector<Command> choiceCommands() {
    return {command("plan", "The test run that tells most next", plan),
            command("fit", "What every level costs, from the runs so far", fit),
            command("choose", "The most picture that fits the target", choice),
            command("front", "Every best set, from slow to fast", front),
            command("ways", "The best set at every rendered size", ways),
            command("why-not", "Why a level is not in the choice, and what would have to go for it", whyNot, true)};
}

} // namespace impasto::cli
