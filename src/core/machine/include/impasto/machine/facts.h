// SPDX-License-Identifier: GPL-3.0-or-later
// What is known of a machine as it stood: clocks, links, rates, power. Each has a name and a unit; what is not known is
// not there.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>

namespace impasto::machine {

/// A number in the unit of its name, or a word; "yes" and "no" where it is either.
using Fact = std::variant<double, std::string>;
using Facts = std::map<std::string, Fact, std::less<>>;

/// A name as "cpu.highest_mhz": the table of the description and its key, which says the unit.
struct FactName {
    std::string_view key;
    bool word = false;
};
/// All that a description may hold, docs/formats.md, Machine.
std::span<const FactName> factNames();

std::optional<double> numberIn(const Facts& facts, std::string_view key);
std::optional<std::string> wordIn(const Facts& facts, std::string_view key);

} // namespace impasto::machine
