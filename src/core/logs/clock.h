// SPDX-License-Identifier: GPL-3.0-or-later
// Times as logs write them: numbers, dates with a clock time (ISO 8601 and alike), clock times alone.
#pragma once

#include <array>
#include <cmath>
#include <optional>
#include <string_view>

namespace impasto::logs {

/// Over midnight a clock time alone begins again: it counts on. A local date tells only whether the day is the next
/// one, in the order of day and month in which it can be.
struct Clock {
    double last = -1, days = 0;
    bool used = false;         // some cell was one
    std::array<int, 3> date{}; // of the row before, as written
};

/// Seconds since 1970 of "2031-04-05T12:34:56.789Z" (also with a space, a comma, an offset), or since the first day of
/// "12:34:56.789", "5.4.2031 12:34:56.789" and "04/05/2031 12:34:56.789 PM"; nothing for anything else.
std::optional<double> parseClock(std::string_view cell, Clock& clock);
/// A number, or else a clock time in seconds. `units`: as of parseNumber.
std::optional<double> parseTime(std::string_view cell, bool decimalComma, bool units, Clock& clock);
/// An empty cell, or a word for nothing: NA, n/a, -, null, none, nan.
bool saysNothing(std::string_view cell);

} // namespace impasto::logs
