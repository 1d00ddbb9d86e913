// SPDX-License-Identifier: GPL-3.0-or-later
// A way to change what was decided: a named pure function of Edits. Those of a feature stand with its struct in edits/.
#pragma once

#include <impasto/document/session.h>

namespace impasto::document {

struct Edit {
    std::string name; // as the logbook writes it: "set-brief"; wording tells it
    std::function<Result<Edits>(const Edits&)> apply;
};

/// Several edits as one step of undo, under one name; fails with the first that fails.
Edit together(std::string name, std::vector<Edit> edits);

} // namespace impasto::document
