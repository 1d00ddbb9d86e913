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

double partLine(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w) {
    const auto& others = run.capture->others;
    if (std::none_of(others.begin(), others.end(), capture::namesParts) || y + 60 > sheet.height()) return y;
    const auto& column = view.edits().runs.partColumn;
    sheet.button(QRectF(x, y + 6, w, 28), QStringLiteral("run.partcolumn"),
                 column.empty() ? say("Parts: by the route's seconds") : say("Parts: by column %1").arg(qs(column)));
    return y + 40;
}

} // namespace impasto::app
