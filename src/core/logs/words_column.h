// SPDX-License-Identifier: GPL-3.0-or-later
// A column of words, kept as indices of them. Private to logs.
#pragma once

#include <cmath>
#include <functional>
#include <impasto/base/text.h>
#include <string>
#include <unordered_map>
#include <vector>

namespace impasto::logs {

class WordsColumn {
  public:
    /// A word's index in the column's words, in the order in which they came; NaN for none. A column of ever new words
    /// is free text.
    [[nodiscard]] float indexOf(std::string_view cell, std::vector<std::string>& words) {
        constexpr std::size_t most = 200, longest = 200;
        const auto text = trimmed(cell).substr(0, longest);
        if (text.empty() || m_freeText) return std::nanf("");
        const auto it = m_index.find(text);
        if (it != m_index.end()) return static_cast<float>(it->second);
        if (words.size() == most) {
            m_freeText = true;
            return std::nanf("");
        }
        m_index.emplace(std::string(text), words.size());
        words.emplace_back(text);
        return static_cast<float>(words.size() - 1);
    }
    [[nodiscard]] bool isFreeText() const { return m_freeText; }

  private:
    struct Hash {
        using is_transparent = void;
        std::size_t operator()(std::string_view text) const { return std::hash<std::string_view>()(text); }
    };
    std::unordered_map<std::string, std::size_t, Hash, std::equal_to<>> m_index;
    bool m_freeText = false;
};

} // namespace impasto::logs
