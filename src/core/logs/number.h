// SPDX-License-Identifier: GPL-3.0-or-later
// Numbers as cells of logs write them. Private to logs.
#pragma once

#include <optional>
#include <string_view>

namespace impasto::logs {

/// As parseDouble, and with thousands in groups: "1.234,5" with a decimal comma, "1,234.5" without, "1 234,5", "1'234".
/// Nothing where a group may be a fraction: "1,234" without a decimal comma.
/// `units`: a unit behind it is passed over, where no other one is usual for the same thing: "16.2 ms", "98 %", "61
/// fps"; not "1 s", which may stand between others in ms.
std::optional<double> parseNumber(std::string_view cell, bool decimalComma, bool units = false);
/// That unit; empty where a cell has none.
std::string_view unitBehind(std::string_view cell);

} // namespace impasto::logs
