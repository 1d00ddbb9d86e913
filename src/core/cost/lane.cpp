// SPDX-License-Identifier: GPL-3.0-or-later
#include "lane.h"

#include <cmath>

namespace impasto::cost {
namespace {

// Standard deviations of log costs; correlations of a cost over the parts of a route.
constexpr double partSd = 0.3; // of all costs of a part together, against the other parts
constexpr double laneSd = 0.3, laneSdUnseen = 0.8, levelSd = 0.5, baseSd = 0.5, alike = 0.75;
constexpr double pairSd = 0.10, pairsAlike = 0.6;
constexpr double exponent = 0.88, exponentSd = 0.08;
constexpr double mostLog = 3; // of a cost against the usual
constexpr int passes = 5;

/// What a pass usually takes of a frame (common practice, no source).
double usualPass(game::UpscalerKind kind) {
    switch (kind) {
    case game::UpscalerKind::Temporal:
        return 0.05;
    case game::UpscalerKind::Learned:
        return 0.06;
    default:
        return 0.02;
    }
}

std::vector<game::UpscalerKind> passesOf(const Layout& layout) {
    std::vector<game::UpscalerKind> out{game::UpscalerKind::Engine};
    for (const auto& size : layout.sizes)
        if (size.upscaler && std::find(out.begin(), out.end(), *size.upscaler) == out.end())
            out.push_back(*size.upscaler);
    return out;
}

Eigen::Index at(std::size_t i) {
    return static_cast<Eigen::Index>(i);
}

} // namespace

Lane::Lane(const Layout& layout, Assumed assumed)
    : m_layout(layout), m_assumed(assumed), m_passes(passesOf(layout)), m_bases(2 + at(m_passes.size())),
      m_components(m_bases), m_solver(Matrix::Identity(1, 1)) {
    for (const auto& dial : layout.dials) {
        m_first.push_back(m_components);
        m_components += at(dial.levels.size()) - (dial.ordered ? 1 : 0);
        m_columns += at(dial.levels.size()) - 1;
    }
    m_dialSd = 1.0 + 0.2 * assumed.flat;
    m_pixelSd = 0.15 + 0.20 * assumed.flat;
}

double Lane::share(std::size_t dial) const {
    double all = 0;
    for (const auto& d : m_layout.dials) all += d.share[indexOf(m_assumed.resource)];
    const double even = all / static_cast<double>(m_layout.dials.size());
    return (1 - m_assumed.flat) * m_layout.dials[dial].share[indexOf(m_assumed.resource)] + m_assumed.flat * even;
}

double Lane::pixelShare(std::size_t dial) const {
    return (1 - m_assumed.flat) * m_layout.dials[dial].pixelShare + 0.5 * m_assumed.flat;
}

double Lane::pixelsOf(std::size_t size) const {
    return std::pow(m_layout.sizes[size].scale, 2 * exponent);
}

double Lane::slopeOf(std::size_t size) const {
    return 2 * std::log(m_layout.sizes[size].scale);
}

double Lane::outputOf(std::size_t size) const {
    return m_layout.sizes[size].output * m_layout.sizes[size].output;
}

double Lane::weightOf(std::size_t dial, std::size_t size) const {
    return !goesWithPixels() ? 1.0 : 1 - pixelShare(dial) + pixelShare(dial) * pixelsOf(size);
}

std::optional<Eigen::Index> Lane::passOf(std::size_t size) const {
    const auto& kind = m_layout.sizes[size].upscaler;
    if (!kind) return std::nullopt;
    return 2 + at(static_cast<std::size_t>(std::find(m_passes.begin(), m_passes.end(), *kind) - m_passes.begin()));
}

Lane::Components Lane::componentsOf(std::size_t dial) const {
    return {m_first[dial], dial + 1 < m_first.size() ? m_first[dial + 1] : m_components};
}

Lane::Components Lane::componentsOf(std::size_t dial, std::size_t level) const {
    const auto here = m_first[dial] + at(level);
    return m_layout.dials[dial].ordered ? Components{m_first[dial], here} : Components{here, here + 1};
}

/// The usual costs in ms: their shares, times what a run says that the whole comes to.
void Lane::scaleUsual(std::size_t run, double part) {
    double all = 0;
    for (std::size_t s = 0; s < m_layout.dials.size(); ++s) all += share(s);
    const double rest = std::max(0.2, 1 - all);
    m_usual = Vector::Zero(m_components);
    const double byPixels = m_assumed.resource == Resource::Cpu ? 0 : goesWithPixels() ? 0.65 : 0.3;
    m_usual[0] = (1 - byPixels) * rest;
    m_usual[1] = byPixels * rest;
    for (std::size_t i = 0; i < m_passes.size(); ++i)
        m_usual[2 + at(i)] = goesWithPixels() ? usualPass(m_passes[i]) : 0.0;
    for (std::size_t s = 0; s < m_layout.dials.size(); ++s) {
        const auto& dial = m_layout.dials[s];
        for (std::size_t l = dial.ordered ? 1 : 0; l < dial.levels.size(); ++l)
            m_usual[componentsOf(s, l).end - 1] = share(s) * (dial.rise[l] - (dial.ordered ? dial.rise[l - 1] : 0));
    }
    double shown = 0, usual = 0;
    m_log = Matrix::Zero(at(m_layout.parts.size()), m_components);
    rebuild();
    std::vector<Place> places;
    for (const auto& o : m_seen)
        if (o.run == run) {
            places.push_back(o.place);
            shown += o.ms;
        }
    usual = features(places).cost.sum();
    m_usual *= usual > 0 ? part * shown / usual : 1.0;
    rebuild();
}

void Lane::rebuild() {
    m_doubt = m_log.array().exp().matrix() * m_usual.asDiagonal();
    m_cost = m_doubt;
}

Lane::Features Lane::features(const std::vector<Place>& places) const {
    const auto n = at(places.size()), dials = at(m_layout.dials.size());
    Features f{Matrix::Zero(n, m_components),
               Matrix::Zero(n, m_components),
               Matrix::Zero(n, dials),
               Matrix::Zero(n, dials),
               Matrix::Zero(n, dials),
               Vector::Zero(n),
               Vector::Zero(n),
               {}};
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto& [set, part, base] = places[static_cast<std::size_t>(i)];
        const auto p = at(part);
        f.part.push_back(part);
        const double pixels = pixelsOf(set.size), slope = slopeOf(set.size);
        const auto put = [&](Eigen::Index j, double weight) {
            f.doubt(i, j) = weight * m_doubt(p, j);
            f.cost(i, j) = weight * m_cost(p, j);
        };
        if (base) {
            put(0, 1);
            put(1, pixels);
            if (const auto pass = passOf(set.size)) put(*pass, outputOf(set.size));
            f.bend[i] += !goesWithPixels() ? 0.0 : f.cost(i, 1) * slope;
        }
        for (std::size_t s = 0; s < m_layout.dials.size(); ++s) {
            const double weight = weightOf(s, set.size);
            double raw = 0;
            const auto add = [&](std::size_t level, double sign) {
                const auto [first, end] = componentsOf(s, level);
                for (auto j = first; j < end; ++j) {
                    f.doubt(i, j) += sign * weight * m_doubt(p, j);
                    f.cost(i, j) += sign * weight * m_cost(p, j);
                    f.dials(i, at(s)) += sign * weight * m_doubt(p, j);
                    raw += sign * m_cost(p, j);
                }
            };
            add(set.levels[s], 1);
            if (!base) add(0, -1);
            f.roots(i, at(s)) = std::sqrt(std::max(0.0, raw * weight));
            if (!goesWithPixels()) continue;
            f.pixels(i, at(s)) = raw * (pixels - 1);
            f.bend[i] += raw * pixelShare(s) * pixels * slope;
        }
        f.total[i] = f.doubt.row(i).sum();
    }
    return f;
}

Matrix Lane::kernel(const Features& a, const Features& b, Effects effects) const {
    const auto n = a.doubt.rows(), m = b.doubt.rows(), levels = m_components - m_bases;
    Matrix out = Matrix::Zero(n, m);
    const auto same = [&](double otherwise) {
        Matrix factor(n, m);
        for (Eigen::Index i = 0; i < n; ++i)
            for (Eigen::Index j = 0; j < m; ++j)
                factor(i, j) =
                    a.part[static_cast<std::size_t>(i)] == b.part[static_cast<std::size_t>(j)] ? 1 : otherwise;
        return factor;
    };
    if (effects != Effects::Named) {
        out = baseSd * baseSd * a.doubt.leftCols(m_bases) * b.doubt.leftCols(m_bases).transpose() +
              levelSd * levelSd * a.doubt.rightCols(levels) * b.doubt.rightCols(levels).transpose() +
              m_dialSd * m_dialSd * a.dials * b.dials.transpose();
        out = out.cwiseProduct(same(alike));
        const Matrix totals = a.total * b.total.transpose();
        out += m_laneSd * m_laneSd * totals + partSd * partSd * totals.cwiseProduct(same(0));
    }
    if (effects != Effects::Linear) {
        const Matrix all = a.roots * b.roots.transpose();
        const Matrix own = a.roots.cwiseAbs2() * b.roots.cwiseAbs2().transpose();
        out += 0.5 * pairSd * pairSd * (all.cwiseAbs2() - own).cwiseProduct(same(pairsAlike));
    }
    if (goesWithPixels())
        out += exponentSd * exponentSd * a.bend * b.bend.transpose() +
               m_pixelSd * m_pixelSd * a.pixels * b.pixels.transpose();
    return out;
}

void Lane::assemble() {
    const auto n = at(m_seen.size());
    std::vector<Place> places;
    for (const auto& o : m_seen) places.push_back(o.place);
    m_rows = features(places);
    Matrix k = kernel(m_rows, m_rows, Effects::All);
    m_rest = Vector(n);
    const double together = m_assumed.runNoise() * m_assumed.runNoise();
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto& o = m_seen[static_cast<std::size_t>(i)];
        for (Eigen::Index j = 0; j < n; ++j)
            if (m_seen[static_cast<std::size_t>(j)].run == o.run)
                k(i, j) += together / o.runs * o.ms * m_seen[static_cast<std::size_t>(j)].ms;
        const auto& site = m_sites[static_cast<std::size_t>(i)];
        k(i, i) += site.variance;
        m_rest[i] = site.mean - m_rows.cost.row(i).sum() + m_rows.doubt.row(i).dot(m_log.row(at(o.place.part)));
    }
    m_solver.compute(k);
    m_alpha = m_solver.solve(m_rest);
    m_evidence = -0.5 * m_rest.dot(m_alpha);
    for (Eigen::Index i = 0; i < n; ++i) m_evidence -= std::log(m_solver.matrixLLT()(i, i));
}

Vector Lane::pull(const Vector& weights, std::size_t part) const {
    Vector here = weights;
    for (Eigen::Index i = 0; i < here.size(); ++i)
        if (m_rows.part[static_cast<std::size_t>(i)] != part) here[i] *= alike;
    const Vector each = m_rows.doubt.transpose() * here, dials = m_rows.dials.transpose() * here;
    double mine = 0;
    for (Eigen::Index i = 0; i < weights.size(); ++i)
        if (m_rows.part[static_cast<std::size_t>(i)] == part) mine += weights[i] * m_rows.total[i];
    Vector out =
        Vector::Constant(m_components, m_laneSd * m_laneSd * weights.dot(m_rows.total) + partSd * partSd * mine);
    out.head(m_bases) += baseSd * baseSd * each.head(m_bases);
    for (std::size_t s = 0; s < m_layout.dials.size(); ++s)
        for (auto [j, end] = componentsOf(s); j < end; ++j)
            out[j] += m_dialSd * m_dialSd * dials[at(s)] + levelSd * levelSd * each[j];
    return out;
}

void Lane::move(double step) {
    for (std::size_t p = 0; p < m_layout.parts.size(); ++p) {
        const Vector to = pull(m_alpha, p);
        const Vector from = m_log.row(at(p)).transpose();
        m_log.row(at(p)) = (from + step * (to - from)).cwiseMax(-mostLog).cwiseMin(mostLog).transpose();
    }
    rebuild();
}

/// What the passes have not taken in goes into the costs as it is; else the mean would never meet what was seen while
/// the doubt believes that it does.
void Lane::takeRemainder() {
    for (std::size_t p = 0; p < m_layout.parts.size(); ++p) {
        const Vector more = pull(m_alpha, p) - m_log.row(at(p)).transpose();
        for (Eigen::Index j = 0; j < m_components; ++j) {
            double& cost = m_cost(at(p), j);
            cost = std::max(0.1 * cost, cost + m_doubt(at(p), j) * more[j]);
        }
    }
}

void Lane::learn(std::vector<Observed> seen) {
    m_laneSd = laneSd;
    m_seen = std::move(seen);
    m_sites.clear();
    for (const auto& o : m_seen) m_sites.push_back({o.ms, std::pow(m_assumed.partNoise() * o.ms, 2) / o.runs});
    scaleUsual(m_seen.front().run, 1);
    for (int pass = 0; pass < passes; ++pass) {
        assemble();
        move(pass == 0 ? 0.7 : 1.0);
    }
    assemble();
    takeRemainder();
}

void Lane::begin(std::vector<Observed> seen, std::size_t run, double share) {
    m_laneSd = laneSdUnseen;
    m_seen = std::move(seen);
    scaleUsual(run, share);
}

Vector Lane::diagonal() const {
    Vector out(at(m_sites.size()));
    for (std::size_t i = 0; i < m_sites.size(); ++i) out[at(i)] = m_sites[i].variance;
    return out;
}

std::vector<Site> Lane::marginals() const {
    const auto n = at(m_sites.size());
    const Matrix inverse = m_solver.solve(Matrix::Identity(n, n));
    std::vector<Site> out;
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto& site = m_sites[static_cast<std::size_t>(i)];
        out.push_back({site.mean - site.variance * m_alpha[i],
                       std::max(1e-8, site.variance - site.variance * site.variance * inverse(i, i))});
    }
    return out;
}

Estimates Lane::tell(const std::vector<Place>& places) const {
    const auto f = features(places);
    const Matrix with = kernel(m_rows, f, Effects::All);
    const Matrix known = m_solver.matrixL().solve(with);
    Estimates out;
    out.mean = f.cost.rowwise().sum() + kernel(f, m_rows, Effects::Named) * m_alpha;
    out.covariance = kernel(f, f, Effects::All) - known.transpose() * known;
    return out;
}

Linear Lane::linear(std::size_t part, std::size_t size) const {
    std::vector<Place> places;
    Set lowest{std::vector<std::size_t>(m_layout.dials.size(), 0), size};
    places.push_back({lowest, part, true});
    for (std::size_t s = 0; s < m_layout.dials.size(); ++s)
        for (std::size_t l = 1; l < m_layout.dials[s].levels.size(); ++l) {
            Set set = lowest;
            set.levels[s] = l;
            places.push_back({std::move(set), part, false});
        }
    const auto f = features(places);
    const Matrix with = kernel(m_rows, f, Effects::Linear);
    const Matrix known = m_solver.matrixL().solve(with);
    Linear out;
    out.mean = f.cost.rowwise().sum();
    if (goesWithPixels()) {
        const double bend = exponentSd * exponentSd * m_rows.bend.dot(m_alpha);
        out.mean += f.bend * bend + m_pixelSd * m_pixelSd * f.pixels * (m_rows.pixels.transpose() * m_alpha);
    }
    out.covariance = kernel(f, f, Effects::Linear) - known.transpose() * known;
    return out;
}

Lane::Sample Lane::sample(RandomStream& random, const Set& near) const {
    const auto parts = at(m_layout.parts.size()), dials = at(m_layout.dials.size()), n = at(m_seen.size());
    const auto normals = [&](Eigen::Index count) {
        Vector out(count);
        for (auto& v : out) v = random.normal();
        return out;
    };
    // What may be true before any run: log costs in every part ...
    const double lane = m_laneSd * random.normal(), common = std::sqrt(alike), own = std::sqrt(1 - alike);
    const Vector level = normals(m_components), dial = normals(dials);
    Matrix logs(parts, m_components);
    for (Eigen::Index p = 0; p < parts; ++p) {
        const Vector here = common * level + own * normals(m_components),
                     dialHere = common * dial + own * normals(dials);
        const double all = lane + partSd * random.normal();
        for (Eigen::Index j = 0; j < m_components; ++j) logs(p, j) = all + (j < m_bases ? baseSd : levelSd) * here[j];
        for (std::size_t s = 0; s < m_layout.dials.size(); ++s)
            for (auto [j, end] = componentsOf(s); j < end; ++j) logs(p, j) += m_dialSd * dialHere[at(s)];
    }
    Sample out;
    out.bend = !goesWithPixels() ? 0.0 : exponentSd * random.normal();
    out.pixels = !goesWithPixels() ? Vector::Zero(dials) : Vector(m_pixelSd * normals(dials));
    // ... what the runs would have shown of it ...
    Vector shown(n);
    double run = 0;
    for (Eigen::Index i = 0; i < n; ++i) {
        const auto& o = m_seen[static_cast<std::size_t>(i)];
        if (i == 0 || m_seen[static_cast<std::size_t>(i - 1)].run != o.run) run = random.normal();
        const double all = m_rows.roots.row(i).squaredNorm(), each = m_rows.roots.row(i).cwiseAbs2().squaredNorm();
        shown[i] = m_rows.doubt.row(i).dot(logs.row(at(o.place.part))) + out.bend * m_rows.bend[i] +
                   m_rows.pixels.row(i).dot(out.pixels) + o.ms * m_assumed.runNoise() / std::sqrt(o.runs) * run +
                   std::sqrt(m_sites[static_cast<std::size_t>(i)].variance) * random.normal() +
                   pairSd * std::sqrt(std::max(0.0, 0.5 * (all * all - each))) * random.normal();
    }
    // ... and corrected by what they did show (Matheron's rule; Journel and Huijbregts 1978).
    const Vector weights = m_solver.solve(shown);
    const Vector less = m_alpha - weights;
    if (goesWithPixels()) {
        out.bend += exponentSd * exponentSd * m_rows.bend.dot(less);
        out.pixels += m_pixelSd * m_pixelSd * (m_rows.pixels.transpose() * less);
    }
    out.costs = m_cost;
    for (Eigen::Index p = 0; p < parts; ++p) {
        const Vector pulled = pull(weights, static_cast<std::size_t>(p));
        for (Eigen::Index j = 0; j < m_components; ++j) {
            const double cost = m_cost(p, j) + m_doubt(p, j) * (logs(p, j) - pulled[j]);
            out.costs(p, j) = std::max(j < m_bases ? 0.1 * m_cost(p, j) : 0.0, cost);
        }
    }
    out.pairs = Vector::Zero(parts);
    std::vector<Place> places;
    for (Eigen::Index p = 0; p < parts; ++p) places.push_back({near, static_cast<std::size_t>(p), true});
    const auto f = features(places);
    const Matrix pairs = kernel(f, m_rows, Effects::Named);
    for (Eigen::Index p = 0; p < parts; ++p) {
        double named = 0;
        if (goesWithPixels())
            named = exponentSd * exponentSd * f.bend[p] * m_rows.bend.dot(m_alpha) +
                    m_pixelSd * m_pixelSd * f.pixels.row(p).dot(m_rows.pixels.transpose() * m_alpha);
        out.pairs[p] = pairs.row(p).dot(m_alpha) - named;
    }
    return out;
}

Linear Lane::linear(const Sample& sample, std::size_t part, std::size_t size) const {
    const auto p = at(part);
    const double pixels = pixelsOf(size), slope = slopeOf(size);
    const auto pass = passOf(size);
    const double bend = !goesWithPixels() ? 0.0 : std::clamp(sample.bend, -0.3, 0.3) * pixels * slope;
    Linear out;
    out.mean = Vector::Zero(m_columns);
    out.mean[0] = sample.costs(p, 0) + sample.costs(p, 1) * (pixels + bend) +
                  (pass ? sample.costs(p, *pass) * outputOf(size) : 0.0) + sample.pairs[p];
    Eigen::Index column = 0;
    for (std::size_t s = 0; s < m_layout.dials.size(); ++s) {
        double weight = weightOf(s, size);
        if (goesWithPixels())
            weight = std::max(0.02, weight + pixelShare(s) * bend + sample.pixels[at(s)] * (pixels - 1));
        const auto costs = [&](std::size_t level) {
            const auto [first, end] = componentsOf(s, level);
            return weight * sample.costs.row(p).segment(first, end - first).sum();
        };
        const double least = costs(0);
        out.mean[0] += least;
        for (std::size_t l = 1; l < m_layout.dials[s].levels.size(); ++l) out.mean[++column] = costs(l) - least;
    }
    return out;
}

} // namespace impasto::cost
