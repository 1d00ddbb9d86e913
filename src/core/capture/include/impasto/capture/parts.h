// SPDX-License-Identifier: GPL-3.0-or-later
// Parts for a recording that marks none: by the seconds of its route, or by a column that names them.
#pragma once

#include <impasto/capture/capture.h>
#include <span>

namespace impasto::capture {

struct NamedSeconds {
    std::string name;
    double seconds = 0;
};
/// Marks at the parts' shares of the recording's length; none for fewer than two parts.
std::vector<PartMark> marksByTime(const Capture& capture, std::span<const NamedSeconds> parts);

/// Whether a column's words look like parts: 2 to 20 of them, that change rarely.
bool namesParts(const OtherColumn& column);
/// A mark wherever the column's word changes; frames without one belong to the part before.
std::vector<PartMark> marksByColumn(const OtherColumn& column);

} // namespace impasto::capture
