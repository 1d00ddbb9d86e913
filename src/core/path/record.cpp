// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/path/record.h>

#include <impasto/capture/check.h>

namespace impasto::path {

run::Run runOf(const run::Order& order, RunId id, rig::Recording recording, const Clock& clock) {
    run::Run run;
    run.id = id;
    run.order = order.id;
    run.maker = run::Maker::SimulatedRig;
    run.interrupted = recording.cancelled || recording.crashed;
    run.rigState = rig::textOf(recording.next);
    run.made = clock();
    run.damaged = capture::faultOf(recording.capture).has_value();
    if (run.damaged) recording.capture = {};
    run.capture = std::make_shared<const capture::Capture>(std::move(recording.capture));
    return run;
}

rig::RigState rigStateOf(const document::Session& session) {
    rig::RigState out;
    bool machineKnown = false;
    for (auto it = session.facts->runs.rbegin(); it != session.facts->runs.rend(); ++it) {
        const auto* order = session.orderOf(*it);
        if (it->rigState.empty() || (order != nullptr && !session.onThisMachine(*order))) continue;
        const auto state = rig::stateOf(it->rigState).value_or(rig::RigState{});
        // Another game leaves the machine warm; what it compiled and applied is its own.
        if (!machineKnown) out.power = state.power;
        machineKnown = true;
        if (order != nullptr && !session.ofThisPair(*order)) continue;
        out.shadersMet = state.shadersMet;
        out.applied = state.applied;
        break;
    }
    return out;
}

Result<void> recordAll(rig::Rig& rig, std::span<const run::Order> orders, rig::RigState state, const RecordHooks& hooks,
                       const Context& context, const IdSource& ids, const Clock& clock) {
    for (std::size_t i = 0; i < orders.size(); ++i) {
        const Context part{context.stop, [&](double share) {
                               context.report((static_cast<double>(i) + share) / static_cast<double>(orders.size()));
                           }};
        const RunId id{ids()};
        if (hooks.onStart) hooks.onStart(orders[i], id);
        auto recording = rig.record(orders[i], state, hooks.onFrame, part);
        if (!recording) return tl::unexpected(recording.error());
        const bool cancelled = recording->cancelled, crashed = recording->crashed;
        state = recording->next;
        if (hooks.onRun) hooks.onRun(runOf(orders[i], id, std::move(*recording), clock));
        if (cancelled) return fail(ErrorCode::Cancelled, {}, {}, Kept::FramesUntilHere);
        if (crashed) return fail(ErrorCode::GameCrashed, {}, {}, Kept::FramesUntilHere);
    }
    return {};
}

} // namespace impasto::path
