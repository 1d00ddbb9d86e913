// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <impasto/session/results.h>

namespace impasto::session {

/// Nothing until a proof run was made.
std::optional<Proof> proofOf(const Session& session, const Results& results);

} // namespace impasto::session
