// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/plan.h>

#include <algorithm>
#include <cmath>

namespace impasto::pace {
namespace {

/// The cap is an even rate of the mode, or a little above one: its divisor.
std::optional<int> divisorOf(Fps cap, Hertz mode) {
    const double k = std::round(mode.value() / cap.value());
    if (k < 1) return std::nullopt;
    const double off = cap.value() * k / mode.value();
    return off > 0.999 && off < 1.007 ? std::optional(static_cast<int>(k)) : std::nullopt;
}

CapPlan evenPlan(Hertz mode, int divisor) {
    if (divisor == 1) return {std::nullopt, run::Sync::Fixed, mode};
    return {Fps(std::round(1e6 * aboveEven * mode.value() / divisor) / 1e6), run::Sync::Fixed, mode};
}

/// The plan of an even cap, on the slowest mode that has it.
std::optional<CapPlan> evenPlanFor(Fps cap, const std::optional<display::Panel>& panel) {
    for (const Hertz mode : modesOf(panel))
        if (const auto k = divisorOf(cap, mode)) return evenPlan(mode, *k);
    return std::nullopt;
}

} // namespace

std::optional<Fps> CapPlan::pacedTo() const {
    if (cap) return cap;
    return sync == run::Sync::Fixed && refresh ? std::optional(Fps(refresh->value())) : std::nullopt;
}

std::vector<Hertz> modesOf(const std::optional<display::Panel>& panel) {
    if (!panel || !(panel->refresh.value() > 0)) return {};
    auto modes = panel->modes;
    modes.push_back(panel->refresh);
    std::sort(modes.begin(), modes.end());
    modes.erase(std::unique(modes.begin(), modes.end()), modes.end());
    return modes;
}

std::optional<Fps> fastestCap(const std::optional<display::Panel>& panel, double limiterErrorMs) {
    if (panel && panel->variable) return display::windowCap(*panel->variable, Milliseconds(limiterErrorMs));
    const auto modes = modesOf(panel);
    return modes.empty() ? std::nullopt : std::optional(Fps(modes.back().value()));
}

std::optional<Hertz> beyondPanel(const std::optional<display::Panel>& panel, Fps target) {
    const auto modes = modesOf(panel);
    if (modes.empty() || target.value() <= 1.001 * modes.back().value()) return std::nullopt;
    return modes.back();
}

std::optional<Hertz> headsetMode(const std::optional<display::Panel>& panel, Fps target) {
    if (!panel || !panel->headset) return std::nullopt;
    for (const Hertz mode : modesOf(panel))
        if (mode.value() >= 0.999 * target.value()) return mode == panel->refresh ? std::nullopt : std::optional(mode);
    return std::nullopt;
}

std::vector<run::Sync> syncsOf(const std::optional<display::Panel>& panel, std::optional<Fps> cap) {
    if (panel && panel->headset) return {run::Sync::None};
    if (panel && panel->variable && cap && cap->value() <= panel->variable->highest.value())
        return {run::Sync::None, run::Sync::Variable, run::Sync::VariableTearing, run::Sync::Fixed};
    return {run::Sync::None, run::Sync::Fixed, run::Sync::Latest};
}

CapPlan planFor(std::optional<Fps> cap, const std::optional<display::Panel>& panel, run::Style style,
                double limiterErrorMs) {
    const auto modes = modesOf(panel);
    if (modes.empty() || panel->headset) return {cap};
    const bool inRange = cap && panel->variable && cap->value() >= panel->variable->lowest.value() &&
                         cap->value() <= fastestCap(panel, limiterErrorMs)->value() + 1e-9;
    if (inRange) return {cap, run::Sync::Variable};
    const bool below = cap && panel->variable && cap->value() < panel->variable->lowest.value();
    if (cap && (below || (!panel->variable && run::ruleOf(style).pacesToTarget)))
        if (const auto even = evenPlanFor(*cap, panel)) return *even;
    if (below) return {cap, run::Sync::Variable};
    if (panel->variable) return {cap};
    return {cap, run::Sync::None, modes.back()};
}

std::vector<CapPlan> evenPlans(const display::Panel& panel, Fps lowest) {
    std::vector<CapPlan> out;
    for (const Hertz mode : modesOf(panel))
        for (int k = 1; mode.value() / k >= lowest.value(); ++k) out.push_back(evenPlan(mode, k));
    std::stable_sort(out.begin(), out.end(),
                     [](const CapPlan& a, const CapPlan& b) { return *a.pacedTo() < *b.pacedTo(); });
    return out;
}

std::optional<CapConflict> conflictOf(const CapPlan& plan, const std::optional<display::Panel>& panel,
                                      double limiterErrorMs) {
    const auto modes = modesOf(panel);
    if (modes.empty()) return std::nullopt;
    if (panel->headset) return plan.cap ? std::optional(CapConflict::Headset) : std::nullopt;
    if (!plan.cap) return plan.sync == run::Sync::Variable ? std::optional(CapConflict::NoCap) : std::nullopt;
    const Hertz fastest = panel->variable ? std::max(panel->variable->highest, modes.back()) : modes.back();
    if (plan.cap->value() > aboveEven * fastest.value() + 1e-9) return CapConflict::AbovePanel;
    if (plan.sync == run::Sync::Fixed || plan.sync == run::Sync::Latest) {
        const auto k = divisorOf(*plan.cap, plan.refresh.value_or(panel->refresh));
        return k ? std::nullopt : std::optional(CapConflict::Uneven);
    }
    if (panel->variable && plan.cap->value() > fastestCap(panel, limiterErrorMs)->value() + 1e-9)
        return CapConflict::InsideMargin;
    return std::nullopt;
}

} // namespace impasto::pace
