// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/held.h>

#include <impasto/frames/shape.h>
#include <numeric>

namespace impasto::frames {

OnTime onTimeOf(Fps target, double tolerance, const std::optional<display::Panel>& panel, const run::Variant* variant) {
    OnTime rule{target, tolerance, {}};
    if (!panel) return rule;
    const bool synced = variant != nullptr && (variant->sync == run::Sync::Fixed || variant->sync == run::Sync::Latest);
    const Hertz refresh = variant != nullptr && variant->refresh ? *variant->refresh : panel->refresh;
    if ((synced || panel->headset) && refresh.value() > 0) rule.refreshMs = 1000 / refresh.value();
    return rule;
}

std::optional<double> pacedMsOf(const std::optional<display::Panel>& panel, const run::Variant* variant) {
    if (!panel || !panel->headset) return std::nullopt;
    const Hertz refresh = variant != nullptr && variant->refresh ? *variant->refresh : panel->refresh;
    return refresh.value() > 0 ? std::optional(1000 / refresh.value()) : std::nullopt;
}

std::vector<PartHeld> heldParts(const capture::Capture& capture, const OnTime& rule) {
    std::vector<PartHeld> out;
    for (const auto& range : capture::partsOf(capture)) {
        const auto frames = std::span(capture.framesMs).subspan(range.first, range.last - range.first);
        if (frames.empty()) continue;
        const double total = std::accumulate(frames.begin(), frames.end(), 0.0);
        PartHeld part{range.part,
                      frames.size(),
                      Fps(1000 * static_cast<double>(frames.size()) / total),
                      onTimeShare(frames, rule),
                      {}};
        part.slowestSecond = part.average;
        for (const auto& second : secondsOf(frames)) part.slowestSecond = std::min(part.slowestSecond, second.average);
        out.push_back(std::move(part));
    }
    return out;
}

double valueOf(const PartHeld& part, HeldFigure figure) {
    switch (figure) {
    case HeldFigure::Average:
        return part.average.value();
    case HeldFigure::OnTime:
        return part.onTimeShare;
    case HeldFigure::SlowestSecond:
        return part.slowestSecond.value();
    }
    return 0;
}

double boundOf(HeldFigure figure, Fps target, double onTimeShare) {
    switch (figure) {
    case HeldFigure::Average:
        return heldAverage * target.value();
    case HeldFigure::OnTime:
        return onTimeShare;
    case HeldFigure::SlowestSecond:
        return heldSecond * target.value();
    }
    return 0;
}

bool isHeld(std::span<const PartHeld> parts, Fps target, double onTimeShare) {
    return !parts.empty() && std::all_of(parts.begin(), parts.end(), [&](const PartHeld& part) {
        return std::all_of(allHeldFigures.begin(), allHeldFigures.end(), [&](HeldFigure figure) {
            return valueOf(part, figure) >= boundOf(figure, target, onTimeShare);
        });
    });
}

} // namespace impasto::frames
