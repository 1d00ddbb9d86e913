// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/words.h>

namespace impasto::wording {

Translate english() {
    return [](const char* text) { return std::string(text); };
}

Translate pseudo() {
    return [](const char* text) {
        constexpr std::string_view vowels = "aeiouAEIOU";
        constexpr std::string_view accented[]{"á", "é", "í", "ó", "ú", "Á", "É", "Í", "Ó", "Ú"};
        const std::string plain = text;
        if (plain.empty()) return plain;
        std::string out = "[";
        bool place = false;
        for (const char c : plain) {
            if (c == '{' || c == '}') place = c == '{';
            const auto vowel = place ? std::string_view::npos : vowels.find(c);
            if (vowel == std::string_view::npos)
                out += c;
            else
                out += accented[vowel];
        }
        return out + std::string(plain.size() / 3 + 1, '~') + "]";
    };
}

std::string listed(const Words& w, const std::vector<std::string>& things) {
    std::string out;
    for (const auto& thing : things) out = out.empty() ? thing : w.say("{}, {}", out, thing);
    return out;
}

} // namespace impasto::wording
