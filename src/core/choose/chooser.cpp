// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/chooser.h>

#include <cmath>
#include <numeric>

namespace impasto::choose {
namespace {

constexpr double unitsPerMs = 1000, unitsPerMib = 100, unitsOfPicture = 1e5;

double unitsOf(cost::Resource resource) {
    return resource == cost::Resource::GpuMemory ? unitsPerMib : unitsPerMs;
}

/// Whatever a crafted session says stays far inside whole numbers.
std::int64_t whole(double value) {
    constexpr double most = 1e14;
    return static_cast<std::int64_t>(std::isnan(value) ? -most : std::clamp(value, -most, most));
}
std::int64_t up(double value) {
    return whole(std::ceil(value - 1e-6));
}
std::int64_t down(double value) {
    return whole(std::floor(value));
}

/// Chance that a standard normal value lies below.
double below(double z) {
    return 0.5 * std::erfc(-z / std::sqrt(2.0));
}

/// What settings cost apart, with what one run's means vary by.
cost::ToldTogether withNoise(const cost::Belief& belief, std::size_t resource, std::size_t part, std::size_t size,
                             std::size_t model) {
    const double noise = belief.runSd(belief.resources()[resource], model);
    auto costs = belief.linear(belief.resources()[resource], part, size, model);
    const std::size_t n = costs.mean.size();
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = 0; j < n; ++j)
            costs.covariance[i * n + j] += noise * noise * costs.mean[i] * costs.mean[j];
    return costs;
}

} // namespace

Chooser::Chooser(cost::Belief believed, const game::Game& game, Allowed allowed, std::vector<frames::BesideGpu> beside)
    : m_belief(std::move(believed)), m_allowed(std::move(allowed)), m_beside(std::move(beside)) {
    const auto& belief = m_belief;
    const auto& layout = belief.layout();
    const auto& all = belief.resources();
    m_cpu = static_cast<std::size_t>(std::find(all.begin(), all.end(), cost::Resource::Cpu) - all.begin());
    for (auto& each : m_beside)
        if (m_cpu == all.size()) each.cpuShare = 0;
    double weights = 0;
    for (const auto& setting : game.settings) weights += setting.pictureWeight();
    const auto valuesOf = [&](const std::string& id) {
        std::vector<std::int64_t> out;
        if (const auto* setting = game.setting(id))
            for (const auto& level : setting->levels)
                out.push_back(std::llround(unitsOfPicture * setting->pictureWeight() * level.picture /
                                           (weights > 0 ? weights : 1.0)));
        return out;
    };
    std::size_t column = 1;
    for (const auto& dial : layout.dials) {
        m_values.push_back(valuesOf(dial.setting));
        m_first.push_back(column);
        column += dial.levels.size() - 1;
    }
    for (const auto& size : layout.sizes) {
        auto& value = m_sizeValues.emplace_back(0);
        for (const auto& [setting, level] : size.levels)
            value += valuesOf(setting)[*game.setting(setting)->levelIndex(level)];
    }
    for (std::size_t k = 0; k < belief.resources().size(); ++k)
        for (std::size_t model = 0; model < belief.weights().size(); ++model)
            for (std::size_t p = 0; p < belief.partsOf(belief.resources()[k]); ++p) {
                Row row{k, p, model, {}};
                for (std::size_t g = 0; g < layout.sizes.size(); ++g) {
                    auto costs = withNoise(belief, k, p, g, model);
                    const auto [share, ms, explained] = besideOf(k, p);
                    costs.mean[0] += ms;
                    if (share > 0) {
                        const auto others = withNoise(belief, m_cpu, p, g, model);
                        for (std::size_t i = 0; i < costs.mean.size(); ++i) costs.mean[i] += share * others.mean[i];
                        for (std::size_t i = 0; i < costs.covariance.size(); ++i)
                            costs.covariance[i] += share * share * others.covariance[i];
                    }
                    row.bySize.push_back(std::move(costs));
                }
                m_rows.push_back(std::move(row));
            }
}

double Chooser::picture(const cost::Set& set) const {
    std::int64_t sum = m_sizeValues[set.size];
    for (std::size_t s = 0; s < set.levels.size(); ++s) sum += m_values[s][set.levels[s]];
    return static_cast<double>(sum) / unitsOfPicture;
}

std::pair<double, double> Chooser::linearOf(const Row& row, const cost::Set& set) const {
    const auto& costs = row.bySize[set.size];
    const std::size_t n = costs.mean.size();
    std::vector<std::size_t> held{0};
    for (std::size_t s = 0; s < set.levels.size(); ++s)
        if (set.levels[s] > 0) held.push_back(m_first[s] + set.levels[s] - 1);
    double mean = 0, variance = 0;
    for (const auto i : held) {
        mean += costs.mean[i];
        for (const auto j : held) variance += costs.covariance[i * n + j];
    }
    return {mean, std::sqrt(std::max(0.0, variance))};
}

double Chooser::meanOf(const Row& row, const cost::Set& set) const {
    const auto& means = row.bySize[set.size].mean;
    double out = means[0];
    for (std::size_t s = 0; s < set.levels.size(); ++s)
        if (set.levels[s] > 0) out += means[m_first[s] + set.levels[s] - 1];
    return out;
}

frames::BesideGpu Chooser::besideOf(std::size_t resource, std::size_t part) const {
    const bool told = part < m_beside.size() && m_belief.resources()[resource] == cost::Resource::Gpu;
    return told ? m_beside[part] : frames::BesideGpu();
}

Chooser::Takes Chooser::takes(std::size_t resource, std::size_t part, const cost::Set& set, std::size_t model) const {
    const auto [cpuShare, ms, explained] = besideOf(resource, part);
    Takes out{ms};
    const auto add = [&](std::size_t k, double share) {
        const auto told = m_belief.tell(m_belief.resources()[k], part, set, model);
        const double run = share * m_belief.runSd(m_belief.resources()[k], model) * told.mean;
        out.mean += share * told.mean;
        out.variance += share * share * told.variance;
        out.ofRun += run * run;
    };
    if (cpuShare > 0) add(m_cpu, cpuShare);
    out.beside = out.mean;
    add(resource, 1);
    return out;
}

std::pair<double, double> Chooser::trueOf(const Row& row, const cost::Set& set) const {
    const auto all = takes(row.resource, row.part, set, row.model);
    return {all.mean, all.deviation()};
}

Standing Chooser::standing(const cost::Set& set, const Room& room) const {
    Standing out{1e9, 1};
    std::vector<double> failing(m_belief.weights().size(), 0.0);
    for (const auto& row : m_rows) {
        const auto [mean, sd] = trueOf(row, set);
        const double z = (room[row.resource][row.part] - mean) / std::max(sd, 1e-9);
        out.sure = std::min(out.sure, z);
        failing[row.model] += 1 - below(z);
    }
    double weights = 0, chance = 0;
    for (std::size_t m = 0; m < failing.size(); ++m) {
        weights += m_belief.weights()[m];
        chance += m_belief.weights()[m] * std::max(0.0, 1 - failing[m]);
    }
    out.chance = chance / weights;
    return out;
}

Chooser::Filled Chooser::filled(const cost::Set& set, const Room& room, double safety) const {
    Filled out;
    for (const auto& row : m_rows) {
        const auto [mean, sd] = trueOf(row, set);
        auto& most = m_belief.resources()[row.resource] == cost::Resource::GpuMemory ? out.memory : out.time;
        most = std::max(most, (mean + safety * sd) / room[row.resource][row.part]);
    }
    return out;
}

namespace {

/// The groups of a problem: the levels that may be chosen, with their values.
std::vector<std::vector<std::size_t>> openLevels(const Allowed& allowed) {
    std::vector<std::vector<std::size_t>> out;
    for (const auto& dial : allowed.levels) {
        auto& levels = out.emplace_back();
        for (std::size_t l = 0; l < dial.size(); ++l)
            if (dial[l]) levels.push_back(l);
    }
    return out;
}

} // namespace

template <class Problems>
std::optional<Best> Chooser::over(const Allowed& allowed, const Problems& problemAt, const Pains& pains,
                                  const Context& context) const {
    struct Case { // a list of levels at a rendered size
        std::size_t list = 0, size = 0;
        std::int64_t most = 0; // picture there can be
    };
    std::vector<std::vector<std::vector<std::size_t>>> lists;
    std::vector<Case> cases;
    for (const auto& apart : allowed.apart()) {
        const auto& levels = lists.emplace_back(openLevels(apart));
        std::int64_t most = 0;
        for (std::size_t s = 0; s < levels.size(); ++s) {
            std::int64_t here = 0;
            for (const auto l : levels[s]) here = std::max(here, m_values[s][l]);
            most += here;
        }
        for (std::size_t g = 0; g < m_sizeValues.size(); ++g)
            if (apart.sizes[g]) cases.push_back({lists.size() - 1, g, m_sizeValues[g] + most});
    }
    std::stable_sort(cases.begin(), cases.end(), [](const Case& a, const Case& b) { return a.most > b.most; });
    std::optional<Best> best;
    const auto mayMiss = down(unitsOfPicture * pains.mayMiss);
    std::int64_t value = 0, bound = 0, unknown = 0;
    for (const auto& [list, g, most] : cases) {
        const auto& levels = lists[list];
        if (best && most <= value) break; // nothing more in those that follow
        const auto problem = problemAt(g, levels);
        Effort effort{pains.nodes, {}, mayMiss, pains.footings ? &pains.footings->searches[{list, g}] : nullptr};
        if (best) effort.beats = value - m_sizeValues[g];
        const auto found = solve(problem, context, effort);
        if (!found) {
            if (best) unknown = std::max(unknown, value + mayMiss);
            continue;
        }
        if (found->items.empty()) { // the search was ended: what is there is not known
            unknown = std::max(unknown, found->bound + m_sizeValues[g]);
            continue;
        }
        const auto total = found->value + m_sizeValues[g];
        bound = std::max(bound, found->bound + m_sizeValues[g]);
        cost::Set set{{}, g};
        for (std::size_t s = 0; s < levels.size(); ++s) set.levels.push_back(levels[s][found->items[s]]);
        const std::uint64_t nodes = (best ? best->nodes : 0) + found->nodes;
        value = total;
        best = Best{std::move(set), static_cast<double>(total) / unitsOfPicture, true, false, 0, nodes};
    }
    if (!best) return best;
    bound = std::max(bound, unknown);
    best->proven = bound <= value;
    best->pictureGap = static_cast<double>(std::max<std::int64_t>(0, bound - value)) / unitsOfPicture;
    return best;
}

std::optional<Best> Chooser::best(const Room& room, const cost::Belief::Draw& draw, Footings* footings) const {
    constexpr std::uint64_t nodes = 2000;
    return over(m_allowed,
                [&](std::size_t g, const auto& levels) {
                    Problem problem;
                    for (std::size_t s = 0; s < levels.size(); ++s) {
                        auto& group = problem.groups.emplace_back();
                        for (const auto l : levels[s]) group.push_back({m_values[s][l], {}});
                    }
                    for (std::size_t k = 0; k < draw.means.size(); ++k) {
                        const auto resource = m_belief.resources()[k];
                        const double units = unitsOf(resource), noise = 1 + 1.28 * m_belief.runSd(resource);
                        for (std::size_t p = 0; p < draw.means[k].size(); ++p) {
                            auto costs = draw.means[k][p][g];
                            const auto [share, ms, explained] = besideOf(k, p);
                            costs[0] += ms;
                            for (std::size_t i = 0; share > 0 && i < costs.size(); ++i)
                                costs[i] += share * draw.means[m_cpu][p][g][i];
                            problem.capacity.push_back(down(units * (room[k][p] / noise - costs[0])));
                            for (std::size_t s = 0; s < levels.size(); ++s)
                                for (std::size_t i = 0; i < levels[s].size(); ++i) {
                                    const auto l = levels[s][i];
                                    problem.groups[s][i].use.push_back(l == 0 ? 0
                                                                              : up(units * costs[m_first[s] + l - 1]));
                                }
                        }
                    }
                    return problem;
                },
                {nodes, 0, footings}, {});
}

cost::Set Chooser::safest(const Allowed& allowed, const Room& room) const {
    cost::Set out;
    double most = -1e300;
    const auto& dials = m_belief.layout().dials;
    auto lists = allowed.apart();
    if (lists.empty()) lists = {allowed}; // no set obeys
    for (const auto& list : lists)
        for (std::size_t g = 0; g < list.sizes.size(); ++g) {
            if (!list.sizes[g]) continue;
            cost::Set set{{}, g};
            const auto open = openLevels(list);
            for (const auto& levels : open) set.levels.push_back(levels.front());
            double sure = standing(set, room).sure;
            for (std::size_t s = 0; s < dials.size(); ++s) { // of ways to run no level is the lowest
                if (dials[s].ordered) continue;
                for (const auto l : open[s]) {
                    auto other = set;
                    other.levels[s] = l;
                    const double now = list.obeyed(other) ? standing(other, room).sure : sure;
                    if (now <= sure) continue;
                    sure = now;
                    set = std::move(other);
                }
            }
            if (sure <= most) continue;
            most = sure;
            out = std::move(set);
        }
    return out;
}

Chooser::Excess Chooser::excessAt(const cost::Set& set, const Room& room, double safety) const {
    Excess out;
    for (const auto& row : m_rows) {
        const auto [mean, sd] = trueOf(row, set);
        const auto [plain, plainSd] = linearOf(row, set);
        out.fits = out.fits && mean + safety * sd <= room[row.resource][row.part] * fitTolerance;
        out.shift.push_back(plain + safety * plainSd - mean - safety * sd);
    }
    return out;
}

/// The problem at a rendered size, with doubt as a margin.
Problem Chooser::problemAt(std::size_t size, const std::vector<std::vector<std::size_t>>& levels, const Room& room,
                           double safety, const std::vector<double>& shift) const {
    Problem problem;
    for (std::size_t s = 0; s < levels.size(); ++s) {
        auto& group = problem.groups.emplace_back();
        for (const auto l : levels[s]) group.push_back({m_values[s][l], {}});
    }
    for (std::size_t r = 0; r < m_rows.size(); ++r) {
        const auto& row = m_rows[r];
        const auto& costs = row.bySize[size];
        const double units = unitsOf(m_belief.resources()[row.resource]);
        problem.capacity.push_back(down(units * (room[row.resource][row.part] + shift[r] - costs.mean[0])));
        DoubtMargin margin{r, units * safety, {}, costs.covariance};
        for (std::size_t s = 0; s < levels.size(); ++s) {
            auto& columns = margin.columnOf.emplace_back();
            for (std::size_t i = 0; i < levels[s].size(); ++i) {
                const auto l = levels[s][i];
                problem.groups[s][i].use.push_back(l == 0 ? 0 : up(units * costs.mean[m_first[s] + l - 1]));
                columns.push_back(l == 0 ? 0 : static_cast<int>(m_first[s] + l - 1));
            }
        }
        if (safety > 0) problem.margins.push_back(std::move(margin));
    }
    return problem;
}

bool Chooser::fits(const cost::Set& set, const Room& room, double safety) const {
    return std::all_of(m_rows.begin(), m_rows.end(), [&](const Row& row) {
        const auto [mean, sd] = trueOf(row, set);
        return mean + safety * sd <= room[row.resource][row.part] * fitTolerance;
    });
}

void Chooser::moveTo(Best& best, cost::Set set) const {
    if (set == best.set) return;
    best.pictureGap = std::max(0.0, best.pictureGap + best.picture - picture(set));
    best.set = std::move(set);
    best.picture = picture(best.set);
    best.proven = best.pictureGap <= 0;
}

/// Settings work on each other: what they do at a set, and to its doubt, is added to what they do apart, first at the
/// answer without doubt (or as it was for a room like this), then at each answer, and it is solved again until the
/// answer fits as it is and stays.
Result<Best> Chooser::bestOf(const Allowed& allowed, const Room& room, double safety, const Context& context,
                             const Pains& pains) const {
    constexpr int rounds = 7;
    Footings own;
    Pains here = pains;
    if (!here.footings) here.footings = &own;
    const auto surest = safest(allowed, room);
    std::optional<Best> best;
    if (allowed.obeyed(surest) && fits(surest, room, safety))
        best = Best{surest, picture(surest), true, false, 1 - picture(surest), 0};
    const auto solved = [&](double doubt, const std::vector<double>& shift) {
        return over(
            allowed, [&](std::size_t g, const auto& levels) { return problemAt(g, levels, room, doubt, shift); }, here,
            context);
    };
    auto& shift = here.footings->shift;
    if (shift.size() != m_rows.size()) {
        const auto hoped = solved(0, std::vector<double>(m_rows.size(), 0.0));
        shift = excessAt(hoped ? hoped->set : surest, room, safety).shift;
    }
    std::optional<cost::Set> last;
    for (int round = 0; round < rounds; ++round) {
        auto found = solved(safety, shift);
        if (context.cancelled()) return fail(ErrorCode::Cancelled);
        if (!found) break;
        auto excess = excessAt(found->set, room, safety);
        const bool fitting = excess.fits;
        if (fitting)
            if (auto more = raised(found->set, allowed, room, safety, 1); more != found->set) {
                // Not the answer of these sums: what they say at the raised set decides.
                moveTo(*found, std::move(more));
                excess = excessAt(found->set, room, safety);
            }
        shift = std::move(excess.shift);
        const bool again = last == found->set;
        const bool enough = best && std::abs(found->picture - best->picture) < pains.mayMiss;
        last = found->set;
        if (fitting && (!best || found->picture >= best->picture)) best = std::move(found);
        if (fitting && (again || enough)) break;
        if (again) // it moves no more and does not fit: a little less
            for (double& s : shift) s -= 0.002 * std::abs(s) + 1e-3;
    }
    if (!best) return Best{surest, picture(surest), false, false, 0, 0};
    moveTo(*best, raised(best->set, allowed, room, safety, 2));
    moveTo(*best, asItRuns(best->set, allowed, room, safety));
    return *best;
}

} // namespace impasto::choose
