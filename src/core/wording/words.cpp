// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/words.h>

namespace impasto::wording {

Translate english() {
    return [](const char* text) { return std::string(text); };
}

Translate pseudo() {
    return [](const char* text) {
        const std::string plain = text;
        return plain.empty() ? plain : "[" + plain + std::string(plain.size() / 3 + 1, '~') + "]";
    };
}

std::string listed(const Words& w, const std::vector<std::string>& things) {
    std::string out;
    for (const auto& thing : things) out = out.empty() ? thing : w.say("{}, {}", out, thing);
    return out;
}

} // namespace impasto::wording
