// SPDX-License-Identifier: GPL-3.0-or-later
// The ways to walk: which is taken, all of them to choose from, and the step that comes next.
#include "stations/layers/walks.h"

#include "shell/studio.h"

#include <impasto/wording/walk.h>

namespace impasto::app {

const results::Walking* stepOf(const View& view) {
    const auto* walking = view.get<results::Walking>();
    const bool steps = view.step.action == path::Action::RecordCosts && walking != nullptr && walking->stride.from;
    return steps ? walking : nullptr;
}

double walkRow(Sheet& sheet, const View& view, double x, double y, double w) {
    const QString name = qs(wording::walk(view.w, view.edits().settings.walk));
    const double taken = sheet.text(x + w, y, name, Type::BodyBold, Ink::Ink, Align::Right, 0.6 * w);
    sheet.line({x + w - taken, y + 18}, {x + w, y + 18}, Ink::Muted, 1);
    sheet.text(x, y, say("way to walk"), Type::Body, Ink::Muted, Align::Left, w - taken - 10);
    Hot h;
    h.id = QStringLiteral("walks");
    h.name = say("Way to walk: %1").arg(name);
    h.rect = QRectF(x - 4, y - 3, w + 8, 24);
    h.hint = say("How the next run is found; Enter shows all ways");
    sheet.hot(h);
    return y + 28;
}

Drawing layoutWalks(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const bool names = size.height() < 620; // else each with how it goes
    sheet.text(x, 16, say("Ways to walk"), Type::Heading);
    double y = 42;
    if (!names)
        y = sheet.wrapped(x, 37, w, say("Every run teaches, whichever way it came about."), Type::Body, Ink::Muted, 2) +
            8;
    for (const auto walk : choose::allWalkSchools) {
        const bool chosen = walk == view.edits().settings.walk;
        const QString name = qs(wording::walk(view.w, walk)), how = qs(wording::walkHow(view.w, walk));
        const double top = y, word = names ? y + 4 : y + 6;
        sheet.text(x + 8, word, name, Type::BodyBold, Ink::Ink, Align::Left, w - 70);
        if (chosen) sheet.text(x + w - 4, word, say("taken"), Type::Body, Ink::Muted, Align::Right);
        y = names ? y + 27 : sheet.wrapped(x + 8, y + 24, w - 12, how, Type::Body, Ink::Muted, 2) + 6;
        const QRectF r(x - 4, top, w + 8, y - top);
        sheet.rect(r, Ink::None, chosen ? Ink::Ink : Ink::Line, chosen ? 1.5 : 1.2);
        Hot h;
        h.id = QStringLiteral("walk.") + qs(std::string(choose::keyOf(walk)));
        h.name = say("%1: %2").arg(name, how);
        h.hint = how;
        h.rect = r;
        sheet.hot(h);
        y += names ? 4 : 6;
    }
    return sheet.take();
}

namespace {

void showWalks(Studio& studio, const QString&) {
    auto& open = studio.state<LayersState>().walksOpen;
    open = !open;
    studio.notify();
}

void take(Studio& studio, const QString& key) {
    studio.state<LayersState>().walksOpen = false;
    const auto walk = choose::walkSchoolOf(key.toStdString());
    if (walk && *walk != studio.view().edits().settings.walk) return studio.apply(document::takeWalk(*walk));
    studio.notify();
}

} // namespace

std::vector<Hand> walkHands() {
    return {{"walks", showWalks}, {"walk.", take}};
}

Key walkKey() {
    return {Qt::Key_W, "W", "ways to walk", [](Studio& s) {
                auto& open = s.state<LayersState>().walksOpen;
                open = !open || s.view().station != StationId{"layers"};
                s.go({"layers"});
                const auto taken = choose::keyOf(s.view().edits().settings.walk);
                if (open) s.ask(QStringLiteral("walk.") + qs(std::string(taken)));
            }};
}

} // namespace impasto::app
