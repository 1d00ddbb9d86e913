// SPDX-License-Identifier: GPL-3.0-or-later
// What the settings cost one lane in every part, as far as the runs tell: costs above zero (lognormal), one Gaussian
// regression in its dual form (Rasmussen and Williams 2006, ch. 2), linearised about the present costs (Gauss, Newton).
#pragma once

#include <Eigen/Dense>
#include <impasto/base/random.h>
#include <impasto/cost/layout.h>

namespace impasto::cost {

using Matrix = Eigen::MatrixXd;
using Vector = Eigen::VectorXd;

/// What is assumed before any run.
struct Assumed {
    double flat = 0;  // how little the usual costs are trusted: 0 as they are, 1 not at all
    double noise = 1; // runs differ by so many times what is usual
    Resource resource = Resource::Cpu;
    double expected = 1; // and what is usual here, against a fixed route
    [[nodiscard]] double runNoise() const {
        return (resource == Resource::GpuMemory ? 0.002 : 0.010) * noise * expected;
    }
    [[nodiscard]] double partNoise() const {
        return (resource == Resource::GpuMemory ? 0.003 : 0.015) * noise * expected;
    }
    [[nodiscard]] double runVariance() const { return runNoise() * runNoise() + partNoise() * partNoise(); } // relative
};

/// A set in a part; without `base` only what its levels add to the first ones.
struct Place {
    Set set;
    std::size_t part = 0;
    bool base = true;
};

/// A place that was run.
struct Observed {
    Place place;
    std::size_t run = 0;
    double ms = 0;
    double runs = 1; // that it is the mean of
};

/// What an observation says of the lane: a normal value about its work, in ms.
struct Site {
    double mean = 0, variance = 0;
};

/// Costs of one part at one rendered size: of everything at its first level, then what each dial's levels add to that.
struct Linear {
    Vector mean;       // [0] base, then dial by dial, level by level from the second: below 0 of a cheaper way to run
    Matrix covariance; // none of a sample
};

struct Estimates {
    Vector mean;
    Matrix covariance;
};

class Lane {
  public:
    Lane(const Layout& layout, Assumed assumed);

    /// Learns anew from all that was seen; the first run gives the size of the usual costs.
    void learn(std::vector<Observed> seen);

    /// Where the lane is not seen itself: begins with the usual costs, as large as `run` says times `share`.
    void begin(std::vector<Observed> seen, std::size_t run, double share);
    /// What the observations say of it now, before the next pass.
    void setSites(std::vector<Site> sites) { m_sites = std::move(sites); }
    void assemble();
    void move(double step); // of the costs towards what the sites say
    void takeRemainder();
    /// What is believed of its work where it was observed, sites included.
    [[nodiscard]] std::vector<Site> marginals() const;
    /// How far the costs have to go from the usual ones, as a sum of squares.
    [[nodiscard]] double strain() const { return m_alpha.dot(m_rest - diagonal().cwiseProduct(m_alpha)); }
    [[nodiscard]] const std::vector<Site>& sites() const { return m_sites; }
    [[nodiscard]] const std::vector<Observed>& seen() const { return m_seen; }

    [[nodiscard]] double logEvidence() const { return m_evidence; }
    [[nodiscard]] Estimates tell(const std::vector<Place>& places) const;
    [[nodiscard]] Linear linear(std::size_t part, std::size_t size) const;
    [[nodiscard]] const Assumed& assumed() const { return m_assumed; }

    /// One draw of what may be true, with pairs of settings as they are expected about `near`.
    struct Sample {
        Matrix costs; // part, component
        double bend = 0;
        Vector pixels, pairs; // by dial, by part
    };
    [[nodiscard]] Sample sample(RandomStream& random, const Set& near) const;
    [[nodiscard]] Linear linear(const Sample& sample, std::size_t part, std::size_t size) const;

  private:
    struct Features {
        Matrix doubt, cost; // place, component: the size of its doubt, and what it costs there
        Matrix dials;       // place, dial: sum of the doubt of its components
        Matrix roots;       // place, dial: root of its cost
        Matrix pixels;      // place, dial: how its cost goes with its share of pixels
        Vector bend, total; // how the cost goes with the pixels' exponent; all doubt
        std::vector<std::size_t> part;
    };
    [[nodiscard]] bool goesWithPixels() const { return m_assumed.resource == Resource::Gpu; }
    [[nodiscard]] double share(std::size_t dial) const;
    [[nodiscard]] double pixelShare(std::size_t dial) const;
    [[nodiscard]] double pixelsOf(std::size_t size) const;
    [[nodiscard]] double slopeOf(std::size_t size) const;  // of the log of the pixels with their exponent
    [[nodiscard]] double outputOf(std::size_t size) const; // pixels of the output against the largest
    [[nodiscard]] double weightOf(std::size_t dial, std::size_t size) const;
    /// The component of the pass that makes the output; nothing at full size.
    [[nodiscard]] std::optional<Eigen::Index> passOf(std::size_t size) const;
    /// The components that a level costs; none of the first of an order.
    struct Components {
        Eigen::Index first, end;
    };
    [[nodiscard]] Components componentsOf(std::size_t dial) const;
    [[nodiscard]] Components componentsOf(std::size_t dial, std::size_t level) const;
    void scaleUsual(std::size_t run, double share);
    [[nodiscard]] Vector diagonal() const; // variances of the sites
    void rebuild();
    [[nodiscard]] Features features(const std::vector<Place>& places) const;
    enum class Effects { All, Linear, Named }; // Named: pairs, pixels and their exponent, which no cost has taken in
    [[nodiscard]] Matrix kernel(const Features& a, const Features& b, Effects effects) const;
    /// Covariance of the log costs in a part with what was seen.
    [[nodiscard]] Vector pull(const Vector& weights, std::size_t part) const;

    const Layout& m_layout;
    Assumed m_assumed;
    std::vector<game::UpscalerKind> m_passes; // that the sizes need
    Eigen::Index m_bases;                     // fixed, by the pixel, each pass
    std::vector<Eigen::Index> m_first; // a dial's first component: of its second level, or of its first way to run
    Eigen::Index m_components = 0, m_columns = 1; // of Linear
    double m_dialSd = 1, m_pixelSd = 0;
    double m_laneSd = 0; // of the log of all costs together
    std::vector<Observed> m_seen;
    std::vector<Site> m_sites;
    Vector m_usual;                // by component, in ms
    Matrix m_log, m_doubt, m_cost; // part, component
    Features m_rows;               // of what was seen
    Eigen::LLT<Matrix> m_solver;
    Vector m_alpha, m_rest;
    double m_evidence = 0;
};

} // namespace impasto::cost
