// SPDX-License-Identifier: GPL-3.0-or-later
// Small things that the hands of several stations need.
#pragma once

#include <QtCore/QString>
#include <impasto/base/text.h>
#include <impasto/game/rules.h>
#include <impasto/wording/choice.h>
#include <optional>

#include "stations/view.h"

namespace impasto::app {

/// By hand: the order that the next log answers, the one that was picked or else the oldest; nothing where none waits.
inline std::optional<run::Order> orderInHand(const View& view) {
    if (view.edits().subject.rig != document::RigKind::Hand) return std::nullopt;
    auto open = path::openOrders(view.session);
    if (open.empty()) return std::nullopt;
    const auto picked = std::find_if(open.begin(), open.end(), [&](const auto& o) { return view.order == o.id; });
    return std::move(picked == open.end() ? open.front() : *picked);
}

inline std::optional<double> typedNumber(const QString& text) {
    return parseDouble(text.trimmed().toStdString(), text.contains(QLatin1Char(',')));
}

/// The level `steps` away, inside the setting's range; nothing at its end.
inline std::optional<std::string> levelAway(const game::Setting& setting, const std::string& now, int steps) {
    const auto index = setting.levelIndex(now);
    if (!index) return std::nullopt;
    const auto to = static_cast<std::ptrdiff_t>(*index) + steps;
    if (to < 0 || to >= static_cast<std::ptrdiff_t>(setting.levels.size())) return std::nullopt;
    return setting.levels[static_cast<std::size_t>(to)].name;
}

/// Says which rule of the game these values break; empty where none.
inline QString brokenRule(const View& view, const game::Values& values) {
    const auto* game = view.session.game();
    const auto broken = game == nullptr ? std::vector<game::Rule>() : game::brokenBy(game->rules, values);
    return broken.empty() ? QString() : qs(wording::rule(view.w, view.session, broken.front()));
}

} // namespace impasto::app
