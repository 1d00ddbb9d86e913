// SPDX-License-Identifier: GPL-3.0-or-later
// How a scene comes to be played again, and what follows from it for the figures.
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string_view>

namespace impasto::game {

enum class SceneKind { FixedRoute, Replay, BuiltInTest, Cutscene, PrivateMatch, StillView, FreePlay };
inline constexpr std::array<SceneKind, 7> allSceneKinds{
    SceneKind::FixedRoute,   SceneKind::Replay,    SceneKind::BuiltInTest, SceneKind::Cutscene,
    SceneKind::PrivateMatch, SceneKind::StillView, SceneKind::FreePlay};
std::string_view keyOf(SceneKind kind);
std::optional<SceneKind> sceneKindOf(std::string_view key);

/// Common practice, no source: a fixed route repeats to about 1%, an open match never does.
struct SceneRule {
    double noise = 1;             // runs differ by so many times what those of a fixed route do
    double mostSpread = 0.05;     // between the slowest and the fastest average of runs that count as even
    std::size_t baselineRuns = 1; // before anything is measured against them
};
const SceneRule& ruleOf(SceneKind kind);

} // namespace impasto::game
