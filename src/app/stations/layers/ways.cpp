// SPDX-License-Identifier: GPL-3.0-or-later
// Where the target does not fit: every goal as a row, what there is now and what each way comes to against it.
#include "stations/layers/layers.h"

#include <cmath>

namespace impasto::app {
namespace {

/// A goal: what is asked, and what there is of it now, with the slower rate, and with less of the picture.
struct Row {
    QString goal, note;
    double asked = 0, now = 0;
    std::optional<double> instead, less;
    QString kept, gives; // %1: by how much
    double unit = 1;     // of what is said
};

std::vector<Row> rowsOf(const View& view, const results::Proposed& proposed) {
    const auto& brief = *view.edits().goal.brief;
    const auto value = [](const std::optional<Fps>& rate) {
        return rate ? std::optional(rate->value()) : std::nullopt;
    };
    std::vector<Row> out;
    if (const auto* slowest = results::slowestOf(*view.results)) {
        out.push_back({say("%1 fps in every part").arg(qs(wording::wishFps(brief.target))),
                       say("slowest now: %1").arg(qs(wording::part(view.w, slowest->part))), brief.target.value(),
                       slowest->rate.value(), value(proposed.reaches), value(proposed.lessReaches), say("kept"),
                       say("gives way by %1 fps"), 1});
        const auto lowAt = [&](const std::optional<Fps>& rate) {
            return rate ? value(results::estimatedLow(*view.results, brief, *rate)) : std::nullopt;
        };
        if (const auto now = lowAt(slowest->rate))
            out.push_back({say("1% low of %1 fps").arg(qs(wording::wishFps(*brief.floor()))),
                           say("as far under as now"), brief.floor()->value(), *now, lowAt(proposed.reaches),
                           lowAt(proposed.lessReaches), say("kept, about"), say("gives way by about %1 fps"), 1});
    }
    if (brief.pictureFloor && view.session.game() != nullptr)
        out.push_back({say("%1 of the picture").arg(qs(wording::percent(*brief.pictureFloor))),
                       say("as its levels say"), *brief.pictureFloor,
                       game::pictureValue(*view.session.game(), view.edits().settings.baseline),
                       proposed.instead ? std::optional(proposed.instead->picture) : std::nullopt,
                       proposed.less ? std::optional(proposed.less->picture) : std::nullopt, say("kept"),
                       say("gives way by %1 points"), 100});
    return out;
}

} // namespace

double waysHeight(const View& view, QSizeF size) {
    const auto* proposed = view.get<results::Proposed>();
    const bool shown = view.step.action == path::Action::LowerTarget && !view.preview && proposed != nullptr &&
                       proposed->instead && proposed->reaches == view.step.target && view.edits().goal.brief &&
                       size.height() >= 500;
    return shown ? 62 + 36 * static_cast<double>(rowsOf(view, *proposed).size()) : 0;
}

void drawWays(Sheet& sheet, const View& view) {
    const double height = waysHeight(view, sheet.size());
    if (height == 0) return;
    const auto rows = rowsOf(view, *view.get<results::Proposed>());
    const double left = 24, right = sheet.width() - 16, top = sheet.height() - height + 8;
    sheet.line({left, top - 8}, {right, top - 8}, Ink::Line, 1.2);
    const double w = sheet.text(left, top, say("Which goal gives way"), Type::Heading);
    const bool less = std::any_of(rows.begin(), rows.end(), [](const Row& row) { return row.less.has_value(); });
    sheet.text(left + w + 12, top + 2,
               less ? say("hollow: now · solid: the slower rate · ringed: less of the picture · right is better")
                    : say("hollow: now · solid: the slower rate · right is better"),
               Type::Body, Ink::Muted, Align::Left, right - left - w - 12);
    const double from = left + 170, to = right - 210;
    const Scale share{0.5, 1.3, from, to};
    const double first = top + 28, bottom = first + 36 * static_cast<double>(rows.size());
    sheet.rect(QRectF(share.px(1), first, to - share.px(1), bottom - first), Ink::Paper);
    sheet.hatch(QRectF(from, first, share.px(1) - from, bottom - first), Ink::Line, 6);
    sheet.line({share.px(1), first - 4}, {share.px(1), bottom + 2}, Ink::Over, 2.2);
    double y = first;
    for (const auto& row : rows) {
        const auto at = [&](double value) { return share.px(std::clamp(value / row.asked, 0.5, 1.3)); };
        const double middle = y + 21;
        sheet.text(left, y + 1, row.goal, Type::BodyBold, Ink::Ink, Align::Left, 164);
        sheet.text(left, y + 18, row.note, Type::Note, Ink::Muted, Align::Left, 164);
        const auto mark = [&](double value, Ink fill, const QString& words) {
            sheet.circle({at(value), middle}, 4.5, fill, Ink::Ink, 1.5);
            if (!words.isEmpty())
                sheet.text(at(value), y - 1, words, Type::Small, Ink::Ink, Align::Centre, 0, Ink::Ground);
        };
        const auto figure = [&](double value) { return QString::number(std::lround(row.unit * value)); };
        // Words of marks that lie on one another are said once.
        const bool together = row.instead && std::abs(at(*row.instead) - at(row.now)) < 24;
        mark(row.now, Ink::Ground, together ? QString() : figure(row.now));
        if (row.less) {
            const bool near = (row.instead && std::abs(at(*row.instead) - at(*row.less)) < 24) ||
                              std::abs(at(row.now) - at(*row.less)) < 24;
            mark(*row.less, Ink::Ground, near ? QString() : figure(*row.less));
            sheet.circle({at(*row.less), middle}, 1.6, Ink::Ink);
        }
        if (row.instead) mark(*row.instead, Ink::Ink, figure(*row.instead));
        const double lacks = row.instead ? row.unit * (row.asked - *row.instead) : 0;
        const bool kept = lacks < 0.5;
        sheet.text(right, y + 10, kept ? row.kept : row.gives.arg(std::lround(lacks)),
                   kept ? Type::Body : Type::BodyBold, Ink::Ink, Align::Right, right - to - 10);
        y += 36;
        sheet.line({left, y}, {right, y}, Ink::Grid, 1);
    }
    sheet.text(share.px(1), bottom + 3, say("as asked"), Type::Small, Ink::Over, Align::Centre);
}

} // namespace impasto::app
