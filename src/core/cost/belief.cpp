// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/cost/belief.h>

#include "hidden.h"

#include <cmath>

namespace impasto::cost {
namespace {

constexpr double matters = 0.1; // a model's weight
// A GPU whose memory is full takes some tenth longer, by how much is not told; common practice, no source.
constexpr double weightOfFull = 0.0156; // 12% instead of 1.5%
constexpr std::array<double, 7> noises{0.35, 0.5, 0.71, 1, 1.41, 2, 2.83};

/// Log density before any run: of the noise, a scaled inverse chi-square with four degrees of freedom; of how little
/// the usual costs are trusted, twice as likely as they are than not at all.
double priorOf(const Assumed& assumed) {
    const double noise = assumed.noise;
    return -4 * std::log(noise) - 2 * (1 / (noise * noise) - 1) - std::log(2.0) * assumed.flat;
}

struct Model {
    Assumed assumed;
    std::vector<Lane> lanes; // as the belief's resources
    double evidence = 0;
};

using SeenByLane = std::vector<std::vector<Observed>>;

/// What the runs told, for one model after the other.
struct Lesson {
    const Layout& layout;
    std::vector<Resource> resources;
    SeenByLane seen;                   // by resource
    std::vector<Observed> frames;      // instead of CPU and GPU, where only they are known
    std::optional<std::size_t> ladder; // the run at the least rendered size, if that is less than the first one's
};

Model learnt(const Lesson& lesson, Assumed assumed) {
    Model model{assumed, {}, priorOf(assumed)};
    if (!lesson.frames.empty()) {
        auto hidden = learnHidden(lesson.layout, lesson.frames, assumed, lesson.ladder);
        model.lanes = std::move(hidden.lanes);
        model.evidence += hidden.evidence;
    }
    for (std::size_t k = model.lanes.size(); k < lesson.resources.size(); ++k) {
        assumed.resource = lesson.resources[k];
        model.lanes.emplace_back(lesson.layout, assumed);
        model.lanes.back().learn(lesson.seen[k]);
        model.evidence += model.lanes.back().logEvidence();
    }
    return model;
}

/// With the noise that its evidence speaks for, found by climbing from what is usual.
Model climbed(const Lesson& lesson, double flat, std::size_t& from) {
    const auto with = [&](double noise) { return learnt(lesson, {flat, noise, Resource::Cpu, lesson.layout.noise}); };
    Model best = with(noises[from]);
    for (const int step : {-1, 1})
        for (int i = static_cast<int>(from) + step; i >= 0 && i < static_cast<int>(noises.size()); i += step) {
            Model next = with(noises[static_cast<std::size_t>(i)]);
            if (next.evidence <= best.evidence) break;
            best = std::move(next);
            from = static_cast<std::size_t>(i);
        }
    return best;
}

std::vector<double> asVector(const Matrix& m) {
    std::vector<double> out(static_cast<std::size_t>(m.size()));
    Eigen::Map<Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>>(out.data(), m.rows(), m.cols()) =
        m;
    return out;
}

std::vector<double> asVector(const Vector& v) {
    return {v.data(), v.data() + v.size()};
}

/// The variance with which a frame time shows a lane, by the moments of the longer of the two.
double noiseSeen(const Estimates& lane, const Estimates& other, Eigen::Index i, double alone) {
    const Site mine{lane.mean[i], std::max(0.0, lane.covariance(i, i))};
    const Site theirs{other.mean[i], std::max(0.0, other.covariance(i, i))};
    const auto longer = greaterOf(mine, theirs);
    const double noise = alone * longer.mean * longer.mean, w = longer.first;
    if (w < 1e-3) return 1e6 * noise;
    const double rest = std::max(0.0, longer.variance - w * w * mine.variance - (1 - w) * (1 - w) * theirs.variance);
    return (noise + (1 - w) * (1 - w) * theirs.variance + rest) / (w * w);
}

} // namespace

struct Belief::Models {
    explicit Models(Layout l) : layout(std::move(l)) {}
    Models(const Models&) = delete; // the lanes point at the layout
    Models& operator=(const Models&) = delete;

    Layout layout;
    std::vector<Resource> resources;
    std::size_t runs = 0;
    bool hidden = false;
    std::vector<Model> models;   // the one that leads first
    std::vector<double> weights; // of those that matter
    std::vector<double> all;     // of every model

    [[nodiscard]] const Lane& laneOf(Resource resource, std::size_t model) const {
        const auto k = std::find(resources.begin(), resources.end(), resource) - resources.begin();
        return models[model].lanes[static_cast<std::size_t>(k)];
    }
};

std::vector<SeenRun> merged(const std::vector<SeenRun>& runs, std::size_t mostSets) {
    constexpr std::size_t groups = 3; // that their scatter is still seen
    std::map<Set, std::vector<const SeenRun*>> bySet;
    std::vector<Set> order; // by the last run of each, but for the first set
    for (const auto& run : runs) {
        bySet[run.set].push_back(&run);
        if (!order.empty() && order.front() != run.set) std::erase(order, run.set);
        if (order.empty() || order.front() != run.set) order.push_back(run.set);
    }
    if (order.size() > mostSets)
        order.erase(order.begin() + 1, order.end() - static_cast<std::ptrdiff_t>(mostSets - 1));
    const auto mean = [](const std::vector<const SeenRun*>& all, const auto& valuesOf) {
        std::vector<std::optional<double>> out;
        std::vector<double> told;
        for (const auto* run : all) {
            const std::vector<std::optional<double>>& values = valuesOf(*run);
            out.resize(std::max(out.size(), values.size()));
            told.resize(out.size(), 0);
            for (std::size_t p = 0; p < values.size(); ++p)
                if (values[p]) {
                    out[p] = out[p].value_or(0) + run->weight * *values[p];
                    told[p] += run->weight;
                }
        }
        for (std::size_t p = 0; p < out.size(); ++p)
            if (out[p]) *out[p] /= told[p];
        return out;
    };
    std::vector<SeenRun> out;
    for (const auto& set : order) {
        const auto& all = bySet[set];
        for (std::size_t g = 0; g < std::min(groups, all.size()); ++g) {
            std::vector<const SeenRun*> mine;
            for (std::size_t i = g; i < all.size(); i += groups) mine.push_back(all[i]);
            SeenRun run{set, {}, mean(mine, [](const SeenRun& r) -> auto& { return r.frameMs; }), 0};
            for (const auto* one : mine) {
                run.weight += one->weight;
                run.memoryFull = run.memoryFull || one->memoryFull;
            }
            for (std::size_t k = 0; k < run.taken.size(); ++k)
                run.taken[k] = mean(mine, [k](const SeenRun& r) -> auto& { return r.taken[k]; });
            out.push_back(std::move(run));
        }
    }
    return out;
}

std::optional<Belief> Belief::of(Layout layout, const std::vector<SeenRun>& all) {
    const auto runs = merged(all);
    auto out = std::make_shared<Models>(std::move(layout));
    out->runs = all.size();
    Lesson lesson{out->layout, {}, {}, {}, {}};
    const auto observed = [&](bool gpu, const auto& valuesOf) {
        std::vector<Observed> here;
        for (std::size_t i = 0; i < runs.size(); ++i) {
            const std::vector<std::optional<double>>& values = valuesOf(runs[i]);
            for (std::size_t p = 0; p < values.size(); ++p)
                if (values[p] && *values[p] > 0)
                    here.push_back({{runs[i].set, p, true},
                                    i,
                                    *values[p],
                                    runs[i].weight * (gpu && runs[i].memoryFull ? weightOfFull : 1)});
        }
        return here;
    };
    for (const auto resource : allResources) {
        auto here = observed(resource == Resource::Gpu,
                             [&](const SeenRun& run) -> auto& { return run.taken[indexOf(resource)]; });
        if (here.empty()) continue;
        lesson.resources.push_back(resource);
        lesson.seen.push_back(std::move(here));
    }
    const bool times = !lesson.resources.empty() && lesson.resources.front() != Resource::GpuMemory;
    if (!times) lesson.frames = observed(true, [](const SeenRun& run) -> auto& { return run.frameMs; });
    if ((!times && lesson.frames.empty()) || out->layout.parts.empty()) return std::nullopt;
    if (!times) {
        lesson.resources.insert(lesson.resources.begin(), {Resource::Cpu, Resource::Gpu});
        lesson.seen.insert(lesson.seen.begin(), 2, {});
        const auto scaleOf = [&](const Observed& o) { return out->layout.sizes[o.place.set.size].scale; };
        double least = scaleOf(lesson.frames.front());
        for (const auto& o : lesson.frames)
            if (scaleOf(o) < least) {
                least = scaleOf(o);
                lesson.ladder = o.run;
            }
    }
    out->resources = lesson.resources;
    out->hidden = !times;
    std::size_t noise = 3; // what is usual
    for (const double flat : {0.0, 0.5, 1.0}) out->models.push_back(climbed(lesson, flat, noise));
    std::stable_sort(out->models.begin(), out->models.end(),
                     [](const Model& a, const Model& b) { return a.evidence > b.evidence; });
    double sum = 0;
    for (const auto& m : out->models) out->all.push_back(std::exp(m.evidence - out->models.front().evidence));
    for (const double w : out->all) sum += w;
    for (double& w : out->all) {
        w /= sum;
        if (w > matters) out->weights.push_back(w);
    }
    return Belief(std::move(out));
}

const Layout& Belief::layout() const {
    return m_models->layout;
}
const std::vector<Resource>& Belief::resources() const {
    return m_models->resources;
}
std::size_t Belief::partsOf(Resource resource) const {
    return resource == Resource::GpuMemory ? 1 : layout().parts.size();
}
std::size_t Belief::runs() const {
    return m_models->runs;
}
bool Belief::hidden() const {
    return m_models->hidden;
}

double Belief::shown(Resource resource, std::size_t part) const {
    const auto& lane = m_models->laneOf(resource, 0);
    double out = 0;
    for (std::size_t i = 0; i < lane.seen().size(); ++i)
        if (const auto& o = lane.seen()[i]; o.place.part == part)
            out += std::pow(lane.assumed().partNoise() * o.ms, 2) / lane.sites()[i].variance;
    return out;
}

const std::vector<double>& Belief::weights() const {
    return m_models->weights;
}

double Belief::flat() const {
    double out = 0;
    for (std::size_t i = 0; i < m_models->models.size(); ++i)
        out += m_models->all[i] * m_models->models[i].assumed.flat;
    return out;
}

double Belief::runSd(Resource resource, std::size_t model) const {
    return std::sqrt(m_models->laneOf(resource, model).assumed().runVariance());
}

Told Belief::tell(Resource resource, std::size_t part, const Set& set, std::size_t model) const {
    const auto told = m_models->laneOf(resource, model).tell({{set, part, true}});
    return {told.mean[0], std::max(0.0, told.covariance(0, 0))};
}

ToldTogether Belief::tell(Resource resource, std::size_t part, const std::vector<Set>& sets, std::size_t model) const {
    std::vector<Place> places;
    for (const auto& set : sets) places.push_back({set, part, true});
    const auto told = m_models->laneOf(resource, model).tell(places);
    return {asVector(told.mean), asVector(told.covariance)};
}

ToldTogether Belief::linear(Resource resource, std::size_t part, std::size_t size, std::size_t model) const {
    const auto costs = m_models->laneOf(resource, model).linear(part, size);
    return {asVector(costs.mean), asVector(costs.covariance)};
}

Belief::Draw Belief::draw(std::uint64_t seed, const Set& near) const {
    RandomStream random(seed, "draw of the costs");
    std::size_t model = 0;
    for (double u = random.uniform(); model + 1 < m_models->all.size(); ++model)
        if ((u -= m_models->all[model]) <= 0) break;
    Draw out;
    for (const auto& lane : m_models->models[model].lanes) {
        const auto sample = lane.sample(random, near);
        auto& byPart = out.means.emplace_back();
        for (std::size_t p = 0; p < partsOf(lane.assumed().resource); ++p) {
            auto& bySize = byPart.emplace_back();
            for (std::size_t g = 0; g < layout().sizes.size(); ++g)
                bySize.push_back(asVector(lane.linear(sample, p, g).mean));
        }
    }
    return out;
}

std::vector<double> Belief::worthOf(const std::vector<Set>& sets, const std::vector<Set>& about,
                                    const std::vector<std::vector<double>>& usable) const {
    const Model& model = m_models->models.front();
    const auto parts = layout().parts.size();
    std::vector<Place> places;
    for (const auto* list : {&about, &sets})
        for (const auto& set : *list)
            for (std::size_t p = 0; p < parts; ++p) places.push_back({set, p, true});
    std::vector<double> out(sets.size(), 0.0);
    const auto rows = static_cast<Eigen::Index>(about.size() * parts), block = static_cast<Eigen::Index>(parts);
    std::vector<Estimates> told;
    for (const auto& lane : model.lanes) told.push_back(lane.tell(places));
    for (std::size_t k = 0; k < model.lanes.size(); ++k) {
        if (resources()[k] == Resource::GpuMemory) continue; // hardly in doubt
        Vector weight(rows);
        for (Eigen::Index i = 0; i < rows; ++i) {
            const double limit = usable[k][static_cast<std::size_t>(i) % parts];
            const double high = told[k].mean[i] + (hidden() ? std::sqrt(told[k].covariance(i, i)) : 0.0);
            weight[i] = (high > 0.85 * limit ? 1.0 : 0.1) / (limit * limit);
        }
        const auto& assumed = model.lanes[k].assumed();
        const double together = assumed.runNoise() * assumed.runNoise(),
                     alone = assumed.partNoise() * assumed.partNoise();
        for (std::size_t e = 0; e < sets.size(); ++e) {
            const auto from = rows + static_cast<Eigen::Index>(e) * block;
            const Vector mean = told[k].mean.segment(from, block);
            Matrix spread = told[k].covariance.block(from, from, block, block) + together * mean * mean.transpose();
            for (Eigen::Index p = 0; p < block; ++p)
                spread(p, p) +=
                    1e-9 + (hidden() ? noiseSeen(told[k], told[1 - k], from + p, alone) : alone * mean[p] * mean[p]);
            const Eigen::LLT<Matrix> solver(spread);
            const Matrix less = solver.matrixL().solve(told[k].covariance.block(from, 0, block, rows));
            out[e] += weight.dot(less.cwiseAbs2().colwise().sum().transpose());
        }
    }
    return out;
}

} // namespace impasto::cost
