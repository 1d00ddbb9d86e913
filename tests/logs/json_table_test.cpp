// SPDX-License-Identifier: GPL-3.0-or-later
// Every shape of a JSON log gives the frames that the same log gives as text.
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/logs/import.h>

using namespace impasto;
using namespace impasto::capture;
using namespace impasto::logs;

namespace {

constexpr int rowCount = 50;

double frame(int i) {
    return 16 + i % 5;
}

std::string joined(const char* separator, const std::function<std::string(int)>& item) {
    std::string out;
    for (int i = 0; i < rowCount; ++i) out += (i == 0 ? "" : separator) + item(i);
    return out;
}

} // namespace

TEST(JsonTableTest, EveryShapeIsRead) {
    const std::string objects = joined(", ", [](int i) {
        return fmt::format(R"({{"frame_ms": {}, "gpu": {{"busy_ms": {}.5}}, "vsync": true, "tag": "a\tb"}})", frame(i),
                           10 + i % 3);
    });
    const std::string times = joined(",", [](int i) { return fmt::format("{}", frame(i)); });
    const std::string work = joined(",", [](int i) { return fmt::format("{}.5", 10 + i % 3); });
    const std::pair<std::string, bool> shapes[] = {
        {"[" + objects + "]", true},
        {R"({"version": 3, "game": {"name": "x"}, "data": {"frames": [)" + objects + "]}}", true},
        {R"({"runs": [{"frame_ms": [)" + times + R"(], "gpu busy ms": [)" + work + R"(], "other": [1,2,3]}]})", true},
        {"[" + joined(",", [](int i) { return fmt::format("[{}, {}.5]", frame(i), 10 + i % 3); }) + "]", false},
        {"{\"frametimes\": [" + times + "]}", false},
        {"[" + times + "]", false},
        {joined("\n",
                [](int i) { return fmt::format(R"({{"frame_ms": {}, "gpu busy ms": {}.5}})", frame(i), 10 + i % 3); }) +
             "\n{\"frame_ms\": 1",
         true},
        {"\xef\xbb\xbf [\n" + objects + "\n]", true}};
    for (const auto& [text, hasGpu] : shapes) {
        const auto capture = readLogText(text);
        ASSERT_TRUE(capture.has_value()) << text.substr(0, 60)
                                         << wording::error(wording::Words(), capture.error()).all();
        ASSERT_EQ(capture->frames(), static_cast<std::size_t>(rowCount)) << text.substr(0, 60);
        for (int i = 0; i < rowCount; ++i) EXPECT_EQ(capture->framesMs[static_cast<std::size_t>(i)], frame(i));
        EXPECT_EQ(capture->gpuWorkMs.has_value(), hasGpu) << text.substr(0, 60);
        EXPECT_EQ(capture->notes.at("packing"), "JSON");
    }
    const auto capture = readLogText(shapes[0].first);
    EXPECT_EQ(capture->others.size(), 2U) << "what else an object says comes along";
}

TEST(JsonTableTest, ACutDocumentKeepsEveryWholeRow) {
    const std::string text = R"({"name": "a, \"b\"", "frames": [)" +
                             joined(",", [](int i) { return fmt::format(R"({{"frame_ms": {}}})", frame(i)); }) + "]}";
    const std::size_t begin = text.find("},") + 300;
    for (std::size_t cut = begin; cut < text.size(); cut += 13) {
        const auto capture = readLogText(text.substr(0, cut));
        ASSERT_TRUE(capture.has_value()) << cut;
        const std::string_view kept = std::string_view(text).substr(0, cut);
        std::size_t whole = 0;
        for (auto at = kept.find("},"); at != std::string_view::npos; at = kept.find("},", at + 1)) ++whole;
        EXPECT_GE(capture->frames(), whole);
        EXPECT_LE(capture->frames(), whole + 1);
        EXPECT_EQ(capture->framesMs[7], frame(7));
    }
}

TEST(JsonTableTest, WhatIsNoTableIsRefused) {
    for (const std::string text :
         {"{}", "[]", "{\"a\": 1}", "[[[[]]]]", "[{\"a\": \"b\"},{\"a\": \"b\"},{\"a\": \"b\"}]", "[1, 2",
          "{\"frame_ms\": [1, 2, 3", "[null, null, null]"})
        EXPECT_FALSE(readLogText(text).has_value()) << text;
    EXPECT_FALSE(readLogText(std::string(200000, '[')).has_value());
    EXPECT_FALSE(readLogText(std::string(200000, '[') + std::string(200000, ']')).has_value());
    std::string nested;
    for (int i = 0; i < 50000; ++i) nested += "{\"a\":";
    EXPECT_FALSE(readLogText(nested + "1" + std::string(50000, '}')).has_value());
}

TEST(JsonTableTest, BrokenDocumentsNeverCrash) {
    RandomStream s(4, "json");
    const std::string good =
        "{\"frames\": [" +
        joined(
            ", ",
            [](int i) { return fmt::format(R"({{"frame_ms": {}, "gpu": {{"busy_ms": 9}}, "tag": "a"}})", frame(i)); }) +
        "]}";
    std::size_t read = 0;
    for (int i = 0; i < 2000; ++i) {
        std::string bad = good;
        for (std::uint64_t k = s.below(4) + 1; k > 0; --k) {
            const std::size_t at = s.below(bad.size());
            if (s.below(2) == 0)
                bad[at] = "{}[],:\"0e-n"[s.below(11)];
            else
                bad.erase(at, s.below(20));
        }
        const auto capture = readLogText(bad);
        if (!capture) continue;
        ++read;
        EXPECT_GT(capture->frames(), 0U);
    }
    EXPECT_GT(read, 0U);
}
