// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/id.h>

#include <impasto/base/random.h>
#include <memory>

namespace impasto {

std::string toHex(const IdBytes& bytes) {
    constexpr std::string_view digits = "0123456789abcdef";
    std::string out;
    for (const auto b : bytes) {
        out += digits[b >> 4U];
        out += digits[b & 15U];
    }
    return out;
}

std::optional<IdBytes> bytesFromHex(std::string_view hex) {
    IdBytes bytes{};
    if (hex.size() != 2 * bytes.size()) return std::nullopt;
    for (std::size_t i = 0; i < hex.size(); ++i) {
        const char c = hex[i];
        const int digit = c >= '0' && c <= '9' ? c - '0' : c >= 'a' && c <= 'f' ? c - 'a' + 10 : -1;
        if (digit < 0) return std::nullopt;
        bytes[i / 2] = static_cast<std::uint8_t>(bytes[i / 2] * 16 + digit);
    }
    return bytes;
}

IdSource systemIdSource() {
    return [] {
        std::random_device device;
        IdBytes bytes{};
        for (auto& b : bytes) b = static_cast<std::uint8_t>(device());
        return bytes;
    };
}

IdSource seededIdSource(std::uint64_t seed) {
    return [stream = std::make_shared<RandomStream>(seed, "id")] {
        IdBytes bytes{};
        for (auto& b : bytes) b = static_cast<std::uint8_t>(stream->bits());
        return bytes;
    };
}

} // namespace impasto
