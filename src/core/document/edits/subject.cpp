// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

namespace impasto::document {

run::Order PlayState::asOrder() const {
    run::Order order;
    order.variant.resolution = resolution;
    order.variant.sync = sync;
    order.variant.limiter = limiter;
    order.variant.direct = direct;
    order.conditions = conditions;
    return order;
}

Edit useMachine(std::size_t index) {
    return plain("use-machine", [index](Edits& e) { e.subject.machine = index; });
}

Edit useGame(std::size_t index, const game::Game& game) {
    return plain("use-game", [index, values = game.presets.front().values, route = game.routes.front().name](Edits& e) {
        e.subject.game = index;
        e.subject.route = route;
        e.subject.scene.reset();
        e.settings.baseline = values;
        e.settings.locked.clear();
        e.settings.cannot.clear();
        e.settings.earlier.reset();
    });
}

Edit reviseGame(std::size_t index, const game::Game& game) {
    return plain("use-game", [index, game](Edits& e) {
        const auto has = [&game](const auto& value) {
            const auto* setting = game.setting(value.first);
            return setting != nullptr && setting->levelIndex(value.second).has_value();
        };
        auto values = game.presets.front().values;
        for (const auto& value : e.settings.baseline)
            if (has(value)) values[value.first] = value.second;
        std::erase_if(e.settings.locked, [&has](const auto& value) { return !has(value); });
        std::erase_if(e.settings.cannot, [&has](const auto& value) { return !has(value); });
        e.subject.game = index;
        e.settings.baseline = std::move(values);
        if (game.route(e.subject.route) != nullptr) return;
        e.subject.route = game.routes.front().name;
        e.subject.scene.reset();
    });
}

Edit useRig(RigKind kind) {
    return plain("use-rig", [kind](Edits& e) { e.subject.rig = kind; });
}

Edit setState(std::string condition, std::string text) {
    return {"set-state",
            [condition = std::move(condition), text = std::move(text)](const Edits& before) -> Result<Edits> {
                const auto all = run::conditions();
                const auto it = std::find_if(all.begin(), all.end(), [&](const run::Condition& c) {
                    return c.key == condition && *c.label != '\0';
                });
                if (it == all.end()) return fail(ErrorCode::UnknownName, condition, {{}, {}, {}, condition});
                auto order = before.subject.state.asOrder();
                if (!it->write(order, text)) return fail(ErrorCode::BadValue, it->help, {{}, {}, {}, condition});
                Edits after = before;
                after.subject.state = {order.variant.resolution, order.variant.sync, order.variant.limiter,
                                       order.variant.direct, order.conditions};
                return after;
            }};
}

Edit setRoute(const game::Game& game, std::string route) {
    const bool known = game.route(route) != nullptr;
    return {"set-route", [known, route = std::move(route)](const Edits& before) -> Result<Edits> {
                if (!known) return fail(ErrorCode::UnknownName, route, {{}, {}, {}, "route"});
                Edits after = before;
                after.subject.route = route;
                after.subject.scene.reset();
                return after;
            }};
}

Edit setScene(game::SceneKind kind) {
    return plain("set-scene", [kind](Edits& e) { e.subject.scene = kind; });
}

Edit setTitle(std::string title) {
    return plain("set-title", [title = std::move(title)](Edits& e) { e.subject.title = title; });
}

Edit setName(std::string name) {
    return bounded("set-name", std::move(name), mostNameBytes,
                   [](Edits& e, const std::string& text) { e.subject.name = text; });
}

} // namespace impasto::document
