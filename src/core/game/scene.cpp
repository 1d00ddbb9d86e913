// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/keys.h>
#include <impasto/game/scene.h>

namespace impasto::game {
namespace {

constexpr Keys<SceneKind, 7> sceneKinds{{{SceneKind::FixedRoute, "fixed-route"},
                                         {SceneKind::Replay, "replay"},
                                         {SceneKind::BuiltInTest, "built-in-test"},
                                         {SceneKind::Cutscene, "cutscene"},
                                         {SceneKind::PrivateMatch, "private-match"},
                                         {SceneKind::StillView, "still-view"},
                                         {SceneKind::FreePlay, "free-play"}}};
constexpr std::array<SceneRule, allSceneKinds.size()> sceneRules{
    {{}, {0.5}, {0.5}, {0.7}, {2, 0.10, 2}, {0.5}, {4, 0.20, 3}}};

} // namespace

std::string_view keyOf(SceneKind kind) {
    return keyIn(sceneKinds, kind);
}
std::optional<SceneKind> sceneKindOf(std::string_view key) {
    return valueIn(sceneKinds, key);
}
const SceneRule& ruleOf(SceneKind kind) {
    return sceneRules[static_cast<std::size_t>(kind)];
}

} // namespace impasto::game
