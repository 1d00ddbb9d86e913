// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/portable_math.h>

#include <bit>
#include <cstdint>
#include <limits>

namespace impasto::portable {
namespace {

// ln 2 in two parts; the first has 21 trailing zero bits so that k * ln2Hi is exact for |k| < 2^20.
constexpr double ln2Hi = 6.93147180369123816490e-01;
constexpr double ln2Lo = 1.90821492927058770002e-10;

/// A value as an unevaluated sum of two doubles.
struct Pair {
    double hi, lo;
};

/// Exact product by Dekker's splitting (no fused multiply-add, whose presence differs between processors).
Pair product(double a, double b) {
    constexpr double split = 134217729.0; // 2^27 + 1
    const double ta = split * a, tb = split * b;
    const double ah = ta - (ta - a), al = a - ah, bh = tb - (tb - b), bl = b - bh;
    const double p = a * b;
    return {p, ((ah * bh - p) + ah * bl + al * bh) + al * bl};
}

Pair fastSum(double a, double b) {
    const double s = a + b;
    return {s, b - (s - a)};
}

Pair sum(double a, double b) {
    const double s = a + b, t = s - a;
    return {s, (a - (s - t)) + (b - t)};
}

double scaleByPowerOfTwo(double x, int k) {
    const auto part = [](int e) { return std::bit_cast<double>(static_cast<std::uint64_t>(e + 1023) << 52U); };
    const int half = k / 2;
    return x * part(half) * part(k - half);
}

/// e^(r + low) for |r| <= 0.35 by the Taylor series, the leading terms summed with their errors.
double expReduced(double r, double low) {
    double tail = 1.0;
    for (int n = 18; n >= 3; --n) tail = 1.0 + tail * r / n;
    // e^r = 1 + r + r^2/2 * tail
    const Pair square = product(r, r);
    const Pair one = fastSum(1.0, r);
    const double curve = 0.5 * square.hi * tail;
    const double rest = curve + (0.5 * square.lo + low * (1.0 + r + curve));
    return one.hi + (one.lo + rest);
}

double expOfPair(double x, double low) {
    if (x != x) return x;
    if (x > 709.0) return std::numeric_limits<double>::infinity();
    if (x < -708.0) return 0.0;
    const int k = static_cast<int>(x * 1.44269504088896338700e+00 + (x < 0 ? -0.5 : 0.5));
    const Pair r = sum(x - k * ln2Hi, -(k * ln2Lo));
    return scaleByPowerOfTwo(expReduced(r.hi, r.lo + low), k);
}

/// log x = hi + lo, for a normal x > 0.
Pair logPair(double x) {
    int k = 0;
    auto bits = std::bit_cast<std::uint64_t>(x);
    k = static_cast<int>(bits >> 52U) - 1023;
    double m = std::bit_cast<double>((bits & 0x000fffffffffffffULL) | 0x3ff0000000000000ULL);
    if (m > 1.41421356237309504880) {
        m *= 0.5;
        ++k;
    }
    // log m = 2 atanh(s), s = (m - 1) / (m + 1), with the rounding error of s carried along.
    const double num = m - 1.0;
    const Pair den = sum(m, 1.0);
    const double s = num / den.hi;
    const Pair back = product(s, den.hi);
    const double sLow = ((num - back.hi) - back.lo - s * den.lo) / den.hi;
    const double z = s * s;
    double series = 0.0;
    for (int n = 27; n >= 3; n -= 2) series = series * z + 1.0 / n;
    const double rest = 2.0 * (s * z * series + sLow);
    const Pair first = sum(k * ln2Hi, 2.0 * s);
    return fastSum(first.hi, first.lo + (rest + k * ln2Lo));
}

struct Reduced {
    double r;
    int quadrant;
};

Reduced reduceToQuarter(double x) {
    constexpr double p1 = 1.57079632673412561417e+00; // pi / 2 in three parts
    constexpr double p2 = 6.07710050630396597660e-11;
    constexpr double p3 = 2.02226624879595063154e-21;
    const int k = static_cast<int>(x * 6.36619772367581382433e-01 + (x < 0 ? -0.5 : 0.5));
    return {((x - k * p1) - k * p2) - k * p3, k & 3};
}

double sinReduced(double r) {
    const double z = r * r;
    double series = 1.0;
    for (int n = 19; n >= 5; n -= 2) series = 1.0 - series * z / ((n - 1) * n);
    return r - r * z / 6.0 * series;
}

double cosReduced(double r) {
    const double z = r * r;
    double series = 1.0;
    for (int n = 20; n >= 4; n -= 2) series = 1.0 - series * z / ((n - 1) * n);
    const Pair head = fastSum(1.0, -0.5 * z);
    return head.hi + (head.lo + 0.5 * z * (1.0 - series));
}

} // namespace

double exp(double x) {
    return expOfPair(x, 0.0);
}

double log(double x) {
    if (x < 0.0 || x != x) return std::numeric_limits<double>::quiet_NaN();
    if (x == 0.0) return -std::numeric_limits<double>::infinity();
    return logPair(x).hi;
}

double pow(double x, double y) {
    const Pair l = logPair(x);
    const Pair p = product(l.hi, y);
    return expOfPair(p.hi, p.lo + l.lo * y);
}

double cos(double x) {
    const auto [r, quadrant] = reduceToQuarter(x);
    switch (quadrant) {
    case 0:
        return cosReduced(r);
    case 1:
        return -sinReduced(r);
    case 2:
        return -cosReduced(r);
    default:
        return sinReduced(r);
    }
}

double sin(double x) {
    const auto [r, quadrant] = reduceToQuarter(x);
    switch (quadrant) {
    case 0:
        return sinReduced(r);
    case 1:
        return cosReduced(r);
    case 2:
        return -sinReduced(r);
    default:
        return -cosReduced(r);
    }
}

} // namespace impasto::portable
