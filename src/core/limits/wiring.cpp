// SPDX-License-Identifier: GPL-3.0-or-later
// The copy route: a part of every frame that is neither the CPU's work nor the GPU's, on a machine that is wired so.
#include "evidence.h"

namespace impasto::limits {

std::optional<Suspicion> copyRouteOf(const Scene& scene) {
    constexpr double clearGap = 0.03; // of the frame
    const auto& v = scene.verdict;
    const bool held = v.brake == Brake::Cap || v.brake == Brake::Refresh;
    if (held || scene.around.machine == nullptr || !scene.around.machine->copyRoute || scene.variant.direct)
        return std::nullopt;
    if (v.brake == Brake::Cpu && v.certainty() == Certainty::Sure) return std::nullopt; // a frame waits for no copy
    Suspicion out{Cause::CopyRoute, run::Lane::Frame, 0.4, {{Sign::WiredThrough, 0, 0}}};
    if (!v.cpu || !v.gpu) return out;
    const double gap = v.periodMs - std::max(v.cpu->meanMs, v.gpu->meanMs);
    if (gap < clearGap * v.periodMs) return out; // it may hide in what the GPU's reading holds
    out.evidence.push_back({Sign::Gap, gap, gap / v.periodMs});
    out.sure = std::min(0.9, 0.7 + gap / v.periodMs);
    return out;
}

} // namespace impasto::limits
