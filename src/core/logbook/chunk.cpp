// SPDX-License-Identifier: GPL-3.0-or-later
#include "chunk.h"

#include <cstring>
#include <memory>
#include <zstd.h>

namespace impasto::logbook {

std::string packed(std::span<const double> values) {
    std::string shuffled(values.size() * sizeof(double), '\0');
    for (std::size_t i = 0; i < values.size(); ++i) {
        char bytes[sizeof(double)];
        std::memcpy(bytes, &values[i], sizeof bytes);
        for (std::size_t b = 0; b < sizeof bytes; ++b) shuffled[b * values.size() + i] = bytes[b];
    }
    const std::unique_ptr<ZSTD_CCtx, decltype(&ZSTD_freeCCtx)> context(ZSTD_createCCtx(), &ZSTD_freeCCtx);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_compressionLevel, 1);
    ZSTD_CCtx_setParameter(context.get(), ZSTD_c_checksumFlag, 1);
    std::string out(ZSTD_compressBound(shuffled.size()), '\0');
    out.resize(ZSTD_compress2(context.get(), out.data(), out.size(), shuffled.data(), shuffled.size()));
    return out;
}

std::optional<std::vector<double>> unpacked(std::string_view blob, std::size_t rows) {
    if (rows > chunkRows) return std::nullopt;
    std::string shuffled(rows * sizeof(double), '\0');
    const std::size_t size = ZSTD_decompress(shuffled.data(), shuffled.size(), blob.data(), blob.size());
    if (ZSTD_isError(size) != 0 || size != shuffled.size()) return std::nullopt;
    std::vector<double> values(rows);
    for (std::size_t i = 0; i < rows; ++i) {
        char bytes[sizeof(double)];
        for (std::size_t b = 0; b < sizeof bytes; ++b) bytes[b] = shuffled[b * rows + i];
        std::memcpy(&values[i], bytes, sizeof bytes);
    }
    return values;
}

} // namespace impasto::logbook
