// SPDX-License-Identifier: GPL-3.0-or-later
// What a run belongs to: the order that it answers, and the parts of the route.
#include "stations/runs/runs.h"

#include <impasto/capture/parts.h>

namespace impasto::app {

double answerLine(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w) {
    if (run.maker == run::Maker::SimulatedRig || path::openOrders(view.session).empty() || y + 100 > sheet.height())
        return y;
    const auto* order = view.session.orderOf(run);
    sheet.button(QRectF(x, y + 6, w, 28), QStringLiteral("run.answers"),
                 order == nullptr ? say("Let it answer an order")
                                  : say("Answers: %1").arg(qs(wording::orderName(view.w, view.session, *order))),
                 say("change"));
    return y + 40;
}

double variantLine(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w) {
    if (run.maker == run::Maker::SimulatedRig || view.session.orderOf(run) != nullptr || y + 60 > sheet.height())
        return y;
    const auto name = qs(view.session.variantName(run));
    const QString said = name.isEmpty() ? say("same as now") : name;
    sheet.text(x, y + 8, say("Played with"), Type::Body, Ink::Muted);
    const double left = x + textWidth(say("Played with"), Type::Body) + 8;
    const double t = std::max(40.0, sheet.text(left, y + 6, said, Type::Value, Ink::Ink, Align::Left, x + w - left));
    sheet.line({left, y + 25}, {left + t, y + 25}, Ink::Ink, 1);
    Hot h;
    h.id = QStringLiteral("run.variant");
    h.name = say("Played with: %1").arg(said);
    h.role = Role::Value;
    h.rect = QRectF(left - 4, y + 3, t + 8, 26);
    h.edit = name;
    h.hint = say("Type a level that is tested (\u201cshadows low\u201d) or any name (\u201ccopy route off\u201d); "
                 "empty: as now. Runs "
                 "of other names are never taken together.");
    sheet.hot(h);
    return y + 36;
}

double partLine(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w) {
    const auto& others = run.capture->others;
    if (std::none_of(others.begin(), others.end(), capture::namesParts) || y + 60 > sheet.height()) return y;
    const auto& column = view.edits().runs.partColumn;
    sheet.button(QRectF(x, y + 6, w, 28), QStringLiteral("run.partcolumn"),
                 column.empty() ? say("Parts: by the route's seconds") : say("Parts: by column %1").arg(qs(column)));
    return y + 40;
}

} // namespace impasto::app
