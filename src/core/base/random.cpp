// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/random.h>

#include <cmath>
#include <impasto/base/portable_math.h>

namespace impasto {

std::uint64_t deriveSeed(std::uint64_t parent, std::string_view purpose) {
    std::uint64_t h = 0xcbf29ce484222325ULL;
    for (const char c : purpose) h = (h ^ static_cast<unsigned char>(c)) * 0x100000001b3ULL;
    std::uint64_t z = parent + 0x9e3779b97f4a7c15ULL * (h | 1U);
    z = (z ^ (z >> 30U)) * 0xbf58476d1ce4e5b9ULL;
    z = (z ^ (z >> 27U)) * 0x94d049bb133111ebULL;
    return z ^ (z >> 31U);
}

std::uint64_t RandomStream::below(std::uint64_t n) {
    const std::uint64_t limit = ~std::uint64_t{0} - ~std::uint64_t{0} % n;
    std::uint64_t draw = m_engine();
    while (draw >= limit) draw = m_engine();
    return draw % n;
}

double RandomStream::normal() {
    if (m_hasSpare) {
        m_hasSpare = false;
        return m_spare;
    }
    const double u = 1.0 - uniform(); // (0, 1]
    const double angle = 6.28318530717958647692 * uniform();
    const double radius = std::sqrt(-2.0 * portable::log(u));
    m_spare = radius * portable::sin(angle);
    m_hasSpare = true;
    return radius * portable::cos(angle);
}

double RandomStream::exponential(double mean) {
    return -mean * portable::log(1.0 - uniform());
}

double RandomStream::lognormal(double median, double sigma) {
    return median * portable::exp(sigma * normal());
}

} // namespace impasto
