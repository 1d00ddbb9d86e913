// SPDX-License-Identifier: GPL-3.0-or-later
// Identity: 16 bytes from a passed-in source, one type per kind of thing, never reused.
#pragma once

#include <array>
#include <compare>
#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <string_view>

namespace impasto {

using IdBytes = std::array<std::uint8_t, 16>;
/// Makes fresh bytes. The program's own reads the system's random device; tests and pictures use a seeded one.
using IdSource = std::function<IdBytes()>;

std::string toHex(const IdBytes& bytes);
std::optional<IdBytes> bytesFromHex(std::string_view hex);
IdSource systemIdSource();
IdSource seededIdSource(std::uint64_t seed);

template <class Tag>
struct Id {
    IdBytes bytes{};
    friend auto operator<=>(const Id&, const Id&) = default;
    [[nodiscard]] std::string hex() const { return toHex(bytes); }
};

using SessionId = Id<struct SessionIdTag>;
using OrderId = Id<struct OrderIdTag>;
using RunId = Id<struct RunIdTag>;

} // namespace impasto
