// SPDX-License-Identifier: GPL-3.0-or-later
// What was said of the points that put a machine in order.
#pragma once

#include <cstdint>
#include <impasto/base/error.h>
#include <map>
#include <optional>

namespace impasto::document {

struct Edit;

enum class Said { Done, NotHere };
std::string_view keyOf(Said said);
std::optional<Said> saidOf(std::string_view key);

struct Tick {
    Said said = Said::Done;
    std::int64_t atSeconds = 0; // since 1970, UTC
    std::uint64_t mark = 0;     // of what the point rested on: where that differs, it is open again
    friend bool operator==(const Tick&, const Tick&) = default;
};

struct Checks {
    std::map<std::string, Tick> ticks; // by the point's id
    friend bool operator==(const Checks&, const Checks&) = default;
};

/// Nothing: the point is open again. Errors: OutOfRange for an id of more than 100 bytes.
Edit tickPoint(std::string point, std::optional<Tick> tick);

} // namespace impasto::document
