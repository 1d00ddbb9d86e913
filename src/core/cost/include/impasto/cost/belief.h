// SPDX-License-Identifier: GPL-3.0-or-later
// What the runs say of every cost, as a mixture of three models that trust the usual costs as they are, half, and not
// at all. Costs are above zero and multiply what is usual (lognormal); pairs of settings may work on each other;
// docs/method.md.
#pragma once

#include <impasto/cost/layout.h>
#include <memory>

namespace impasto::cost {

/// Of a GPU's memory: a driver moves data out before the last of it is used (common practice, no source).
inline constexpr double fullMemoryShare = 0.98;

/// A run: its set, and what it told of each resource, by part in the layout's order (of memory once); empty: nothing.
struct SeenRun {
    Set set;
    std::array<std::vector<std::optional<double>>, 3> taken; // by Resource: means in ms, MiB
    std::vector<std::optional<double>> frameMs = {};         // by part; used where no run tells CPU or GPU
    double weight = 1;       // in recorded runs: of how many it is the mean, less for what was read off a counter
    bool memoryFull = false; // its GPU times hold what moving data to and fro took, and say little of the GPU's work
};
/// Runs of one set as the means of at most three groups of them, of at most so many sets, the latest and the first: a
/// session of a thousand runs asks no more than one of some tens.
std::vector<SeenRun> merged(const std::vector<SeenRun>& runs, std::size_t mostSets = 60);

struct Told {
    double mean = 0;     // ms
    double variance = 0; // of the mean as it is, without a run's own noise
};

/// Of several things together: what is in doubt of one is in doubt of others.
struct ToldTogether {
    std::vector<double> mean;
    std::vector<double> covariance; // row-major
};

class Belief {
  public:
    /// Nothing where no run tells a time. A resource that no run tells is left out; from frame times alone CPU and GPU
    /// are learnt together, since a frame takes as long as the longer one.
    static std::optional<Belief> of(Layout layout, const std::vector<SeenRun>& runs);

    [[nodiscard]] const Layout& layout() const;
    [[nodiscard]] const std::vector<Resource>& resources() const;
    [[nodiscard]] std::size_t partsOf(Resource resource) const; // 1 of memory
    [[nodiscard]] std::size_t runs() const;
    /// CPU and GPU are known from frame times alone.
    [[nodiscard]] bool hidden() const;
    /// How many runs have shown the resource in a part; from frame times alone not all of them do.
    [[nodiscard]] double shown(Resource resource, std::size_t part) const;
    /// Models that matter, the one that leads first; their weights add up to one over all models.
    [[nodiscard]] const std::vector<double>& weights() const;
    /// How little the usual costs are trusted: 0 as they are, 1 not at all.
    [[nodiscard]] double flat() const;
    /// Standard deviation of one run's mean in a part, relative.
    [[nodiscard]] double runSd(Resource resource, std::size_t model = 0) const;

    [[nodiscard]] Told tell(Resource resource, std::size_t part, const Set& set, std::size_t model = 0) const;
    /// Several sets together; what is in doubt of one is in doubt of others.
    [[nodiscard]] ToldTogether tell(Resource resource, std::size_t part, const std::vector<Set>& sets,
                                    std::size_t model = 0) const;
    /// In a part at a rendered size: of everything at its first level, then what each dial's levels add to that, dial
    /// by dial, level by level from the second. Sums of them tell a set, without what settings do to each other.
    [[nodiscard]] ToldTogether linear(Resource resource, std::size_t part, std::size_t size,
                                      std::size_t model = 0) const;

    /// One draw of what may be true, of a model drawn by its weight: means by resource (as in resources()), part and
    /// size.
    struct Draw {
        std::vector<std::vector<std::vector<std::vector<double>>>> means;
    };
    [[nodiscard]] Draw draw(std::uint64_t seed, const Set& near) const;

    /// For each set, by how much a run of it would lessen the doubt about `about`, as a share of what each may use:
    /// the sum over sets, CPU, GPU and parts of the variance that goes, those that are near their limit or over it
    /// counted ten times (I-optimality; Atkinson, Donev and Tobias 2007, ch. 10). `usable`: resource (as in
    /// resources()), part, in ms.
    [[nodiscard]] std::vector<double> worthOf(const std::vector<Set>& sets, const std::vector<Set>& about,
                                              const std::vector<std::vector<double>>& usable) const;

  private:
    struct Models;
    explicit Belief(std::shared_ptr<const Models> models) : m_models(std::move(models)) {}
    std::shared_ptr<const Models> m_models;
};

} // namespace impasto::cost
