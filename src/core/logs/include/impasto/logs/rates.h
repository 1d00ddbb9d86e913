// SPDX-License-Identifier: GPL-3.0-or-later
// A table of one rate a second, or a line: no list of frames, and no low is known of it; but what a counter showed.
#pragma once

#include <impasto/base/quantity.h>
#include <impasto/logs/import.h>

namespace impasto::logs {

struct RateTable {
    std::vector<double> rates;         // fps, a step each
    Fps average{0}, least{0}, most{0}; // the last two of seconds, or of longer steps
    std::optional<double> stepMs = {}; // how long a row lasts, usually; nothing where no clock stands beside the rates
};
/// Of a table that readLog refuses as NotFrames for its rates. Errors: NotFrames for one of results; BadValue for a log
/// of frames; those of reading.
Result<RateTable> readRates(const std::filesystem::path& path, const ReadOptions& options = {});

} // namespace impasto::logs
