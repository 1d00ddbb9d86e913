// SPDX-License-Identifier: GPL-3.0-or-later
// Watts against the cap, and before, chosen and chosen with the cap side by side.
#include "stations/pace/pace.h"

#include <cmath>
#include <impasto/results/power.h>
#include <impasto/wording/power.h>

namespace impasto::app {
namespace {

pace::Band exactly(double value) {
    return {value, value, value};
}

struct Told {
    pace::Draws draws;
    bool proven = false;
};

/// How a plan draws: as proven, else as predicted; nothing without a reading, and of invented frames before a proof.
std::optional<Told> drawsOf(const View& view, const pace::CapPlan& plan) {
    const auto& power = view.get<results::CapView>()->power;
    if (!power) return std::nullopt;
    const bool proven = power->provenAt(plan) != nullptr;
    const auto* told = results::predictionOf(*view.results, plan);
    if (told == nullptr && !proven) return std::nullopt;
    const auto draws = pace::drawsWith(*power, plan, told == nullptr ? Fps(0) : told->average(), view.rules.power);
    return draws ? std::optional(Told{*draws, proven}) : std::nullopt;
}

void curveOfWatts(Sheet& sheet, const View& view, const pace::Power& power, double top, double bottom) {
    const Scale x = paceCapScale(view, sheet.size());
    const auto& curve = view.get<results::CapView>()->curve;
    std::vector<pace::Band> bands;
    double most = power.uncapped().watts;
    for (const auto& p : curve) {
        bands.push_back(pace::wattsAt(power, p.average(), view.rules.power));
        most = std::max(most, bands.back().high);
    }
    const double step = niceStep(1.05 * most, 4);
    const Scale y{0, std::ceil(1.02 * most / step) * step, bottom, top};
    drawCapAxes(sheet, x, y, step, QStringLiteral("W"));
    QPolygonF area, middle;
    const auto at = [&](std::size_t i, double w) { return QPointF(x.px(curve[i].plan.cap->value()), y.px(w)); };
    for (std::size_t i = 0; i < curve.size(); ++i) {
        area.append(at(i, bands[i].high));
        middle.append(at(i, bands[i].middle));
    }
    for (std::size_t i = curve.size(); i-- > 0;) area.append(at(i, bands[i].low));
    if (area.size() > 3) sheet.area(area, Ink::Band2);
    if (middle.size() > 1) sheet.curve(middle, Ink::Ink, 2.4);
    const double none = y.px(power.uncapped().watts);
    sheet.line({x.fromPx, none}, {x.toPx, none}, Ink::Muted, 1.2, {5, 4});
    sheet.text(x.fromPx + 8, none - 18, say("no cap: %1").arg(qs(wording::watts(view.w, power.uncapped().watts))),
               Type::BodyBold, Ink::Muted, Align::Left, 0, Ink::Paper);
    for (const auto& point : power.points) {
        const auto rate = point.plan ? point.plan->pacedTo() : std::nullopt;
        if (rate && rate->value() >= x.fromValue && rate->value() <= x.toValue)
            sheet.circle({x.px(rate->value()), y.px(point.drawn.watts)}, 4, Ink::Paper, Ink::Ink);
    }
    drawCapKnob(sheet, view, x, top, bottom);
}

/// A column of the table: its head, and what it says in each row.
struct Column {
    QString head, below;
    std::vector<QString> cells;
    Ink ink = Ink::Ink;
};

constexpr std::array figureRows{pace::Figure::Average, pace::Figure::OnePercentLow, pace::Figure::TenthPercentLow,
                                pace::Figure::OnTime};

QString shortBand(const View& view, pace::Figure figure, const pace::Band& band) {
    return qs(wording::capBand(view.w, figure, band)).remove(QStringLiteral(" fps"));
}

/// Watts and what follows from them, in the rows below the figures.
void addDraws(const View& view, Column& column, const std::optional<pace::Draws>& draws) {
    const QString none = QStringLiteral("\u2013");
    column.cells.push_back(draws ? qs(wording::watts(view.w, draws->watts)) : none);
    column.cells.push_back(draws && draws->celsius ? qs(wording::celsius(view.w, *draws->celsius)) : none);
    column.cells.push_back(draws && draws->fan ? qs(wording::fan(view.w, *draws->fan)) : none);
    column.cells.push_back(draws && draws->hours ? qs(wording::hours(view.w, *draws->hours)) : none);
    if (const auto& said = view.edits().pacing.upkeep; said.hoursAWeek > 0) {
        const double kwh = draws ? pace::kwhAYear(draws->watts.middle, said.hoursAWeek) : 0;
        column.cells.push_back(draws ? qs(wording::energy(view.w, kwh)) : none);
        if (said.pricePerKwh > 0) column.cells.push_back(draws ? qs(wording::money(kwh * said.pricePerKwh)) : none);
    }
}

Column sideColumn(const View& view, const results::PowerView::Side& side, const QString& head) {
    Column column{head, side.runs == 1 ? say("1 run") : say("%1 runs").arg(side.runs), {}};
    for (const auto figure : figureRows)
        column.cells.push_back(side.runs == 0 ? QStringLiteral("\u2013")
                                              : shortBand(view, figure, exactly(side.figures.of(figure))));
    const auto& power = view.get<results::CapView>()->power;
    addDraws(view, column,
             power && side.drawn && side.drawn->of == power->uncapped().of
                 ? std::optional(pace::drawsOf(*power, *side.drawn))
                 : std::nullopt);
    return column;
}

Column cappedColumn(const View& view) {
    const auto plan = shownPlan(view);
    const auto& proven = view.get<results::CapView>()->replay.proven;
    const auto it = std::find_if(proven.begin(), proven.end(), [&](const auto& p) { return p.plan == plan; });
    const auto rate = plan.pacedTo();
    Column column{rate ? say("chosen, cap %1").arg(qs(wording::wishFps(*rate))) : say("chosen, as planned"),
                  it == proven.end() ? say("predicted") : say("proven"),
                  {},
                  Ink::Over};
    const auto* told = results::predictionOf(*view.results, plan);
    for (const auto figure : figureRows)
        column.cells.push_back(it != proven.end() ? shortBand(view, figure, exactly(it->measured.of(figure)))
                               : told != nullptr && !plan.generation ? shortBand(view, figure, told->of(figure))
                                                                     : QStringLiteral("\u2013"));
    const auto draws = drawsOf(view, plan);
    addDraws(view, column, draws ? std::optional(draws->draws) : std::nullopt);
    return column;
}

/// While nothing moves, a low cap is enough; nothing is said of its frames.
Column restingColumn(const View& view) {
    const Fps resting = view.get<results::PowerView>()->resting;
    const auto& power = view.get<results::CapView>()->power;
    Column column{say("at rest, cap %1").arg(qs(wording::wishFps(resting))), say("predicted"), {}};
    column.cells.assign(figureRows.size(), QString());
    const Fps rate = std::min(resting, view.get<results::CapView>()->replay.average());
    column.cells.front() = qs(wording::wishFps(rate));
    addDraws(view, column, power ? std::optional(pace::drawsAt(*power, rate, view.rules.power)) : std::nullopt);
    return column;
}

/// Whose energy it is.
QString yearName(const View& view) {
    const auto& power = view.get<results::CapView>()->power;
    if (!power || power->uncapped().of == pace::PowerOf::System) return say("a year of play");
    return power->uncapped().of == pace::PowerOf::Gpu ? say("a year, GPU alone") : say("a year, CPU and GPU");
}

void table(Sheet& sheet, const View& view, double top) {
    std::vector<QString> names{say("average, fps"), say("1% low"),       say("0.1% low"), say("on time, worst part"),
                               say("power"),        say("GPU, settled"), say("fan"),      say("battery lasts")};
    const auto& said = view.edits().pacing.upkeep;
    if (said.hoursAWeek > 0) names.push_back(yearName(view));
    if (said.hoursAWeek > 0 && said.pricePerKwh > 0) names.push_back(say("costs"));
    const auto& sides = *view.get<results::PowerView>();
    const std::vector<Column> columns{sideColumn(view, sides.before, say("before")),
                                      sideColumn(view, sides.chosen, say("chosen, no cap")), cappedColumn(view),
                                      restingColumn(view)};
    std::vector<std::size_t> rows; // that some column has something to say in
    for (std::size_t r = 0; r < names.size(); ++r)
        if (std::any_of(columns.begin(), columns.end(), [r](const Column& c) {
                return !c.cells[r].isEmpty() && c.cells[r] != QStringLiteral("\u2013");
            }))
            rows.push_back(r);
    const double left = 24, first = 170, width = (sheet.width() - first - 24) / static_cast<double>(columns.size());
    const double row = std::min(24.0, (sheet.height() - top - 44 - 8) / static_cast<double>(rows.size()));
    double right = first;
    for (const auto& column : columns) {
        right += width;
        sheet.text(right, top, column.head, Type::BodyBold, column.ink, Align::Right, width - 14);
        sheet.text(right, top + 17, column.below, Type::Small, Ink::Muted, Align::Right, width - 14);
    }
    sheet.line({left, top + 38}, {sheet.width() - 24, top + 38}, Ink::Ink, 1.2);
    double y = top + 44;
    for (const auto r : rows) {
        if (r == figureRows.size()) sheet.line({left, y - 3}, {sheet.width() - 24, y - 3}, Ink::Line, 1);
        sheet.text(left, y, names[r], Type::Body, Ink::Muted, Align::Left, first - left);
        right = first;
        for (const auto& column : columns) {
            right += width;
            sheet.text(right, y, column.cells[r], &column == &columns[2] ? Type::BodyBold : Type::Body, Ink::Ink,
                       Align::Right, width - 14);
        }
        y += row;
    }
}

} // namespace

Drawing layoutPower(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double taken = drawPaceFaces(sheet, view);
    const auto& power = view.get<results::CapView>()->power;
    const auto cap = shownCap(view);
    const bool both = size.height() >= 500, showsTable = both || !power || view.state<PaceState>().frames;
    double left = size.width() - 20;
    if (!both && power) left = drawPictures(sheet, say("table"), say("curve"), showsTable);
    sheet.heading(24, 12,
                  cap ? say("What a cap of %1 fps draws").arg(qs(wording::wishFps(*cap)))
                      : say("What these settings draw"),
                  power ? say("power %1; with a cap a prediction until it is run")
                              .arg(qs(wording::powerOf(view.w, power->uncapped().of)))
                        : say("These runs tell no power: record them with a log that has watts to see heat, noise and "
                              "energy."),
                  taken, size.width() - 20 - left);
    if (power && (both || !showsTable))
        curveOfWatts(sheet, view, *power, both ? 100 : 92,
                     both ? 100 + 0.36 * (size.height() - 130) : size.height() - 40);
    if (showsTable) table(sheet, view, both && power ? 0.36 * (size.height() - 130) + 138 : 74);
    return sheet.take();
}

Drawing layoutPowerColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto& power = view.get<results::CapView>()->power;
    const auto cap = shownCap(view);
    const auto draws = drawsOf(view, shownPlan(view));
    sheet.text(x, 16, cap ? say("What a cap of %1 saves").arg(qs(wording::wishFps(*cap))) : say("Without a cap"),
               Type::Heading);
    double y = 42;
    if (!draws)
        y = sheet.wrapped(x, y, w,
                          power ? say("What inventing frames draws is known once the plan was run.")
                                : say("No log of the chosen settings tells power. Log the power of the machine "
                                      "or of the GPU beside the frames."),
                          Type::Body, Ink::Muted) +
            8;
    const auto line = [&](const QString& name, const QString& figure) {
        sheet.row(x, y, w, name, figure, Type::BodyBold);
        y += 21;
    };
    if (draws) {
        const auto& [now, proven] = *draws;
        const auto& none = power->uncapped();
        line(proven ? say("power, proven") : say("power, predicted"), qs(wording::watts(view.w, now.watts)));
        line(say("without a cap"), qs(wording::watts(view.w, none.watts)));
        const double saved = none.watts - now.watts.middle;
        if (saved > 0) line(say("saved"), qs(wording::watts(view.w, saved)));
        if (none.fan && now.fan && !proven && now.fan->middle > 0.01 && now.fan->middle < *none.fan)
            line(say("or, as warm as now, quieter by"),
                 say("%1 dB, rough").arg(std::round(-pace::fanNoiseDb(*none.fan, now.fan->middle))));
        const auto& said = view.edits().pacing.upkeep;
        if (saved > 0 && said.hoursAWeek > 0) {
            const double kwh = pace::kwhAYear(saved, said.hoursAWeek);
            line(say("saved a year"), qs(wording::energy(view.w, kwh)));
            if (said.pricePerKwh > 0) line(say("at your price"), qs(wording::money(kwh * said.pricePerKwh)));
        }
    }
    y += 12;
    sheet.text(x, y, say("Your play"), Type::Heading);
    const auto& said = view.edits().pacing.upkeep;
    const auto number = [](double value) { return value > 0 ? QString::number(value) : QString(); };
    y = drawTyped(sheet, x, y + 28, w, QStringLiteral("upkeep.hours"), say("hours a week"), number(said.hoursAWeek));
    y = drawTyped(sheet, x, y, w, QStringLiteral("upkeep.price"), say("price of a kWh"), number(said.pricePerKwh));
    y = drawTyped(sheet, x, y, w, QStringLiteral("upkeep.rest"), say("of it at rest, %"), number(100 * said.restShare));
    if (power && draws && said.restShare > 0) {
        const Fps resting = view.get<results::PowerView>()->resting;
        const auto saved = pace::atRest(*power, draws->draws.watts.middle, resting, said.restShare, view.rules.power);
        y += 4;
        line(say("a cap of %1 there saves").arg(qs(wording::wishFps(resting))),
             saved ? qs(wording::watts(view.w, saved->watts)) : say("nothing"));
        if (saved && said.hoursAWeek > 0) {
            const double kwh = pace::kwhAYear(saved->watts.middle, said.hoursAWeek);
            line(say("a year"), said.pricePerKwh > 0 ? qs(wording::energy(view.w, kwh)) + QStringLiteral(", ") +
                                                           qs(wording::money(kwh * said.pricePerKwh))
                                                     : qs(wording::energy(view.w, kwh)));
        }
        if (saved) line(say("the high rate is back after"), say("%1 ms at most").arg(qs(wording::ms(saved->backMs))));
    }
    if (power && power->batteryWh)
        sheet.row(x, y + 2, w, say("battery holds"), say("%1 Wh").arg(std::round(*power->batteryWh)), Type::BodyBold);
    y += 32;
    const auto note = [&](const QString& text) {
        if (y + 60 < size.height()) y = sheet.wrapped(x, y, w, text, Type::Body, Ink::Muted) + 8;
    };
    note(say("At rest: while nothing moves a low cap is enough. Some drivers and games set one of their own for it."));
    note(qs(wording::powerCaution(view.w)));
    const QString stale = qs(wording::stale(view.w, results::standingOf(*view.results).cap));
    if (!stale.isEmpty() && y + 20 < size.height()) sheet.text(x, y + 2, stale, Type::BodyBold, Ink::Over);
    return sheet.take();
}

} // namespace impasto::app
