// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/knapsack.h>

#include <cmath>
#include <limits>
#include <optional>

namespace impasto::choose {
namespace {

using Multipliers = std::vector<double>;

class Search {
  public:
    Search(const Problem& problem, const Context& context, std::uint64_t nodeLimit)
        : m_problem(problem), m_context(context), m_nodeLimit(nodeLimit), m_groups(problem.groups.size()),
          m_resources(problem.capacity.size()) {
        m_leastUse.assign(m_groups + 1, std::vector<std::int64_t>(m_resources, 0));
        for (std::size_t g = m_groups; g-- > 0;)
            for (std::size_t r = 0; r < m_resources; ++r) {
                std::int64_t least = std::numeric_limits<std::int64_t>::max();
                for (const auto& item : problem.groups[g]) least = std::min(least, item.use[r]);
                m_leastUse[g][r] = m_leastUse[g + 1][r] + least;
            }
        addMultipliers();
    }

    Result<Choice> run() {
        const auto start = greedy();
        m_best = start ? *start - 1 : std::numeric_limits<std::int64_t>::min();
        m_items.assign(m_groups, 0);
        std::vector<std::int64_t> used(m_resources, 0);
        descend(0, 0, used);
        if (m_context.cancelled()) return fail(ErrorCode::Cancelled);
        if (!m_found && start) { // the search was cut before it met the start again
            m_found = m_greedy;
            m_best = *start;
        }
        if (!m_found) return fail(ErrorCode::NothingFits);
        return result();
    }

  private:
    /// Best of value - lambda * use of each later group, summed, for one set of multipliers.
    struct Relaxation {
        Multipliers lambda;
        std::vector<double> rest; // of groups g ... end
    };

    [[nodiscard]] std::size_t bestItem(std::size_t g, const Multipliers& lambda) const {
        const auto& group = m_problem.groups[g];
        std::size_t best = 0;
        double top = -std::numeric_limits<double>::infinity();
        for (std::size_t i = 0; i < group.size(); ++i) {
            const double worth = reduced(group[i], lambda);
            if (worth > top) {
                top = worth;
                best = i;
            }
        }
        return best;
    }

    [[nodiscard]] double reduced(const Item& item, const Multipliers& lambda) const {
        double worth = static_cast<double>(item.value);
        for (std::size_t r = 0; r < m_resources; ++r) worth -= lambda[r] * static_cast<double>(item.use[r]);
        return worth;
    }

    /// Subgradient search for the multipliers that bound best the groups from g on, with `room` of each resource.
    void improve(Multipliers& lambda, std::size_t g, const std::vector<double>& room, int steps) const {
        Multipliers best = lambda;
        double least = std::numeric_limits<double>::infinity();
        double stepScale = 1.0;
        for (int step = 0; step < steps; ++step) {
            double bound = 0;
            std::vector<double> slack = room;
            for (std::size_t r = 0; r < m_resources; ++r) bound += lambda[r] * room[r];
            for (std::size_t k = g; k < m_groups; ++k) {
                const auto& item = m_problem.groups[k][bestItem(k, lambda)];
                bound += reduced(item, lambda);
                for (std::size_t r = 0; r < m_resources; ++r) slack[r] -= static_cast<double>(item.use[r]);
            }
            if (bound < least) {
                least = bound;
                best = lambda;
            } else {
                stepScale *= 0.95;
            }
            double norm = 0;
            for (std::size_t r = 0; r < m_resources; ++r) norm += slack[r] * slack[r] / (m_scale[r] * m_scale[r]);
            if (norm <= 0) break;
            for (std::size_t r = 0; r < m_resources; ++r)
                lambda[r] = std::max(0.0, lambda[r] - stepScale * 0.05 * m_valueScale / m_scale[r] *
                                                          (slack[r] / m_scale[r]) / std::sqrt(norm));
        }
        lambda = best;
    }

    void addMultipliers() {
        m_scale.assign(m_resources, 1.0);
        m_valueScale = 1.0;
        for (const auto& group : m_problem.groups)
            for (const auto& item : group) {
                m_valueScale = std::max(m_valueScale, std::abs(static_cast<double>(item.value)));
                for (std::size_t r = 0; r < m_resources; ++r)
                    m_scale[r] = std::max(m_scale[r], std::abs(static_cast<double>(item.use[r])));
            }
        std::vector<double> room(m_problem.capacity.begin(), m_problem.capacity.end());
        Multipliers lambda(m_resources, 0.0);
        improve(lambda, 0, room, 400);
        addRelaxation(lambda);
        // A second one, tuned to the later half with an even share of what the first leaves there.
        std::vector<double> later = room;
        for (std::size_t g = 0; g < m_groups / 2; ++g) {
            const auto& item = m_problem.groups[g][bestItem(g, lambda)];
            for (std::size_t r = 0; r < m_resources; ++r) later[r] -= static_cast<double>(item.use[r]);
        }
        Multipliers second = lambda;
        improve(second, m_groups / 2, later, 200);
        addRelaxation(second);
        addRelaxation(Multipliers(m_resources, 0.0));
    }

    void addRelaxation(const Multipliers& lambda) {
        Relaxation relaxation{lambda, std::vector<double>(m_groups + 1, 0.0)};
        for (std::size_t g = m_groups; g-- > 0;)
            relaxation.rest[g] = relaxation.rest[g + 1] + reduced(m_problem.groups[g][bestItem(g, lambda)], lambda);
        m_relaxations.push_back(std::move(relaxation));
    }

    [[nodiscard]] double boundAt(std::size_t g, std::int64_t value, const std::vector<std::int64_t>& used) const {
        double least = std::numeric_limits<double>::infinity();
        for (const auto& relaxation : m_relaxations) {
            double bound = static_cast<double>(value) + relaxation.rest[g];
            for (std::size_t r = 0; r < m_resources; ++r)
                bound += relaxation.lambda[r] * static_cast<double>(m_problem.capacity[r] - used[r]);
            least = std::min(least, bound);
        }
        return least;
    }

    [[nodiscard]] std::int64_t marginOf(const DoubtMargin& margin, std::size_t g) const {
        const auto& least = margin.leastCovariance[g];
        const std::size_t n = margin.columnsUpTo[g] + 1;
        std::array<std::size_t, 256> held{};
        std::size_t count = 1;
        for (std::size_t k = 0; k < g; ++k)
            if (const int column = margin.columnOf[k][m_items[k]]; column > 0)
                held[count++] = static_cast<std::size_t>(column);
        double variance = 0;
        for (std::size_t i = 0; i < count; ++i)
            for (std::size_t j = 0; j < count; ++j) variance += least[held[i] * n + held[j]];
        return static_cast<std::int64_t>(std::ceil(margin.factor * std::sqrt(std::max(0.0, variance)) - 1e-9));
    }

    [[nodiscard]] bool roomFor(std::size_t g, const std::vector<std::int64_t>& used) const {
        for (std::size_t r = 0; r < m_resources; ++r)
            if (used[r] + m_leastUse[g][r] > m_problem.capacity[r]) return false;
        for (const auto& margin : m_problem.margins)
            if (used[margin.resource] + m_leastUse[g][margin.resource] + marginOf(margin, g) >
                m_problem.capacity[margin.resource])
                return false;
        return true;
    }

    void descend(std::size_t g, std::int64_t value, std::vector<std::int64_t>& used) {
        if (m_stopped) return;
        if (++m_nodes > m_nodeLimit || (m_nodes % 4096 == 0 && m_context.cancelled())) {
            m_stopped = true;
            return;
        }
        if (!roomFor(g, used)) return;
        if (g == m_groups) {
            m_best = value;
            m_found = m_items;
            return;
        }
        const auto& group = m_problem.groups[g];
        for (std::size_t i = group.size(); i-- > 0;) {
            m_items[g] = i;
            for (std::size_t r = 0; r < m_resources; ++r) used[r] += group[i].use[r];
            const double bound = boundAt(g + 1, value + group[i].value, used);
            if (m_best == std::numeric_limits<std::int64_t>::min() ||
                std::floor(bound + 1e-6) > static_cast<double>(m_best))
                descend(g + 1, value + group[i].value, used);
            for (std::size_t r = 0; r < m_resources; ++r) used[r] -= group[i].use[r];
        }
        m_items[g] = 0;
    }

    /// A feasible value to start from: the relaxed choice, made dearer until it fits, then single exchanges uphill.
    std::optional<std::int64_t> greedy() {
        Multipliers lambda = m_relaxations.front().lambda;
        for (std::size_t r = 0; r < m_resources; ++r) lambda[r] += 1e-9 * m_valueScale / m_scale[r];
        for (int attempt = 0; attempt < 200; ++attempt) {
            m_items.assign(m_groups, 0);
            for (std::size_t g = 0; g < m_groups; ++g) m_items[g] = bestItem(g, lambda);
            if (fits()) break;
            for (double& l : lambda) l *= 1.1;
        }
        if (!fits()) return std::nullopt;
        for (bool better = true; better;) {
            better = false;
            for (std::size_t g = 0; g < m_groups; ++g) {
                const std::size_t now = m_items[g];
                std::size_t best = now;
                for (std::size_t i = 0; i < m_problem.groups[g].size(); ++i) {
                    m_items[g] = i;
                    if (m_problem.groups[g][i].value > m_problem.groups[g][best].value && fits()) best = i;
                }
                m_items[g] = best;
                better = better || best != now;
            }
        }
        m_greedy = m_items;
        std::int64_t value = 0;
        for (std::size_t g = 0; g < m_groups; ++g) value += m_problem.groups[g][m_items[g]].value;
        return value;
    }

    [[nodiscard]] std::vector<std::int64_t> useOf(const std::vector<std::size_t>& items) const {
        std::vector<std::int64_t> used(m_resources, 0);
        for (std::size_t g = 0; g < m_groups; ++g)
            for (std::size_t r = 0; r < m_resources; ++r) used[r] += m_problem.groups[g][items[g]].use[r];
        return used;
    }

    [[nodiscard]] bool fits() const { return roomFor(m_groups, useOf(m_items)); }

    Choice result() {
        Choice choice;
        choice.items = *m_found;
        choice.value = m_best;
        choice.nodes = m_nodes;
        choice.proven = !m_stopped;
        choice.bound =
            m_stopped
                ? static_cast<std::int64_t>(std::floor(boundAt(0, 0, std::vector<std::int64_t>(m_resources, 0)) + 1e-6))
                : m_best;
        choice.margin.assign(m_resources, 0);
        m_items = *m_found;
        for (const auto& margin : m_problem.margins)
            choice.margin[margin.resource] = std::max(choice.margin[margin.resource], marginOf(margin, m_groups));
        const auto used = useOf(*m_found);
        for (std::size_t r = 0; r < m_resources; ++r)
            choice.left.push_back(m_problem.capacity[r] - used[r] - choice.margin[r]);
        return choice;
    }

    const Problem& m_problem;
    const Context& m_context;
    std::uint64_t m_nodeLimit;
    std::size_t m_groups, m_resources;
    std::vector<std::vector<std::int64_t>> m_leastUse;
    std::vector<double> m_scale;
    double m_valueScale = 1.0;
    std::vector<Relaxation> m_relaxations;
    std::vector<std::size_t> m_items, m_greedy;
    std::optional<std::vector<std::size_t>> m_found;
    std::int64_t m_best = 0;
    std::uint64_t m_nodes = 0;
    bool m_stopped = false;
};

} // namespace

Result<Choice> solve(const Problem& problem, const Context& context, std::uint64_t nodeLimit) {
    return Search(problem, context, nodeLimit).run();
}

} // namespace impasto::choose
