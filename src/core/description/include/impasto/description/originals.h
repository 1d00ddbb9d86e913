// SPDX-License-Identifier: GPL-3.0-or-later
// Descriptions as they were written, by their marks. What is parsed of them holds no text: only who needs a whole text,
// to store it or to play it, is given this.
#pragma once

#include <cstdint>
#include <impasto/base/fingerprint.h>
#include <map>
#include <memory>
#include <string>

namespace impasto::description {

inline std::uint64_t markOf(std::string_view text) {
    return Fingerprint().add(text).value();
}

class Originals {
  public:
    void add(const std::string& text) { m_texts.try_emplace(markOf(text), text); }
    void add(const Originals& others) { m_texts.insert(others.m_texts.begin(), others.m_texts.end()); }
    /// nullptr where the text was never added.
    [[nodiscard]] const std::string* find(std::uint64_t mark) const {
        const auto it = m_texts.find(mark);
        return it == m_texts.end() ? nullptr : &it->second;
    }

  private:
    std::map<std::uint64_t, std::string> m_texts;
};

} // namespace impasto::description
