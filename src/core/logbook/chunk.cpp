// SPDX-License-Identifier: GPL-3.0-or-later
#include "chunk.h"

#include <array>
#include <bit>
#include <impasto/capture/capture.h>
#include <memory>
#include <zstd.h>

namespace impasto::logbook {

namespace {

template <class Value>
std::string packedAsDoubles(std::span<const Value> values) {
    std::string shuffled(values.size() * sizeof(double), '\0');
    for (std::size_t i = 0; i < values.size(); ++i) {
        const auto bytes = std::bit_cast<std::array<char, sizeof(double)>>(static_cast<double>(values[i]));
        for (std::size_t b = 0; b < bytes.size(); ++b) shuffled[b * values.size() + i] = bytes[b];
    }
    const std::unique_ptr<ZSTD_CCtx, decltype(&ZSTD_freeCCtx)> context(ZSTD_createCCtx(), &ZSTD_freeCCtx);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel, 1);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, 1);
    std::string out(ZSTD_compressBound(shuffled.size()), '\0');
    out.resize(ZSTD_compress2(context.get(), out.data(), out.size(), shuffled.data(), shuffled.size()));
    return out;
}

template <class Value>
bool appendDoubles(std::string_view blob, std::size_t rows, std::vector<Value>& to) {
    if (rows > chunkRows) return false;
    std::string shuffled(rows * sizeof(double), '\0');
    const std::size_t size = ZSTD_decompress(shuffled.data(), shuffled.size(), blob.data(), blob.size());
    if (ZSTD_isError(size) != 0 || size != shuffled.size()) return false;
    for (std::size_t i = 0; i < rows; ++i) {
        std::array<char, sizeof(double)> bytes{};
        for (std::size_t b = 0; b < bytes.size(); ++b) bytes[b] = shuffled[b * rows + i];
        const double value = std::bit_cast<double>(bytes);
        if constexpr (std::is_same_v<Value, float>)
            to.push_back(capture::narrowed(value));
        else
            to.push_back(value);
    }
    return true;
}

} // namespace

std::string packed(std::span<const double> values) {
    return packedAsDoubles(values);
}
std::string packed(std::span<const float> values) {
    return packedAsDoubles(values);
}

bool unpack(std::string_view blob, std::size_t rows, std::vector<double>& to) {
    return appendDoubles(blob, rows, to);
}
bool unpack(std::string_view blob, std::size_t rows, std::vector<float>& to) {
    return appendDoubles(blob, rows, to);
}

} // namespace impasto::logbook
