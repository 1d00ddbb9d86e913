// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/exports/choice_json.h>

#include <cmath>
#include <impasto/base/shown.h>
#include <impasto/results/walk.h>

#include "parts_json.h"

namespace impasto::exports {
namespace {

Json laneJson(const choose::LaneOutcome& lane) {
    return {{"lane", run::keyOf(lane.lane)},       {"part", lane.worstPart},
            {"predicted_ms", number(lane.meanMs)}, {"standard_error_ms", number(lane.standardErrorMs)},
            {"margin_ms", number(lane.marginMs)},  {"safe_limit_ms", number(lane.usableMs)}};
}

Json lanesJson(std::span<const choose::LaneOutcome> lanes) {
    Json out = Json::array();
    for (const auto& lane : lanes) out.push_back(laneJson(lane));
    return out;
}

Json proposalJson(const choose::Proposal& p) {
    return {{"values", p.values}, {"picture_share", number(p.picture)},  {"chance_that_a_run_holds", number(p.chance)},
            {"proven", p.proven}, {"picture_gap", number(p.pictureGap)}, {"lanes", lanesJson(p.lanes)}};
}

Json standpointJson(const choose::Standpoint& s) {
    return {{"values", s.values},
            {"picture_share", number(s.picture)},
            {"holds_fps", number(s.holds.value())},
            {"memory_fits", s.memoryFits}};
}

/// With what it draws, capped at the target.
Json standpointJson(const choose::Standpoint& s, const std::optional<pace::Draws>& draws) {
    Json j = standpointJson(s);
    j["power_w"] = draws ? bandJson(draws->watts) : Json();
    j["battery_h"] = draws && draws->hours ? bandJson(*draws->hours) : Json();
    return j;
}

Json headOf(const document::Session& session) {
    Json j;
    j["schema"] = 1;
    j["game"] = session.name();
    j["target_fps"] = session.edits->goal.brief ? number(session.edits->goal.brief->target.value()) : Json();
    return j;
}

} // namespace

Json number(double v) {
    return std::isfinite(v) ? Json(v) : Json();
}
Json number(const std::optional<double>& v) {
    return v ? number(*v) : Json();
}
Json bandJson(const pace::Band& band) {
    return {{"low", number(band.low)}, {"middle", number(band.middle)}, {"high", number(band.high)}};
}

std::string written(const Json& document) {
    return document.dump(2, ' ', false, Json::error_handler_t::replace);
}

Json costsJson(const results::Costs& costs) {
    Json out = Json::array();
    for (const auto& lane : costs.lanes)
        for (std::size_t i = 0; i < lane.levels.columns.size(); ++i)
            out.push_back({{"lane", run::keyOf(lane.lane)},
                           {"part", lane.worstPart},
                           {"setting", lane.levels.columns[i].setting},
                           {"level", lane.levels.columns[i].level},
                           {"difference_ms", number(lane.levels.estimate[i + 1])},
                           {"half_width_95_ms", number(lane.levels.halfWidth(i + 1))},
                           {"runs", lane.levels.runs[i + 1]}});
    return out;
}

Json measuringJson(const document::Session& session, const results::Costs& costs, const results::Results& results) {
    const auto* next = results.get<results::NextRun>();
    const bool known = costs.ground.chooser != nullptr;
    Json j;
    j["test_runs"] = results::countOf<results::CostRuns, results::ReadCosts>(results);
    j["frame_times_only"] = costs.hidden;
    j["usual_costs_doubted"] = known ? number(costs.ground.belief().flat()) : Json();
    if (const auto& earlier = session.edits->settings.earlier)
        j["earlier_runs"] = {{"session", shown(earlier->from)},
                             {"runs", earlier->runs.size()},
                             {"fit", costs.earlier != results::Earlier::FitsNoMore}};
    j["expected_to_miss_share"] = next == nullptr ? Json() : number(next->gain);
    j["next"] = next == nullptr || !next->values ? Json() : Json(*next->values);
    if (const auto* walking = results.get<results::Walking>()) j["walk"] = choose::keyOf(walking->walk);
    return j;
}

std::string planJson(const document::Session& session, const results::Results& results) {
    Json j = headOf(session);
    const auto* costs = results.get<results::Costs>();
    const auto* next = results.get<results::NextRun>();
    j["measuring"] = costs == nullptr ? Json() : measuringJson(session, *costs, results);
    j["asks"] = next == nullptr ? Json::array() : Json(next->asks);
    const bool told = next != nullptr && next->values && next->most > 0; // not of a walk
    j["more_runs_expected"] = told ? Json{{"least", next->least}, {"most", next->most}} : Json();
    j["chance_that_a_run_holds"] = next == nullptr ? Json() : number(next->chance);
    return written(j);
}

std::string fitJson(const document::Session& session, const results::Results& results) {
    Json j = headOf(session);
    const auto* costs = results.get<results::Costs>();
    j["baseline"] = session.edits->settings.baseline;
    j["costs"] = costs == nullptr ? Json::array() : costsJson(*costs);
    j["measuring"] = costs == nullptr ? Json() : measuringJson(session, *costs, results);
    return written(j);
}

std::string chooseJson(const document::Session& session, Fps target, const choose::Proposal& proposal,
                       const std::optional<choose::LeastMemory>& least) {
    Json j = headOf(session);
    j["target_fps"] = number(target.value());
    j["choice"] = proposalJson(proposal);
    j["least_gpu_memory"] = least ? Json{{"mib", number(least->size.value())},
                                         {"picture_share", number(least->proposal.picture)},
                                         {"values", least->proposal.values}}
                                  : Json();
    return written(j);
}

std::string frontJson(std::span<const WithDraws> front, std::span<const std::pair<std::string, WithDraws>> presets) {
    Json j{{"schema", 1}, {"front", Json::array()}, {"presets", Json::array()}};
    for (const auto& [point, draws] : front) j["front"].push_back(standpointJson(point, draws));
    for (const auto& [name, set] : presets) {
        Json each{{"name", shown(name)}};
        each.update(standpointJson(set.point, set.draws));
        j["presets"].push_back(std::move(each));
    }
    return written(j);
}

std::string waysJson(Fps target, std::span<const choose::Way> ways) {
    Json j{{"schema", 1}, {"target_fps", number(target.value())}, {"ways", Json::array()}};
    for (const auto& way : ways) {
        Json each{{"level", shown(way.size.name)}, {"scale", number(way.size.scale)}};
        each["upscaler"] = way.size.upscaler ? Json(game::keyOf(*way.size.upscaler)) : Json();
        each.update(proposalJson(way.proposal));
        j["ways"].push_back(std::move(each));
    }
    return written(j);
}

std::string whyNotJson(Fps target, const choose::WhyNot& a) {
    Json j{
        {"schema", 1}, {"target_fps", number(target.value())}, {"setting", a.setting}, {"from", a.from}, {"to", a.to}};
    j["barred"] = a.barred == choose::Barred::Locked        ? Json("locked")
                  : a.barred == choose::Barred::CannotBeSet ? Json("cannot-be-set")
                  : a.barred == choose::Barred::ByRules     ? Json("by-rules")
                                                            : Json();
    j["rules_broken"] = Json::array();
    for (const auto& rule : a.broken)
        j["rules_broken"].push_back({{"setting", rule.setting}, {"other", rule.other}, {"needed", rule.needed}});
    j["choice"] = standpointJson(a.chosen);
    j["swapped"] = standpointJson(a.swapped);
    j["lanes_before"] = lanesJson(a.before);
    j["lanes_after"] = lanesJson(a.after);
    j["over"] = Json::array();
    for (const auto& over : a.over) {
        Json each = laneJson(over.lane);
        each["over_ms"] = number(over.overMs);
        j["over"].push_back(std::move(each));
    }
    j["best_with_it"] = a.with ? proposalJson(*a.with) : Json();
    return written(j);
}

std::string mattersJson(const std::vector<choose::Care>& cares,
                        const std::optional<std::pair<std::string, std::string>>& next) {
    Json j{{"schema", 1}, {"weights", Json::array()}, {"next", Json()}};
    for (const auto& care : cares)
        j["weights"].push_back({{"setting", care.setting},
                                {"weight", number(care.weight)},
                                {"low", number(care.low)},
                                {"high", number(care.high)}});
    if (next) j["next"] = {next->first, next->second};
    return written(j);
}

std::string applyJson(const config::Plan& plan, std::span<const config::Written> done) {
    Json j{{"schema", 1}, {"files", Json::array()}, {"by_hand", Json::array()}};
    for (const auto& file : plan.files) {
        Json each{{"file", shown(file.file.string())}, {"changes", Json::array()}, {"copy", Json()}};
        for (const auto& change : file.changes)
            each["changes"].push_back({{"line", change.line},
                                       {"key", shown(change.key)},
                                       {"from", shown(change.from)},
                                       {"to", shown(change.to)}});
        for (const auto& w : done)
            if (w.file == file.file) each["copy"] = shown(w.copy.string());
        j["files"].push_back(std::move(each));
    }
    for (const auto& hand : plan.byHand)
        j["by_hand"].push_back({{"format", game::keyOf(hand.format)}, {"text", shown(hand.text)}});
    j["in_the_menu"] = plan.unplaced;
    j["alike"] = plan.alike;
    return written(j);
}

} // namespace impasto::exports
