// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/numbers.h>

#include <algorithm>
#include <cmath>
#include <impasto/base/text.h>

namespace impasto::wording {
namespace {

constexpr const char* minus = "\u2212";

std::string fixed(double value, int decimals) {
    std::string text = fmt::format("{:.{}f}", std::abs(value), decimals);
    const bool zero = text.find_first_not_of("0.") == std::string::npos;
    return value < 0 && !zero ? minus + text : text;
}

/// Decimals that show one significant digit of a half width, two where the first is 1.
int decimalsFor(double halfWidth, int most) {
    if (!(halfWidth > 0)) return most;
    const int exponent = static_cast<int>(std::floor(std::log10(halfWidth)));
    const double first = std::floor(halfWidth / std::pow(10.0, exponent) + 1e-9);
    return std::clamp(-exponent + (first < 2 ? 1 : 0), 0, most);
}

} // namespace

std::string ms(double value) {
    return fixed(value, std::abs(value) < 9.995 ? 2 : 1);
}
std::string fps(double value) {
    return fixed(value, std::abs(value) >= 99.95 ? 0 : 1);
}
std::string wishFps(Fps rate) {
    return shortestText(rate.value());
}
std::string gib(double mebibytes) {
    return fixed(mebibytes / 1024, 1);
}
std::string percent(double share) {
    // Some is not none, and not all is not all.
    const bool nearAnEnd = (share > 0 && share < 0.005) || (share >= 0.995 && share < 1);
    return fixed(nearAnEnd ? std::clamp(100 * share, 0.1, 99.9) : 100 * share, nearAnEnd ? 1 : 0) + "%";
}

std::string plusMinus(double value, std::optional<double> halfWidth, int most) {
    if (!halfWidth) return fixed(value, most);
    const int decimals = decimalsFor(*halfWidth, most);
    return fmt::format("{} \u00b1 {}", fixed(value, decimals), fixed(*halfWidth, decimals));
}

std::string signedPlusMinus(double value, std::optional<double> halfWidth, int most) {
    return (value > 0 ? "+" : "") + plusMinus(value, halfWidth, most);
}

std::string resolution(display::Resolution r) {
    return fmt::format("{}\u00d7{}", r.widthPx, r.heightPx);
}

std::string count(std::size_t n) {
    const std::string digits = std::to_string(n);
    std::string out;
    for (std::size_t i = 0; i < digits.size(); ++i) {
        if (i > 0 && (digits.size() - i) % 3 == 0) out += ',';
        out += digits[i];
    }
    return out;
}

} // namespace impasto::wording
