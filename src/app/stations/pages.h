// SPDX-License-Identifier: GPL-3.0-or-later
// Long lists are shown in pages: where each list stands, and the buttons that turn it.
#pragma once

#include "stations/view.h"

namespace impasto::app {

/// The first item in view of each list, by its name. A state of the view that all stations share.
struct Pages {
    std::map<QString, std::size_t> first;
};

/// The items [first, last) of a list that are in view.
struct Page {
    QString list;
    std::size_t first = 0, last = 0, all = 0;
    [[nodiscard]] bool whole() const { return last - first == all; }
};
/// Where so many fit; the last page is as full as the others.
Page pageOf(const View& view, const QString& list, std::size_t all, std::size_t fit);
/// Of rows of such a height in such a room, which its pager shares where it is needed.
Page pageIn(const View& view, const QString& list, std::size_t all, double room, double pitch);
/// "5 to 8 of 12" and a button for either direction, ending at `right`; nothing where all are in view. `what` says it,
/// with places %1, %2 and %3.
void drawPager(Sheet& sheet, double right, double y, const Page& page, const QString& what);
inline constexpr double pagerHeight = 30;

} // namespace impasto::app
