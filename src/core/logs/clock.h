// SPDX-License-Identifier: GPL-3.0-or-later
// Times as logs write them: numbers, dates with a clock time (ISO 8601 and alike), clock times alone.
#pragma once

#include <cmath>
#include <optional>
#include <string_view>

namespace impasto::logs {

/// Over midnight a clock time alone begins again: it counts on.
struct Clock {
    double last = -1, days = 0;
    bool used = false; // some cell was one
};

/// Seconds since 1970 of "2031-04-05T12:34:56.789Z" (also with a space, a comma, an offset), or of the day of
/// "12:34:56.789"; nothing for anything else.
std::optional<double> parseClock(std::string_view cell, Clock& clock);
/// A number, or else a clock time in seconds.
std::optional<double> parseTime(std::string_view cell, bool decimalComma, Clock& clock);
/// An empty cell, or a word for nothing: NA, n/a, -, null, none, nan.
bool saysNothing(std::string_view cell);

} // namespace impasto::logs
