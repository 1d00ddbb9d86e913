// SPDX-License-Identifier: GPL-3.0-or-later
// Text of foreign origin (cells of logs, names of files), made safe to show in a window, a terminal or a JSON document.
#pragma once

#include <string>
#include <string_view>

namespace impasto {

/// Control characters become their pictures (U+2400 and on), and what is not UTF-8, further controls (U+0080 to U+009F)
/// and marks that turn the direction of writing (UAX #9) become U+FFFD. Line ends stay where `lines`.
std::string shown(std::string_view text, bool lines = false);

} // namespace impasto
