// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

namespace impasto::document {

Edit keepResult(KeptResult kept) {
    return plain("keep-result", [kept = std::move(kept)](Edits& e) { e.record.kept = kept; });
}

Edit writeNote(std::string note) {
    return bounded("write-note", std::move(note), mostNoteBytes,
                   [](Edits& e, const std::string& text) { e.record.note = text; });
}

} // namespace impasto::document
