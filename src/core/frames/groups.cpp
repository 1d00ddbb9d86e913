// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/groups.h>

#include <algorithm>
#include <impasto/frames/examine.h>
#include <numeric>

namespace impasto::frames {

std::vector<std::size_t> groupsOf(std::span<const double> averages) {
    constexpr std::size_t fewest = 2, most = 4;
    std::vector<std::size_t> order(averages.size()), group(averages.size(), 0), sizes;
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return averages[a] < averages[b]; });
    for (std::size_t i = 0; i < order.size(); ++i) {
        const bool apart = i > 0 && averages[order[i]] > (1 + Evenness::mostSpread) * averages[order[i - 1]];
        if (i == 0 || apart) sizes.push_back(0);
        group[order[i]] = sizes.size() - 1;
        ++sizes.back();
    }
    const bool few = std::any_of(sizes.begin(), sizes.end(), [](std::size_t n) { return n < fewest; });
    if (few || sizes.size() < 2 || sizes.size() > most) return std::vector<std::size_t>(averages.size(), 0);
    // Numbered as they come.
    std::vector<std::size_t> number(sizes.size(), sizes.size());
    std::size_t next = 0;
    for (auto& g : group) {
        if (number[g] == sizes.size()) number[g] = next++;
        g = number[g];
    }
    return group;
}

} // namespace impasto::frames
