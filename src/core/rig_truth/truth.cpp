// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/rig_truth/truth.h>

#include <functional>
#include <impasto/base/keys.h>
#include <impasto/game/rules.h>
#include <impasto/game/size.h>
#include <impasto/rig_model/model.h>

namespace impasto::rig_truth {
namespace {

constexpr Keys<Brake, 5> brakes{
    {{Brake::Cpu, "cpu"}, {Brake::Gpu, "gpu"}, {Brake::Queue, "queue"}, {Brake::Copy, "copy"}, {Brake::Cap, "cap"}}};

Error noRoute(const std::string& name) {
    return {ErrorCode::UnknownName, name, {{}, {}, {}, "route"}};
}

LaneWork of(const rig_model::Work& w) {
    return {w.cpuMs, w.gpuMs, w.gpuMemoryMib, w.systemMemoryMib};
}

/// What one level of one setting adds, in every part: CPU and GPU ms in turn; then memory.
struct Choice {
    std::string level;
    double picture = 0; // weighted
    std::vector<double> uses;
};
struct Choices {
    std::string setting;
    std::vector<Choice> levels;
    double mostPicture = 0;
    std::vector<double> leastUses;
};

/// Goes through all combinations, leaving out what cannot fit or cannot win.
class Search {
  public:
    /// `may`: whether the game lets a set be.
    Search(std::vector<Choices> choices, std::vector<double> room, std::function<bool(const game::Values&)> may)
        : m_choices(std::move(choices)), m_room(room), m_may(std::move(may)) {
        m_picked.resize(m_choices.size());
        m_mostLater.resize(m_choices.size() + 1);
        m_leastLater.resize(m_choices.size() + 1, std::vector<double>(room.size()));
        for (std::size_t i = m_choices.size(); i-- > 0;) {
            m_mostLater[i] = m_mostLater[i + 1] + m_choices[i].mostPicture;
            for (std::size_t r = 0; r < room.size(); ++r)
                m_leastLater[i][r] = m_leastLater[i + 1][r] + m_choices[i].leastUses[r];
        }
    }
    void run() { descend(0, 0, std::vector<double>(m_room.size())); }
    [[nodiscard]] double best() const { return m_best; }
    [[nodiscard]] game::Values values() const { return valuesOf(m_bestPicked); }

  private:
    [[nodiscard]] game::Values valuesOf(const std::vector<std::size_t>& picked) const {
        game::Values out;
        for (std::size_t i = 0; i < m_choices.size(); ++i)
            out[m_choices[i].setting] = m_choices[i].levels[picked[i]].level;
        return out;
    }

    void descend(std::size_t at, double picture, const std::vector<double>& used) {
        if (picture + m_mostLater[at] <= m_best + 1e-12) return;
        for (std::size_t r = 0; r < m_room.size(); ++r)
            if (used[r] + m_leastLater[at][r] > m_room[r]) return;
        if (at == m_choices.size()) {
            if (!m_may(valuesOf(m_picked))) return;
            m_best = picture;
            m_bestPicked = m_picked;
            return;
        }
        for (std::size_t l = m_choices[at].levels.size(); l-- > 0;) {
            const Choice& level = m_choices[at].levels[l];
            auto next = used;
            for (std::size_t r = 0; r < next.size(); ++r) next[r] += level.uses[r];
            m_picked[at] = l;
            descend(at + 1, picture + level.picture, next);
        }
    }

    std::vector<Choices> m_choices;
    std::vector<double> m_room;
    std::vector<double> m_mostLater;
    std::vector<std::vector<double>> m_leastLater;
    std::vector<std::size_t> m_picked, m_bestPicked;
    std::function<bool(const game::Values&)> m_may;
    double m_best = -1;
};

/// Work in every part, then memory. The memory is as much as it takes.
std::vector<double> usesOf(const rig_model::Model& model, machine::Machine machine, const game::Game& game,
                           const run::Variant& variant, const game::Route& route) {
    machine.gpuMemory = Mebibytes(1e9);
    std::vector<double> out;
    double memory = 0;
    for (const auto& part : route.parts) {
        const auto work = workOf(model, machine, game, variant, part.name);
        out.push_back(work.cpuMs);
        out.push_back(work.gpuMs);
        memory = work.gpuMemoryMib;
    }
    out.push_back(memory);
    return out;
}

/// Settings apart from those of the rendered size add up; `lowest` has each at its first level.
std::vector<Choices> choicesOf(const rig_model::Model& model, const machine::Machine& machine, const game::Game& game,
                               const run::Variant& lowest, const game::Route& route, const game::Values& fixed) {
    std::vector<Choices> out;
    const auto base = usesOf(model, machine, game, lowest, route);
    for (const auto& setting : game.settings) {
        if (setting.changesSize()) continue;
        Choices choices{setting.id, {}, 0, {}};
        for (const auto& level : setting.levels) {
            if (const auto it = fixed.find(setting.id); it != fixed.end() && it->second != level.name) continue;
            run::Variant variant = lowest;
            variant.values[setting.id] = level.name;
            auto uses = usesOf(model, machine, game, variant, route);
            for (std::size_t r = 0; r < uses.size(); ++r) uses[r] -= base[r];
            const double picture = setting.pictureWeight() * level.picture;
            choices.mostPicture = std::max(choices.mostPicture, picture);
            if (choices.leastUses.empty()) choices.leastUses = uses;
            for (std::size_t r = 0; r < uses.size(); ++r)
                choices.leastUses[r] = std::min(choices.leastUses[r], uses[r]);
            choices.levels.push_back({level.name, picture, std::move(uses)});
        }
        out.push_back(std::move(choices));
    }
    return out;
}

} // namespace

std::string_view keyOf(Brake brake) {
    return keyIn(brakes, brake);
}

Result<LaneWork> partWork(const description::Originals& originals, const machine::Machine& machine,
                          const game::Game& game, const run::Variant& variant, const std::string& part) {
    const auto model = rig_model::readModel(machine, game, originals);
    if (!model) return tl::unexpected(model.error());
    return of(workOf(*model, machine, game, variant, part));
}

Result<LaneWork> routeWork(const description::Originals& originals, const machine::Machine& machine,
                           const game::Game& game, const run::Variant& variant, const std::string& routeName) {
    const auto* route = game.route(routeName);
    if (route == nullptr) return tl::unexpected(noRoute(routeName));
    LaneWork sum;
    for (const auto& part : route->parts) {
        const auto w = partWork(originals, machine, game, variant, part.name);
        if (!w) return w;
        const double share = part.seconds / route->seconds();
        sum.cpuMs += share * w->cpuMs;
        sum.gpuMs += share * w->gpuMs;
        sum.gpuMemoryMib += share * w->gpuMemoryMib;
        sum.systemMemoryMib += share * w->systemMemoryMib;
    }
    return sum;
}

Result<PartTruth> partTruth(const description::Originals& originals, const machine::Machine& machine,
                            const game::Game& game, const run::Variant& variant, const std::string& part) {
    const auto model = rig_model::readModel(machine, game, originals);
    if (!model) return tl::unexpected(model.error());
    PartTruth truth{of(workOf(*model, machine, game, variant, part)), Brake::Gpu, 0};
    const double copy =
        model->copy && !variant.direct ? model->copy->msOf(rig_model::outputOf(machine, game, variant)) : 0;
    for (const auto& [brake, ms] :
         {std::pair(Brake::Cpu, truth.work.cpuMs), std::pair(Brake::Gpu, truth.work.gpuMs),
          std::pair(Brake::Queue, (truth.work.cpuMs + truth.work.gpuMs) / model->framesInFlight),
          std::pair(Brake::Copy, copy), std::pair(Brake::Cap, variant.cap ? 1000 / variant.cap->value() : 0)})
        if (ms > truth.periodMs) {
            truth.brake = brake;
            truth.periodMs = ms;
        }
    return truth;
}

Result<std::optional<Best>> bestValues(const description::Originals& originals, const machine::Machine& machine,
                                       const game::Game& game, const run::Variant& variant,
                                       const std::string& routeName, const Room& room, const game::Values& fixed) {
    const auto model = rig_model::readModel(machine, game, originals);
    if (!model) return tl::unexpected(model.error());
    const auto* route = game.route(routeName);
    if (route == nullptr) return tl::unexpected(noRoute(routeName));
    run::Variant lowest = variant;
    for (const auto& setting : game.settings) lowest.values[setting.id] = setting.levels.front().name;
    std::optional<Best> best;
    const auto consider = [&](const run::Variant& at) {
        std::vector<double> left;
        for (std::size_t i = 0; i < route->parts.size(); ++i)
            left.insert(left.end(), {room.parts[i].cpuMs, room.parts[i].gpuMs});
        left.push_back(room.gpuMemoryMib);
        const auto base = usesOf(*model, machine, game, at, *route);
        for (std::size_t r = 0; r < left.size(); ++r) left[r] -= base[r];
        const auto sized = [&](game::Values values) {
            for (const auto& setting : game.settings)
                if (setting.changesSize()) values[setting.id] = at.values.at(setting.id);
            return values;
        };
        Search search(choicesOf(*model, machine, game, at, *route, fixed), left, [&](const game::Values& values) {
            return game.rules.empty() || game::brokenBy(game.rules, sized(values)).empty();
        });
        search.run();
        if (search.best() < 0) return;
        auto values = sized(search.values());
        const double picture = game::pictureValue(game, values);
        if (!best || picture > best->picture) best = Best{std::move(values), picture};
    };
    auto now = variant.values;
    for (const auto& [setting, level] : fixed) now[setting] = level;
    for (const auto& setting : game.settings) now.try_emplace(setting.id, setting.levels.back().name);
    for (const auto& size : game::sizesOf(game, now)) {
        const auto held = [&](const auto& one) {
            const auto it = size.levels.find(one.first);
            return it == size.levels.end() || it->second == one.second;
        };
        if (!std::all_of(fixed.begin(), fixed.end(), held)) continue;
        run::Variant at = lowest;
        for (const auto& [setting, level] : size.levels) at.values[setting] = level;
        consider(at);
    }
    return best;
}

} // namespace impasto::rig_truth
