// SPDX-License-Identifier: GPL-3.0-or-later
// Seeded random streams: std::mt19937_64 (fixed by the C++ standard) with our own distributions over portable_math, so
// that a seed gives the same numbers everywhere. One stream per purpose: the name is mixed into the seed.
#pragma once

#include <cstdint>
#include <random>
#include <string_view>

namespace impasto {

/// A seed for one purpose of a parent seed: FNV-1a of the name, mixed by SplitMix64 (Steele, Lea, Flood 2014).
std::uint64_t deriveSeed(std::uint64_t parent, std::string_view purpose);

class RandomStream {
  public:
    RandomStream(std::uint64_t seed, std::string_view purpose) : m_engine(deriveSeed(seed, purpose)) {}

    std::uint64_t bits() { return m_engine(); }
    /// Uniform in [0, 1), 53 bits.
    double uniform() { return static_cast<double>(m_engine() >> 11U) * 0x1.0p-53; }
    double uniform(double low, double high) { return low + (high - low) * uniform(); }
    /// A whole number in [0, n), by rejection. n must be above zero.
    std::uint64_t below(std::uint64_t n);
    /// Standard normal, Box and Muller (1958); two draws a pair.
    double normal();
    /// Exponential with the given mean.
    double exponential(double mean);
    /// Lognormal with the given median and log standard deviation.
    double lognormal(double median, double sigma);

  private:
    std::mt19937_64 m_engine;
    double m_spare = 0.0;
    bool m_hasSpare = false;
};

} // namespace impasto
