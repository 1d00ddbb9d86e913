// SPDX-License-Identifier: GPL-3.0-or-later
#include "relaxation.h"

#include <bit>
#include <cmath>

namespace impasto::choose {
namespace {

/// Indices into the covariance that a choice holds: the constant, then one for each item that has a column.
std::vector<std::size_t> columnsOf(const DoubtMargin& margin, const Items& items) {
    std::vector<std::size_t> held{0};
    for (std::size_t g = 0; g < items.size(); ++g)
        if (const int column = margin.columnOf[g][items[g]]; column > 0)
            held.push_back(static_cast<std::size_t>(column));
    return held;
}

std::int64_t marginOf(const DoubtMargin& margin, const Items& items) {
    const auto held = columnsOf(margin, items);
    const std::size_t n = margin.columns();
    double variance = 0;
    for (const auto i : held)
        for (const auto j : held) variance += margin.covariance[i * n + j];
    return static_cast<std::int64_t>(std::ceil(margin.factor * std::sqrt(std::max(0.0, variance)) - 1e-9));
}

/// The tangent of a margin: constant + the sum over the columns that a choice holds.
struct Tangent {
    double constant = 0;
    std::vector<double> ofColumn;
    [[nodiscard]] double of(int column) const { return column > 0 ? ofColumn[static_cast<std::size_t>(column)] : 0.0; }
};

Tangent tangentAt(const DoubtMargin& margin, const Linear& linear, const Shares& at) {
    const std::size_t n = margin.columns();
    std::vector<double> held(n, 0.0);
    held[0] = 1;
    for (std::size_t g = 0; g < margin.columnOf.size(); ++g)
        for (std::size_t i = 0; i < margin.columnOf[g].size(); ++i)
            if (const int column = margin.columnOf[g][i]; column > 0)
                held[static_cast<std::size_t>(column)] += at[linear.first[g] + i];
    Tangent out{0, std::vector<double>(n, 0.0)};
    double variance = 0;
    for (std::size_t j = 0; j < n; ++j) {
        if (held[j] == 0) continue;
        const double* const row = margin.covariance.data() + j * n;
        for (std::size_t i = 0; i < n; ++i) out.ofColumn[i] += held[j] * row[i];
    }
    for (std::size_t i = 0; i < n; ++i) variance += held[i] * out.ofColumn[i];
    const double factor = variance > 0 ? margin.factor / std::sqrt(variance) : 0.0;
    for (double& v : out.ofColumn) v *= factor;
    out.constant = out.ofColumn[0];
    return out;
}

} // namespace

std::int64_t Exact::value(const Items& items) const {
    std::int64_t sum = 0;
    for (std::size_t g = 0; g < items.size(); ++g) sum += m_problem.groups[g][items[g]].value;
    return sum;
}

std::vector<std::int64_t> Exact::margins(const Items& items) const {
    std::vector<std::int64_t> out(m_problem.capacity.size(), 0);
    for (const auto& m : m_problem.margins) out[m.resource] += marginOf(m, items);
    return out;
}

std::vector<std::int64_t> Exact::left(const Items& items) const {
    std::vector<std::int64_t> out = m_problem.capacity;
    for (std::size_t g = 0; g < items.size(); ++g)
        for (std::size_t r = 0; r < out.size(); ++r) out[r] -= m_problem.groups[g][items[g]].use[r];
    return out;
}

bool Exact::fits(const Items& items) const {
    auto room = left(items);
    for (const auto v : room)
        if (v < 0) return false;
    for (const auto& m : m_problem.margins)
        if ((room[m.resource] -= marginOf(m, items)) < 0) return false;
    return true;
}

void Nearby::around(const Items& items, std::span<const std::size_t> groups) {
    m_items = items;
    const auto left = Exact(m_problem).left(items);
    for (std::size_t k = 0; k < m_margins.size(); ++k) {
        const auto& margin = m_problem.margins[k];
        const std::size_t n = margin.columns();
        const auto held = columnsOf(margin, items);
        auto& out = m_margins[k];
        out.left = static_cast<double>(left[margin.resource]);
        out.with.resize(n);
        const auto sumOf = [&](std::size_t column) {
            const double* const row = margin.covariance.data() + column * n;
            double sum = 0;
            for (const auto j : held) sum += row[j];
            return sum;
        };
        out.variance = 0;
        for (const auto i : held) out.variance += out.with[i] = sumOf(i);
        for (const auto g : groups)
            for (const auto column : margin.columnOf[g])
                if (const auto c = static_cast<std::size_t>(column); column > 0) out.with[c] = sumOf(c);
    }
}

bool Nearby::mayFit(std::span<const Change> changes) const {
    for (std::size_t k = 0; k < m_margins.size(); ++k) {
        const auto& margin = m_problem.margins[k];
        const std::size_t n = margin.columns();
        double left = m_margins[k].left, variance = m_margins[k].variance;
        std::array<std::pair<std::size_t, double>, 2 * most> moved; // columns that come and go
        std::size_t count = 0;
        for (const auto& [group, item] : changes)
            for (const auto& [i, sign] : {std::pair(item, 1.0), {m_items[group], -1.0}}) {
                left -= sign * static_cast<double>(m_problem.groups[group][i].use[margin.resource]);
                if (const int column = margin.columnOf[group][i]; column > 0)
                    moved[count++] = {static_cast<std::size_t>(column), sign};
            }
        for (std::size_t a = 0; a < count; ++a) {
            const auto& [i, sign] = moved[a];
            double more = 2 * m_margins[k].with[i] + sign * margin.covariance[i * n + i];
            for (std::size_t b = 0; b < a; ++b) more += 2 * moved[b].second * margin.covariance[i * n + moved[b].first];
            variance += sign * more;
        }
        // Sums in another order differ by less than a whole unit.
        if (margin.factor * std::sqrt(std::max(0.0, variance)) > left + 1) return false;
    }
    return true;
}

Linear linearAt(const Problem& problem, const Shares& at) {
    Linear out;
    out.resources = problem.capacity.size();
    out.capacity.assign(problem.capacity.begin(), problem.capacity.end());
    out.first.push_back(0);
    for (const auto& group : problem.groups) {
        for (const auto& item : group) {
            out.value.push_back(static_cast<double>(item.value));
            out.use.insert(out.use.end(), item.use.begin(), item.use.end());
        }
        out.first.push_back(out.value.size());
    }
    for (const auto& margin : problem.margins) {
        const Tangent tangent = tangentAt(margin, out, at);
        out.capacity[margin.resource] -= tangent.constant;
        for (std::size_t g = 0; g < out.groups(); ++g)
            for (std::size_t i = out.first[g]; i < out.first[g + 1]; ++i)
                out.use[i * out.resources + margin.resource] += tangent.of(margin.columnOf[g][i - out.first[g]]);
    }
    out.scale.assign(out.resources, 1.0);
    out.least.assign(out.groups() * out.resources, infinity);
    for (std::size_t g = 0; g < out.groups(); ++g)
        for (std::size_t i = out.first[g]; i < out.first[g + 1]; ++i)
            for (std::size_t r = 0; r < out.resources; ++r) {
                out.scale[r] = std::max(out.scale[r], std::abs(out.useOf(i)[r]));
                double& least = out.least[g * out.resources + r];
                least = std::min(least, out.useOf(i)[r]);
            }
    return out;
}

void Relaxation::tighten(std::span<const std::size_t> groups, const Alive& alive, const Numbers& room, double need,
                         int steps, Relaxed& at, double pace, Shares* mixture) {
    m_lambda = at.lambda;
    at.bound = infinity;
    double lengths = 0;
    const auto mix = [&](double length) {
        if (mixture->empty()) mixture->assign(m_linear.value.size(), 0.0);
        lengths += length;
        for (const auto g : groups) (*mixture)[m_linear.first[g] + m_picks[g]] += length;
    };
    if (mixture) mixture->clear();
    int stale = 0;
    for (int step = 0; step < steps; ++step) {
        const double bound = evaluate(groups, alive, room, m_lambda, m_picks);
        if (bound < at.bound - 1e-9) {
            at.bound = bound;
            at.lambda = m_lambda;
            at.picks = m_picks;
            stale = 0;
        } else if (++stale % 3 == 0) {
            pace *= 0.7;
        }
        if (std::floor(at.bound + 1e-6) < need) break;
        double norm = 0;
        for (std::size_t r = 0; r < m_linear.resources; ++r) {
            if (m_lambda[r] <= 0 && m_slack[r] > 0) m_slack[r] = 0;
            m_slack[r] /= m_linear.scale[r];
            norm += m_slack[r] * m_slack[r];
        }
        if (norm <= 0) break;
        const double length = pace * (bound - need + 1) / norm;
        if (mixture && 3 * step >= steps) mix(length);
        for (std::size_t r = 0; r < m_linear.resources; ++r)
            m_lambda[r] = std::max(0.0, m_lambda[r] - length * m_slack[r] / m_linear.scale[r]);
    }
    if (mixture)
        for (double& share : *mixture) share /= lengths;
}

double Relaxation::evaluate(std::span<const std::size_t> groups, const Alive& alive, const Numbers& room,
                            const Numbers& lambda, Items& picks) {
    picks.resize(m_linear.groups());
    const std::size_t resources = m_linear.resources;
    double bound = 0;
    m_priced.clear(); // most resources have room to spare: they cost nothing
    for (std::size_t r = 0; r < resources; ++r) {
        bound += lambda[r] * room[r];
        m_slack[r] = room[r];
        if (lambda[r] != 0) m_priced.emplace_back(r, lambda[r]);
    }
    double* const slack = m_slack.data();
    for (const auto g : groups) {
        const double* const value = m_linear.value.data() + m_linear.first[g];
        const double* const use = m_linear.useOf(m_linear.first[g]);
        double top = -infinity;
        std::size_t pick = picks[g];
        for (std::uint64_t left = alive[g]; left != 0; left &= left - 1) {
            const auto i = static_cast<std::size_t>(std::countr_zero(left));
            const double* const of = use + i * resources;
            double worth = value[i];
            for (const auto& [r, price] : m_priced) worth -= price * of[r];
            if (worth > top) {
                top = worth;
                pick = i;
            }
        }
        picks[g] = pick;
        bound += top;
        const double* const of = use + pick * resources;
        for (std::size_t r = 0; r < resources; ++r) slack[r] -= of[r];
    }
    return bound;
}

} // namespace impasto::choose
