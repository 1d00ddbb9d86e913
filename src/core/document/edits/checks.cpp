// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

#include <impasto/base/keys.h>

namespace impasto::document {
namespace {

constexpr Keys<Said, 2> words{{{Said::Done, "done"}, {Said::NotHere, "not-here"}}};

} // namespace

std::string_view keyOf(Said said) {
    return keyIn(words, said);
}
std::optional<Said> saidOf(std::string_view key) {
    return valueIn(words, key);
}

Edit tickPoint(std::string point, std::optional<Tick> tick) {
    return bounded("tick-point", std::move(point), 100, [tick](Edits& e, const std::string& id) {
        if (tick)
            e.checks.ticks[id] = *tick;
        else
            e.checks.ticks.erase(id);
    });
}

} // namespace impasto::document
