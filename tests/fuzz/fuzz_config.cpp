// SPDX-License-Identifier: GPL-3.0-or-later
// Any bytes as a config of every format: a value that is changed is read back as it was meant, and what stands around
// it is what stood there.
#include <impasto/config/text.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace impasto;
    using game::ConfigFormat;
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    for (const auto& [format, key] : {std::pair(ConfigFormat::Ini, "g/a"),
                                      {ConfigFormat::Ini, "a"},
                                      {ConfigFormat::Keys, "a"},
                                      {ConfigFormat::Json, "/a"},
                                      {ConfigFormat::Json, "/a/0"},
                                      {ConfigFormat::Toml, "a"},
                                      {ConfigFormat::Xml, "a"},
                                      {ConfigFormat::Xml, "a/@a"}}) {
        const config::Assignment wanted{key, "17"};
        const auto after = config::patched(text, format, {&wanted, 1});
        if (!after) continue;
        if (*config::valueIn(after->text, format, key) != "17") __builtin_trap();
        if (after->changes.empty() && after->text != text) __builtin_trap();
        // Back again, where the value can be written by hand at all: the same bytes, but for how it was quoted.
        const auto again = config::patched(after->text, format, {&wanted, 1});
        if (!again || again->text != after->text) __builtin_trap();
    }
    return 0;
}
