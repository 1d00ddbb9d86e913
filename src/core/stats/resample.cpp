// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/resample.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <unsupported/Eigen/FFT>

namespace impasto::stats {
namespace {

constexpr std::size_t longestLag = 2000;
/// Series up to this length are transformed as a whole; longer ones in so many pieces of so many values.
constexpr std::size_t wholeLength = std::size_t{1} << 18U, pieceLength = std::size_t{1} << 15U, pieceCount = 24;

std::size_t powerOfTwo(std::size_t atLeast) {
    std::size_t size = 1;
    while (size < atLeast) size *= 2;
    return size;
}

/// Adds the sums of products of one piece by lag (Wiener and Khinchin), its mean taken off.
void addProducts(std::span<const double> values, double middle, std::vector<double>& sums) {
    const std::size_t size = powerOfTwo(values.size() + sums.size());
    std::vector<double> padded(size, 0.0);
    std::transform(values.begin(), values.end(), padded.begin(), [middle](double v) { return v - middle; });
    Eigen::FFT<double> fft;
    fft.SetFlag(Eigen::FFT<double>::HalfSpectrum);
    std::vector<std::complex<double>> spectrum;
    fft.fwd(spectrum, padded);
    for (auto& c : spectrum) c = std::norm(c);
    std::vector<double> products;
    fft.inv(products, spectrum, static_cast<Eigen::Index>(size));
    for (std::size_t lag = 0; lag < sums.size(); ++lag) sums[lag] += products[lag];
}

/// The lag behind which the correlation is nothing: the first of several in a row inside the noise band.
std::size_t lastCorrelatedLag(const std::vector<double>& covariance, std::size_t size) {
    const double n = static_cast<double>(size), logN = std::log10(n);
    const double band = 2 * std::sqrt(logN / n);
    const auto wanted = static_cast<std::size_t>(std::max(5.0, std::sqrt(logN)));
    const std::size_t last = std::min({longestLag, size / 4, covariance.size() - 1});
    std::size_t quiet = 0;
    for (std::size_t lag = 1; lag <= last; ++lag) {
        quiet = std::abs(covariance[lag] / covariance[0]) < band ? quiet + 1 : 0;
        if (quiet == wanted) return lag - wanted;
    }
    return last;
}

} // namespace

std::vector<double> autocovariances(std::span<const double> values, std::size_t longest) {
    const std::size_t n = values.size();
    const auto middle = mean(values);
    if (!middle) return {};
    std::vector<double> sums(std::min(longest + 1, std::min(n, pieceLength)), 0.0);
    std::size_t seen = n;
    if (n <= wholeLength) {
        addProducts(values, *middle, sums);
    } else {
        for (std::size_t i = 0; i < pieceCount; ++i)
            addProducts(values.subspan(i * (n - pieceLength) / (pieceCount - 1), pieceLength), *middle, sums);
        seen = pieceCount * pieceLength;
    }
    for (double& s : sums) s /= static_cast<double>(seen);
    return sums;
}

double blockLength(std::span<const double> values) {
    const auto sd = standardDeviation(values);
    if (values.size() < 10 || !sd || *sd == 0) return 1;
    const double n = static_cast<double>(values.size());
    const auto covariance = autocovariances(values, 2 * longestLag);
    const std::size_t window = 2 * std::max<std::size_t>(1, lastCorrelatedLag(covariance, values.size()));
    double spectrum = covariance[0], slope = 0;
    for (std::size_t lag = 1; lag <= std::min(window, covariance.size() - 1); ++lag) {
        const double share = static_cast<double>(lag) / static_cast<double>(window);
        const double weight = share <= 0.5 ? 1 : 2 * (1 - share);
        spectrum += 2 * weight * covariance[lag];
        slope += 2 * weight * static_cast<double>(lag) * covariance[lag];
    }
    const double most = std::max(1.0, std::ceil(std::min(3 * std::sqrt(n), n / 3)));
    if (spectrum <= 0) return 1;
    return std::clamp(std::cbrt(2 * slope * slope / (2 * spectrum * spectrum) * n), 1.0, most);
}

Doubt doubtFrom(const std::vector<double>& figures, double confidence) {
    const double tail = (1 - confidence) / 2;
    return {standardDeviation(figures).value_or(0), *quantile(figures, tail), *quantile(figures, 1 - tail)};
}

} // namespace impasto::stats
