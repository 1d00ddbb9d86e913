// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/catalogue.h>

#include <impasto/description/description.h>

#include "catalogue_text.h"

namespace impasto::game {
namespace {

/// Small letters, with spaces for what joins words in an id.
std::string plain(std::string_view text) {
    std::string out(text);
    for (char& c : out) {
        if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
        if (c == '_') c = ' ';
    }
    return out;
}

} // namespace

Result<std::vector<Kind>> parseCatalogue(std::string_view text, std::string fileName) {
    const auto document = description::Document::parse(text, std::move(fileName));
    if (!document) return tl::unexpected(document.error());
    std::vector<Kind> out;
    const auto root = document->root();
    root.leave("start");
    for (const auto& section : root.tables("kind")) {
        Kind kind;
        kind.id = section.text("id");
        for (const auto& word : section.texts("words")) kind.words.push_back(plain(word));
        kind.cpuShare = section.number("cpu", 0, 1);
        kind.gpuShare = section.number("gpu", 0, 1);
        kind.memoryShare = section.number("memory", 0, 1, 0.005);
        kind.pixelShare = section.number("pixels", 0, 1);
        if (kind.words.empty()) section.fault("words", ErrorCode::MissingKey, "words");
        out.push_back(std::move(kind));
    }
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return out;
}

const std::vector<Kind>& catalogue() {
    static const auto kinds = *parseCatalogue(catalogueText, "data/catalogue.toml");
    return kinds;
}

const Kind* kindOf(const Setting& setting, const std::vector<Kind>& kinds) {
    const std::string label = plain(setting.label), id = plain(setting.id);
    const Kind* found = nullptr;
    std::size_t longest = 0;
    for (const auto& kind : kinds)
        for (const auto& word : kind.words) {
            if (word.size() <= longest) continue;
            if (label.find(word) == std::string::npos && id.find(word) == std::string::npos) continue;
            found = &kind;
            longest = word.size();
        }
    return found;
}

Kind usualOf(const Setting& setting) {
    constexpr double little = 0.004, some = 0.05; // of a setting that nothing is known of
    // Of ways to run each is a part of all that the frame does, and they differ by some percent of it either way.
    if (setting.unordered) return {setting.id, {}, 0.12, 0.12, 0.05, 0.5};
    Kind usual{setting.id, {}, little, little, little, 0.5};
    if (const auto* kind = kindOf(setting)) {
        usual = *kind;
        usual.cpuShare = std::max(usual.cpuShare, little);
        usual.gpuShare = std::max(usual.gpuShare, little);
    } else if (!setting.paysCpu && !setting.paysGpu && !setting.paysMemory) {
        usual.cpuShare = usual.gpuShare = some;
    }
    // What its player says that it loads stands above its name.
    if (setting.paysCpu) usual.cpuShare = std::max(usual.cpuShare, some);
    if (setting.paysGpu) usual.gpuShare = std::max(usual.gpuShare, some);
    if (setting.paysMemory) usual.memoryShare = std::max(usual.memoryShare, 0.2);
    return usual;
}

} // namespace impasto::game
