// SPDX-License-Identifier: GPL-3.0-or-later
// What makes edits.
#pragma once

#include <impasto/base/text.h>
#include <impasto/document/edit.h>

namespace impasto::document {

/// An edit that cannot fail.
template <class Change>
Edit plain(std::string name, Change change) {
    return {std::move(name), [change = std::move(change)](const Edits& before) -> Result<Edits> {
                Edits after = before;
                change(after);
                return after;
            }};
}

inline Result<void> within(double value, double low, double high, std::string key) {
    if (value >= low && value <= high) return {};
    return fail(ErrorCode::OutOfRange, shortestText(low) + " to " + shortestText(high), {{}, {}, {}, std::move(key)});
}

} // namespace impasto::document
