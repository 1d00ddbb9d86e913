// SPDX-License-Identifier: GPL-3.0-or-later
// The checklist: its points under the parts of the machine, and one of them at a time beside it.
#include "shell/studio.h"
#include "stations/bench/bench.h"
#include "stations/pages.h"

#include <impasto/wording/machine.h>

namespace impasto::app {
namespace {

using checklist::Judged;
using checklist::Point;
using checklist::Standing;
using Q = const QString&;

struct Row {
    const Point* point;
    Judged judged;
};

/// What is to be done comes first, then what only a person can tell; what does not apply is only counted.
std::vector<Row> rowsAt(const View& view, checklist::Place place, const machine::Facts& facts) {
    std::vector<Row> out;
    for (const auto standing : {Standing::ToDo, Standing::CannotTell, Standing::Fine})
        for (const auto& point : view.state<BenchState>().points) {
            if (point.place != place) continue;
            auto judged = checklist::judge(point, facts, view.edits().checks);
            if (judged.standing == standing) out.push_back({&point, std::move(judged)});
        }
    return out;
}

/// A small square: full, hollow, dashed; a dash for what does not apply.
void drawMark(Sheet& sheet, QPointF at, Standing standing) {
    const QRectF square(at.x(), at.y(), 8, 8);
    switch (standing) {
    case Standing::Fine:
        return sheet.rect(square.adjusted(1, 1, -1, -1), Ink::Muted);
    case Standing::ToDo:
        return sheet.rect(square, Ink::None, Ink::Over, 2);
    case Standing::CannotTell:
        return sheet.rect(square, Ink::None, Ink::Ink, 1.2, {2, 2});
    case Standing::DoesNotApply:
        return sheet.line({at.x(), at.y() + 4}, {at.x() + 8, at.y() + 4}, Ink::Muted, 1.5);
    }
}

/// What is said below a point: what it was judged by, what a person said, or what it is worth.
QString noteOf(const View& view, const Row& row, const machine::Facts& facts) {
    if (row.judged.said) return say("you said so");
    if (row.judged.reopened) return say("open again: something changed");
    const auto rests = wording::restsShort(view.w, row.judged, facts);
    return qs(rests.empty() ? row.point->worth : rests);
}

void drawPoint(Sheet& sheet, const View& view, const Row& row, QRectF r, const machine::Facts& facts) {
    const bool chosen = view.state<BenchState>().point == row.point->id;
    if (chosen) sheet.rect(r.adjusted(-6, -4, 2, -2), Ink::Paper, Ink::Ink, 1.5);
    const bool toDo = row.judged.standing == Standing::ToDo;
    drawMark(sheet, {r.left(), r.top() + 4}, row.judged.standing);
    sheet.text(r.left() + 14, r.top(), qs(wording::standing(view.w, row.judged.standing)), Type::Small,
               toDo ? Ink::Over : Ink::Muted, Align::Left, r.width() - 14);
    sheet.text(r.left(), r.top() + 15, qs(row.point->title),
               row.judged.standing == Standing::Fine ? Type::Body : Type::BodyBold, Ink::Ink, Align::Left, r.width());
    sheet.text(r.left(), r.top() + 32, noteOf(view, row, facts), Type::Small, Ink::Muted, Align::Left, r.width());
    Hot h;
    h.id = QStringLiteral("point.") + qs(row.point->id);
    h.name = say("%1: %2").arg(qs(row.point->title), qs(wording::standing(view.w, row.judged.standing)));
    h.role = Role::Row;
    h.rect = r.adjusted(-4, -2, 0, -4);
    h.hint = qs(row.point->why);
    sheet.hot(h);
}

void tick(Studio& s, std::optional<document::Said> said) {
    const auto* point = pointInView(s.view());
    if (point == nullptr) return;
    std::optional<document::Tick> ticked;
    if (said)
        ticked = document::Tick{*said, s.options().clock().time_since_epoch().count(),
                                checklist::markOf(*point, checklist::factsOf(s.view().session))};
    s.apply(document::tickPoint(point->id, ticked));
}

} // namespace

checklist::Counts countsOf(const View& view) {
    return checklist::count(view.state<BenchState>().points, checklist::factsOf(view.session), view.edits().checks);
}

const Point* pointInView(const View& view) {
    const auto& state = view.state<BenchState>();
    for (const auto& point : state.points)
        if (state.checks && point.id == state.point) return &point;
    return nullptr;
}

void layoutChecks(Sheet& sheet, const View& view, double top) {
    const auto facts = checklist::factsOf(view.session);
    const auto counts = countsOf(view);
    const auto wired = wiredIn(sheet);
    const double right = sheet.width() - 16, pitch = 54, first = top + 40;
    sheet.line({wired.left, top}, {right, top}, Ink::Line, 1);
    std::array<std::vector<Row>, checklist::allPlaces.size()> columns;
    std::size_t longest = 0;
    for (std::size_t i = 0; i < columns.size(); ++i) {
        columns[i] = rowsAt(view, checklist::allPlaces[i], facts);
        longest = std::max(longest, columns[i].size());
    }
    const auto fit = static_cast<std::size_t>(std::max(1.0, (sheet.height() - first - 4) / pitch));
    const auto page = pageOf(view, QStringLiteral("points"), longest, fit);
    const double end = sheet.choice(right, top + 9, QStringLiteral("checks.hide"), say("settings"),
                                    say("How it is played, and with which settings (V)"), false);
    drawPager(sheet, end - 12, top + 6, page, say("rows %1 to %2 of %3"));
    const double w = sheet.text(wired.left, top + 8, say("Checklist"), Type::Heading, Ink::Ink, Align::Left, 160);
    sheet.text(wired.left + w + 12, top + 10,
               say("%1 fine, %2 to do, %3 cannot be told, %4 do not apply")
                   .arg(counts.fine)
                   .arg(counts.toDo)
                   .arg(counts.cannotTell)
                   .arg(counts.doesNotApply),
               Type::Body, Ink::Muted, Align::Left, end - wired.left - w - 24 - (page.whole() ? 0 : 220));
    for (std::size_t i = 0; i < columns.size(); ++i)
        for (std::size_t k = page.first; k < std::min(page.last, columns[i].size()); ++k)
            drawPoint(sheet, view, columns[i][k],
                      QRectF(wired.left + static_cast<double>(i) * wired.pitch,
                             first + static_cast<double>(k - page.first) * pitch, wired.room, pitch),
                      facts);
}

void layoutPoint(Sheet& sheet, const View& view, const Point& point) {
    const auto facts = checklist::factsOf(view.session);
    const auto judged = checklist::judge(point, facts, view.edits().checks);
    const double x = 16, w = sheet.width() - 44, label = 58;
    sheet.text(x, 16, qs(point.title), Type::Heading, Ink::Ink, Align::Left, w);
    sheet.text(x, 37,
               say("%1 \u00b7 %2")
                   .arg(qs(wording::standing(view.w, judged.standing)), qs(wording::place(view.w, point.place))),
               Type::Body, Ink::Muted, Align::Left, w);
    double y = 66;
    const auto paragraph = [&](const QString& name, const QString& text) {
        if (text.isEmpty() || y + 20 > sheet.height() - 116) return;
        sheet.text(x, y, name, Type::BodyBold, Ink::Muted, Align::Left, label - 4);
        const int most = std::max(1, static_cast<int>((sheet.height() - 112 - y) / 18));
        y = sheet.wrapped(x + label, y, w - label, text, Type::Body, Ink::Ink, most) + 10;
    };
    const auto rests = qs(wording::restsOn(view.w, judged, facts));
    paragraph(say("Now"), judged.said       ? say("You said so, %1.").arg(dateTime(judged.said->atSeconds))
                          : judged.reopened ? say("It was said before. What it rests on has changed since.")
                                            : rests);
    paragraph(say("Why"), qs(point.why));
    paragraph(say("Worth"), qs(point.worth));
    paragraph(say("See it"), qs(point.check));
    paragraph(say("Change"), qs(point.change));
    paragraph(say("Care"), qs(point.care));
    y = std::min(y + 6, sheet.height() - 108);
    const bool read = view.session.machine() != nullptr && view.session.machine()->readAt != 0;
    if (judged.said) {
        sheet.button(QRectF(x, y, w, 28), QStringLiteral("tick.open"), say("Open it again"));
    } else {
        sheet.button(QRectF(x, y, w, 28), QStringLiteral("tick.done"), say("I looked: it is fine"));
        sheet.button(QRectF(x, y + 34, w, 28), QStringLiteral("tick.not-here"), say("Not on this machine"));
    }
    if (read)
        sheet.button(QRectF(x, y + (judged.said ? 34 : 68), w, 28), QStringLiteral("machine.read"), say("Read again"));
}

void showChecks(Studio& s, bool checks) {
    auto& state = s.state<BenchState>();
    state.checks = checks;
    state.point.clear();
    s.notify();
}

std::vector<Hand> checkHands() {
    return {{"checks.show", [](Studio& s, Q) { showChecks(s, true); }},
            {"checks.hide", [](Studio& s, Q) { showChecks(s, false); }},
            {"point.",
             [](Studio& s, Q id) {
                 auto& point = s.state<BenchState>().point;
                 point = point == id.toStdString() ? std::string() : id.toStdString();
                 s.notify();
             }},
            {"tick.done", [](Studio& s, Q) { tick(s, document::Said::Done); }},
            {"tick.not-here", [](Studio& s, Q) { tick(s, document::Said::NotHere); }},
            {"tick.open", [](Studio& s, Q) { tick(s, {}); }}};
}

} // namespace impasto::app
