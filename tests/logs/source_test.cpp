// SPDX-License-Identifier: GPL-3.0-or-later
// Packed logs and other encodings give the same frames as the plain text; damaged and hostile ones a clear error or
// every whole row.
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/logs/import.h>
#include <logs/source.h>
#include <zlib.h>
#include <zstd.h>

using namespace impasto;
using namespace impasto::capture;
using namespace impasto::logs;

namespace {

std::string plainLog(int rows = 5000) {
    std::string text = "frame_ms,µs of the CPU\n";
    for (int i = 0; i < rows; ++i) text += fmt::format("{}.{},7\n", 16 + i % 5, i % 10);
    return text;
}

std::string gzipped(const std::string& text) {
    z_stream stream{};
    EXPECT_EQ(deflateInit2(&stream, 6, Z_DEFLATED, 15 + 16, 8, Z_DEFAULT_STRATEGY), Z_OK);
    std::string in = text, out(deflateBound(&stream, static_cast<uLong>(text.size())), '\0');
    stream.next_in = reinterpret_cast<Bytef*>(in.data());
    stream.avail_in = static_cast<uInt>(in.size());
    stream.next_out = reinterpret_cast<Bytef*>(out.data());
    stream.avail_out = static_cast<uInt>(out.size());
    EXPECT_EQ(deflate(&stream, Z_FINISH), Z_STREAM_END);
    out.resize(out.size() - stream.avail_out);
    deflateEnd(&stream);
    return out;
}

std::string zstdOf(const std::string& text) {
    std::string out(ZSTD_compressBound(text.size()), '\0');
    out.resize(ZSTD_compress(out.data(), out.size(), text.data(), text.size(), 3));
    return out;
}

/// Of text in the basic plane up to U+07FF.
std::string utf16(const std::string& text, bool bigEnd) {
    std::string out = bigEnd ? "\xfe\xff" : "\xff\xfe";
    for (std::size_t i = 0; i < text.size(); ++i) {
        unsigned code = static_cast<unsigned char>(text[i]);
        if (code >= 0xc0) code = ((code & 0x1fU) << 6U) | (static_cast<unsigned char>(text[++i]) & 0x3fU);
        const char high = static_cast<char>(code >> 8U), low = static_cast<char>(code & 0xffU);
        out += bigEnd ? high : low;
        out += bigEnd ? low : high;
    }
    return out;
}

Result<std::string> all(std::string_view bytes, std::size_t limit = std::size_t{1} << 31U) {
    auto opened = openSource(bytes, limit);
    if (!opened) return tl::unexpected(opened.error());
    std::string out;
    for (auto block = opened->source->next(); !block.empty(); block = opened->source->next()) out.append(block);
    if (opened->source->fault()) return tl::unexpected(*opened->source->fault());
    return out;
}

} // namespace

TEST(SourceTest, EveryPackingGivesTheSameFrames) {
    const std::string text = plainLog();
    const auto plain = readLogText(text);
    ASSERT_TRUE(plain.has_value());
    EXPECT_FALSE(plain->notes.contains("packing"));
    const std::pair<std::string, std::string> cases[] = {
        {gzipped(text), "gzip"},
        {gzipped(text.substr(0, 20000)) + gzipped(text.substr(20000)), "gzip"}, // two members
        {zstdOf(text), "zstd"},
        {zstdOf(text.substr(0, 20000)) + zstdOf(text.substr(20000)), "zstd"},
        {utf16(text, false), "UTF-16"},
        {utf16(text, true), "UTF-16"},
        {gzipped(utf16(text, false)), "gzip, UTF-16"},
        {zstdOf(utf16(text, true)), "zstd, UTF-16"}};
    for (const auto& [bytes, how] : cases) {
        const auto capture = readLogText(bytes);
        ASSERT_TRUE(capture.has_value()) << how;
        EXPECT_EQ(capture->framesMs, plain->framesMs) << how;
        EXPECT_EQ(capture->notes.at("packing"), how);
        EXPECT_EQ(capture->notes.at("dialect"), plain->notes.at("dialect")) << how;
    }
    const auto own = writeCsv(*plain);
    EXPECT_EQ(readLogText(gzipped(own))->framesMs, plain->framesMs);
    EXPECT_EQ(*all(utf16("a\xc2\xb5z", false)), "a\xc2\xb5z");
    // Beyond the basic plane, and halves without their other.
    EXPECT_EQ(*all(std::string("\xff\xfe\x3d\xd8\x00\xde", 6)), "\xf0\x9f\x98\x80");
    EXPECT_EQ(*all(std::string("\xff\xfe\x3d\xd8\x41\x00", 6)), "\xef\xbf\xbd"
                                                                "A");
}

TEST(SourceTest, ATruncatedFileKeepsEveryWholeRow) {
    const std::string text = plainLog(20000);
    const auto whole = readLogText(text)->framesMs;
    for (const auto& bytes : {gzipped(text), zstdOf(text)})
        for (const double share : {0.5, 0.9, 0.99}) {
            const auto cut = readLogText(
                std::string_view(bytes).substr(0, static_cast<std::size_t>(share * static_cast<double>(bytes.size()))));
            if (!cut) continue; // a zstd block is unpacked as a whole
            EXPECT_LE(cut->frames(), whole.size());
            EXPECT_TRUE(std::equal(cut->framesMs.begin(), cut->framesMs.end(), whole.begin()));
        }
    const auto packed = gzipped(text);
    EXPECT_GT(readLogText(packed.substr(0, packed.size() / 2))->frames(), 4000U);
}

TEST(SourceTest, DamagedAndHostileFilesAreRefused) {
    EXPECT_EQ(readLogText("\x1f\x8b rubbish that is no gzip").error().code, ErrorCode::DamagedPacking);
    EXPECT_EQ(readLogText("\x1f\x8b").error().what, "gzip");
    EXPECT_EQ(readLogText("\x28\xb5\x2f\xfd rubbish").error().what, "zstd");
    EXPECT_EQ(readLogText("\xff\xfe").error().code, ErrorCode::EmptyFile);
    // A small file that unpacks to far more than is allowed.
    const auto bomb = gzipped(std::string(8U << 20U, '0')), other = zstdOf(std::string(8U << 20U, '0'));
    for (const auto& bytes : {bomb, other}) {
        EXPECT_LT(bytes.size(), 20000U);
        const auto refused = all(bytes, 1U << 20U);
        ASSERT_FALSE(refused.has_value());
        EXPECT_EQ(refused.error().code, ErrorCode::FileTooLarge);
    }
    // Flipped bytes: an error or some frames, never a crash.
    RandomStream s(1, "flips");
    const auto good = gzipped(plainLog(300)), alsoGood = zstdOf(plainLog(300));
    for (int i = 0; i < 400; ++i) {
        std::string bad = i % 2 == 0 ? good : alsoGood;
        for (int k = 0; k < 3; ++k) bad[s.below(bad.size())] = static_cast<char>(s.below(256));
        const auto capture = readLogText(bad);
        if (capture) EXPECT_GT(capture->frames(), 0U);
    }
}
