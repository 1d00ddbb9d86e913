// SPDX-License-Identifier: GPL-3.0-or-later
#include "relaxation.h"

#include <bit>
#include <cmath>
#include <numeric>
#include <optional>
#include <utility>

namespace impasto::choose {
namespace {

/// Depth first under Lagrangian bounds that are tightened at every node.
class Search {
  public:
    Search(const Problem& problem, const Context& context, const Effort& effort)
        : m_problem(problem), m_exact(problem), m_context(context), m_effort(effort), m_free(problem.groups.size()),
          m_frames(problem.groups.size() + 1), m_nearby(problem) {
        std::iota(m_free.begin(), m_free.end(), std::size_t{0});
        for (const auto& group : problem.groups) {
            const auto [least, most] = std::minmax_element(
                group.begin(), group.end(), [](const Item& a, const Item& b) { return a.value < b.value; });
            m_need += least->value;
            m_dearest.push_back(most->value);
            m_frames[0].alive.push_back(~std::uint64_t{0} >> (64 - group.size()));
        }
        if (effort.beats) m_need = std::max(m_need, *effort.beats + 1);
    }

    Result<Choice> run() {
        if (!prepare()) return fail(m_context.cancelled() ? ErrorCode::Cancelled : ErrorCode::NothingFits);
        m_room = m_rest = m_linear.capacity;
        for (std::size_t i = 0; i < m_linear.least.size(); ++i) m_rest[i % m_rest.size()] -= m_linear.least[i];
        m_items.assign(m_problem.groups.size(), 0);
        Relaxation relaxation(m_linear);
        descend(relaxation, 0, 0, rootSteps);
        if (m_context.cancelled()) return fail(ErrorCode::Cancelled);
        if (!m_best && !m_stopped) return fail(ErrorCode::NothingFits);
        return result();
    }

  private:
    static constexpr int rootSteps = 25, nodeSteps = 4;

    // A choice to start from, and the place of the tangents.

    /// The tangents move to where the relaxation has its best, and the multipliers with them, until neither says more.
    /// False where nothing is worth enough.
    bool prepare() {
        constexpr int rounds = 16, mostStale = 4;
        constexpr double memory = 3, calmer = 0.8, more = 2e-4; // `more`: of the bound, else a round is stale
        const bool begun = beginAtFooting();
        Relaxed now;
        now.lambda = m_multipliers;
        Linear best;
        Shares mixture;
        double bound = infinity, said = infinity, pace = 1;
        int stale = begun ? mostStale / 2 : 0;
        for (int round = 0; round < rounds && stale < mostStale; ++round, pace *= calmer) {
            m_linear = linearAt(m_problem, m_tangent);
            Relaxation(m_linear).tighten(m_free, m_frames[0].alive, m_linear.capacity, threshold(), rootSteps, now,
                                         pace, &mixture);
            if (round == 0 || now.bound < bound) {
                bound = now.bound;
                best = m_linear;
                m_frames[0].at = now;
                m_multipliers = now.lambda;
            }
            if (!m_best && std::floor(bound + 1e-6) < threshold()) return false;
            if (round == 0 || round == mostStale) startFrom(now, false);
            stale = bound < said - more * std::abs(said) ? 0 : stale + 1;
            said = std::min(said, bound);
            if (mixture.empty()) break;
            const double share = 1 / (begun ? memory : std::min(round + 1.0, memory));
            for (std::size_t i = 0; i < m_tangent.size(); ++i) m_tangent[i] += share * (mixture[i] - m_tangent[i]);
        }
        m_linear = std::move(best);
        startFrom(m_frames[0].at, true);
        m_rootBound = bound;
        if (m_effort.footing) *m_effort.footing = {m_multipliers, m_tangent};
        return true;
    }

    /// False where there is none that is of such a problem: then at the first items, for nothing.
    bool beginAtFooting() {
        std::size_t items = 0;
        for (const auto& group : m_problem.groups) items += group.size();
        m_multipliers.assign(m_problem.capacity.size(), 0.0);
        if (const auto* footing = m_effort.footing;
            footing && footing->multipliers.size() == m_multipliers.size() && footing->tangent.size() == items) {
            m_multipliers = footing->multipliers;
            m_tangent = footing->tangent;
            return true;
        }
        m_tangent.assign(items, 0.0);
        items = 0;
        for (const auto& group : m_problem.groups) {
            m_tangent[items] = 1;
            items += group.size();
        }
        return false;
    }

    /// The relaxed choice, made dearer until it fits, then where asked exchanges of one and of two groups uphill.
    void startFrom(const Relaxed& root, bool exchange) {
        Relaxation relaxation(m_linear);
        Numbers lambda = root.lambda;
        for (std::size_t r = 0; r < m_linear.resources; ++r)
            lambda[r] = std::max(lambda[r], 1e-6 * std::max(1.0, root.bound) / m_linear.scale[r]);
        Items items;
        for (int attempt = 0; attempt < 100; ++attempt) {
            relaxation.evaluate(m_free, m_frames[0].alive, m_linear.capacity, lambda, items);
            if (m_exact.fits(items)) {
                while (exchange && exchanged(items)) {
                }
                return keep(items);
            }
            for (double& l : lambda) l *= 1.08;
        }
    }

    /// The best exchange in one or two groups that still fits; false where there is none. The tangents sort out most.
    bool exchanged(Items& items) const {
        Numbers left = m_linear.capacity;
        for (std::size_t g = 0; g < items.size(); ++g)
            for (std::size_t r = 0; r < left.size(); ++r) left[r] -= m_linear.useOf(m_linear.first[g] + items[g])[r];
        Items best = items, other = items;
        double most = 0;
        Nearby nearby(m_problem);
        nearby.around(items, m_free);
        const auto more = [&](std::size_t g, auto numberOf) {
            return numberOf(m_linear.first[g] + other[g]) - numberOf(m_linear.first[g] + items[g]);
        };
        const auto tryOut = [&](std::size_t g, std::size_t h) {
            const auto of = [&](auto numberOf) { return more(g, numberOf) + (h == g ? 0 : more(h, numberOf)); };
            const double gain = of([&](std::size_t item) { return m_linear.value[item]; });
            if (gain <= most) return;
            for (std::size_t r = 0; r < left.size(); ++r)
                if (of([&](std::size_t item) { return m_linear.useOf(item)[r]; }) > left[r] + 1e-6) return;
            const std::array<Nearby::Change, 2> changes{{{g, other[g]}, {h, other[h]}}};
            if (!nearby.mayFit(std::span(changes).first(h == g ? 1 : 2)) || !m_exact.fits(other)) return;
            most = gain;
            best = other;
        };
        for (std::size_t g = 0; g < items.size(); ++g) {
            for (other[g] = 0; other[g] < m_problem.groups[g].size(); ++other[g]) {
                tryOut(g, g);
                for (std::size_t h = 0; h < g; ++h) {
                    for (other[h] = 0; other[h] < m_problem.groups[h].size(); ++other[h]) tryOut(g, h);
                    other[h] = items[h];
                }
            }
            other[g] = items[g];
        }
        items = best;
        return most > 0;
    }

    /// Of equals the lexicographically highest stays.
    void keep(const Items& items) {
        const auto value = m_exact.value(items);
        if (value < m_need || (m_best && value == m_need && items <= *m_best)) return;
        m_best = items;
        m_need = value;
    }

    // The search. m_free[0 ... depth) are decided; m_room is what they leave, m_rest what is left of that once each
    // free group takes its least.

    struct Survivor {
        std::size_t item;
        double regret;
    };
    struct Frame {
        Relaxed at;
        Relaxation::Alive alive;
        std::vector<Survivor> items, others;
    };

    /// What a bound must reach, lest nothing be lost that matters.
    [[nodiscard]] double threshold(std::int64_t value = 0) const {
        return static_cast<double>(m_need + (m_best || m_effort.beats ? m_effort.mayMiss : 0) - value);
    }
    [[nodiscard]] bool reaches(double bound, std::int64_t value) const {
        return std::floor(bound + 1e-6) >= threshold(value);
    }

    /// Items of a group that may still lead to `need`, the most promising first.
    void survivors(const Relaxation& relaxation, std::size_t g, const Relaxed& at, std::int64_t value,
                   std::uint64_t& alive, std::vector<Survivor>& out) const {
        out.clear();
        const std::size_t first = m_linear.first[g];
        const double top = relaxation.worth(first + at.picks[g], at.lambda);
        for (std::uint64_t left = std::exchange(alive, 0); left != 0; left &= left - 1) {
            const auto i = static_cast<std::size_t>(std::countr_zero(left));
            const double regret = top - relaxation.worth(first + i, at.lambda);
            if (!reaches(at.bound - regret, value) || !hasRoom(g, i)) continue;
            out.push_back({i, regret});
            alive |= std::uint64_t{1} << i;
        }
    }

    [[nodiscard]] bool hasRoom(std::size_t g, std::size_t i) const {
        for (std::size_t r = 0; r < m_linear.resources; ++r)
            if (m_linear.useOf(m_linear.first[g] + i)[r] - m_linear.least[g * m_linear.resources + r] >
                m_rest[r] + 1e-6)
                return false;
        return true;
    }

    void choose(std::size_t g, std::size_t i) {
        m_items[g] = i;
        move(g, -1);
    }
    void move(std::size_t g, double sign) {
        for (std::size_t r = 0; r < m_room.size(); ++r) {
            const double use = m_linear.useOf(m_linear.first[g] + m_items[g])[r];
            m_room[r] += sign * use;
            m_rest[r] += sign * (use - m_linear.least[g * m_linear.resources + r]);
        }
    }

    /// The free group with the fewest items left, of those the one whose second item costs most; none when one has no
    /// item left.
    std::optional<std::size_t> branchOn(const Relaxation& relaxation, std::size_t depth, std::int64_t value) {
        Frame& frame = m_frames[depth];
        std::optional<std::size_t> where;
        for (std::size_t k = depth; k < m_free.size(); ++k) {
            auto& now = frame.others;
            survivors(relaxation, m_free[k], frame.at, value, frame.alive[m_free[k]], now);
            if (now.empty()) return std::nullopt;
            std::sort(now.begin(), now.end(), [](const Survivor& a, const Survivor& b) { return a.regret < b.regret; });
            const bool dearer =
                where && now.size() == frame.items.size() && now.size() > 1 && now[1].regret > frame.items[1].regret;
            if (!where || now.size() < frame.items.size() || dearer) {
                frame.items.swap(now);
                where = k;
            }
        }
        return where;
    }

    void descend(Relaxation& relaxation, std::size_t depth, std::int64_t value, int steps) {
        if (++m_nodes > m_effort.nodes || (m_nodes % 512 == 0 && m_context.cancelled())) m_stopped = true;
        if (m_stopped) return;
        for (const double v : m_rest)
            if (v < -1e-6) return;
        if (m_free.size() - depth <= Nearby::most) {
            m_last = std::span(m_free).subspan(depth);
            m_lastSeen = false;
            return finish(depth, value);
        }
        Frame& frame = m_frames[depth];
        relaxation.tighten(std::span(m_free).subspan(depth), frame.alive, m_room, threshold(value), steps, frame.at);
        if (!reaches(frame.at.bound, value)) return;
        const auto where = branchOn(relaxation, depth, value);
        if (!where) return;
        std::swap(m_free[depth], m_free[*where]);
        const std::size_t g = m_free[depth];
        for (const auto& s : frame.items) {
            if (!reaches(frame.at.bound - s.regret, value)) break;
            choose(g, s.item);
            m_frames[depth + 1].at.lambda = frame.at.lambda;
            m_frames[depth + 1].alive = frame.alive;
            // A group with one item left leaves the bound as it was.
            descend(relaxation, depth + 1, value + m_problem.groups[g][s.item].value,
                    frame.items.size() == 1 ? 1 : nodeSteps);
            move(g, 1);
        }
        std::swap(m_free[depth], m_free[*where]);
    }

    /// The last groups, every combination that is worth enough and has room.
    void finish(std::size_t depth, std::int64_t value) {
        if (depth == m_free.size()) {
            if (value >= m_need && mayFit() && m_exact.fits(m_items)) keep(m_items);
            return;
        }
        const std::size_t g = m_free[depth];
        std::int64_t later = 0;
        for (std::size_t k = depth + 1; k < m_free.size(); ++k) later += m_dearest[m_free[k]];
        const std::uint64_t alive = m_frames[depth].alive[g];
        for (std::uint64_t rest = alive; rest != 0; rest &= rest - 1) {
            const auto i = static_cast<std::size_t>(std::countr_zero(rest));
            const auto with = value + m_problem.groups[g][i].value;
            if (with + later < m_need || !hasRoom(g, i)) continue;
            choose(g, i);
            m_frames[depth + 1].alive = m_frames[depth].alive;
            finish(depth + 1, with);
            move(g, 1);
        }
    }

    /// Whether the choice may fit: it differs in the last groups from the first of them that was asked about.
    bool mayFit() {
        if (!m_lastSeen) m_nearby.around(m_items, m_last);
        m_lastSeen = true;
        std::array<Nearby::Change, Nearby::most> changes{};
        std::transform(m_last.begin(), m_last.end(), changes.begin(), [&](std::size_t g) {
            return Nearby::Change{g, m_items[g]};
        });
        return m_nearby.mayFit(std::span(changes).first(m_last.size()));
    }

    Choice result() {
        Choice choice;
        choice.nodes = m_nodes;
        if (!m_best) {
            choice.bound = static_cast<std::int64_t>(std::floor(m_rootBound + 1e-6));
            return choice;
        }
        choice.items = *m_best;
        choice.value = m_exact.value(choice.items);
        choice.bound = std::max(choice.value, static_cast<std::int64_t>(std::floor(m_rootBound + 1e-6)));
        if (!m_stopped) choice.bound = std::min(choice.bound, choice.value + m_effort.mayMiss);
        choice.proven = choice.bound == choice.value;
        choice.margin = m_exact.margins(choice.items);
        choice.left = m_exact.left(choice.items);
        for (std::size_t r = 0; r < choice.left.size(); ++r) choice.left[r] -= choice.margin[r];
        return choice;
    }

    const Problem& m_problem;
    const Exact m_exact;
    const Context& m_context;
    const Effort& m_effort;
    std::uint64_t m_nodes = 0;
    Linear m_linear;
    std::vector<std::size_t> m_free;
    std::vector<Frame> m_frames; // by depth
    Numbers m_room, m_rest;
    Numbers m_multipliers;
    Shares m_tangent;
    double m_rootBound = infinity; // on any choice
    Items m_items;
    Nearby m_nearby;
    std::span<const std::size_t> m_last; // groups that are finished
    bool m_lastSeen = false;
    std::optional<Items> m_best;
    std::vector<std::int64_t> m_dearest; // value, by group
    std::int64_t m_need = 0;             // what a choice must be worth to matter
    bool m_stopped = false;
};

} // namespace

Result<Choice> solve(const Problem& problem, const Context& context, const Effort& effort) {
    return Search(problem, context, effort).run();
}

} // namespace impasto::choose
