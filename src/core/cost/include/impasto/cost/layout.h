// SPDX-License-Identifier: GPL-3.0-or-later
// A game as the model of costs sees it: settings that are varied, each with its usual cost, and the rendered sizes.
#pragma once

#include <impasto/game/size.h>

namespace impasto::cost {

/// What a set takes of: times in ms in every part, memory in MiB once.
enum class Resource { Cpu, Gpu, GpuMemory };
inline constexpr std::array<Resource, 3> allResources{Resource::Cpu, Resource::Gpu, Resource::GpuMemory};
constexpr std::size_t indexOf(Resource resource) {
    return static_cast<std::size_t>(resource);
}

/// A setting that may be varied. Its levels rise from the least to the most; ways to run have no order, and each costs
/// what it costs.
struct Dial {
    std::string setting;
    std::vector<std::string> levels;
    std::array<double, 3> share{}; // usual, of all that a frame takes of each resource, at the highest level
    double pixelShare = 0;         // of its GPU time, that goes with the rendered size
    std::vector<double> rise;      // usual share of the highest level's cost, by level: from 0 to 1; 1 of ways to run
    bool ordered = true;
    std::size_t now = 0; // the level in use
};

/// A set of values: a level of each dial, and a rendered size.
struct Set {
    std::vector<std::size_t> levels;
    std::size_t size = 0;
    friend auto operator<=>(const Set&, const Set&) = default;
};

struct Layout {
    std::vector<Dial> dials;
    std::vector<game::Size> sizes{game::Size{}}; // at least one
    std::vector<std::string> parts;              // of the route
    game::Values fixed;                          // what is never varied: taste
    double noise = 1;                            // runs are expected to differ by so many times the usual

    /// Settings with a weight, at any level; `parts` of the route.
    static Layout of(const game::Game& game, const game::Values& baseline, std::vector<std::string> parts);
    /// Nothing where a value is not a level of its setting.
    [[nodiscard]] std::optional<Set> setOf(const game::Values& values) const;
    [[nodiscard]] game::Values valuesOf(const Set& set) const;
    [[nodiscard]] std::optional<std::size_t> dialOf(std::string_view setting) const;
    /// The size with this level of a setting and the rest as at `size`; at full size, where there is none.
    [[nodiscard]] std::optional<std::size_t> sizeWith(std::size_t size, const std::string& setting,
                                                      const std::string& level) const;
    [[nodiscard]] std::size_t leastSize() const;
};

} // namespace impasto::cost
