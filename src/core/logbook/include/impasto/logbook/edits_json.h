// SPDX-License-Identifier: GPL-3.0-or-later
// Edits as JSON text and back, as the logbook stores them (docs/formats.md).
#pragma once

#include <impasto/document/session.h>

namespace impasto::logbook {

std::string toJson(const document::Edits& edits);
/// Errors: DamagedLogbook, with the parser's words.
Result<document::Edits> editsFromJson(std::string_view text);

} // namespace impasto::logbook
