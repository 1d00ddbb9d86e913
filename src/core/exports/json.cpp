// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/exports/json.h>

#include <algorithm>
#include <cmath>
#include <impasto/base/shown.h>
#include <impasto/wording/limits.h>
#include <impasto/wording/logs.h>
#include <nlohmann/json.hpp>

#include "parts_json.h"

namespace impasto::exports {
namespace {

Json rate(const std::optional<Fps>& v) {
    return v ? number(v->value()) : Json();
}

Json lowJson(const std::optional<stats::Low>& low) {
    if (!low) return Json();
    return {{"rate_fps", number(low->rate.value())}, {"stands_on_frames", number(low->frames)}};
}

/// "pacing.spread_ms" as a path.
Json::json_pointer pathOf(std::string_view key) {
    std::string text = "/" + std::string(key);
    std::replace(text.begin(), text.end(), '.', '/');
    return Json::json_pointer(text);
}

Json summaryJson(const frames::Summary& s) {
    Json j;
    j["frames"] = s.frames;
    j["duration_ms"] = number(s.durationMs);
    for (const auto& figure : frames::figures())
        if (!figure.byRule) j[pathOf(figure.key)] = number(figure.of(s, stats::LowRule::WorstMean));
    for (const auto rule : stats::allLowRules)
        j["lows"][std::string(stats::keyOf(rule))] = {{"one_percent", lowJson(s.of(rule).onePercent)},
                                                      {"tenth_percent", lowJson(s.of(rule).tenthPercent)}};
    j["worst_dip"] = s.worstDip ? Json{{"lowest_fps", number(s.worstDip->lowest.value())},
                                       {"at_ms", number(s.worstDip->atMs)},
                                       {"length_ms", number(s.worstDip->lengthMs)}}
                                : Json();
    j["hitches"] = Json::array();
    for (const auto& h : s.hitches)
        j["hitches"].push_back(
            {{"at_ms", number(h.atMs)}, {"frame_ms", number(h.frameMs)}, {"neighbours_ms", number(h.medianMs)}});
    j["stalls"] = Json::array();
    for (const auto& stall : s.stalls)
        j["stalls"].push_back({{"from_ms", number(stall.fromMs)},
                               {"to_ms", number(stall.toMs)},
                               {"frames", stall.frames},
                               {"lost_ms", number(stall.lostMs)}});
    return j;
}

Json doubtJson(const frames::RunDoubt& doubt) {
    const auto of = [](const stats::Doubt& d) { return Json{{"low", number(d.low)}, {"high", number(d.high)}}; };
    Json j;
    for (const auto& figure : frames::figures()) {
        if (figure.doubt == nullptr) continue;
        if (!figure.byRule) {
            j[pathOf(figure.key)] = of(*figure.doubt(doubt, stats::LowRule::WorstMean));
            continue;
        }
        std::string key(figure.key); // by rule it is "one_percent_fps"
        key.erase(key.find("_low"), 4);
        for (const auto rule : stats::allLowRules)
            j[std::string(stats::keyOf(rule))][key] = of(*figure.doubt(doubt, rule));
    }
    return j;
}

Json intervalJson(const stats::Interval& i) {
    return {{"estimate", number(i.estimate)}, {"half_width_95", number(i.halfWidth)}, {"runs", i.count}};
}

std::string_view brakeKey(limits::Brake brake) {
    switch (brake) {
    case limits::Brake::Gpu:
        return "gpu";
    case limits::Brake::Cpu:
        return "cpu";
    case limits::Brake::Cap:
        return "cap";
    case limits::Brake::Refresh:
        return "refresh";
    case limits::Brake::CannotTell:
        return "cannot-tell";
    }
    return {};
}

Json factsJson(std::span<const limits::Fact> facts) {
    Json out = Json::array();
    for (const auto& f : facts)
        out.push_back({{"sign", keyOf(f.sign)}, {"value", number(f.value)}, {"other", number(f.other)}});
    return out;
}

Json limitsJson(const std::vector<limits::PartVerdict>& verdicts) {
    Json out = Json::array();
    for (const auto& v : verdicts) {
        Json causes = Json::array();
        for (const auto& s : v.suspicions)
            causes.push_back({{"cause", keyOf(s.cause)},
                              {"sure", number(s.sure)},
                              {"evidence", factsJson(s.evidence)},
                              {"against", factsJson(s.against)},
                              {"test", keyOf(limits::testOf(s.cause))}});
        Json tested = Json::array();
        for (const auto& t : v.tested)
            tested.push_back({{"test", keyOf(t.test)},
                              {"before_ms", number(t.beforeMs)},
                              {"after_ms", number(t.afterMs)},
                              {"rise_percent", number(100 * t.rise)},
                              {"half_width_percent", number(100 * t.half)},
                              {"answer", keyOf(t.answer)}});
        out.push_back({{"part", v.part},
                       {"brake", brakeKey(v.brake)},
                       {"certainty", v.certainty() == limits::Certainty::Sure     ? "sure"
                                     : v.certainty() == limits::Certainty::Likely ? "likely"
                                                                                  : "open"},
                       {"sure", number(v.sure)},
                       {"limit", v.cause() != nullptr ? keyOf(v.cause()->cause) : brakeKey(v.brake)},
                       {"causes", std::move(causes)},
                       {"beside_gpu", {{"cpu_share", number(v.beside.cpuShare)}, {"ms", number(v.beside.ms)}}},
                       {"evidence", factsJson(v.facts)},
                       {"tested", std::move(tested)},
                       {"test", keyOf(v.test())},
                       {"rate_fps", number(v.rate.value())},
                       {"seconds", number(v.seconds)},
                       {"start_s", number(v.fromMs / 1000)},
                       {"end_s", number(v.toMs / 1000)},
                       {"period_ms", number(v.periodMs)},
                       {"cpu_ms", v.cpu ? number(v.cpu->meanMs) : Json()},
                       {"gpu_ms", v.gpu ? number(v.gpu->meanMs) : Json()},
                       {"safe_share_cpu", v.cpu ? number(v.cpu->safeShare) : Json()},
                       {"safe_share_gpu", v.gpu ? number(v.gpu->safeShare) : Json()},
                       {"safe_share_frame", number(v.frame.safeShare)}});
    }
    return out;
}

Json choiceJson(const document::Session& session, const results::Results& r) {
    if (!session.edits->settings.choice) return Json();
    const auto* proposal = results::proposalOf(r);
    Json j;
    j["values"] = session.edits->settings.choice->values;
    j["picture_share"] = session.game() == nullptr
                             ? Json()
                             : number(game::pictureValue(*session.game(), session.edits->settings.choice->values));
    j["proven"] = proposal == nullptr ? Json() : Json(proposal->proven);
    const bool same = proposal != nullptr && proposal->values == session.edits->settings.choice->values;
    j["chance_that_a_run_holds"] = same ? number(proposal->chance) : Json();
    return j;
}

std::string_view stateKey(proof::WishState s) {
    switch (s) {
    case proof::WishState::Met:
        return "met";
    case proof::WishState::NotMet:
        return "not-met";
    case proof::WishState::NotEnoughRuns:
        return "not-enough-runs";
    }
    return {};
}

std::string_view wishKey(const proof::WishOutcome& w) {
    switch (w.wish) {
    case proof::Wish::Target:
        return "target_fps";
    case proof::Wish::LowestLow:
        return "lowest_low_fps";
    case proof::Wish::Picture:
        return "picture_share";
    case proof::Wish::Shown:
        return "shown_fps";
    case proof::Wish::Bound:
        return run::keyOf(*w.bound);
    }
    return {};
}

Json proofJson(const proof::Proof& proof) {
    Json j;
    j["average_fps"] = {{"before", intervalJson(proof.averageBefore)},
                        {"after", intervalJson(proof.averageAfter)},
                        {"difference", intervalJson(proof.averageDifference)}};
    j["read_off"] = proof.readOff;
    j["wishes"] = Json::array();
    for (const auto& w : proof.wishes)
        j["wishes"].push_back({{"wish", wishKey(w)},
                               {"wanted", number(w.wanted)},
                               {"state", stateKey(w.state)},
                               {"told", !w.untold},
                               {"before", intervalJson(w.before)},
                               {"after", intervalJson(w.after)},
                               {"difference", intervalJson(w.difference)}});
    j["parts"] = Json::array();
    for (const auto& part : proof.parts) {
        Json each{{"part", part.part}, {"state", stateKey(part.state)}};
        for (const auto& [key, figure] : {std::pair("average_fps", frames::HeldFigure::Average),
                                          {"on_time_share", frames::HeldFigure::OnTime},
                                          {"slowest_second_fps", frames::HeldFigure::SlowestSecond}}) {
            const auto& o = part.of(figure);
            each[key] = {{"least", number(o.least)},
                         {"before", intervalJson(o.before)},
                         {"after", intervalJson(o.after)},
                         {"state", stateKey(o.state)}};
        }
        j["parts"].push_back(std::move(each));
    }
    return j;
}

std::string_view verdictKey(stats::Verdict verdict) {
    switch (verdict) {
    case stats::Verdict::Differs:
        return "differs";
    case stats::Verdict::NoLargerDifference:
        return "no-larger-difference";
    case stats::Verdict::NotEnoughRuns:
        return "not-enough-runs";
    }
    return {};
}

Json scaled(const stats::Interval& difference, double factor) {
    return {{"estimate", number(factor * difference.estimate)},
            {"half_width_95", difference.halfWidth ? number(std::abs(factor) * *difference.halfWidth) : Json()}};
}

/// Of the mean before; null where that is 0.
Json inPercent(const stats::Comparison& c) {
    return c.before.estimate != 0 ? scaled(c.difference, 100 / c.before.estimate) : Json();
}

/// Of rates: 1000 / after - 1000 / before = -1000 (after - before) / (before after).
Json inMs(const stats::Comparison& c) {
    const double both = c.before.estimate * c.after.estimate;
    return both > 0 ? scaled(c.difference, -1000 / both) : Json();
}

} // namespace

std::string summariesJson(std::span<const SummarizedLog> logs, std::optional<Fps> target) {
    Json j;
    j["schema"] = 1;
    j["target_fps"] = rate(target);
    j["logs"] = Json::array();
    for (const auto& log : logs) {
        Json each = summaryJson(log.summary);
        each["name"] = shown(log.name);
        each["dialect"] = shown(log.dialect);
        each["packing"] = log.packing;
        each["notes"] = Json::array();
        for (const auto& note : log.notes) {
            Json told{{"code", logs::keyOf(note.kind)},
                      {"count", note.count},
                      {"first_line", note.firstLine > 0 ? Json(note.firstLine) : Json()},
                      {"words", wording::importNote(wording::Words(), note)}};
            for (const auto& [name, rows] : note.names) told["names"][shown(name)] = rows;
            each["notes"].push_back(std::move(told));
        }
        each["own_doubt_95"] = log.doubt ? doubtJson(*log.doubt) : Json();
        each["checked"] = Json::array();
        for (const auto& e : log.examined)
            each["checked"].push_back({{"finding", frames::keyOf(e.finding)},
                                       {"found", e.found},
                                       {"figure", number(e.figure)},
                                       {"sure", e.sure}});
        each["proposed_trims_ms"] = Json::array();
        for (const auto& span : log.proposedTrims)
            each["proposed_trims_ms"].push_back({number(span.fromMs), number(span.toMs)});
        each["measured"] = Json::object();
        for (const auto& [key, m] : log.measured)
            each["measured"][key] = {{"mean", number(m.mean)}, {"least", number(m.least)}, {"most", number(m.most)}};
        each["hitch_origin"] = {{"pattern", frames::keyOf(log.origin.pattern)},
                                {"period_ms", log.origin.periodMs > 0 ? number(log.origin.periodMs) : Json()},
                                {"strength", number(log.origin.strength)}};
        j["logs"].push_back(std::move(each));
    }
    return written(j);
}

std::string comparisonJson(std::span<const frames::FigureComparison> figures,
                           std::span<const frames::MeasuredComparison> measured, stats::LowRule school) {
    const auto familyJson = [](const stats::Family& f) {
        Json j = intervalJson(f.mean);
        j["spread_sd"] = number(f.spreadSd);
        j["between_sd"] = number(f.betweenSd);
        j["within_sd"] = number(f.withinSd);
        return j;
    };
    Json j;
    j["schema"] = 1;
    j["school"] = stats::keyOf(school);
    j["figures"] = Json::array();
    for (const auto& f : figures) {
        Json each{{"figure", f.figure->key},
                  {"before", familyJson(f.before)},
                  {"after", familyJson(f.after)},
                  {"difference", intervalJson(f.comparison.difference)},
                  {"difference_percent", inPercent(f.comparison)}};
        if (f.figure->unit == frames::Unit::Fps) each["difference_ms"] = inMs(f.comparison);
        each["verdict"] = verdictKey(f.comparison.verdict);
        each["largest_difference_90"] = f.comparison.difference.halfWidth ? number(f.comparison.largest) : Json();
        each["equivalence_p"] = number(f.equivalenceP);
        each["rank_p"] = number(f.rankP);
        j["figures"].push_back(std::move(each));
    }
    j["measured"] = Json::array();
    for (const auto& m : measured)
        j["measured"].push_back({{"key", m.key},
                                 {"before", intervalJson(m.comparison.before)},
                                 {"after", intervalJson(m.comparison.after)},
                                 {"difference", intervalJson(m.comparison.difference)},
                                 {"difference_percent", inPercent(m.comparison)},
                                 {"verdict", verdictKey(m.comparison.verdict)}});
    return written(j);
}

std::string limitsOfLogsJson(std::span<const LimitedLog> logs,
                             const std::optional<std::vector<limits::PairFinding>>& found) {
    const wording::Words w;
    Json out{{"schema", 1}, {"logs", Json::array()}};
    for (const auto& log : logs) {
        Json parts = limitsJson(log.parts);
        for (std::size_t i = 0; i < log.parts.size(); ++i) {
            parts[i]["what_if"] = Json::array();
            for (const auto& each : log.whatIfs.at(i))
                parts[i]["what_if"].push_back({{"change", limits::keyOf(each.change)},
                                               {"by_percent", number(100 * each.by)},
                                               {"fps", number(each.rate.value())},
                                               {"low", number(each.low.value())},
                                               {"high", number(each.high.value())},
                                               {"limit", brakeKey(each.then)}});
        }
        out["logs"].push_back({{"file", shown(log.name)}, {"parts", std::move(parts)}});
    }
    if (!found) return written(out);
    out["findings"] = Json::array();
    for (const auto& f : *found)
        out["findings"].push_back({{"finding", limits::keyOf(f.sign)},
                                   {"part", shown(f.part)},
                                   {"before", number(f.before)},
                                   {"after", number(f.after)},
                                   {"sure", number(f.sure)},
                                   {"words", shown(wording::pairFinding(w, f))}});
    return written(out);
}

std::string tuneJson(const document::Session& session, const results::Results& r) {
    Json j;
    j["schema"] = 1;
    j["game"] = session.name();
    j["machine"] = session.machine() == nullptr ? Json() : Json(session.machine()->name);
    j["target_fps"] = session.edits->goal.brief ? number(session.edits->goal.brief->target.value()) : Json();
    j["runs"] = session.facts->runs.size();
    const auto* costs = r.get<results::Costs>();
    const auto* proof = r.get<proof::Proof>();
    j["limits"] = limitsJson(results::verdictsOf(r));
    j["costs"] = costs == nullptr ? Json() : costsJson(*costs);
    j["measuring"] = costs == nullptr ? Json() : measuringJson(session, *costs, r);
    j["choice"] = choiceJson(session, r);
    j["cap"] = nullptr;
    if (const auto& cap = session.edits->pacing.cap) {
        j["cap"] = {{"school", pace::keyOf(cap->school)}};
        j["cap"].update(capPlanJson(cap->plan));
    }
    j["proof"] = proof == nullptr ? Json() : proofJson(*proof);
    j["reachable_fps"] = rate(results::reachableOf(r));
    const auto& kept = session.edits->record.kept;
    j["held"] = kept ? Json(kept->held()) : Json();
    return written(j);
}

} // namespace impasto::exports
