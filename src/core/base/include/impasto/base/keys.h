// SPDX-License-Identifier: GPL-3.0-or-later
// Enumerations and the keys that files write for them, as one table each.
#pragma once

#include <array>
#include <optional>
#include <string_view>
#include <utility>

namespace impasto {

template <class Value, std::size_t N>
using Keys = std::array<std::pair<Value, std::string_view>, N>;

template <class Value, std::size_t N>
constexpr std::string_view keyIn(const Keys<Value, N>& table, Value value) {
    for (const auto& [each, key] : table)
        if (each == value) return key;
    return {};
}

template <class Value, std::size_t N>
constexpr std::optional<Value> valueIn(const Keys<Value, N>& table, std::string_view key) {
    for (const auto& [value, each] : table)
        if (each == key) return value;
    return std::nullopt;
}

} // namespace impasto
