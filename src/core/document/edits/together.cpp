// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/document/edit.h>

namespace impasto::document {

Edit together(std::string name, std::vector<Edit> edits) {
    return {std::move(name), [edits = std::move(edits)](const Edits& before) -> Result<Edits> {
                Edits after = before;
                for (const auto& edit : edits) {
                    auto next = edit.apply(after);
                    if (!next) return next;
                    after = std::move(*next);
                }
                return after;
            }};
}

} // namespace impasto::document
