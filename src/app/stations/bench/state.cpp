// SPDX-License-Identifier: GPL-3.0-or-later
// The state that every run is played in, a cell a condition.
#include "stations/bench/bench.h"
#include "stations/pages.h"

#include <impasto/game/size.h>

namespace impasto::app {
namespace {

/// The conditions that make the state, for this machine.
std::vector<const run::Condition*> cellsOf(const View& view) {
    std::vector<const run::Condition*> out;
    const auto* m = view.session.machine();
    const auto* game = view.session.game();
    for (const auto& condition : run::conditions()) {
        const std::string_view key = condition.key;
        if (key == "direct" && (m == nullptr || !m->copyRoute)) continue;
        if (key == "resolution" && game != nullptr && game::fullOutputOf(*game)) continue; // a setting says it
        if (*condition.label != '\0') out.push_back(&condition);
    }
    return out;
}

QString textOf(const View& view, const run::Condition& condition, const std::string& text) {
    if (std::string_view(condition.key) == "resolution") {
        const auto& state = view.edits().subject.state;
        const auto* m = view.session.machine();
        if (state.resolution.widthPx > 0) return qs(wording::resolution(state.resolution));
        return m != nullptr && m->panel.native.widthPx > 0 ? qs(wording::resolution(m->panel.native)) : QString();
    }
    if (text == "true") return say("yes");
    if (text == "false") return say("no");
    if (text == "none") return say("off");
    return condition.texts.empty() ? qs(text) : say(text.c_str());
}

} // namespace

void benchValue(Sheet& sheet, QRectF place, const QString& id, const QString& name, const QString& text,
                const QString& edit) {
    const double w = sheet.text(place.x(), place.y(), text.isEmpty() ? say("not set") : text, Type::Body,
                                text.isEmpty() ? Ink::Muted : Ink::Ink, Align::Left, place.width());
    const double line = place.y() + lineOf(Type::Body) - 1;
    sheet.line({place.x(), line}, {place.x() + w, line}, Ink::Off, 1);
    Hot h;
    h.id = id;
    h.name = name;
    h.role = Role::Value;
    h.rect = QRectF(place.x(), place.y(), std::max(w, 24.0), lineOf(Type::Body));
    h.edit = edit;
    h.hint = name;
    sheet.hot(h);
}

double playedIn(Sheet& sheet, const View& view, double top) {
    const auto cells = cellsOf(view);
    const double left = 24, right = sheet.width() - 16;
    const std::size_t columns = 5, rows = sheet.height() < 560 ? 1 : (cells.size() + columns - 1) / columns;
    sheet.line({left, top}, {right, top}, Ink::Line, 1);
    const auto page = pageOf(view, QStringLiteral("state"), cells.size(), columns * rows);
    const auto toDo = countsOf(view).toDo;
    const double end = sheet.choice(right, top + 9, QStringLiteral("checks.show"),
                                    toDo > 0 ? say("checklist, %1 to do").arg(toDo) : say("checklist"),
                                    say("Whether the machine is in order, point by point (V)"), false);
    const double w = sheet.text(left, top + 8, say("Played in"), Type::Heading, Ink::Ink, Align::Left, 160);
    sheet.text(left + w + 12, top + 10, say("the state of every run; runs of another one are not compared with these"),
               Type::Body, Ink::Muted, Align::Left, end - left - w - 24 - (page.whole() ? 0 : 220));
    drawPager(sheet, end - 12, top + 6, page, say("%1 to %2 of %3"));
    const auto order = view.edits().subject.state.asOrder();
    const double width = (right - left) / static_cast<double>(columns);
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& condition = *cells[i];
        const std::size_t place = i - page.first;
        const double x = left + static_cast<double>(place % columns) * width,
                     y = top + 32 + 36 * static_cast<double>(place / columns);
        const std::string text = condition.read(order);
        const bool usual = text == condition.usual || text == "0x0";
        sheet.text(x, y, say(condition.label), Type::Small, Ink::Muted, Align::Left, width - 12);
        const QString id = QStringLiteral("state.") + QLatin1String(condition.key);
        const QString now = textOf(view, condition, text);
        if (condition.texts.empty()) {
            benchValue(sheet, QRectF(x, y + 14, width - 12, 18), id, say(condition.help), now,
                       text == "0x0" ? now : qs(text));
            continue;
        }
        const double wide =
            sheet.text(x, y + 14, now, usual ? Type::Body : Type::BodyBold, Ink::Ink, Align::Left, width - 12);
        sheet.line({x, y + 14 + lineOf(Type::Body) - 1}, {x + wide, y + 14 + lineOf(Type::Body) - 1}, Ink::Off, 1);
        Hot h;
        h.id = id;
        h.name = QStringLiteral("%1: %2").arg(say(condition.label), now);
        h.role = Role::Value;
        h.rect = QRectF(x, y + 14, std::max(wide, 24.0), 18);
        h.hint = say(condition.help);
        sheet.hot(h);
    }
    const std::size_t shown = page.last - page.first;
    return top + 32 + 36 * static_cast<double>((shown + columns - 1) / columns) + 6;
}

} // namespace impasto::app
