// SPDX-License-Identifier: GPL-3.0-or-later
// An order by hand: what to set, what to play, and where the log goes.
#include "stations/pages.h"
#include "stations/runs/runs.h"

namespace impasto::app {

Drawing layoutOrder(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto open = path::openOrders(view.session);
    const auto& order = open.front();
    sheet.heading(24, 12, say("Play this run"),
                  open.size() == 1 ? say("one order waits; the log you drop answers it")
                                   : say("%1 orders wait; the log you drop answers the first one").arg(open.size()));
    sheet.rect(QRectF(24, 72, size.width() - 40, 210), Ink::Paper, Ink::Ink, 1.5);
    sheet.text(42, 84, qs(wording::purpose(view.w, view.session, order)), Type::Game, Ink::Ink, Align::Left,
               size.width() - 90);
    double y = 116;
    int number = 1;
    for (const auto& step : wording::orderSteps(view.w, view.session, order)) {
        sheet.text(42, y, QString::number(number++), Type::Figure, Ink::Muted);
        y = sheet.wrapped(66, y, size.width() - 130, qs(step), Type::Value) + 8;
    }
    sheet.button(QRectF(42, 240, 180, 30), QStringLiteral("order.log"), say("Choose the log"), say("Ctrl+O"));
    sheet.button(QRectF(234, 240, 220, 30), QStringLiteral("order.watch"), say("Watch a folder for it"));
    if (order.variant.values.empty()) return sheet.take();
    y = 302;
    sheet.text(24, y, say("All values of this run"), Type::Heading);
    y += 26;
    const auto* game = view.session.game();
    const double width = (size.width() - 40) / 3;
    const auto& values = order.variant.values;
    const auto page = pageOf(view, QStringLiteral("values"), values.size(),
                             3 * static_cast<std::size_t>(std::max(1.0, (size.height() - y) / 20)));
    drawPager(sheet, size.width() - 16, y - 26, page, say("%1 to %2 of %3"));
    std::size_t i = 0;
    for (auto value = std::next(values.begin(), static_cast<std::ptrdiff_t>(page.first));
         value != values.end() && i < page.last - page.first; ++value, ++i) {
        const auto& [id, level] = *value;
        const double x = 24 + static_cast<double>(i % 3) * width, line = y + 20 * static_cast<double>(i / 3);
        const auto it = view.edits().settings.baseline.find(id);
        const bool changed = it == view.edits().settings.baseline.end() || it->second != level;
        const auto* setting = game == nullptr ? nullptr : game->setting(id);
        const double w = sheet.text(x, line, setting == nullptr ? qs(id) : qs(setting->label), Type::Body, Ink::Muted,
                                    Align::Left, width * 0.55);
        sheet.text(x + w + 8, line, qs(level), changed ? Type::BodyBold : Type::Body, Ink::Ink, Align::Left,
                   width - w - 16);
    }
    return sheet.take();
}

} // namespace impasto::app
