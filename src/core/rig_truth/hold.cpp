// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/rig_truth/hold.h>

#include <impasto/base/random.h>
#include <impasto/frames/parts.h>
#include <impasto/rig_sim/simulated.h>
#include <impasto/stats/stats.h>

namespace impasto::rig_truth {
namespace {

/// Of a warmed-up game, each with what the run before it left.
Result<std::vector<capture::Capture>> runsOf(const description::Originals& originals, const machine::Machine& machine,
                                             const game::Game& game, const run::Variant& variant,
                                             const std::string& routeName, std::size_t count) {
    const auto* route = game.route(routeName);
    if (route == nullptr) return fail(ErrorCode::UnknownName, routeName, {{}, {}, {}, "route"});
    const auto rig = rig_sim::simulatedRig(originals, machine, game);
    if (!rig) return tl::unexpected(rig.error());
    rig::RigState state;
    state.shadersMet = 1;
    std::vector<capture::Capture> out;
    for (std::size_t i = 0; i <= count; ++i) {
        run::Order order;
        order.variant = variant;
        order.route = routeName;
        order.seconds = route->seconds();
        order.seed = deriveSeed(7, fmt::format("truth {}", i));
        auto recording = (*rig)->record(order, state, {}, {});
        if (!recording) return tl::unexpected(recording.error());
        if (recording->crashed) return fail(ErrorCode::GameCrashed);
        state = recording->next;
        if (i > 0) out.push_back(std::move(recording->capture)); // the first one warms the machine
    }
    return out;
}

} // namespace

Result<HeldTruth> heldTruth(const description::Originals& originals, const machine::Machine& machine,
                            const game::Game& game, const run::Variant& variant, const std::string& route,
                            const run::Brief& brief, std::size_t runs) {
    const auto captures = runsOf(originals, machine, game, variant, route, runs);
    if (!captures) return tl::unexpected(captures.error());
    const auto rule = frames::onTimeOf(brief.target, brief.tolerated(), machine.panel, &variant);
    HeldTruth truth;
    const double share = 1 / static_cast<double>(captures->size());
    for (const auto& capture : *captures) {
        const auto parts = frames::heldParts(capture, rule);
        if (truth.parts.empty())
            for (const auto& part : parts) truth.parts.push_back({part.part, 0, Fps(0), 0, Fps(0)});
        for (std::size_t i = 0; i < std::min(parts.size(), truth.parts.size()); ++i) {
            auto& sum = truth.parts[i];
            sum.frames += parts[i].frames;
            sum.average = Fps(sum.average.value() + share * parts[i].average.value());
            sum.onTimeShare += share * parts[i].onTimeShare;
            sum.slowestSecond = Fps(sum.slowestSecond.value() + share * parts[i].slowestSecond.value());
        }
    }
    truth.held = frames::isHeld(truth.parts, brief.target, brief.wishedOnTime());
    return truth;
}

Result<Room> roomFor(const description::Originals& originals, const machine::Machine& machine, const game::Game& game,
                     const run::Variant& variant, const std::string& routeName, const run::Brief& brief,
                     std::size_t runs) {
    const auto captures = runsOf(originals, machine, game, variant, routeName, runs);
    if (!captures) return tl::unexpected(captures.error());
    const double budget = budgetOf(brief.target).value();
    Room room;
    for (const auto& part : game.route(routeName)->parts) {
        std::vector<double> cpu, gpu;
        for (const auto& capture : *captures)
            for (const auto& range : capture::partsOf(capture))
                for (std::size_t i = range.first; range.part == part.name && i < range.last; ++i) {
                    cpu.push_back((*capture.cpuWorkMs)[i]);
                    gpu.push_back((*capture.gpuWorkMs)[i]);
                }
        const auto safe = [&](const std::vector<double>& work) {
            const auto mean = stats::mean(work), high = stats::quantile(work, brief.wishedOnTime());
            const auto paced = frames::pacedMsOf(machine.panel, &variant);
            if (paced && frames::waitsForRefresh(work, *paced)) return budget; // a wait, not work
            return mean && high && *high > 0 ? *mean / *high * budget : budget;
        };
        room.parts.push_back({safe(cpu), safe(gpu)});
    }
    return room;
}

} // namespace impasto::rig_truth
