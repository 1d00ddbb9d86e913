// SPDX-License-Identifier: GPL-3.0-or-later
// What is known of a machine, what could not be read, and how its points stand.
#pragma once

#include <impasto/checklist/checklist.h>
#include <impasto/probe/probe.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// "CPU clock now", of a name of machine::factNames() or checklist::knownNames(); the name itself for another one.
std::string factName(const Words& w, std::string_view key);
/// "4.6 GHz", "16 GT/s", "yes".
std::string factValue(const Words& w, std::string_view key, const machine::Fact& fact);
/// What a point was judged by: "memory speed 3200 MT/s, rated 3600 MT/s".
std::string restsOn(const Words& w, const checklist::Judged& judged, const machine::Facts& facts);
/// The same in few words: "3200 of 3600 MT/s".
std::string restsShort(const Words& w, const checklist::Judged& judged, const machine::Facts& facts);

std::string standing(const Words& w, checklist::Standing standing);
std::string place(const Words& w, checklist::Place place);
/// What could not be read, and how to find it out.
std::string missing(const Words& w, probe::Missing missing);

} // namespace impasto::wording
