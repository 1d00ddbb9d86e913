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

/// An edit that takes a text of a person's; of no more than so many bytes.
template <class Change>
Edit bounded(std::string name, std::string text, std::size_t mostBytes, Change change) {
    return {std::move(name), [text = std::move(text), mostBytes, change](const Edits& before) -> Result<Edits> {
                if (text.size() > mostBytes)
                    return fail(ErrorCode::OutOfRange, "at most " + std::to_string(mostBytes) + " bytes of text");
                Edits after = before;
                change(after, text);
                return after;
            }};
}

inline Result<void> within(double value, double low, double high, std::string key) {
    if (value >= low && value <= high) return {};
    return fail(ErrorCode::OutOfRange, shortestText(low) + " to " + shortestText(high), {{}, {}, {}, std::move(key)});
}

} // namespace impasto::document
