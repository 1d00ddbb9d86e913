// SPDX-License-Identifier: GPL-3.0-or-later
#include <gtest/gtest.h>

#include <impasto/config/text.h>

namespace impasto::config {
namespace {

using game::ConfigFormat;

struct Kept {
    const char* name;
    ConfigFormat format;
    std::string text; // the value stands between « and »
    const char* key;
    const char *from, *to;
    const char* written; // what stands there then
};

std::string open = "«", close = "»";

std::string without(std::string text) {
    for (const auto& mark : {open, close}) text.erase(text.find(mark), mark.size());
    return text;
}
std::string with(const std::string& text, const std::string& value) {
    const auto begin = text.find(open), end = text.find(close);
    return text.substr(0, begin) + value + text.substr(end + close.size());
}
std::string utf16(const std::string& ascii, bool little) {
    std::string out = little ? "\xFF\xFE" : "\xFE\xFF";
    for (const char c : ascii) out += little ? std::string{c, '\0'} : std::string{'\0', c};
    return out;
}

const std::vector<Kept>& table() {
    using F = ConfigFormat;
    static const std::vector<Kept> all{
        {"plain", F::Ini, "[Graphics]\nShadows=«2»\nFog=1\n", "Graphics/Shadows", "2", "0", "0"},
        {"spaces", F::Ini, "[ Graphics ]\n  Shadows  =   «2»   \nFog = 1\n", "Graphics/Shadows", "2", "10", "10"},
        {"crlf", F::Ini, "[Graphics]\r\nShadows=«high»\r\nFog=1\r\n", "Graphics/Shadows", "high", "low", "low"},
        {"noEnd", F::Ini, "[Graphics]\nShadows=«high»", "Graphics/Shadows", "high", "low", "low"},
        {"remark", F::Ini, "; Shadows=9\n[Graphics]\n# Shadows=8\nShadows=«2» ; as found\n", "Graphics/Shadows", "2",
         "1", "1"},
        {"quoted", F::Ini, "[Graphics]\nShadows=\"«very high»\" ; x\n", "Graphics/Shadows", "very high", "low ; er",
         "low ; er"},
        {"colour", F::Ini, "[a]\nx=«#ff00;1»\n", "a/x", "#ff00;1", "#00", "#00"},
        {"slashed", F::Ini, "[/Engine/Render.Set]\nr.Shadow=«3»\n[Other]\nr.Shadow=1\n", "/Engine/Render.Set/r.Shadow",
         "3", "1", "1"},
        {"section", F::Ini, "Shadows=0\n[A]\nShadows=1\n[B]\nShadows=«2»\n", "B/Shadows", "2", "5", "5"},
        {"root", F::Ini, "Shadows=«0»\n[A]\nShadows=1\n", "Shadows", "0", "5", "5"},
        {"capitals", F::Ini, "[GRAPHICS]\nSHADOWS=«0»\n", "graphics/shadows", "0", "5", "5"},
        {"exactFirst", F::Ini, "[g]\nShadows=«0»\nshadows=7\n", "g/Shadows", "0", "5", "5"},
        {"bom", F::Ini, "\xEF\xBB\xBF[g]\nShadows=«0»\n", "g/Shadows", "0", "5", "5"},
        {"latin", F::Ini, "[g]\nn=\xE4\xF6\nShadows=«0»\n", "g/Shadows", "0", "5", "5"},
        {"empty", F::Ini, "[g]\nShadows=«»\nx=1\n", "g/Shadows", "", "5", "5"},
        {"keys", F::Keys, "shadows = «high»;\nfog=1\n", "shadows", "high", "low", "low"},
        {"keysBlank", F::Keys, "// remark\nset r_shadows \"«2»\"\nset r_fog \"1\"\n", "r_shadows", "2", "0", "0"},
        {"keysColon", F::Keys, "shadows: «2»,\n\tfog: 1\n", "shadows", "2", "0", "0"},
        {"keysQuoted", F::Keys, "\"video.shadows\"\t\t\"«2»\"\n", "video.shadows", "2", "0", "0"},
        {"keysExport", F::Keys, "export SHADOWS=«2»\n", "SHADOWS", "2", "0", "0"},
        {"json", F::Json, "{\n  \"a\": {\"b\": [1, {\"c\": «\"x\"»}]},\n  \"d\": 1\n}\n", "/a/b/1/c", "x", "y \"z\"",
         "\"y \\\"z\\\"\""},
        {"jsonNumber", F::Json, "{\"scale\" : «0.750» , \"b\":true}", "/scale", "0.750", "1", "1"},
        {"jsonWord", F::Json, "{\"ray\":«true»}", "/ray", "true", "false", "false"},
        {"jsonRemark", F::Json, "{ // \"scale\": 2\n /* {] */ \"scale\": «1» }", "scale", "1", "2", "2"},
        {"jsonEscaped", F::Json, R"({"a/b":{"m~n":«"\u00e9\\"»}})", "/a~1b/m~0n", "é\\", "low", "\"low\""},
        {"jsonTabs", F::Json, "\xEF\xBB\xBF{\r\n\t\"a\":\t«\"1\"»\r\n}", "/a", "1", "2", "\"2\""},
        {"toml", F::Toml, "# a\n[graphics]\nshadows = «\"high\"» # b\nfog = 1\n", "graphics.shadows", "high", "low",
         "\"low\""},
        {"tomlNumber", F::Toml, "[a.b]\nx=«1_0»\n", "a.b.x", "1_0", "20", "20"},
        {"tomlInline", F::Toml, "\"ä\" = 'ö'\na = { b = 'é', c = «true» }\n", "a.c", "true", "false", "false"},
        {"tomlSingle", F::Toml, "p = «'C:\\x'»\nq = 2\n", "p", "C:\\x", "D:\\y", "\"D:\\\\y\""},
        {"tomlList", F::Toml, "[[o]]\nv = 1\n[[o]]\nv = «2»\n", "o[1].v", "2", "3", "3"},
        {"xml", F::Xml, "<?xml version=\"1.0\"?>\n<!-- shadows=\"9\" -->\n<s>\n <g shadows = '«2»' fog=\"1\"/>\n</s>\n",
         "s/g/@shadows", "2", "0", "0"},
        {"xmlText", F::Xml, "<s>\r\n\t<shadows> «high»</shadows>\r\n</s>", "s/shadows", " high", " a<b", " a&lt;b"},
        {"xmlChosen", F::Xml, "<s><o name=\"fog\" value=\"1\"/><o value=\"«2»\" name=\"shadows\"></o></s>",
         "s/o[name=shadows]/@value", "2", "\"0\"", "&quot;0&quot;"},
        {"xmlLike", F::Xml, "<s><g xshadows=\"1\" a=\"shadows=2\" shadows=\"«3»\"/></s>", "/s/g/@shadows", "3", "4",
         "4"},
        {"xmlDeep", F::Xml, "<s><b><shadows>1</shadows></b><shadows>«2»</shadows></s>", "s/shadows", "2", "4", "4"},
    };
    return all;
}

TEST(ConfigText, OnlyTheWantedBytesChange) {
    for (auto kept : table()) {
        SCOPED_TRACE(kept.name);
        // " high": the mark stands behind the blank that belongs to the value.
        const std::string before = without(kept.text);
        const auto now = valueIn(before, kept.format, kept.key);
        ASSERT_TRUE(now) << static_cast<int>(now.error().code) << now.error().what;
        EXPECT_EQ(*now, kept.from);
        const Assignment wanted{kept.key, kept.to};
        const auto after = patched(before, kept.format, {&wanted, 1});
        ASSERT_TRUE(after) << static_cast<int>(after.error().code) << after.error().what;
        const std::string expected = std::string(kept.name) == "xmlText" ? "<s>\r\n\t<shadows> a&lt;b</shadows>\r\n</s>"
                                                                         : with(kept.text, kept.written);
        EXPECT_EQ(after->text, expected);
        ASSERT_EQ(after->changes.size(), 1u);
        EXPECT_EQ(after->changes[0].from, kept.from);
        EXPECT_EQ(after->changes[0].to, kept.to);
        EXPECT_EQ(
            after->changes[0].line,
            1 + std::count(before.begin(), before.begin() + static_cast<std::ptrdiff_t>(kept.text.find(open)), '\n'));
        // There and back is where it was, in the notation of the format.
        const Assignment back{kept.key, kept.from};
        const auto again = patched(after->text, kept.format, {&back, 1});
        if (std::string(kept.from).empty()) continue;
        ASSERT_TRUE(again);
        EXPECT_EQ(*valueIn(again->text, kept.format, kept.key), kept.from);
        const Assignment same{kept.key, kept.from};
        const auto untouched = patched(before, kept.format, {&same, 1});
        ASSERT_TRUE(untouched);
        EXPECT_EQ(untouched->text, before);
        EXPECT_TRUE(untouched->changes.empty());
    }
}

TEST(ConfigText, Utf16StaysUtf16) {
    for (const bool little : {true, false}) {
        const auto before = utf16("[g]\r\nShadows=2\r\nFog=1\r\n", little);
        const Assignment wanted{"g/Shadows", "10"};
        const auto after = patched(before, ConfigFormat::Ini, {&wanted, 1});
        ASSERT_TRUE(after);
        EXPECT_EQ(after->text, utf16("[g]\r\nShadows=10\r\nFog=1\r\n", little));
    }
    const Assignment wanted{"a", "1"};
    EXPECT_EQ(patched("\xFF\xFE\x61", ConfigFormat::Ini, {&wanted, 1}).error().code, ErrorCode::NotText);
    EXPECT_EQ(patched(std::string("\xFF\xFE\x00\xDC", 4), ConfigFormat::Ini, {&wanted, 1}).error().code,
              ErrorCode::NotText);
    EXPECT_EQ(patched(std::string("a=\0", 3), ConfigFormat::Ini, {&wanted, 1}).error().code, ErrorCode::NotText);
}

TEST(ConfigText, SeveralValuesAtOnce) {
    const std::vector<Assignment> wanted{{"g/fog", "0"}, {"g/shadows", "1"}, {"h/x", "5"}};
    const auto after = patched("[h]\nx=5\n[g]\nshadows=2\nfog=3\n", ConfigFormat::Ini, wanted);
    ASSERT_TRUE(after);
    EXPECT_EQ(after->text, "[h]\nx=5\n[g]\nshadows=1\nfog=0\n");
    ASSERT_EQ(after->changes.size(), 2u);
    EXPECT_EQ(after->changes[0].key, "g/shadows");
    EXPECT_EQ(after->changes[0].line, 4u);
}

struct Refused {
    const char* name;
    ConfigFormat format;
    std::string text;
    const char *key, *to;
    ErrorCode code;
};

TEST(ConfigText, WhatIsNotClearIsRefused) {
    using F = ConfigFormat;
    const std::vector<Refused> table{
        {"absent", F::Ini, "[g]\na=1\n", "g/b", "1", ErrorCode::NotInFile},
        {"otherSection", F::Ini, "[g]\na=1\n", "a", "2", ErrorCode::NotInFile},
        {"twice", F::Ini, "[g]\na=1\na=2\n", "g/a", "3", ErrorCode::DuplicateName},
        {"newline", F::Ini, "[g]\na=1\n", "g/a", "3\nb=4", ErrorCode::BadValue},
        {"remark", F::Ini, "[g]\na=1\n", "g/a", "3 ; x", ErrorCode::BadValue},
        {"quotes", F::Ini, "[g]\na=\"1\"\n", "g/a", "3\"", ErrorCode::BadValue},
        {"jsonFault", F::Json, "{\"a\":1,}", "/a", "2", ErrorCode::BadSyntax},
        {"jsonTwice", F::Json, "{\"a\":1,\"a\":2}", "/a", "3", ErrorCode::DuplicateName},
        {"jsonTable", F::Json, "{\"a\":{}}", "/a", "3", ErrorCode::NotInFile},
        {"jsonAbsent", F::Json, "{\"a\":[1]}", "/a/1", "3", ErrorCode::NotInFile},
        {"jsonWord", F::Json, "{\"a\":1}", "/a", "low", ErrorCode::BadValue},
        {"jsonDeep", F::Json, std::string(100000, '['), "/a", "3", ErrorCode::BadSyntax},
        {"jsonHuge", F::Json, "{\"a\":1,\"b\":9e55555}", "/a", "3", ErrorCode::BadSyntax},
        {"jsonEmpty", F::Json, "", "/a", "3", ErrorCode::BadSyntax},
        {"tomlFault", F::Toml, "a = \n", "a", "3", ErrorCode::BadSyntax},
        {"tomlWord", F::Toml, "a = 1\n", "a", "low", ErrorCode::BadValue},
        {"tomlMore", F::Toml, "a = 1\n", "a", "2 # x\nb = 3", ErrorCode::BadValue},
        {"tomlTable", F::Toml, "[a]\nb=1\n", "a", "2", ErrorCode::NotInFile},
        {"xmlFault", F::Xml, "<s><g a=\"1\"></s>", "s/g/@a", "2", ErrorCode::BadSyntax},
        {"xmlTwice", F::Xml, "<s><g a=\"1\"/><g a=\"2\"/></s>", "s/g/@a", "3", ErrorCode::DuplicateName},
        {"xmlSingle", F::Xml, "<s><g/></s>", "s/g", "3", ErrorCode::NotInFile},
        {"xmlElements", F::Xml, "<s><g><h/></g></s>", "s/g", "3", ErrorCode::NotInFile},
        {"xmlEntities", F::Xml, "<!DOCTYPE s [<!ENTITY a \"b\">]><s a=\"1\"/>", "s/@a", "3", ErrorCode::BadSyntax},
        {"xmlEmpty", F::Xml, "", "s/@a", "3", ErrorCode::BadSyntax},
    };
    for (const auto& refused : table) {
        SCOPED_TRACE(refused.name);
        const Assignment wanted{refused.key, refused.to};
        const auto result = patched(refused.text, refused.format, {&wanted, 1});
        ASSERT_FALSE(result);
        EXPECT_EQ(result.error().code, refused.code) << result.error().what;
    }
}

/// Whatever stands there: refused, or no byte but the value's changes.
TEST(ConfigText, MangledTextNeverBreaks) {
    std::uint64_t state = 7;
    const auto next = [&state](std::size_t below) {
        state = state * 6364136223846793005U + 1442695040888963407U;
        return static_cast<std::size_t>((state >> 33U) % below);
    };
    for (const auto& kept : table())
        for (int round = 0; round < 200; ++round) {
            std::string text = without(kept.text);
            for (std::size_t i = 0, n = 1 + next(3); i < n && !text.empty(); ++i) {
                const auto at = next(text.size());
                switch (next(3)) {
                case 0:
                    text[at] = static_cast<char>(next(256));
                    break;
                case 1:
                    text.erase(at, 1 + next(4));
                    break;
                default:
                    text.insert(at, 1 + next(3), "=\"<[{,]}>\n #"[next(12)]);
                }
            }
            const Assignment wanted{kept.key, kept.to};
            const auto after = patched(text, kept.format, {&wanted, 1});
            if (!after || after->changes.empty()) continue;
            const auto begin = std::mismatch(text.begin(), text.end(), after->text.begin(), after->text.end());
            EXPECT_EQ(*valueIn(after->text, kept.format, kept.key), kept.to);
            // Only one stretch differs, and it is not longer than both values as written.
            const auto back = std::mismatch(text.rbegin(), text.rend(), after->text.rbegin(), after->text.rend());
            const auto middle = (text.rend() - back.first) - (begin.first - text.begin());
            EXPECT_LE(middle, static_cast<std::ptrdiff_t>(6 * after->changes[0].from.size() + 8)) << text << "\n"
                                                                                                  << after->text;
        }
}

TEST(ConfigText, WhatIsHandedOver) {
    const std::vector<Assignment> wanted{{"GAME_FPS", "60"}, {"GAME_NAME", "a b'c"}};
    EXPECT_EQ(handedOver(ConfigFormat::Environment, wanted), "GAME_FPS=60 GAME_NAME='a b'\\''c'");
    const std::vector<Assignment> arguments{{"-shadows", "2"}, {"--scale={}", "0.5"}};
    EXPECT_EQ(handedOver(ConfigFormat::Command, arguments), "-shadows 2 --scale=0.5");
}

} // namespace
} // namespace impasto::config
