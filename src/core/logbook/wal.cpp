// SPDX-License-Identifier: GPL-3.0-or-later
#include "wal.h"

#include <array>
#include <cstdint>
#include <fstream>
#include <vector>

namespace impasto::logbook {
namespace {

constexpr std::size_t headSize = 32, frameHeadSize = 24;

std::uint32_t bigEndian(const unsigned char* p) {
    return (std::uint32_t{p[0]} << 24U) | (std::uint32_t{p[1]} << 16U) | (std::uint32_t{p[2]} << 8U) | p[3];
}

std::uint32_t littleEndian(const unsigned char* p) {
    return (std::uint32_t{p[3]} << 24U) | (std::uint32_t{p[2]} << 16U) | (std::uint32_t{p[1]} << 8U) | p[0];
}

struct Checksum {
    std::uint32_t a = 0, b = 0;
    bool big = false; // the words that are summed
    void add(const unsigned char* bytes, std::size_t size) {
        for (std::size_t i = 0; i + 8 <= size; i += 8) {
            a += (big ? bigEndian(bytes + i) : littleEndian(bytes + i)) + b;
            b += (big ? bigEndian(bytes + i + 4) : littleEndian(bytes + i + 4)) + a;
        }
    }
    [[nodiscard]] bool stands(const unsigned char* at) const { return bigEndian(at) == a && bigEndian(at + 4) == b; }
};

/// From the database's own head: that of the log may be what is damaged.
std::size_t pageSizeOf(const std::filesystem::path& file) {
    std::array<char, headSize> head{};
    std::ifstream in(file, std::ios::binary);
    if (!in.read(head.data(), head.size())) return 0;
    const auto* bytes = reinterpret_cast<const unsigned char*>(head.data());
    const std::size_t size = std::size_t{bytes[16]} * 256 + bytes[17];
    return size == 1 ? 65536 : size;
}

} // namespace

std::size_t lostTransactions(const std::filesystem::path& file) {
    const std::size_t page = pageSizeOf(file);
    std::ifstream in(file.string() + "-wal", std::ios::binary);
    std::array<char, headSize> head{};
    if (page < 512 || !in.read(head.data(), head.size())) return 0;
    const auto* h = reinterpret_cast<const unsigned char*>(head.data());
    Checksum sum;
    sum.big = (bigEndian(h) & 1U) != 0;
    sum.add(h, 24);
    bool sound = sum.stands(h + 24) && bigEndian(h) >> 1U == 0x377f0682U >> 1U && bigEndian(h + 8) == page;
    std::uint64_t salts = (std::uint64_t{bigEndian(h + 16)} << 32U) | bigEndian(h + 20);
    const bool knownSalts = sound;
    std::vector<char> frame(frameHeadSize + page);
    std::size_t lost = 0;
    for (std::size_t i = 0; in.read(frame.data(), static_cast<std::streamsize>(frame.size())); ++i) {
        const auto* f = reinterpret_cast<const unsigned char*>(frame.data());
        const std::uint64_t mine = (std::uint64_t{bigEndian(f + 8)} << 32U) | bigEndian(f + 12);
        if (!knownSalts && i == 0) salts = mine;
        if (sound) {
            sum.add(f, 8);
            sum.add(f + frameHeadSize, page);
            sound = mine == salts && sum.stands(f + 16);
        }
        if (!sound && mine == salts && bigEndian(f + 4) != 0) ++lost; // it ends a transaction
    }
    return lost;
}

} // namespace impasto::logbook
