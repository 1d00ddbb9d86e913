// SPDX-License-Identifier: GPL-3.0-or-later
// The one way from a sentence in the code to a sentence that is read: whole templates with places for values, passed
// through one translator.
#pragma once

#include <fmt/core.h>
#include <functional>
#include <string>

namespace impasto::wording {

/// Gives a template in the reader's language. Places {} keep their order or carry numbers.
using Translate = std::function<std::string(const char*)>;
Translate english();
/// Every text longer by a third, marked at both ends, its vowels with accents: what is not translated, or has no room,
/// is seen by it.
Translate pseudo();

class Words {
  public:
    explicit Words(Translate translate = english()) : m_translate(std::move(translate)) {}

    template <class... Args>
    [[nodiscard]] std::string say(const char* text, Args&&... args) const {
        return fmt::vformat(m_translate(text), fmt::make_format_args(args...));
    }

  private:
    Translate m_translate;
};

/// Where a figure comes from.
struct Why {
    std::string title, formula, inputs, sure, change;
};

/// "Shadows medium, Fog off": things in a row.
std::string listed(const Words& w, const std::vector<std::string>& things);

} // namespace impasto::wording
