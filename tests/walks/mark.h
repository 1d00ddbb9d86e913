// SPDX-License-Identifier: GPL-3.0-or-later
// What of a session must be the same when it is read back.
#pragma once

#include <impasto/base/fingerprint.h>
#include <impasto/logbook/edits_json.h>

namespace impasto::support {

inline std::uint64_t markOf(const document::Session& session) {
    Fingerprint f;
    f.add(logbook::toJson(*session.edits));
    f.add(std::uint64_t{session.facts->machines.size()}).add(std::uint64_t{session.facts->games.size()});
    for (const auto& order : session.facts->orders) f.add(order.id.hex());
    for (const auto& run : session.facts->runs) f.add(run.id.hex()).add(std::uint64_t{run.capture->frames()});
    return f.value();
}

} // namespace impasto::support
