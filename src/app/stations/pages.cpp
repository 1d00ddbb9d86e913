// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/pages.h"

#include <QtCore/QDateTime>

#include <algorithm>

namespace impasto::app {

Page pageOf(const View& view, const QString& list, std::size_t all, std::size_t fit) {
    const auto& firsts = view.state<Pages>().first;
    const auto it = firsts.find(list);
    fit = std::clamp<std::size_t>(fit, 1, std::max<std::size_t>(1, all));
    const std::size_t first = std::min(it == firsts.end() ? 0 : it->second, all - std::min(all, fit));
    return {list, first, std::min(all, first + fit), all};
}

Page pageIn(const View& view, const QString& list, std::size_t all, double room, double pitch) {
    const auto fit = [pitch](double height) { return static_cast<std::size_t>(std::max(1.0, height / pitch)); };
    return pageOf(view, list, all, fit(room) >= all ? all : fit(room - pagerHeight));
}

void drawPager(Sheet& sheet, double right, double y, const Page& page, const QString& what) {
    if (page.whole()) return;
    const std::size_t fit = page.last - page.first;
    const auto turn = [&](double x, const QString& sign, const QString& name, std::size_t to, bool can) {
        const QRectF r(x, y, 28, 24);
        sheet.rect(r, Ink::Paper, can ? Ink::Ink : Ink::Line, 1.2);
        sheet.text(r.center().x(), y + 3, sign, Type::BodyBold, can ? Ink::Ink : Ink::Muted, Align::Centre);
        if (!can) return;
        Hot h;
        h.id = QStringLiteral("page.%1.%2").arg(page.list).arg(to);
        h.name = name;
        h.role = Role::Row; // Space stays the next step
        h.rect = r;
        sheet.hot(h);
    };
    turn(right - 60, QStringLiteral("\u2190"), say("Previous"), page.first - std::min(page.first, fit), page.first > 0);
    turn(right - 28, QStringLiteral("\u2192"), say("Next"), page.last, page.last < page.all);
    sheet.text(right - 68, y + 3, what.arg(page.first + 1).arg(page.last).arg(page.all), Type::Small, Ink::Muted,
               Align::Right);
}

QString dateTime(std::int64_t secondsUtc) {
    return QDateTime::fromSecsSinceEpoch(secondsUtc).toLocalTime().toString(QStringLiteral("yyyy-MM-dd hh:mm"));
}

} // namespace impasto::app
