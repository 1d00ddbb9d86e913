// SPDX-License-Identifier: GPL-3.0-or-later
// Numbers as cells of logs write them. Private to logs.
#pragma once

#include <optional>
#include <string_view>

namespace impasto::logs {

/// As parseDouble, and with thousands in groups: "1.234,5" with a decimal comma, "1,234.5" without, "1 234,5", "1'234".
/// Nothing where a group may be a fraction: "1,234" without a decimal comma.
std::optional<double> parseNumber(std::string_view cell, bool decimalComma);

} // namespace impasto::logs
