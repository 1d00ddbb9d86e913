// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/run/bounds.h>

#include <algorithm>
#include <cmath>

namespace impasto::run {
namespace {

struct Row {
    std::string_view key;
    const char* name;
    double least, most;
};
constexpr std::array<Row, allBounds.size()> rows{{{"most_latency_ms", "latency", 1, 1000},
                                                  {"most_power_w", "power", 1, 5000},
                                                  {"least_battery_h", "battery", 0.1, 100},
                                                  {"most_gpu_c", "GPU temperature", 30, 110},
                                                  {"most_gpu_load", "GPU load", 0.1, 1},
                                                  {"most_fan", "fan", 0.01, 1}}};

} // namespace

std::string_view keyOf(Bound bound) {
    return rows[static_cast<std::size_t>(bound)].key;
}

const char* nameOf(Bound bound) {
    return rows[static_cast<std::size_t>(bound)].name;
}

std::pair<double, double> rangeOf(Bound bound) {
    const auto& row = rows[static_cast<std::size_t>(bound)];
    return {row.least, row.most};
}

double missOf(Bound bound, double asked, double is) {
    const double ratio = isLeast(bound) ? asked / std::max(is, 1e-6) : is / asked;
    return std::max(0.0, std::log(std::max(ratio, 1e-6)));
}

double missOf(const BoundFigures& asked, const BoundFigures& is) {
    double out = 0;
    for (const auto bound : allBounds)
        if (asked[bound] && is[bound])
            out += missOf(bound, *asked[bound] * (isLeast(bound) ? spared : 1 / spared), *is[bound]);
    return out;
}

} // namespace impasto::run
