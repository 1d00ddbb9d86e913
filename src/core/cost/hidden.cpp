// SPDX-License-Identifier: GPL-3.0-or-later
#include "hidden.h"

#include <cmath>
#include <limits>

namespace impasto::cost {
namespace {

constexpr double root2 = 1.4142135623730951, rootTwoPi = 2.5066282746310002;

double densityAt(double z) {
    return std::exp(-0.5 * z * z) / rootTwoPi;
}
double chanceBelow(double z) {
    return 0.5 * std::erfc(-z / root2);
}
double logChanceBelow(double z) {
    if (z > -5) return std::log(chanceBelow(z));
    const double s = z * z; // asymptotic series
    return -0.5 * s - std::log(-z) - std::log(rootTwoPi) + std::log1p(-1 / s + 3 / (s * s));
}
/// Density over chance.
double hazard(double z) {
    if (z > -5) return densityAt(z) / chanceBelow(z);
    const double s = 1 / (z * z);
    return -z / (1 - s + 3 * s * s);
}

/// A frame time that showed one lane, the other lying below it.
struct Shown {
    double logLikelihood = 0;
    Site visible, below;
};
Shown shownBy(double ms, double noise, const Site& visible, const Site& hidden) {
    Shown out;
    const double sum = visible.variance + noise;
    const double v = visible.variance * noise / sum, m = (visible.mean * noise + ms * visible.variance) / sum;
    const double all = v + hidden.variance, root = std::sqrt(all), t = (m - hidden.mean) / root;
    const double l = hazard(t), d = l * (l + t);
    out.logLikelihood =
        -0.5 * (ms - visible.mean) * (ms - visible.mean) / sum - 0.5 * std::log(sum) + logChanceBelow(t);
    out.visible = {m + v / root * l, std::max(1e-12, v - v * v / all * d)};
    out.below = {hidden.mean - hidden.variance / root * l,
                 std::max(1e-12, hidden.variance - hidden.variance * hidden.variance / all * d)};
    return out;
}

struct Pair {
    Site cpu, gpu;
    double logLikelihood = 0;
};
Site mixed(double w, const Site& a, const Site& b) {
    const double mean = w * a.mean + (1 - w) * b.mean;
    return {mean, std::max(1e-10, w * (a.variance + a.mean * a.mean) + (1 - w) * (b.variance + b.mean * b.mean) -
                                      mean * mean)};
}
/// Both lanes after a frame time was seen.
Pair after(double ms, double noise, const Site& cpu, const Site& gpu) {
    const Shown byGpu = shownBy(ms, noise, gpu, cpu), byCpu = shownBy(ms, noise, cpu, gpu);
    const double gap = std::clamp(byCpu.logLikelihood - byGpu.logLikelihood, -700.0, 700.0);
    const double w = 1 / (1 + std::exp(gap));
    const double most = std::max(byGpu.logLikelihood, byCpu.logLikelihood);
    return {mixed(w, byGpu.below, byCpu.visible), mixed(w, byGpu.visible, byCpu.below),
            most + std::log(std::exp(byGpu.logLikelihood - most) + std::exp(byCpu.logLikelihood - most))};
}

/// Site in its natural numbers.
struct Natural {
    double precision = 0, shift = 0;
};

/// From where the passes begin: several fixed points exist.
enum class Start { Usual, BySize, Gpu, Cpu };

class Propagation {
  public:
    Propagation(const Layout& layout, const std::vector<Observed>& seen, Assumed assumed,
                std::optional<std::size_t> ladder)
        : m_layout(layout), m_seen(seen), m_assumed(assumed) {
        for (const auto resource : {Resource::Cpu, Resource::Gpu}) {
            assumed.resource = resource;
            m_begun.emplace_back(layout, assumed);
            const bool cpu = resource == Resource::Cpu;
            m_begun.back().begin(seen, cpu && ladder ? *ladder : seen.front().run,
                                 std::exp(cpu ? -0.25 : -0.15)); // the frame shows the longer one
        }
    }

    Hidden run(Start start) const {
        constexpr int sweeps = 10;
        Hidden out{m_begun, 0};
        std::array<std::vector<Natural>, 2> sites;
        for (auto& list : sites) list.resize(m_seen.size());
        const int held = start == Start::Usual ? 0 : 2;
        if (held > 0) holdTo(start, sites);
        for (int sweep = 0; sweep < sweeps; ++sweep) {
            const bool last = sweep + 1 == sweeps;
            for (std::size_t k = 0; k < 2; ++k) {
                out.lanes[k].setSites(asSites(sites[k]));
                out.lanes[k].assemble();
                if (sweep > 0 || held > 0) {
                    out.lanes[k].move(sweep <= 1 ? 0.7 : 1);
                    out.lanes[k].assemble();
                }
            }
            if (last) out.evidence = out.lanes[0].logEvidence() + out.lanes[1].logEvidence();
            if (sweep >= held) propagate(out, sites, sweep < 2 ? 0.6 : 0.8, last);
        }
        for (std::size_t k = 0; k < 2; ++k) {
            out.lanes[k].setSites(asSites(sites[k]));
            out.lanes[k].assemble();
        }
        return out;
    }

    /// Misfit of the longer one and strain of both: minus twice the log posterior, without volumes.
    [[nodiscard]] double objective(const Hidden& hidden) const {
        double sum = hidden.lanes[0].strain() + hidden.lanes[1].strain();
        const auto cpu = hidden.lanes[0].marginals(), gpu = hidden.lanes[1].marginals();
        for (std::size_t i = 0; i < m_seen.size(); ++i) {
            const double ms = m_seen[i].ms, miss = greaterOf(gpu[i], cpu[i]).mean - ms;
            sum += miss * miss * m_seen[i].runs / (m_assumed.runVariance() * ms * ms);
        }
        return sum;
    }

  private:
    [[nodiscard]] double noiseOf(std::size_t i) const {
        return std::pow(m_assumed.partNoise() * m_seen[i].ms, 2) / m_seen[i].runs;
    }
    [[nodiscard]] double leastPrecision(std::size_t i) const { return 1 / (1000 * m_seen[i].ms * m_seen[i].ms); }

    void holdTo(Start start, std::array<std::vector<Natural>, 2>& sites) const {
        for (std::size_t i = 0; i < m_seen.size(); ++i) {
            const bool small = m_layout.sizes[m_seen[i].place.set.size].scale < 0.64;
            const std::size_t k = start == Start::Gpu ? 1 : start == Start::Cpu ? 0 : small ? 0 : 1;
            sites[k][i] = {1 / noiseOf(i), m_seen[i].ms / noiseOf(i)};
        }
    }

    [[nodiscard]] std::vector<Site> asSites(const std::vector<Natural>& sites) const {
        std::vector<Site> out;
        for (std::size_t i = 0; i < sites.size(); ++i) {
            const double precision = std::max(sites[i].precision, leastPrecision(i));
            const bool none = sites[i].precision <= 0 && sites[i].shift == 0;
            out.push_back({none ? m_seen[i].ms : sites[i].shift / precision, 1 / precision});
        }
        return out;
    }

    void propagate(Hidden& out, std::array<std::vector<Natural>, 2>& sites, double damping, bool last) const {
        const std::array<std::vector<Site>, 2> marginals{out.lanes[0].marginals(), out.lanes[1].marginals()};
        for (std::size_t i = 0; i < m_seen.size(); ++i) {
            const double ms = m_seen[i].ms, square = ms * ms;
            std::array<Site, 2> cavity;
            for (std::size_t k = 0; k < 2; ++k) {
                const auto& site = out.lanes[k].sites()[i];
                const double precision = 1 / site.variance;
                const double left = std::max(1 / marginals[k][i].variance - precision, 1 / (4 * square));
                cavity[k].variance = 1 / left;
                cavity[k].mean =
                    std::clamp((marginals[k][i].mean / marginals[k][i].variance - site.mean * precision) / left,
                               0.02 * ms, 3 * ms);
                if (!last) continue;
                const double shift = site.mean * precision, t = cavity[k].mean * left;
                out.evidence += 0.5 * site.mean * shift - 0.5 * std::log(precision) +
                                0.5 * std::log(1 + precision / left) -
                                0.5 * ((t + shift) * (t + shift) / (precision + left) - cavity[k].mean * t);
            }
            const Pair now = after(ms, noiseOf(i), cavity[0], cavity[1]);
            if (last) out.evidence += now.logLikelihood;
            const std::array<Site, 2> moments{now.cpu, now.gpu};
            for (std::size_t k = 0; k < 2; ++k) {
                const double precision =
                    std::clamp(1 / moments[k].variance - 1 / cavity[k].variance, leastPrecision(i), 1.3 / noiseOf(i));
                const double shift =
                    moments[k].mean * (precision + 1 / cavity[k].variance) - cavity[k].mean / cavity[k].variance;
                sites[k][i].precision += damping * (precision - sites[k][i].precision);
                sites[k][i].shift += damping * (shift - sites[k][i].shift);
            }
        }
    }

    const Layout& m_layout;
    const std::vector<Observed>& m_seen;
    Assumed m_assumed;
    std::vector<Lane> m_begun;
};

} // namespace

Greater greaterOf(const Site& a, const Site& b) {
    const double spread = std::sqrt(a.variance + b.variance + 1e-12), z = (a.mean - b.mean) / spread;
    const double w = chanceBelow(z), d = densityAt(z);
    const double mean = a.mean * w + b.mean * (1 - w) + spread * d;
    const double square =
        (a.mean * a.mean + a.variance) * w + (b.mean * b.mean + b.variance) * (1 - w) + (a.mean + b.mean) * spread * d;
    return {mean, std::max(0.0, square - mean * mean), w};
}

Hidden learnHidden(const Layout& layout, const std::vector<Observed>& seen, Assumed assumed,
                   std::optional<std::size_t> ladder) {
    const Propagation propagation(layout, seen, assumed, ladder);
    std::optional<Hidden> best;
    double least = std::numeric_limits<double>::infinity();
    for (const auto start : {Start::Usual, Start::BySize, Start::Gpu, Start::Cpu}) {
        auto found = propagation.run(start);
        const double objective = propagation.objective(found);
        if (!(objective < least) && best) continue;
        least = objective;
        best = std::move(found);
    }
    for (auto& lane : best->lanes) lane.takeRemainder();
    return std::move(*best);
}

} // namespace impasto::cost
