// SPDX-License-Identifier: GPL-3.0-or-later
// Every best set as a curve of picture against rate, under the ways to one rate; why a level is not in the choice.
#include "stations/layers/around.h"

#include <cmath>
#include <impasto/wording/bounds.h>
#include <impasto/wording/power.h>

namespace impasto::app {
namespace {

/// From what is rendered to what is shown.
void drawInvented(Sheet& sheet, const Around& around, const Scale& fps, const Scale& picture) {
    for (const auto& way : around.ways) {
        if (!way.base) continue;
        const double shown = 2 * way.base->value(), y = picture.px(way.proposal.picture);
        if (way.base->value() < fps.fromValue || shown > fps.toValue) continue;
        sheet.line({fps.px(way.base->value()), y}, {fps.px(shown), y}, Ink::Gen, 1.4, {2, 4});
        sheet.circle({fps.px(way.base->value()), y}, 4.5, Ink::Paper, Ink::Gen);
        sheet.circle({fps.px(shown), y}, 4.5, Ink::Gen);
    }
}

/// The game's presets, with what each draws.
void drawPresets(Sheet& sheet, const View& view, const Around& around, const Scale& fps, const Scale& picture,
                 QRectF plot) {
    for (const auto& [name, point] : around.presets) {
        const QPointF p(fps.px(point.holds.value()), picture.px(point.picture));
        sheet.rect(QRectF(p.x() - 4, p.y() - 4, 8, 8), Ink::Paper, Ink::Ink, 1.5);
        const bool rightSide = p.x() < plot.right() - 170;
        const QString draws = drawsSaid(view, around, point.values);
        sheet.text(p.x() + (rightSide ? 9 : -9), std::min(p.y() + 12, plot.bottom() - 20),
                   draws.isEmpty() ? say("preset %1").arg(qs(name)) : say("preset %1, %2").arg(qs(name), draws),
                   Type::Note, Ink::Muted, rightSide ? Align::Left : Align::Right, rightSide ? 160 : 0, Ink::Paper);
    }
}

void drawCurve(Sheet& sheet, const View& view, const Around& around, QRectF plot) {
    const auto& front = around.front;
    double low = around.target.value(), high = around.target.value(), least = 1;
    const auto widen = [&](const choose::Standpoint& p) {
        low = std::min(low, p.holds.value());
        high = std::max(high, p.holds.value());
        least = std::min(least, p.picture);
    };
    for (const auto& point : front) widen(point);
    for (const auto& [name, point] : around.presets) widen(point);
    widen(around.chosen);
    const Scale fps{std::floor(low / 5) * 5, std::ceil(high * 1.02 / 5) * 5, plot.left(), plot.right()};
    const Scale picture{std::floor(least * 10) / 10, 1.02, plot.bottom(), plot.top()};
    sheet.rect(plot, Ink::Paper);
    for (double v = picture.fromValue; v <= 1 + 1e-9; v += least < 0.6 ? 0.2 : 0.1) {
        sheet.line({plot.left(), picture.px(v)}, {plot.right(), picture.px(v)}, Ink::Grid, 1);
        sheet.text(plot.left() - 6, picture.px(v) - 8, qs(wording::percent(v)), Type::Small, Ink::Muted, Align::Right);
    }
    const double step = niceStep(fps.toValue - fps.fromValue, 7);
    for (double v = std::ceil(fps.fromValue / step) * step; v <= fps.toValue + 1e-9; v += step)
        sheet.text(fps.px(v), plot.bottom() + 4, QString::number(v), Type::Small, Ink::Muted, Align::Centre);
    const auto& brief = view.edits().goal.brief;
    sheet.text(plot.right(), plot.bottom() + 20,
               brief && wording::asksOfSettings(*brief)
                   ? say("fps at which it keeps all that is asked in every part, doubt allowed for")
                   : say("fps that it holds in every part, doubt allowed for"),
               Type::Small, Ink::Muted, Align::Right);
    const auto at = [&](const choose::Standpoint& p) {
        return QPointF(fps.px(p.holds.value()), picture.px(p.picture));
    };
    QPolygonF line;
    for (std::size_t i = 0; i < front.size(); ++i) {
        if (i > 0) line << QPointF(at(front[i - 1]).x(), at(front[i]).y());
        line << at(front[i]);
    }
    if (line.size() > 1) sheet.curve(line, Ink::Muted, 1);
    const double target = fps.px(around.target.value());
    sheet.line({target, plot.top() - 4}, {target, plot.bottom()}, Ink::Over, 2.2, {}, Ink::Paper);
    sheet.text(target - 6, plot.bottom() - 20, say("target %1").arg(qs(wording::wishFps(around.target))), Type::Note,
               Ink::Over, Align::Right, 0, Ink::Paper);
    drawPresets(sheet, view, around, fps, picture, plot);
    const auto& picked = view.state<AroundState>().point;
    for (std::size_t i = 0; i < front.size(); ++i) {
        const auto p = at(front[i]);
        sheet.circle(p, picked == i ? 5.5 : 3, Ink::Ink, picked == i ? Ink::Paper : Ink::None, 1.5);
        Hot h;
        h.id = QStringLiteral("point.%1").arg(i);
        h.name = say("%1 of the picture, %2 fps")
                     .arg(pictureShare(front[i].picture), qs(wording::fps(front[i].holds.value())));
        h.role = Role::Row;
        h.rect = QRectF(p.x() - 7, p.y() - 7, 14, 14);
        h.hint = say("Up and Down walk along the sets");
        if (const QString draws = drawsSaid(view, around, front[i].values); !draws.isEmpty())
            h.name += QStringLiteral(", ") + draws;
        sheet.hot(h);
    }
    drawInvented(sheet, around, fps, picture);
    const auto c = at(around.chosen);
    sheet.rect(QRectF(c.x() - 9, c.y() - 9, 18, 18), Ink::None, Ink::Ink, 1.6);
    sheet.circle(c, 5.5, Ink::Ink);
    const bool rightSide = c.x() < plot.right() - 230;
    sheet.text(c.x() + (rightSide ? 14 : -14), c.y() - 24,
               (around.isChoice ? say("the choice: %1, holds %2 fps") : say("as now: %1, holds %2 fps"))
                   .arg(pictureShare(around.chosen.picture), qs(wording::fps(around.chosen.holds.value()))),
               Type::BodyBold, Ink::Ink, rightSide ? Align::Left : Align::Right, 0, Ink::Paper);
}

/// Two values in a sentence, underlined.
double valueIn(Sheet& sheet, double x, double y, const QString& id, const QString& name, const QString& text,
               double most) {
    const QString shown = elided(text, Type::Heading, most);
    const double w = sheet.text(x, y, shown, Type::Heading);
    sheet.line({x, y + 21}, {x + w, y + 21}, Ink::Ink, 1.2);
    Hot h;
    h.id = id;
    h.name = name;
    h.role = Role::Value;
    h.rect = QRectF(x - 2, y - 2, w + 4, 25);
    h.edit = text;
    h.hint = say("Up and Down go through them; Enter types");
    sheet.hot(h);
    return x + w;
}

double drawQuestion(Sheet& sheet, const View& view, const Around& around, double x, double y, double w) {
    const auto* setting = view.session.game()->setting(around.asked.setting);
    if (setting == nullptr) return y;
    double at = x + sheet.text(x, y, say("Why not"), Type::Heading) + 8;
    at = valueIn(sheet, at, y, QStringLiteral("ask.setting"), say("Setting that is asked about"), qs(setting->label),
                 w - (at - x) - 14) +
         8;
    const double needs = textWidth(qs(around.asked.level), Type::Heading) + 14;
    if (at + needs > x + w) {
        at = x;
        y += 26;
    }
    at = valueIn(sheet, at, y, QStringLiteral("ask.level"), say("Level that is asked about"), qs(around.asked.level),
                 120);
    sheet.text(at + 2, y, QStringLiteral("?"), Type::Heading);
    sheet.text(x, y + 25,
               around.isChoice ? say("in place of the choice's, for the same goals")
                               : say("in place of what is set now"),
               Type::Body, Ink::Muted, Align::Left, w);
    return y + 48;
}

/// A lane before and after as one bar against its limit.
double drawLane(Sheet& sheet, const View& view, const choose::LaneOutcome& before, const choose::LaneOutcome& after,
                double x, double y, double w) {
    sheet.row(x, y, w,
              say("%1, %2").arg(qs(wording::lane(view.w, after.lane)), qs(wording::part(view.w, after.worstPart))),
              say("%1 → %2 ms").arg(qs(wording::ms(before.meanMs)), qs(wording::ms(after.meanMs))), Type::BodyBold);
    const Scale ms{0, 1.12 * std::max({before.meanMs, after.meanMs, after.usableMs}), x, x + w};
    const Ink ink = after.lane == run::Lane::Cpu ? Ink::Cpu : Ink::Gpu;
    sheet.rect(QRectF(x, y + 21, ms.px(std::min(before.meanMs, after.meanMs)) - x, 13), ink);
    const QRectF change(ms.px(std::min(before.meanMs, after.meanMs)), y + 21,
                        std::abs(ms.px(after.meanMs) - ms.px(before.meanMs)), 13);
    if (after.meanMs > before.meanMs && change.width() > 1) {
        sheet.rect(change, Ink::None, ink, 1.2, {4, 3});
        if (after.leftMs() < 0) sheet.hatch(change, Ink::Over, 6);
    } else if (change.width() > 1) {
        sheet.rect(change, Ink::None, Ink::Muted, 1, {4, 3});
    }
    sheet.line({ms.px(after.usableMs), y + 18}, {ms.px(after.usableMs), y + 38}, Ink::Ink, 2);
    sheet.text(std::min(ms.px(after.usableMs) + 30, x + w), y + 38,
               say("limit %1").arg(qs(wording::ms(after.usableMs))), Type::Small, Ink::Muted, Align::Right);
    return y + 58;
}

/// What differs from the choice, with the points of picture that each is.
double drawDifferences(Sheet& sheet, const View& view, const game::Values& from, const game::Values& to, double x,
                       double y, double w, double bottom) {
    const auto& game = *view.session.game();
    for (const auto& setting : game.settings) {
        const auto b = from.find(setting.id), a = to.find(setting.id);
        if (b == from.end() || a == to.end() || a->second == b->second) continue;
        if (y + 18 > bottom) return sheet.text(x, y, say("and more"), Type::Body, Ink::Muted), y + 18;
        auto changed = from;
        changed[setting.id] = a->second;
        const double points = 100 * (game::pictureValue(game, changed) - game::pictureValue(game, from));
        const double pw =
            sheet.text(x + w, y, qs(wording::signedPlusMinus(points, {}, 1)), Type::BodyBold, Ink::Ink, Align::Right);
        const double lw =
            sheet.text(x + w - std::max(pw, 34.0) - 10, y, qs(b->second) + QStringLiteral(" → ") + qs(a->second),
                       Type::Body, Ink::Ink, Align::Right, w * 0.5);
        sheet.text(x, y, qs(setting.label), Type::Body, Ink::Muted, Align::Left, w - std::max(pw, 34.0) - lw - 18);
        y += 18;
    }
    return y;
}

double drawPicked(Sheet& sheet, const View& view, const Around& around, double x, double y, double w, double bottom) {
    const auto& picked = view.state<AroundState>().point;
    if (!picked || *picked >= around.front.size()) return y;
    const auto& point = around.front[*picked];
    sheet.text(x, y, say("The set that is picked"), Type::Heading);
    y += 24;
    sheet.row(x, y, w, say("picture"), pictureShare(point.picture), Type::BodyBold);
    sheet.row(x, y + 18, w, say("holds"), say("%1 fps").arg(qs(wording::fps(point.holds.value()))), Type::BodyBold,
              point.holds.value() < around.target.value() ? Ink::Over : Ink::Ink);
    y += 40;
    if (const auto draws = around.draws.find(point.values); draws != around.draws.end()) {
        sheet.row(x, y - 4, w,
                  drawsName(view) + QLatin1Char(' ') + say("at %1 fps").arg(qs(wording::wishFps(around.target))),
                  qs(wording::watts(view.w, draws->second.watts)), Type::BodyBold);
        y += 18;
        if (draws->second.hours) {
            sheet.row(x, y - 4, w, say("battery lasts"), qs(wording::hours(view.w, *draws->second.hours)),
                      Type::BodyBold);
            y += 18;
        }
    }
    y = drawDifferences(sheet, view, around.choice, point.values, x, y, w, bottom - 44);
    if (point.values == around.choice) {
        sheet.text(x, y, around.isChoice ? say("It is the choice.") : say("It is what is set now."), Type::Body,
                   Ink::Muted);
        return y + 24;
    }
    sheet.button(QRectF(x, y + 6, w, 28), QStringLiteral("point.take"), say("Take this set instead"));
    return y + 44;
}

struct Face {
    LayersFace face;
    const char *id, *word, *hint;
};
/// From the right.
constexpr std::array<Face, 4> faces{
    {{LayersFace::Files, "face.files", "into the game", "What goes into the game's menu and files (G)"},
     {LayersFace::Matters, "face.matters", "what matters", "Which would you miss more? Weights follow (I)"},
     {LayersFace::BestSets, "face.best", "every best set", "Picture against rate, ways to one rate, why not (B)"},
     {LayersFace::Slabs, "face.slabs", "slabs", "Where the milliseconds go"}}};

} // namespace

QString drawsName(const View& view) {
    const auto* limits = view.get<results::Limits>();
    if (limits == nullptr || !limits->power) return {};
    const auto of = limits->power->uncapped().of;
    return of == pace::PowerOf::Gpu ? say("GPU draws") : of == pace::PowerOf::Chips ? say("chips draw") : say("draws");
}

QString drawsSaid(const View& view, const Around& around, const game::Values& values) {
    const auto it = around.draws.find(values);
    if (it == around.draws.end()) return {};
    const auto exactly = [](const pace::Band& band) { return pace::Band{band.middle, band.middle, band.middle}; };
    const QString watts = qs(wording::watts(view.w, it->second.watts.middle));
    return it->second.hours ? watts + QStringLiteral(", ") + qs(wording::hours(view.w, exactly(*it->second.hours)))
                            : watts;
}

double facesWidth() {
    double width = 16;
    for (const auto& face : faces) width += textWidth(say(face.word), Type::BodyBold) + 16;
    return width;
}

void drawFaces(Sheet& sheet, const View& view) {
    const auto now = view.state<AroundState>().face;
    const auto draw = [&](bool chosen) { // the one in view first: the keyboard begins there
        double right = sheet.width() - 16;
        for (const auto& face : faces) {
            const bool is = face.face == now;
            if (is == chosen) sheet.choice(right, 12, QLatin1String(face.id), say(face.word), say(face.hint), is);
            right -= textWidth(say(face.word), is ? Type::BodyBold : Type::Body) + 16;
        }
    };
    draw(true);
    draw(false);
}

Drawing layoutBestSets(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto* around = aroundOf(view);
    if (around == nullptr) {
        sheet.heading(24, 12, say("Every best set"),
                      results::groundOf(*view.results) ? say("being computed") : say("It follows from the test runs."),
                      facesWidth());
        drawFaces(sheet, view);
        return sheet.take();
    }
    const bool ways = around->ways.size() > 1;
    const bool reached = around->front.empty() || around->front.back().holds >= around->target;
    sheet.heading(
        24, 12,
        ways      ? say("%1 ways to %2 fps").arg(around->ways.size()).arg(qs(wording::wishFps(around->target)))
        : reached ? say("Every best set: picture against rate")
                  : say("None of the best sets holds %1 fps").arg(qs(wording::wishFps(around->target))),
        ways ? say("painted: what a frame costs · short line: its safe limit · beside: what differs from the choice")
             : say("no set shows more at the rate that it holds · hollow squares: the game's presets"),
        facesWidth());
    double top = 72;
    if (ways) {
        top = drawWaysToRate(sheet, view, *around, top, 72 + 0.5 * (size.height() - 72)) + 6;
        sheet.text(24, top, say("Every best set: picture against rate"), Type::Heading);
        sheet.text(size.width() - 16, top + 1,
                   around->draws.empty() ? say("hollow squares: the game's presets")
                                         : say("hollow squares: the game's presets, watts as capped at %1 fps")
                                               .arg(qs(wording::wishFps(around->target))),
                   Type::Body, Ink::Muted, Align::Right, size.width() - 330);
        top += 34;
    }
    if (!around->front.empty())
        drawCurve(sheet, view, *around, QRectF(64, top, size.width() - 80, size.height() - 44 - top));
    drawFaces(sheet, view);
    return sheet.take();
}

Drawing layoutBestSetsColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto* around = aroundOf(view);
    const double x = 16, w = size.width() - 44;
    if (around == nullptr || view.session.game() == nullptr) {
        sheet.text(x, 16, say("Why not?"), Type::Heading);
        sheet.wrapped(x, 40, w, say("Ask about any level once test runs tell the costs."), Type::Body, Ink::Muted);
        return sheet.take();
    }
    double y = drawQuestion(sheet, view, *around, x, 16, w);
    if (around->fault) {
        y = sheet.wrapped(x, y, w, qs(wording::error(view.w, *around->fault).what), Type::Body, Ink::Over) + 8;
    } else if (around->answer) {
        const auto& answer = *around->answer;
        if (answer.from != answer.to)
            for (std::size_t i = 0; i < std::min(answer.before.size(), answer.after.size()); ++i)
                y = drawLane(sheet, view, answer.before[i], answer.after[i], x, y, w);
        y = sheet.wrapped(x, y, w, qs(wording::whyNot(view.w, view.session, answer, around->target)), Type::Body,
                          Ink::Ink, 8) +
            12;
        if (answer.from != answer.to) {
            sheet.text(x, y, say("What would have to go"), Type::Heading);
            y = sheet.wrapped(x, y + 23, w, qs(wording::whatHasToGo(view.w, answer)), Type::Body, Ink::Muted, 3) + 4;
            if (answer.with) {
                const double bottom = view.state<AroundState>().point ? size.height() - 220 : size.height();
                y = drawDifferences(sheet, view, around->choice, answer.with->values, x, y, w, bottom - 44);
                sheet.button(QRectF(x, y + 6, w, 28), QStringLiteral("with.take"), say("Take this set instead"));
                y += 46;
            }
        }
    }
    if (!view.state<AroundState>().point && around->leastMemory && y + 76 < size.height()) {
        sheet.text(x, y, say("The least GPU memory"), Type::Heading);
        y = sheet.wrapped(x, y + 23, w, qs(wording::leastMemory(view.w, *around->leastMemory, around->target)),
                          Type::Body, Ink::Muted, 3);
    }
    drawPicked(sheet, view, *around, x, y, w, size.height());
    return sheet.take();
}

} // namespace impasto::app
