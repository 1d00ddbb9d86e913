// SPDX-License-Identifier: GPL-3.0-or-later
#include "tree.h"

#include <algorithm>
#include <impasto/base/file.h>
#include <impasto/base/shown.h>
#include <impasto/base/text.h>

namespace impasto::probe {

std::vector<std::string_view> linesOf(std::string_view text) {
    std::vector<std::string_view> out;
    while (!text.empty()) {
        const auto end = text.find('\n');
        out.push_back(text.substr(0, end));
        if (end == std::string_view::npos) break;
        text.remove_prefix(end + 1);
    }
    return out;
}

std::optional<double> kibIn(std::string_view meminfo, std::string_view key) {
    for (const auto line : linesOf(meminfo)) {
        if (line.substr(0, key.size()) != key || line.substr(key.size(), 1) != ":") continue;
        const auto value = trimmed(line.substr(key.size() + 1));
        const auto kib = parseDouble(value.substr(0, value.find(' ')));
        if (kib && *kib >= 0 && *kib <= 1e11) return kib;
    }
    return std::nullopt;
}

std::string cleanText(std::string_view text) {
    std::string_view begin = trimmed(text.substr(0, 120));
    while (!begin.empty() && firstInvalidUtf8(begin)) begin.remove_suffix(1);
    return shown(begin);
}

std::optional<std::string> Tree::bytes(const std::string& path, std::size_t limit) const {
    if (m_context.cancelled()) return std::nullopt;
    auto read = readFile(m_root / path, limit);
    if (!read || read->size() > limit) return std::nullopt; // one that grew while it was read, too
    return std::move(*read);
}

std::optional<std::string> Tree::line(const std::string& path) const {
    const auto all = bytes(path);
    if (!all) return std::nullopt;
    auto text = cleanText(std::string_view(*all).substr(0, all->find('\n')));
    return text.empty() ? std::nullopt : std::optional(std::move(text));
}

std::optional<double> Tree::number(const std::string& path) const {
    const auto text = line(path);
    if (!text) return std::nullopt;
    return parseDouble(std::string_view(*text).substr(0, text->find(' ')));
}

std::vector<std::string> Tree::names(const std::string& folder) const {
    std::vector<std::string> out;
    std::error_code failure;
    std::filesystem::directory_iterator it(m_root / folder, failure);
    for (; !failure && it != std::filesystem::directory_iterator() && out.size() < 1024; it.increment(failure))
        out.push_back(it->path().filename().string());
    std::sort(out.begin(), out.end());
    return out;
}

std::optional<std::string> Tree::valueOf(const std::string& path, std::string_view key) const {
    const auto all = bytes(path);
    if (!all) return std::nullopt;
    for (const auto line : linesOf(*all))
        if (line.size() > key.size() && line.substr(0, key.size()) == key && line[key.size()] == '=')
            return cleanText(line.substr(key.size() + 1));
    return std::nullopt;
}

bool Tree::has(const std::string& path) const {
    std::error_code failure;
    return std::filesystem::exists(m_root / path, failure);
}

} // namespace impasto::probe
