// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/exports/pace_json.h>

#include "parts_json.h"

namespace impasto::exports {
namespace {

std::string_view figureKey(pace::Figure figure) {
    constexpr std::array<std::string_view, pace::figureCount> keys{"average_fps",         "slowest_part_fps",
                                                                   "one_percent_low_fps", "tenth_percent_low_fps",
                                                                   "slowest_second_fps",  "on_time_share"};
    return keys[static_cast<std::size_t>(figure)];
}

std::string_view powerKey(pace::PowerOf of) {
    constexpr std::array<std::string_view, 3> keys{"machine", "cpu-and-gpu", "gpu"};
    return keys[static_cast<std::size_t>(of)];
}

std::string_view conflictKey(pace::CapConflict conflict) {
    switch (conflict) {
    case pace::CapConflict::AbovePanel:
        return "above-panel";
    case pace::CapConflict::InsideMargin:
        return "inside-margin";
    case pace::CapConflict::NoCap:
        return "no-cap";
    case pace::CapConflict::Uneven:
        return "uneven";
    case pace::CapConflict::Headset:
        return "headset";
    }
    return {};
}

} // namespace

Json capPlanJson(const pace::CapPlan& plan) {
    Json j{{"cap_fps", plan.cap ? number(plan.cap->value()) : Json()},
           {"sync", run::keyOf(plan.sync)},
           {"refresh_hz", plan.refresh ? number(plan.refresh->value()) : Json()}};
    if (plan.limiter) j["limiter"] = run::keyOf(*plan.limiter);
    if (const auto& g = plan.generation)
        j["generation"] = {{"kind", run::keyOf(g->kind)},
                           {"multiplier", g->target ? Json() : Json(g->multiplier)},
                           {"adaptive_to_fps", g->target ? number(g->target->value()) : Json()},
                           {"on_second_gpu", g->onSecondGpu}};
    return j;
}

std::string_view keyOf(pace::FoveationAdvice advice) {
    switch (advice) {
    case pace::FoveationAdvice::NotNeeded:
        return "not-needed";
    case pace::FoveationAdvice::Use:
        return "use";
    case pace::FoveationAdvice::CpuLacks:
        return "cpu-lacks-room";
    case pace::FoveationAdvice::NotEnough:
        return "not-enough";
    case pace::FoveationAdvice::CpuNotTold:
        return "cpu-not-told";
    }
    return {};
}

std::string_view missKey(pace::GenerationMiss miss) {
    switch (miss) {
    case pace::GenerationMiss::Base:
        return "base";
    case pace::GenerationMiss::Shown:
        return "shown";
    case pace::GenerationMiss::Latency:
        return "latency";
    }
    return {};
}

std::string capsJson(const pace::Replay& replay, const pace::CapOffers& offers, const std::optional<pace::Power>& power,
                     const pace::PowerRules& rules) {
    Json j{{"schema", 1},
           {"target_fps", number(replay.brief.target.value())},
           {"cpu_and_gpu_work", replay.lanes},
           {"frames_in_flight", replay.lanes ? Json(replay.framesInFlight) : Json()},
           {"overlap_share", replay.lanes ? Json(replay.overlap) : Json()},
           {"copy_ms", replay.lanes ? number(replay.copyMs) : Json()},
           {"deferred_share", number(replay.deferred)},
           {"power_of", power ? Json(powerKey(power->uncapped().of)) : Json()},
           {"caps", Json::array()}};
    for (const auto& offer : offers.all) {
        Json each{{"school", pace::keyOf(offer.school)}, {"applies", offer.applies}};
        if (offer.applies) {
            each["plan"] = capPlanJson(offer.plan);
            each["against_the_panel"] = offer.conflict ? Json(conflictKey(*offer.conflict)) : Json();
            each["holds"] = offer.held;
            each["worth"] = number(offer.worth);
            for (const auto bound : run::allBounds)
                if (const auto& asked = replay.brief.bounds[bound])
                    each["asked"][std::string(run::keyOf(bound))] = {{"asked", number(*asked)},
                                                                     {"expected", number(offer.bounds[bound])}};
            each["latency_ms"] = number(offer.prediction.latencyMs);
            for (const auto figure : pace::allFigures)
                each["predicted"][std::string(figureKey(figure))] = bandJson(offer.prediction.of(figure));
            if (power) {
                const auto draws = pace::drawsAt(*power, offer.prediction.average(), rules);
                each["predicted"]["power_w"] = bandJson(draws.watts);
                for (const auto& [key, band] : {std::pair("gpu_temperature_c", draws.celsius),
                                                {"fan_share", draws.fan},
                                                {"battery_h", draws.hours}})
                    if (band) each["predicted"][key] = bandJson(*band);
            }
        }
        for (const auto& held : offer.places)
            each["applied_in"][std::string(run::keyOf(held.place))] = {{"latency_ms", number(held.latencyMs)},
                                                                       {"frame_to_frame_ms", number(held.swingMs)}};
        j["caps"].push_back(std::move(each));
    }
    return j.dump(2);
}

std::string generationJson(const pace::Replay& replay, const pace::GenerationPlan& plan) {
    Json j{{"schema", 1},
           {"target_fps", number(replay.brief.target.value())},
           {"shown_fps", replay.brief.shown ? number(replay.brief.shown->value()) : Json()},
           {"costs_measured", plan.costs.measured},
           {"latency_without_ms", number(plan.latencyWithout)},
           {"best", plan.best ? Json(*plan.best) : Json()},
           {"plans", Json::array()}};
    for (const auto& offer : plan.offers)
        j["plans"].push_back({{"plan", capPlanJson(offer.plan)},
                              {"base_fps", bandJson(offer.base)},
                              {"shown_fps", bandJson(offer.shown)},
                              {"slowest_part_fps", number(offer.slowestPart)},
                              {"latency_ms", number(offer.latencyMs)},
                              {"inventing_gpu_busy_share", number(offer.busy)},
                              {"keeps_up", offer.keepsUp},
                              {"misses", offer.misses ? Json(missKey(*offer.misses)) : Json()}});
    return j.dump(2);
}

std::string headsetJson(std::span<const pace::WornRate> rates, const std::optional<pace::Foveation>& foveation,
                        Hertz mode) {
    Json j{{"schema", 1}, {"refresh_hz", number(mode.value())}, {"rates", Json::array()}, {"foveation", nullptr}};
    for (const auto& rate : rates)
        j["rates"].push_back({{"refresh_hz", number(rate.mode.value())},
                              {"on_time_share", number(rate.onTime)},
                              {"cpu_on_time_share", number(rate.cpuOnTime)},
                              {"gpu_on_time_share", number(rate.gpuOnTime)},
                              {"full_rate_share", number(rate.full)},
                              {"half_rate_share", number(rate.half)},
                              {"third_rate_share", number(rate.third)},
                              {"holds", rate.holds}});
    if (foveation)
        j["foveation"] = {{"advice", keyOf(foveation->advice)},
                          {"gpu_saved_ms", number(foveation->gpuSavedMs)},
                          {"cpu_cost_ms", number(foveation->cpuCostMs)},
                          {"on_time_share", number(foveation->onTime)},
                          {"on_time_share_with", number(foveation->onTimeWith)}};
    return j.dump(2);
}

} // namespace impasto::exports
