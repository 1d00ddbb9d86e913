// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/split.h>

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace impasto::game {
namespace {

constexpr double leastSeconds = 1;

std::string freeName(const std::vector<Part>& taken) {
    for (int i = 1;; ++i) {
        auto name = fmt::format("part {}", i);
        if (std::none_of(taken.begin(), taken.end(), [&](const Part& p) { return p.name == name; })) return name;
    }
}

} // namespace

Route withPart(const Route& route, double from, double to) {
    std::vector<double> edges{0};
    for (const auto& part : route.parts) edges.push_back(edges.back() + part.seconds);
    const auto edge = [&](double at) {
        for (const double e : edges)
            if (std::abs(e - at) < leastSeconds) return e;
        return std::round(10 * at) / 10;
    };
    from = edge(std::max(0.0, from));
    to = edge(std::min(edges.back(), to));
    const bool whole = from <= 0 && to >= edges.back();
    if (!(to - from >= leastSeconds) || whole) return route;
    Route out{route.name, {}};
    std::string own;
    double at = 0;
    // Of a part that is cut, the first piece keeps the name.
    const auto add = [&](const std::string& name, double seconds) {
        if (!(seconds > 0)) return;
        const bool taken =
            std::any_of(out.parts.begin(), out.parts.end(), [&](const Part& p) { return p.name == name; });
        out.parts.push_back({taken ? freeName(out.parts) : name, std::round(10 * seconds) / 10});
    };
    for (const auto& part : route.parts) {
        const double begin = at, end = at + part.seconds;
        at = end;
        add(part.name, std::min(end, from) - begin);
        if (begin <= from && from < end) {
            own = freeName(route.parts);
            out.parts.push_back({own, std::round(10 * (to - from)) / 10});
        }
        add(part.name, end - std::max(begin, to));
    }
    return out;
}

} // namespace impasto::game
