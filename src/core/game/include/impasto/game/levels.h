// SPDX-License-Identifier: GPL-3.0-or-later
// Levels of a setting as they are typed, from the least to the most. A slider is a range: "1 to 10", "25% to 100% by
// 5%". Ways to run have no order: "one of native, translated".
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace impasto::game {

inline constexpr std::size_t mostLevels = 64;

/// Names between commas, from the least to the most; a range of numbers in one unit stands for its steps, of a size
/// that leaves twelve at most where none is said. Nothing where fewer than two are left, or over mostLevels. A name
/// that comes twice is one.
std::optional<std::vector<std::string>> levelNames(std::string_view text);
/// It says that the levels have no order: it begins with "one of".
bool saysUnordered(std::string_view text);
/// As it can be typed again: five numbers or more at even steps as a range.
std::string levelsText(const std::vector<std::string>& names, bool unordered = false);

} // namespace impasto::game
