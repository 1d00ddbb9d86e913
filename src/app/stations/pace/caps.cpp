// SPDX-License-Identifier: GPL-3.0-or-later
// The cap against average and lows, with every school's flag; the knob of every picture over caps.
#include "stations/pace/pace.h"

#include <cmath>

namespace impasto::app {
namespace {

/// What the schools offer, as far as there is room for their names.
void flags(Sheet& sheet, const View& view, const Scale& x, double top) {
    const auto now = shownCap(view);
    std::vector<std::pair<double, QString>> all;
    for (const auto& offer : view.get<results::CapView>()->offers)
        if (const auto rate = offer.plan.pacedTo(); rate && rate->value() >= x.fromValue &&
                                                    rate->value() <= x.toValue &&
                                                    (!now || rate->value() != now->value()))
            all.emplace_back(x.px(rate->value()), qs(wording::wishFps(*rate)) + QLatin1Char(' ') +
                                                      qs(wording::capRule(view.w, offer.school)));
    std::sort(all.begin(), all.end());
    double lastEnd = x.fromPx - 10;
    for (const auto& [px, label] : all) {
        const double w = textWidth(label, Type::Small);
        double at = std::max(px - w / 2, lastEnd + 8);
        // The knob and its focus ring keep their place.
        const double knob = now ? x.px(std::clamp(now->value(), x.fromValue, x.toValue)) : -1e9;
        if (at < knob + 18 && at + w > knob - 18) at = knob + 18;
        if (at + w > x.toPx + 80) break;
        sheet.line({px, top - 8}, {px, top}, Ink::Ink, 1.2);
        sheet.text(at, top - 24, label, Type::Small, Ink::Ink);
        lastEnd = at + w;
    }
}

/// How the frames are shown with the cap, to be set otherwise by a press; gives where the words begin.
double shownHow(Sheet& sheet, const View& view, double y) {
    const auto plan = shownPlan(view);
    const auto panel = view.session.panel();
    double right = sheet.width() - 24;
    if (!panel || panel->headset) return right;
    const auto word = [&](const char* id, const QString& name, const QString& text) {
        const double wide = textWidth(text, Type::BodyBold);
        sheet.text(right - wide, y, text, Type::BodyBold);
        sheet.line({right - wide, y + 17}, {right, y + 17}, Ink::Ink, 1.2);
        Hot h;
        h.id = QLatin1String(id);
        h.name = name;
        h.role = Role::Row;
        h.rect = QRectF(right - wide - 3, y - 2, wide + 6, 21);
        h.hint = say("Press for the next one");
        sheet.hot(h);
        right -= wide + 10;
    };
    if (pace::modesOf(panel).size() > 1)
        word("pace.mode", say("The panel's mode"),
             say("%1 Hz").arg(qs(wording::wishFps(Fps(plan.refresh.value_or(panel->refresh).value())))));
    word("pace.sync", say("Sync"), qs(wording::syncName(view.w, plan.sync)));
    const QString name = say("sync");
    right -= textWidth(name, Type::Body);
    sheet.text(right, y, name, Type::Body, Ink::Muted);
    return right - 12;
}

/// Average and lows with their bands; what was run stands as a ring on the prediction.
void predictions(Sheet& sheet, const results::CapView& cap, const Scale& x, const Scale& y) {
    const auto band = [&](pace::Figure figure, Ink ink) {
        QPolygonF area;
        const auto at = [&](const pace::CapPrediction& p, double value) {
            area.append(QPointF(x.px(p.plan.cap->value()), y.px(std::clamp(value, y.fromValue, y.toValue))));
        };
        for (const auto& p : cap.curve) at(p, p.of(figure).high);
        for (auto it = cap.curve.rbegin(); it != cap.curve.rend(); ++it) at(*it, it->of(figure).low);
        if (area.size() > 3) sheet.area(area, ink);
    };
    band(pace::Figure::TenthPercentLow, Ink::Band);
    band(pace::Figure::OnePercentLow, Ink::Band2);
    const auto middle = [&](pace::Figure figure) {
        QPolygonF points;
        for (const auto& p : cap.curve)
            points.append(
                QPointF(x.px(p.plan.cap->value()), y.px(std::clamp(p.of(figure).middle, y.fromValue, y.toValue))));
        return points;
    };
    const QPolygonF tenth = middle(pace::Figure::TenthPercentLow), one = middle(pace::Figure::OnePercentLow),
                    average = middle(pace::Figure::Average);
    if (tenth.size() > 1) sheet.curve(tenth, Ink::Ink, 1.6, {6, 4});
    if (one.size() > 1) sheet.curve(one, Ink::Ink, 1.8);
    sheet.curve(average, Ink::Ink, 3);
    double lastLabel = -1e9;
    const auto endLabel = [&](const QPolygonF& points, const QString& text, Type type) {
        if (points.size() < 2) return;
        const double at = std::max(points.last().y() - 9, lastLabel + 18);
        lastLabel = at;
        sheet.text(x.toPx + 10, at, text, type);
    };
    endLabel(average, say("average"), Type::BodyBold);
    endLabel(one, say("1% low"), Type::Body);
    endLabel(tenth, say("0.1% low"), Type::Body);
    // What was run stands as a point on the prediction.
    for (const auto& proven : cap.replay.proven) {
        const auto rate = proven.plan.pacedTo();
        if (!rate || rate->value() < x.fromValue || rate->value() > x.toValue) continue;
        for (const auto figure : {pace::Figure::Average, pace::Figure::OnePercentLow, pace::Figure::TenthPercentLow}) {
            const double value = proven.measured.of(figure);
            if (value > y.fromValue && value < y.toValue)
                sheet.circle({x.px(rate->value()), y.px(value)}, 4, Ink::Paper, Ink::Ink);
        }
    }
}

} // namespace

void drawCapAxes(Sheet& sheet, const Scale& x, const Scale& y, double step, const QString& unit) {
    const double left = x.fromPx, right = x.toPx, bottom = y.fromPx, top = y.toPx;
    sheet.rect(QRectF(left, top, right - left, bottom - top), Ink::Paper);
    for (double v = y.fromValue; v <= y.toValue + 1e-9; v += step) {
        sheet.line({left, y.px(v)}, {right, y.px(v)}, Ink::Grid, 1);
        sheet.text(left - 8, y.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    sheet.text(left - 8, top - 22, unit, Type::Small, Ink::Muted, Align::Right);
    const double tick = niceStep(x.toValue - x.fromValue, 7);
    for (double v = std::ceil(x.fromValue / tick) * tick; v <= x.toValue; v += tick) {
        sheet.line({x.px(v), bottom}, {x.px(v), bottom + 5}, Ink::Ink, 1.2);
        sheet.text(x.px(v), bottom + 6, QString::number(v), Type::Small, Ink::Muted, Align::Centre);
    }
    sheet.text(right + 14, bottom + 6, say("cap, fps"), Type::Small, Ink::Muted);
}

void drawCapKnob(Sheet& sheet, const View& view, const Scale& x, double top, double bottom) {
    const auto now = shownCap(view);
    if (now) {
        const double px = x.px(std::clamp(now->value(), x.fromValue, x.toValue));
        sheet.line({px, top - 2}, {px, bottom}, Ink::Over, 2.6);
        sheet.circle({px, top - 2}, 8, Ink::Over);
        const QString value = qs(wording::wishFps(*now));
        const bool bySync = !shownPlan(view).cap && !view.state<PaceState>().dragged;
        const double w =
            sheet.text(px + 8, bottom - 22, bySync ? say("sync at %1").arg(value) : say("cap %1").arg(value),
                       Type::BodyBold, Ink::Over, Align::Left, 0, Ink::Paper);
        Hot knob;
        knob.id = QStringLiteral("pace.knob");
        knob.name = say("Cap %1 fps").arg(value);
        knob.role = Role::Edge;
        knob.rect = QRectF(px - 10, top - 12, 20, 20);
        knob.hint = say("Drag it, or Up and Down by 1 fps");
        sheet.hot(knob);
        Hot typed;
        typed.id = QStringLiteral("pace.cap");
        typed.name = say("Cap, fps, or none");
        typed.role = Role::Value;
        typed.rect = QRectF(px + 4, bottom - 26, w + 8, 24);
        typed.edit = value;
        sheet.hot(typed);
    }
}

void drawCaps(Sheet& sheet, const View& view, double top) {
    const auto& cap = *view.get<results::CapView>();
    const Scale x = paceCapScale(view, sheet.size());
    const double left = x.fromPx, right = x.toPx, bottom = sheet.height() - 44;
    double low = 1e9, high = 0;
    for (const auto& p : cap.curve) {
        high = std::max(high, p.average().value());
        low = std::min(low, p.of(pace::Figure::TenthPercentLow).middle);
    }
    const auto& brief = *view.edits().goal.brief;
    if (brief.floor()) low = std::min(low, brief.floor()->value());
    low = std::min(low, brief.target.value());
    high = std::max(high, brief.target.value());
    const double step = niceStep(1.1 * high - 0.8 * low, bottom - top < 160 ? 4 : 7);
    const Scale y{std::floor(0.85 * low / step) * step, std::ceil(1.04 * high / step) * step, bottom, top};
    drawCapAxes(sheet, x, y, step, say("fps"));
    predictions(sheet, cap, x, y);
    sheet.line({left, y.px(brief.target.value())}, {right, y.px(brief.target.value())}, Ink::Over, 1.4);
    sheet.text(left + 8, y.px(brief.target.value()) - 18, say("target %1").arg(qs(wording::wishFps(brief.target))),
               Type::BodyBold, Ink::Over, Align::Left, 0, Ink::Paper);
    if (brief.floor() && brief.floor()->value() > y.fromValue &&
        std::abs(y.px(brief.floor()->value()) - y.px(brief.target.value())) > 20) {
        sheet.line({left, y.px(brief.floor()->value())}, {right, y.px(brief.floor()->value())}, Ink::Over, 1.2, {5, 4});
        sheet.text(left + 8, y.px(brief.floor()->value()) - 18,
                   say("lowest acceptable %1").arg(qs(wording::wishFps(*brief.floor()))), Type::BodyBold, Ink::Over,
                   Align::Left, 0, Ink::Paper);
    }
    flags(sheet, view, x, top);
    drawCapKnob(sheet, view, x, top, bottom);
    const double words = shownHow(sheet, view, sheet.height() - 22);
    const auto sync = shownPlan(view).sync;
    const auto window = view.edits().subject.state.conditions.window;
    if (window != run::WindowMode::FullScreen && (sync == run::Sync::Variable || sync == run::Sync::VariableTearing)) {
        sheet.text(24, sheet.height() - 22,
                   say("Does the panel follow a game that is not full screen? Its own counter tells; many do not."),
                   Type::Body, Ink::Over, Align::Left, words - 24);
        return;
    }
    sheet.text(24, sheet.height() - 22,
               cap.replay.proven.empty()
                   ? say("Bands: where 94 of 100 proofs fall. A cap is a prediction until it has been run.")
                   : say("Bands: where 94 of 100 proofs fall. Rings: what was proven."),
               Type::Body, Ink::Muted, Align::Left, words - 24);
}

Scale paceCapScale(const View& view, QSizeF size) {
    const auto& curve = view.get<results::CapView>()->curve;
    if (curve.empty()) return {30, 120, 88, size.width() - 100};
    return {curve.front().plan.cap->value(), curve.back().plan.cap->value(), 88, size.width() - 100};
}

} // namespace impasto::app
