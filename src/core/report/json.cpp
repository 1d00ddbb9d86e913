// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/report/json.h>

#include <cmath>
#include <nlohmann/json.hpp>

namespace impasto::report {
namespace {

using Json = nlohmann::ordered_json;

Json number(double v) {
    return std::isfinite(v) ? Json(v) : Json();
}
Json number(const std::optional<double>& v) {
    return v ? number(*v) : Json();
}
Json rate(const std::optional<Fps>& v) {
    return v ? number(v->value()) : Json();
}

Json lowJson(const std::optional<stats::Low>& low) {
    if (!low) return Json();
    return {{"rate_fps", number(low->rate.value())}, {"stands_on_frames", number(low->standsOn)}};
}

Json summaryJson(const stats::Summary& s) {
    Json j;
    j["frames"] = s.frames;
    j["duration_ms"] = number(s.durationMs);
    j["average_fps"] = number(s.average.value());
    j["median_ms"] = number(s.medianMs);
    j["p95_ms"] = number(s.p95Ms);
    j["p99_ms"] = number(s.p99Ms);
    j["p999_ms"] = number(s.p999Ms);
    j["worst_ms"] = number(s.worstMs);
    j["within_budget_share"] = number(s.withinBudget);
    for (const auto school : {run::LowSchool::Percentile, run::LowSchool::WorstMean, run::LowSchool::TimeShare})
        j["lows"][std::string(run::keyOf(school))] = {{"one_percent", lowJson(s.of(school).onePercent)},
                                                      {"tenth_percent", lowJson(s.of(school).tenthPercent)}};
    j["pacing"] = {{"mean_step_ms", number(s.stepMs)}, {"spread_ms", number(s.spreadMs)}};
    j["worst_dip"] = s.worstDip ? Json{{"lowest_fps", number(s.worstDip->lowest.value())},
                                       {"at_ms", number(s.worstDip->atMs)},
                                       {"length_ms", number(s.worstDip->lengthMs)}}
                                : Json();
    j["hitches_per_minute"] = number(s.hitchesPerMinute());
    j["lost_in_hitches_ms"] = number(s.lostMs);
    j["hitches"] = Json::array();
    for (const auto& h : s.hitches)
        j["hitches"].push_back(
            {{"at_ms", number(h.atMs)}, {"frame_ms", number(h.frameMs)}, {"neighbours_ms", number(h.medianMs)}});
    return j;
}

Json doubtJson(const stats::RunDoubt& doubt) {
    const auto of = [](const stats::Doubt& d) { return Json{{"low", number(d.low)}, {"high", number(d.high)}}; };
    Json j;
    j["average_fps"] = of(doubt.average);
    j["median_ms"] = of(doubt.median);
    j["p95_ms"] = of(doubt.p95);
    j["p99_ms"] = of(doubt.p99);
    j["p999_ms"] = of(doubt.p999);
    for (const auto school : {run::LowSchool::Percentile, run::LowSchool::WorstMean, run::LowSchool::TimeShare}) {
        const auto i = static_cast<std::size_t>(school);
        j[std::string(run::keyOf(school))] = {{"one_percent_fps", of(doubt.onePercentLow[i])},
                                              {"tenth_percent_fps", of(doubt.tenthPercentLow[i])}};
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

Json limitsJson(const std::vector<limits::PartVerdict>& verdicts) {
    Json out = Json::array();
    for (const auto& v : verdicts)
        out.push_back({{"part", v.part},
                       {"brake", brakeKey(v.brake)},
                       {"certainty", v.certainty == limits::Certainty::Sure     ? "sure"
                                     : v.certainty == limits::Certainty::Likely ? "likely"
                                                                                : "open"},
                       {"period_ms", number(v.periodMs)},
                       {"cpu_ms", v.cpu ? number(v.cpu->meanMs) : Json()},
                       {"gpu_ms", v.gpu ? number(v.gpu->meanMs) : Json()}});
    return out;
}

Json costsJson(const session::Costs& costs) {
    Json out = Json::array();
    for (const auto& lane : costs.lanes)
        for (std::size_t i = 0; i < lane.fit.columns.size(); ++i)
            out.push_back({{"lane", run::keyOf(lane.lane)},
                           {"setting", lane.fit.columns[i].setting},
                           {"level", lane.fit.columns[i].level},
                           {"difference_ms", number(lane.fit.estimate[i + 1])},
                           {"half_width_95_ms", number(lane.fit.halfWidth(i + 1))}});
    return out;
}

Json choiceJson(const session::Session& session, const session::Results& r) {
    if (!session.edits->choice) return Json();
    Json j;
    j["values"] = session.edits->choice->values;
    j["picture_share"] =
        session.game() == nullptr ? Json() : number(game::pictureValue(*session.game(), session.edits->choice->values));
    j["proven"] = r.proposal ? Json(r.proposal->proven) : Json();
    return j;
}

std::string_view stateKey(session::WishState s) {
    switch (s) {
    case session::WishState::Met:
        return "met";
    case session::WishState::NotMet:
        return "not-met";
    case session::WishState::NotEnoughRuns:
        return "not-enough-runs";
    }
    return {};
}

std::string_view wishKey(session::Wish w) {
    switch (w) {
    case session::Wish::Target:
        return "target_fps";
    case session::Wish::LowestLow:
        return "lowest_low_fps";
    case session::Wish::Picture:
        return "picture_share";
    }
    return {};
}

Json proofJson(const session::Proof& proof) {
    Json j;
    j["average_fps"] = {{"before", intervalJson(proof.averageBefore)},
                        {"after", intervalJson(proof.averageAfter)},
                        {"difference", intervalJson(proof.averageDifference)}};
    j["wishes"] = Json::array();
    for (const auto& w : proof.wishes)
        j["wishes"].push_back({{"wish", wishKey(w.wish)},
                               {"wanted", number(w.wanted)},
                               {"state", stateKey(w.state)},
                               {"before", intervalJson(w.before)},
                               {"after", intervalJson(w.after)},
                               {"difference", intervalJson(w.difference)}});
    return j;
}

std::string written(const Json& j) {
    return j.dump(2, ' ', false, Json::error_handler_t::replace);
}

} // namespace

std::string summariesJson(std::span<const SummarizedLog> logs, std::optional<Fps> target) {
    Json j;
    j["schema"] = 1;
    j["target_fps"] = rate(target);
    j["logs"] = Json::array();
    for (const auto& log : logs) {
        Json each = summaryJson(log.summary);
        each["name"] = log.name;
        each["dialect"] = log.dialect;
        each["packing"] = log.packing;
        each["own_doubt_95"] = log.doubt ? doubtJson(*log.doubt) : Json();
        each["checked"] = Json::array();
        for (const auto& e : log.examined)
            each["checked"].push_back(
                {{"finding", stats::keyOf(e.finding)}, {"found", e.found}, {"figure", number(e.figure)}});
        each["proposed_trims_ms"] = Json::array();
        for (const auto& span : log.proposedTrims)
            each["proposed_trims_ms"].push_back({number(span.fromMs), number(span.toMs)});
        j["logs"].push_back(std::move(each));
    }
    return written(j);
}

std::string comparisonJson(std::span<const stats::FigureComparison> figures, run::LowSchool school) {
    const auto familyJson = [](const stats::Family& f) {
        Json j = intervalJson(f.mean);
        j["spread_sd"] = number(f.spreadSd);
        j["between_sd"] = number(f.betweenSd);
        j["within_sd"] = number(f.withinSd);
        return j;
    };
    const auto word = [](stats::Verdict verdict) {
        return verdict == stats::Verdict::Differs              ? "differs"
               : verdict == stats::Verdict::NoLargerDifference ? "no-larger-difference"
                                                               : "not-enough-runs";
    };
    Json j;
    j["schema"] = 1;
    j["school"] = run::keyOf(school);
    j["figures"] = Json::array();
    for (const auto& f : figures)
        j["figures"].push_back(
            {{"figure", stats::keyOf(f.figure)},
             {"before", familyJson(f.before)},
             {"after", familyJson(f.after)},
             {"difference", intervalJson(f.comparison.difference)},
             {"verdict", word(f.comparison.verdict)},
             {"largest_difference_90", f.comparison.difference.halfWidth ? number(f.comparison.largest) : Json()},
             {"equivalence_p", number(f.equivalenceP)},
             {"rank_p", number(f.rankP)}});
    return written(j);
}

std::string tuneJson(const session::Session& session, const session::Results& r) {
    Json j;
    j["schema"] = 1;
    j["game"] = session.name();
    j["machine"] = session.machine() == nullptr ? Json() : Json(session.machine()->name);
    j["target_fps"] = session.edits->brief ? number(session.edits->brief->target.value()) : Json();
    j["runs"] = session.facts->runs.size();
    j["limits"] = limitsJson(r.limits);
    j["costs"] = r.costs ? costsJson(*r.costs) : Json();
    j["choice"] = choiceJson(session, r);
    j["cap"] = session.edits->cap ? Json{{"school", choose::keyOf(session.edits->cap->school)},
                                         {"cap_fps", rate(session.edits->cap->cap)}}
                                  : Json();
    j["proof"] = r.proof ? proofJson(*r.proof) : Json();
    return written(j);
}

} // namespace impasto::report
