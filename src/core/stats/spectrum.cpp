// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/spectrum.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <unsupported/Eigen/FFT>

namespace impasto::stats {

double gathering(std::span<const double> seconds, double frequency) {
    if (seconds.empty()) return 0;
    double c = 0, s = 0;
    for (const double t : seconds) {
        c += std::cos(2 * std::numbers::pi * frequency * t);
        s += std::sin(2 * std::numbers::pi * frequency * t);
    }
    return std::sqrt(c * c + s * s) / static_cast<double>(seconds.size());
}

std::vector<double> gatherings(std::span<const double> seconds, double highest) {
    constexpr double padding = 10, cellsPerPeriod = 10;
    const double span = seconds.back() - seconds.front();
    const auto wanted = static_cast<std::size_t>(highest * padding) + 1;
    if (span <= 0) return std::vector<double>(wanted, 1.0);
    std::size_t cells = 1;
    while (static_cast<double>(cells) < cellsPerPeriod * padding * std::max(1.0, highest)) cells *= 2;
    std::vector<double> grid(cells, 0.0);
    const double cell = padding * span / static_cast<double>(cells);
    for (const double t : seconds)
        grid[std::min(cells - 1, static_cast<std::size_t>((t - seconds.front()) / cell))] += 1;
    Eigen::FFT<double> fft;
    fft.SetFlag(Eigen::FFT<double>::HalfSpectrum);
    std::vector<std::complex<double>> spectrum;
    fft.fwd(spectrum, grid);
    std::vector<double> out(wanted);
    for (std::size_t k = 0; k < wanted; ++k) out[k] = std::abs(spectrum[k]) / static_cast<double>(seconds.size());
    return out;
}

} // namespace impasto::stats
