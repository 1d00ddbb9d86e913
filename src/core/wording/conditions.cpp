// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/conditions.h>

#include <impasto/run/conditions.h>

namespace impasto::wording {

std::vector<std::string> conditionSteps(const Words& w, const run::Order& order) {
    std::vector<std::string> out;
    for (const auto& condition : run::conditions()) {
        const std::string text = condition.read(order);
        const bool usual = text == condition.usual || text.empty() || text == "0x0";
        const char* sentence = usual ? condition.usualWords : condition.words;
        if (*sentence != '\0') out.push_back(w.say(sentence, text));
    }
    return out;
}

} // namespace impasto::wording
