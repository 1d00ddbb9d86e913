// SPDX-License-Identifier: GPL-3.0-or-later
#include "packed.h"

#include <fmt/core.h>
#include <memory>
#include <zlib.h>
#include <zstd.h>

namespace impasto::capture {
namespace {

constexpr std::size_t blockBytes = std::size_t{1} << 18U;

Error tooLarge(std::size_t limit) {
    return {ErrorCode::FileTooLarge, fmt::format("{} MiB unpacked", limit >> 20U), {}, Kept::Nothing};
}

Error damaged(const char* packing) {
    return {ErrorCode::NotText, fmt::format("damaged {}", packing), {}, Kept::Nothing};
}

/// Members may follow one another.
Result<std::string> gunzipped(std::string_view bytes, std::size_t limit) {
    z_stream stream{};
    if (inflateInit2(&stream, 15 + 16) != Z_OK) return tl::unexpected(damaged("gzip"));
    const std::unique_ptr<z_stream, int (*)(z_streamp)> guard(&stream, inflateEnd);
    std::string out;
    std::string block(blockBytes, '\0');
    std::size_t at = 0;
    int state = Z_OK;
    while (state == Z_OK || (state == Z_STREAM_END && at < bytes.size())) {
        if (state == Z_STREAM_END && inflateReset(&stream) != Z_OK) break;
        // zlib takes what it reads by a pointer that is not const, and leaves it alone.
        stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(bytes.data() + at));
        stream.avail_in = static_cast<uInt>(std::min(bytes.size() - at, blockBytes));
        stream.next_out = reinterpret_cast<Bytef*>(block.data());
        stream.avail_out = static_cast<uInt>(block.size());
        const std::size_t given = stream.avail_in;
        state = inflate(&stream, Z_NO_FLUSH);
        const std::size_t taken = given - stream.avail_in, made = block.size() - stream.avail_out;
        at += taken;
        out.append(block.data(), made);
        if (out.size() > limit) return tl::unexpected(tooLarge(limit));
        if (taken == 0 && made == 0) break; // it ends early
    }
    if (out.empty()) return tl::unexpected(damaged("gzip"));
    return out;
}

Result<std::string> unzstd(std::string_view bytes, std::size_t limit) {
    const std::unique_ptr<ZSTD_DCtx, std::size_t (*)(ZSTD_DCtx*)> context(ZSTD_createDCtx(), ZSTD_freeDCtx);
    std::string out;
    std::string block(blockBytes, '\0');
    ZSTD_inBuffer in{bytes.data(), bytes.size(), 0};
    for (;;) {
        ZSTD_outBuffer to{block.data(), block.size(), 0};
        const std::size_t before = in.pos;
        const std::size_t state = ZSTD_decompressStream(context.get(), &to, &in);
        if (ZSTD_isError(state) != 0) break;
        out.append(block.data(), to.pos);
        if (out.size() > limit) return tl::unexpected(tooLarge(limit));
        if (to.pos == 0 && in.pos == before) break;
    }
    if (out.empty()) return tl::unexpected(damaged("zstd"));
    return out;
}

void appendUtf8(std::string& out, unsigned code) {
    const auto put = [&out](unsigned value) { out += static_cast<char>(value); };
    if (code < 0x80) return put(code);
    if (code < 0x800) {
        put(0xc0U | (code >> 6U));
    } else {
        if (code < 0x10000) {
            put(0xe0U | (code >> 12U));
        } else {
            put(0xf0U | (code >> 18U));
            put(0x80U | ((code >> 12U) & 0x3fU));
        }
        put(0x80U | ((code >> 6U) & 0x3fU));
    }
    put(0x80U | (code & 0x3fU));
}

/// A unit without its other half becomes U+FFFD; an odd byte at the end is left out.
std::string utf8Of(std::string_view bytes, bool bigEnd) {
    const auto unit = [&](std::size_t at) {
        const auto first = static_cast<unsigned char>(bytes[at]), second = static_cast<unsigned char>(bytes[at + 1]);
        return bigEnd ? 256U * first + second : 256U * second + first;
    };
    std::string out;
    out.reserve(bytes.size() / 2);
    for (std::size_t at = 2; at + 1 < bytes.size(); at += 2) {
        unsigned code = unit(at);
        if (code >= 0xd800 && code < 0xe000) {
            const unsigned low = code < 0xdc00 && at + 3 < bytes.size() ? unit(at + 2) : 0;
            const bool pair = low >= 0xdc00 && low < 0xe000;
            code = pair ? 0x10000U + ((code - 0xd800U) << 10U) + (low - 0xdc00U) : 0xfffdU;
            if (pair) at += 2;
        }
        appendUtf8(out, code);
    }
    return out;
}

bool begins(std::string_view text, std::string_view mark) {
    return text.substr(0, mark.size()) == mark;
}

} // namespace

Result<Unpacked> unpacked(std::string_view bytes, std::size_t limit) {
    Unpacked out;
    const bool gzip = begins(bytes, "\x1f\x8b"), zstd = begins(bytes, "\x28\xb5\x2f\xfd");
    if (gzip || zstd) {
        auto text = gzip ? gunzipped(bytes, limit) : unzstd(bytes, limit);
        if (!text) return tl::unexpected(text.error());
        out = {std::move(*text), gzip ? "gzip" : "zstd"};
    }
    const std::string_view text = out.text(bytes);
    const bool little = begins(text, "\xff\xfe"), big = begins(text, "\xfe\xff");
    if (little || big) out = {utf8Of(text, big), out.how.empty() ? "UTF-16" : out.how + ", UTF-16"};
    return out;
}

} // namespace impasto::capture
