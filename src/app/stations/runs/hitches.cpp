// SPDX-License-Identifier: GPL-3.0-or-later
// Below the reason of hitches: what one is, to be edited, and the worst of them.
#include "stations/runs/runs.h"

#include <algorithm>
#include <impasto/base/text.h>

namespace impasto::app {
namespace {

/// What a hitch is, each part editable in place; gives the y below.
double hitchRule(Sheet& sheet, const frames::HitchRule& rule, double x, double y, double w) {
    sheet.text(x, y, say("A hitch is"), Type::BodyBold);
    y += 24;
    const auto line = [&](const char* id, const QString& name, const QString& value, const QString& unit) {
        sheet.text(x, y, name, Type::Body, Ink::Muted);
        const double end = sheet.width() - 28 - 100;
        const double t = sheet.text(end, y - 1, value, Type::Value);
        sheet.line({end, y + 17}, {end + std::max(t, 20.0), y + 17}, Ink::Ink, 1);
        sheet.text(end + std::max(t, 20.0) + 6, y, unit, Type::Body, Ink::Muted);
        Hot h;
        h.id = QStringLiteral("hitch.") + QString::fromLatin1(id);
        h.name = say("%1: %2 %3").arg(name, value, unit);
        h.role = Role::Value;
        h.rect = QRectF(end - 4, y - 3, std::max(t, 20.0) + 8, 24);
        h.edit = value;
        sheet.hot(h);
        y += 26;
    };
    line("ratio", say("more than"), qs(shortestText(rule.ratio)), say("times"));
    line("neighbours", say("the median of"), QString::number(rule.neighbours), say("frames"));
    line("excess", say("and above it"), qs(shortestText(rule.excessMs)), say("ms"));
    line("outright", say("at any ratio, above it"), qs(shortestText(rule.outrightMs)), say("ms"));
    if (rule != frames::HitchRule()) {
        sheet.button(QRectF(x, y + 2, w, 28), QStringLiteral("hitch.usual"), say("Back to 1.75, 31, 4 and 8 ms"));
        y += 34;
    }
    return y;
}

/// The worst ones, in the order of time; each shows its place in the ribbon.
void hitchList(Sheet& sheet, const View& view, const frames::Summary& summary, double x, double y, double w) {
    const auto fit = static_cast<std::size_t>(std::max(0.0, (sheet.height() - 56 - y - 26) / 20));
    if (fit < 2 || summary.hitches.empty()) return;
    std::vector<frames::Hitch> worst = summary.hitches;
    const std::size_t count = std::min(worst.size(), fit);
    const auto lost = [](const frames::Hitch& h) { return h.frameMs - h.medianMs; };
    std::partial_sort(worst.begin(), worst.begin() + static_cast<std::ptrdiff_t>(count), worst.end(),
                      [&](const frames::Hitch& a, const frames::Hitch& b) { return lost(a) > lost(b); });
    worst.resize(count);
    std::sort(worst.begin(), worst.end(),
              [](const frames::Hitch& a, const frames::Hitch& b) { return a.frame < b.frame; });
    sheet.text(x, y, count < summary.hitches.size() ? say("The %1 worst").arg(count) : say("All of them"),
               Type::BodyBold);
    const auto trims = view.session.trimsOf(*view.run);
    for (const auto& hitch : worst) {
        y += 20;
        const double at = capture::timeInWhole(trims, hitch.atMs);
        const QString place = say("%1 s").arg(QString::number(at / 1000, 'f', 1)),
                      length = say("%1 ms of %2").arg(qs(wording::ms(hitch.frameMs)), qs(wording::ms(hitch.medianMs)));
        sheet.text(x + 60, y + 2, place, Type::Body, Ink::Ink, Align::Right);
        sheet.text(x + w, y + 2, length, Type::Body, Ink::Muted, Align::Right);
        Hot h;
        h.id = QStringLiteral("jump.%1").arg(at, 0, 'f', 1);
        h.name = say("Hitch at %1, %2").arg(place, length);
        h.rect = QRectF(x - 4, y, w + 8, 20);
        h.hint = say("Selects a second around it");
        sheet.hot(h);
    }
}

} // namespace

void hitchesBelow(Sheet& sheet, const View& view, double y) {
    const double x = 16, w = sheet.width() - 44;
    const auto* figures = view.run ? view.of<results::RunFigures>(*view.run) : nullptr;
    if (figures == nullptr || y + 196 >= sheet.height()) return;
    hitchList(sheet, view, figures->summary, x, hitchRule(sheet, view.edits().runs.hitchRule, x, y + 6, w) + 8, w);
}

} // namespace impasto::app
