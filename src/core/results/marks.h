// SPDX-License-Identifier: GPL-3.0-or-later
// Marks of what decisions rest on. They stand in logbooks: their formulas do not change.
#pragma once

#include <impasto/base/fingerprint.h>
#include <impasto/document/session.h>

namespace impasto::results {

inline std::uint64_t markOf(const game::Values& values) {
    Fingerprint f;
    for (const auto& [id, level] : values) f.add(id).add(level);
    return f.value();
}

inline std::uint64_t markOf(const document::PlayState& state) {
    Fingerprint f;
    const auto order = state.asOrder();
    for (const auto& condition : run::conditions()) f.add(condition.read(order));
    return f.value();
}

inline std::uint64_t markOf(const document::EarlierRuns& earlier) {
    Fingerprint f;
    f.add(earlier.chips).add(earlier.version);
    for (const auto& run : earlier.runs) {
        f.add(markOf(run.values));
        for (const double taken : run.taken) f.add(taken);
    }
    return f.value();
}

inline std::uint64_t markOf(std::span<const capture::Span> trims) {
    Fingerprint f;
    for (const auto& span : trims) f.add(span.fromMs).add(span.toMs);
    return f.value();
}

/// The first logbooks know the cap alone; how it is shown is in the mark where their rule says otherwise.
inline std::uint64_t markOf(const pace::CapPlan& plan) {
    Fingerprint f;
    f.add(plan.cap ? plan.cap->value() : 0.0);
    if (plan.sync == run::Sync::Fixed) f.add(run::keyOf(plan.sync));
    if (plan.refresh) f.add(plan.refresh->value());
    if (const auto& g = plan.generation)
        f.add(run::keyOf(g->kind)).add(std::to_string(g->multiplier)).add(g->onSecondGpu ? "second" : "same");
    if (plan.generation && plan.generation->target) f.add(plan.generation->target->value());
    if (plan.limiter) f.add(run::keyOf(*plan.limiter));
    return f.value();
}

inline std::uint64_t markOf(const document::Basis& basis) {
    Fingerprint f;
    for (const auto& [name, mark] : basis) f.add(name).add(mark);
    return f.value();
}

} // namespace impasto::results
