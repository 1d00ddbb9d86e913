// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do around the choice, and the work behind it.
#include "shell/studio.h"
#include "stations/hands.h"
#include "stations/layers/around.h"

#include <QtGui/QClipboard>
#include <QtGui/QGuiApplication>

namespace impasto::app {
namespace {

using Q = const QString&;

/// The accepted choice, or else the best.
std::optional<game::Values> choiceIn(const View& view) {
    if (view.edits().settings.choice) return view.edits().settings.choice->values;
    const auto* proposal = results::proposalOf(*view.results);
    return proposal == nullptr ? std::nullopt : std::optional(proposal->values);
}

/// The level above the chosen one whose picture gains most.
cost::LevelKey mostWanted(const game::Game& game, const game::Values& choice) {
    cost::LevelKey best;
    double most = -1;
    for (const auto& setting : game.settings) {
        const auto now = choice.find(setting.id);
        const auto level = now == choice.end() ? std::nullopt : setting.levelIndex(now->second);
        if (!level || setting.weight == 0) continue;
        for (std::size_t l = *level + 1; l < setting.levels.size(); ++l) {
            auto raised = choice;
            raised[setting.id] = setting.levels[l].name;
            const double gain = game::pictureValue(game, raised);
            if (gain <= most) continue;
            most = gain;
            best = {setting.id, setting.levels[l].name};
        }
    }
    if (best.setting.empty() && !game.settings.empty())
        best = {game.settings.front().id, game.settings.front().levels.front().name};
    return best;
}

/// At most `most`: the largest size, the choice's, and of the others the one that shows most.
std::vector<choose::Way> fewOf(std::vector<choose::Way> all, const game::Size& chosen, std::ptrdiff_t most) {
    if (static_cast<std::ptrdiff_t>(all.size()) <= most) return all;
    std::vector<bool> kept(all.size(), false);
    kept.front() = true;
    for (std::size_t i = 0; i < all.size(); ++i) kept[i] = kept[i] || all[i].size == chosen;
    while (std::count(kept.begin(), kept.end(), true) < most) {
        std::size_t best = all.size();
        for (std::size_t i = 0; i < all.size(); ++i)
            if (!kept[i] && (best == all.size() || all[i].proposal.picture > all[best].proposal.picture)) best = i;
        kept[best] = true;
    }
    std::vector<choose::Way> out;
    for (std::size_t i = 0; i < all.size(); ++i)
        if (kept[i]) out.push_back(std::move(all[i]));
    return out;
}

/// Of every set that is shown.
void addDraws(Around& around, const pace::PowerRules& rules) {
    const auto add = [&](const game::Values& values) {
        if (const auto draws = results::drawsOf(*around.of, values, around.target, rules))
            around.draws.emplace(values, *draws);
    };
    add(around.choice);
    for (const auto& point : around.front) add(point.values);
    for (const auto& [name, point] : around.presets) add(point.values);
    for (const auto& way : around.ways) add(way.proposal.values);
}

/// All of it, or from `known` what holds still. Nothing where it was cancelled.
std::shared_ptr<const Around> computed(Around out, const choose::Ground& ground, const game::Game& game,
                                       const pace::PowerRules& power, const Around* known, const Context& context) {
    const auto take = [&](auto result, auto use) {
        if (result)
            use(std::move(*result));
        else
            out.fault = result.error();
    };
    if (known != nullptr) {
        out.chosen = known->chosen;
        out.front = known->front;
        out.presets = known->presets;
        out.draws = known->draws;
        out.ways = known->ways;
        out.leastMemory = known->leastMemory;
    } else {
        take(choose::standpointOf(ground, out.choice), [&](auto point) { out.chosen = std::move(point); });
        take(choose::frontOf(ground, context), [&](auto front) { out.front = std::move(front); });
        take(choose::waysTo(ground, out.target, context), [&](auto ways) {
            out.ways = fewOf(std::move(ways), game::sizeOf(game, out.choice), out.inventing ? 2 : 3);
        });
        take(choose::leastMemoryFor(ground, out.target, out.pictureFloor, context),
             [&](auto least) { out.leastMemory = std::move(least); });
        if (out.inventing)
            if (auto way = choose::wayWithInvented(ground, out.inventing->base, out.inventing->gpuMs, context))
                out.ways.push_back(std::move(*way));
        for (const auto& preset : game.presets)
            if (auto point = choose::standpointOf(ground, preset.values))
                out.presets.emplace_back(preset.name, std::move(*point));
        addDraws(out, power);
    }
    take(choose::whyNot(ground, out.choice, out.target, out.asked, context),
         [&](auto answer) { out.answer = std::move(answer); });
    if (context.cancelled()) return nullptr;
    return std::make_shared<const Around>(std::move(out));
}

std::optional<pace::Inventing> inventingIn(const View& view) {
    const auto& brief = view.edits().goal.brief;
    const auto base = brief ? pace::inventedBase(*brief) : std::nullopt;
    if (!base) return std::nullopt;
    return pace::usualInventing(view.session.machine(), view.session.game()->generatesFrames,
                                view.edits().subject.state.resolution, *base, *base * 2);
}

void computeAround(Studio& s) {
    const auto& view = s.view();
    const auto ground = results::groundOf(*view.results);
    if (s.open() == nullptr || !ground || view.session.game() == nullptr) return;
    const auto choice = startOf(view);
    auto& state = s.state<AroundState>();
    if (state.asked.setting.empty() || view.session.game()->setting(state.asked.setting) == nullptr)
        state.asked = mostWanted(*view.session.game(), choice);
    const Around* known = aroundOf(view);
    if (known != nullptr && known->asked == state.asked) return;
    Around wanted;
    wanted.of = view.results;
    wanted.choice = choice;
    wanted.isChoice = choiceIn(view).has_value();
    wanted.target = view.edits().goal.brief ? view.edits().goal.brief->target : Fps(60);
    wanted.pictureFloor = view.edits().goal.brief ? view.edits().goal.brief->pictureFloor.value_or(0) : 0;
    wanted.asked = state.asked;
    wanted.inventing = inventingIn(view);
    s.open()->solver.post([&s, open = s.open(), wanted, ground = *ground, session = view.session,
                           rules = view.rules.power, known = known == nullptr ? nullptr : state.around,
                           pending = s.pending()](const std::stop_token& stop) {
        const auto around = computed(wanted, ground, *session.game(), rules, known.get(), {stop, {}});
        open->bridge.post([&s, around, pending] {
            if (!around || s.view().results != around->of) return; // superseded
            s.state<AroundState>().around = around;
            s.notify();
        });
    });
}

void readFiles(Studio& s) {
    const auto wanted = toSetOf(s.view());
    const auto* game = s.view().session.game();
    if (s.open() == nullptr || !wanted || game == nullptr) return;
    s.open()->reader.post([&s, open = s.open(), values = wanted->values, session = s.view().session, home = s.home(),
                           pending = s.pending()](const std::stop_token&) {
        auto look = std::make_shared<FilesLook>();
        look->values = values;
        auto plan = config::planOf(*session.game(), values, home);
        if (plan)
            look->plan = std::move(*plan);
        else
            look->fault = plan.error();
        open->bridge.post([&s, look, pending] {
            s.state<AroundState>().files = look;
            s.notify();
        });
    });
}

void turnTo(Studio& s, LayersFace face) {
    auto& state = s.state<AroundState>();
    state.face = state.face == face ? LayersFace::Slabs : face;
    if (state.face == LayersFace::Files) state.files.reset();
    lookAround(s);
    s.notify();
}

void ask(Studio& s, const std::string& setting, const std::string& level) {
    s.state<AroundState>().asked = {setting, level};
    lookAround(s);
    s.notify();
}

/// The setting that lies so many further in the game's order, with the level above the chosen one.
void stepSetting(Studio& s, Q, int steps) {
    const auto* game = s.view().session.game();
    const auto* around = aroundOf(s.view());
    if (game == nullptr || around == nullptr) return;
    const auto now = std::find_if(game->settings.begin(), game->settings.end(),
                                  [&](const auto& setting) { return setting.id == around->asked.setting; });
    const auto count = static_cast<std::ptrdiff_t>(game->settings.size());
    // What is taste is never chosen.
    for (std::ptrdiff_t i = 1, at = now - game->settings.begin(); i <= count; ++i) {
        const auto& setting =
            game->settings[static_cast<std::size_t>(((at - (steps > 0 ? 1 : -1) * i) % count + count) % count)];
        const auto chosen = around->choice.find(setting.id);
        if (setting.weight == 0 || chosen == around->choice.end()) continue;
        const auto level = levelAway(setting, chosen->second, 1);
        return ask(s, setting.id, level ? *level : setting.levels.front().name);
    }
}

void stepLevel(Studio& s, Q, int steps) {
    const auto* game = s.view().session.game();
    const auto& asked = s.state<AroundState>().asked;
    const auto* setting = game == nullptr ? nullptr : game->setting(asked.setting);
    if (setting == nullptr) return;
    if (const auto level = levelAway(*setting, asked.level, steps)) ask(s, asked.setting, *level);
}

/// The name, or how it begins, whatever the capitals.
template <class Things, class Name>
const auto* named(const Things& things, Q text, Name name) {
    const typename Things::value_type* found = nullptr;
    for (const auto& thing : things) {
        if (name(thing).compare(text, Qt::CaseInsensitive) == 0) return &thing;
        if (found == nullptr && !text.isEmpty() && name(thing).startsWith(text, Qt::CaseInsensitive)) found = &thing;
    }
    return found;
}

void typeSetting(Studio& s, Q, Q text) {
    const auto* game = s.view().session.game();
    const auto* around = aroundOf(s.view());
    if (game == nullptr || around == nullptr) return;
    const auto* setting = named(game->settings, text.trimmed(), [](const auto& x) { return qs(x.label); });
    if (setting == nullptr) return s.say(say("No setting is called “%1”.").arg(text.trimmed()));
    const auto chosen = around->choice.find(setting->id);
    const auto level = chosen == around->choice.end() ? std::nullopt : levelAway(*setting, chosen->second, 1);
    ask(s, setting->id, level ? *level : setting->levels.front().name);
}

void typeLevel(Studio& s, Q, Q text) {
    const auto* game = s.view().session.game();
    const auto& asked = s.state<AroundState>().asked;
    const auto* setting = game == nullptr ? nullptr : game->setting(asked.setting);
    if (setting == nullptr) return;
    const auto* level = named(setting->levels, text.trimmed(), [](const auto& x) { return qs(x.name); });
    if (level == nullptr) return s.say(say("%1 has no level “%2”.").arg(qs(setting->label), text.trimmed()));
    ask(s, asked.setting, level->name);
}

void takeValues(Studio& s, const game::Values& values) {
    s.apply(document::acceptChoice({values, true, results::standingOf(*s.view().results).ofChoice()}));
}

void takeWith(Studio& s, Q) {
    const auto* around = aroundOf(s.view());
    if (around != nullptr && around->answer && around->answer->with) takeValues(s, around->answer->with->values);
}

void takePoint(Studio& s, Q) {
    const auto* around = aroundOf(s.view());
    const auto& point = s.state<AroundState>().point;
    if (around != nullptr && point && *point < around->front.size()) takeValues(s, around->front[*point].values);
}

void takeWay(Studio& s, Q rest) {
    const auto* around = aroundOf(s.view());
    const auto i = static_cast<std::size_t>(rest.toULongLong());
    if (around == nullptr || i >= around->ways.size()) return;
    const auto& way = around->ways[i];
    if (!way.base) return takeValues(s, way.proposal.values);
    // Another goal: so much rendered, twice as much shown. The choice for it follows.
    auto brief = *s.view().edits().goal.brief;
    brief.target = *way.base;
    brief.shown = Fps(2 * way.base->value());
    s.apply(document::setBrief(brief));
}

void pickPoint(Studio& s, Q rest) {
    s.state<AroundState>().point = static_cast<std::size_t>(rest.toULongLong());
    s.notify();
}

void stepPoint(Studio& s, Q rest, int steps) {
    const auto* around = aroundOf(s.view());
    if (around == nullptr || around->front.empty()) return;
    const auto to =
        std::clamp<std::ptrdiff_t>(rest.toLongLong() + steps, 0, static_cast<std::ptrdiff_t>(around->front.size()) - 1);
    s.state<AroundState>().point = static_cast<std::size_t>(to);
    s.notify();
}

void copyValues(Studio& s, Q) {
    const auto wanted = toSetOf(s.view());
    const auto* game = s.view().session.game();
    if (!wanted || game == nullptr) return;
    QString text;
    for (const auto& setting : game->settings)
        if (const auto it = wanted->values.find(setting.id); it != wanted->values.end())
            text += qs(setting.label) + QLatin1Char('\t') + qs(it->second) + QLatin1Char('\n');
    QGuiApplication::clipboard()->setText(text);
    s.say(say("Copied, in the order of the game's menu."));
}

void copyHanded(Studio& s, Q rest) {
    const auto& files = s.state<AroundState>().files;
    const auto i = static_cast<std::size_t>(rest.toULongLong());
    if (!files || !files->plan || i >= files->plan->byHand.size()) return;
    QGuiApplication::clipboard()->setText(qs(files->plan->byHand[i].text));
    s.say(say("Copied."));
}

void writeFiles(Studio& s, Q) {
    const auto look = s.state<AroundState>().files;
    if (s.open() == nullptr || !look || !look->plan || look->plan->files.empty()) return;
    s.open()->files.post([&s, open = s.open(), look, pending = s.pending()](const std::stop_token&) {
        auto done = std::make_shared<Result<std::vector<config::Written>>>(config::write(*look->plan));
        open->bridge.post([&s, done, pending] {
            if (!*done) {
                s.tell(done->error());
            } else {
                s.state<AroundState>().written = std::move(**done);
                s.say(say("Written, each with a copy of what was there beside it."));
            }
            readFiles(s);
        });
    });
}

void takeFilesBack(Studio& s, Q) {
    auto written = std::make_shared<const std::vector<config::Written>>(s.state<AroundState>().written);
    if (s.open() == nullptr || written->empty()) return;
    s.open()->files.post([&s, open = s.open(), written, pending = s.pending()](const std::stop_token&) {
        auto done = std::make_shared<Result<void>>(config::takeBack(*written));
        open->bridge.post([&s, done, pending] {
            if (!*done) {
                s.tell(done->error());
            } else {
                s.state<AroundState>().written.clear();
                s.say(say("The files are as they were before."));
            }
            readFiles(s);
        });
    });
}

} // namespace

game::Values startOf(const View& view) {
    const auto choice = choiceIn(view);
    return choice ? *choice : view.edits().settings.baseline;
}

const Around* aroundOf(const View& view) {
    const auto& around = view.state<AroundState>().around;
    if (!around || around->of != view.results) return nullptr;
    return startOf(view) == around->choice ? around.get() : nullptr;
}

std::optional<ToSet> toSetOf(const View& view) {
    if (auto order = orderInHand(view)) return ToSet{order->variant.values, std::move(order)};
    const auto choice = choiceIn(view);
    return choice ? std::optional(ToSet{*choice, {}}) : std::nullopt;
}

void lookAround(Studio& s) {
    const auto& state = s.view().state<AroundState>();
    if (state.face == LayersFace::BestSets) computeAround(s);
    const auto wanted = state.face == LayersFace::Files ? toSetOf(s.view()) : std::nullopt;
    if (wanted && (!state.files || state.files->values != wanted->values)) readFiles(s);
}

std::vector<Hand> aroundHands() {
    return {{"face.slabs", [](Studio& s, Q) { turnTo(s, LayersFace::Slabs); }},
            {"face.best", [](Studio& s, Q) { turnTo(s, LayersFace::BestSets); }},
            {"face.matters", [](Studio& s, Q) { turnTo(s, LayersFace::Matters); }},
            {"face.files", [](Studio& s, Q) { turnTo(s, LayersFace::Files); }},
            {"into.game", // from where a run by hand is asked for
             [](Studio& s, Q) {
                 s.state<AroundState>().face = LayersFace::Files;
                 s.state<AroundState>().files.reset();
                 s.go({"layers"});
             }},
            {"ask.setting", nullptr, typeSetting, stepSetting},
            {"ask.level", nullptr, typeLevel, stepLevel},
            {"with.take", takeWith},
            {"way.", takeWay},
            {"point.take", takePoint},
            {"point.", pickPoint, nullptr, stepPoint},
            {"values.copy", copyValues},
            {"handed.", copyHanded},
            {"files.write", writeFiles},
            {"files.back", takeFilesBack},
            {"files.again", [](Studio& s, Q) { readFiles(s); }}};
}

std::vector<Key> aroundKeys() {
    return {{Qt::Key_B, "B", "every best set", [](Studio& s) { turnTo(s, LayersFace::BestSets); }},
            {Qt::Key_I, "I", "what matters to you", [](Studio& s) { turnTo(s, LayersFace::Matters); }},
            {Qt::Key_G, "G", "into the game", [](Studio& s) { turnTo(s, LayersFace::Files); }}};
}

} // namespace impasto::app
