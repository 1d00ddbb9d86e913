// SPDX-License-Identifier: GPL-3.0-or-later
// What went wrong, where, what was kept, and what to do.
#pragma once

#include <impasto/base/error.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

struct ErrorText {
    std::string what, where, kept, advice;
    [[nodiscard]] std::string all() const; // one paragraph, without empty parts
};
ErrorText error(const Words& w, const Error& error);

} // namespace impasto::wording
