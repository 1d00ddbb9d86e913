// SPDX-License-Identifier: GPL-3.0-or-later
// Every set of settings as one brush stroke and its runs as bristles, all on one frame-time scale; the set of the
// chosen run is open.
#include "pictures/trace.h"
#include "stations/runs/run_picture.h"

#include <cmath>
#include <impasto/results/sets.h>

namespace impasto::app {
namespace {

using results::RunFigures;
using results::RunSet;

/// A line of the list: a set, a run of the open one, or a run that does not count.
struct Line {
    const RunSet* set = nullptr;
    std::optional<RunId> run; // none: the set's own line
    bool out = false;
    [[nodiscard]] double height() const { return run && !out ? 17 : 20; }
};

std::vector<Line> linesOf(const View& view, const std::vector<RunSet>& sets) {
    std::vector<Line> out;
    for (const auto& set : sets) {
        const bool open = view.run && set.holds(*view.run);
        if (!set.counted.empty()) out.push_back({&set, {}, false});
        if (open && set.counted.size() > 1)
            for (const auto& run : set.counted) out.push_back({&set, run, false});
        for (const auto& run : set.leftOut) out.push_back({&set, run, true});
    }
    return out;
}

/// Where everything stands.
struct Place {
    double left = 24, plotLeft, plotRight, right, top;
    std::vector<double> columns;          // right ends of the figures
    std::vector<capture::Sensor> sensors; // that may stand beside them, in the order of how far they set the runs apart
    std::optional<capture::Sensor> sensor; // the one that does
    std::size_t first = 0, last = 0;
    double bottom = 0; // of the lines that are shown
};

constexpr std::array<std::string_view, 4> shownFigures{frames::averageFps, frames::onePercentLowFps,
                                                       frames::tenthPercentLowFps, "slowest_second_fps"};

constexpr double sensorWidth = 74;

std::vector<capture::Sensor> sensorsOf(const View& view, const std::vector<Line>& lines) {
    std::vector<const frames::AllMeasured*> runs;
    for (const auto& line : lines)
        if (line.set != nullptr && !line.run)
            for (const auto& run : line.set->counted)
                if (const auto* figures = view.of<RunFigures>(run)) runs.push_back(&figures->measured);
    return frames::sensorsApart(runs);
}

/// The lines around the chosen run, as many as fit above its picture.
Place placeOf(const View& view, const std::vector<Line>& lines, QSizeF size) {
    constexpr double pictureHeight = 232;
    const double w = size.width();
    Place p{24, 0, 0, w - 20, size.height() < 500 ? 62.0 : 84.0, {}, {}, {}, 0, 0, 0};
    if (w >= 800) p.sensors = sensorsOf(view, lines);
    if (!p.sensors.empty()) p.sensor = p.sensors[view.state<RunsState>().sensor % p.sensors.size()];
    const std::size_t figures = w >= 760 ? 4 : w >= 640 ? 3 : 2;
    const double each = 76;
    for (std::size_t i = 0; i < figures; ++i)
        p.columns.push_back(p.right - (p.sensor ? sensorWidth : 0) - each * static_cast<double>(figures - 1 - i));
    p.plotLeft = p.left + std::clamp(0.21 * w, 126.0, 182.0);
    p.plotRight = p.columns.front() - each - 4;
    const double room = std::max(60.0, size.height() - p.top - 26 - pictureHeight);
    const auto chosen = std::find_if(lines.begin(), lines.end(), [&](const Line& l) {
        return view.run && (l.run ? *l.run == *view.run : l.set->holds(*view.run) && l.set->counted.size() == 1);
    });
    const std::size_t at = chosen == lines.end() ? lines.size() - 1 : static_cast<std::size_t>(chosen - lines.begin());
    double height = lines[at].height();
    p.first = at;
    p.last = at + 1;
    const auto add = [&](std::size_t line) {
        const bool fits = height + lines[line].height() <= room;
        height += fits ? lines[line].height() : 0;
        return fits;
    };
    for (bool grows = true; grows;) { // both ways, as far as there is room
        const bool up = p.first > 0 && add(p.first - 1);
        p.first -= up ? 1 : 0;
        const bool down = p.last < lines.size() && add(p.last);
        p.last += down ? 1 : 0;
        grows = up || down;
    }
    p.bottom = p.top + 22 + height;
    return p;
}

/// From just under the fastest frames to where the slow ones of most runs lie.
Scale axisOf(const View& view, const std::vector<RunSet>& sets, const Place& p) {
    double low = 0, high = 0, middle = 0;
    for (const auto& set : sets)
        for (const auto& id : set.leftOut)
            if (const auto* run = view.session.facts->run(id); run != nullptr && view.session.readOff(*run)) {
                const double usual = 1000 / run->readOff->average.value();
                low = low > 0 ? std::min(low, 0.7 * usual) : 0.7 * usual;
                high = std::max(high, 1.5 * usual);
                middle = std::max(middle, usual);
            }
    for (const auto& set : sets)
        for (const auto& run : set.counted)
            if (const auto* f = view.of<RunFigures>(run)) {
                const double fastest = f->distribution.quantile(0.005);
                low = low > 0 ? std::min(low, fastest) : fastest;
                high = std::max(high, f->distribution.quantile(0.999));
                middle = std::max(middle, f->summary.medianMs);
            }
    if (!(middle > 0)) return {0, 2 * budgetOf(view.target()).value(), p.plotLeft, p.plotRight};
    if (view.edits().goal.brief) middle = std::max(middle, budgetOf(view.target()).value());
    return {0.92 * low, std::clamp(1.04 * high, 1.4 * middle, 2.6 * middle), p.plotLeft, p.plotRight};
}

void axis(Sheet& sheet, const View& view, const Scale& ms, const Place& p) {
    const double step = niceStep(ms.toValue - ms.fromValue, 3), budget = budgetOf(view.target()).value();
    const bool aimed = view.edits().goal.brief && budget > ms.fromValue && budget < ms.toValue;
    bool first = true;
    for (double v = std::ceil(ms.fromValue / step) * step; v <= ms.toValue; v += step) {
        sheet.line({ms.px(v), p.top + 20}, {ms.px(v), p.bottom}, Ink::Grid, 1);
        if (aimed && std::abs(ms.px(v) - ms.px(budget)) < 46) continue;
        sheet.text(ms.px(v), p.top + 1, (std::exchange(first, false) ? say("%1 ms") : QStringLiteral("%1")).arg(v),
                   Type::Note, Ink::Muted, Align::Centre);
    }
    if (aimed)
        sheet.text(ms.px(budget), p.top, QString::number(budget, 'f', 2), Type::BodyBold, Ink::Over, Align::Centre);
}

/// A run as a stroke that is thick where most of its frames are; its slowest ones are specks.
void bristle(Sheet& sheet, const RunFigures& figures, const Scale& ms, QRectF r, Ink ink) {
    const auto bins = static_cast<std::size_t>(std::max(10.0, r.width() / 2));
    const auto thick = density(figures.distribution, ms, bins);
    QPolygonF above, below;
    const double middle = r.center().y(), half = std::max(0.7, r.height() / 2);
    for (std::size_t i = 0; i < thick.size(); ++i) {
        if (thick[i] < 0.01) continue;
        const double x = r.left() + (static_cast<double>(i) + 0.5) * r.width() / static_cast<double>(bins);
        above.append(QPointF(x, middle - half * std::max(0.25, thick[i])));
        below.prepend(QPointF(x, middle + half * std::max(0.25, thick[i])));
    }
    sheet.area(above + below, ink);
    constexpr int specks = 6;
    const double frames = static_cast<double>(figures.summary.frames);
    for (int k = 0; k < specks; ++k) {
        const double x = ms.px(figures.distribution.quantile(1 - (k + 0.5) / frames));
        if (x < r.right() - 2 && x > r.left()) sheet.line({x - 2, middle}, {x + 2, middle}, ink, 1.2);
    }
}

/// A family's three marks across its stroke.
void marks(Sheet& sheet, const RunSet& set, const Scale& ms, QRectF r) {
    const auto mark = [&](std::string_view key, double width, std::vector<double> dashes) {
        const auto it = set.figures.find(key);
        if (it == set.figures.end() || !(it->second.mean.estimate > 0)) return;
        const double x = ms.px(1000 / it->second.mean.estimate);
        if (x > r.left() && x < r.right())
            sheet.line({x, r.top() - 1}, {x, r.bottom() + 1}, Ink::Ink, width, std::move(dashes));
    };
    mark(frames::averageFps, 2.5, {});
    mark(frames::onePercentLowFps, 1.2, {});
    mark(frames::tenthPercentLowFps, 1.2, {2, 2});
}

constexpr double intervalWidth = 34; // of what stands behind a figure

/// The figures of a column stand below each other, what is sure of them behind.
void familyFigures(Sheet& sheet, const RunSet& set, double y, const Place& p) {
    for (std::size_t i = 0; i < p.columns.size(); ++i) {
        const auto it = set.figures.find(shownFigures[i]);
        if (it == set.figures.end()) continue;
        const auto& mean = it->second.mean;
        if (mean.halfWidth)
            sheet.text(p.columns[i] - intervalWidth + 4, y + 1,
                       QStringLiteral("\u00b1 %1").arg(*mean.halfWidth, 0, 'f', *mean.halfWidth < 9.95 ? 1 : 0),
                       Type::Small, Ink::Muted);
        sheet.text(p.columns[i] - intervalWidth, y, qs(wording::fps(mean.estimate)), Type::BodyBold, Ink::Ink,
                   Align::Right);
    }
}

void runFigures(Sheet& sheet, const View& view, const RunFigures& figures, double y, const Place& p) {
    const auto rule = view.edits().goal.brief ? view.edits().goal.brief->lowRule : stats::LowRule::WorstMean;
    for (std::size_t i = 0; i < p.columns.size(); ++i)
        if (const auto value = frames::figure(shownFigures[i]).of(figures.summary, rule))
            sheet.text(p.columns[i] - intervalWidth, y, qs(wording::fps(*value)), Type::Body, Ink::Ink, Align::Right);
}

/// What the sensor read in the runs, on average.
void sensorFigure(Sheet& sheet, const View& view, std::span<const RunId> runs, double y, const Place& p, Type type) {
    if (!p.sensor) return;
    double sum = 0, count = 0;
    for (const auto& run : runs)
        if (const auto* figures = view.of<RunFigures>(run))
            if (const auto it = figures->measured.find(capture::keyOf(*p.sensor)); it != figures->measured.end()) {
                sum += it->second.mean;
                ++count;
            }
    if (count > 0)
        sheet.text(p.right, y, qs(wording::sensorInColumn(*p.sensor, sum / count)), type, Ink::Ink, Align::Right);
}

void sensorHeading(Sheet& sheet, const View& view, const Place& p) {
    if (!p.sensor) return;
    const QString name = qs(wording::sensorColumn(view.w, *p.sensor));
    const double wide = sheet.text(p.right, p.top + 1, name, Type::Note, Ink::Muted, Align::Right, sensorWidth - 4);
    Hot h;
    h.id = QStringLiteral("runs.sensor");
    h.rect = QRectF(p.right - wide - 4, p.top - 2, wide + 8, 20);
    h.name = say("Sensor beside the runs: %1").arg(name);
    h.hint = p.sensors.size() > 1 ? say("Enter shows the next; first the one that sets the runs most apart")
                                  : say("The only one that the runs tell");
    sheet.hot(h);
}

void triangle(Sheet& sheet, double x, double y, bool open) {
    QPolygonF shape;
    if (open)
        shape << QPointF(x, y + 6) << QPointF(x + 8, y + 6) << QPointF(x + 4, y + 12);
    else
        shape << QPointF(x + 1, y + 5) << QPointF(x + 7, y + 9) << QPointF(x + 1, y + 13);
    sheet.area(shape, Ink::Ink);
}

void setLine(Sheet& sheet, const View& view, const Line& line, const Scale& ms, double y, const Place& p) {
    const auto& set = *line.set;
    const QRectF r(p.plotLeft, y + 2, p.plotRight - p.plotLeft, 15);
    const bool open = view.run && set.holds(*view.run);
    const auto name = wording::setName(view.w, view.session, set);
    const bool alone = set.counted.size() == 1; // its line is the run's
    if (open && alone)
        sheet.rect(QRectF(p.left - 6, y, p.right - p.left + 12, line.height()), Ink::Paper, Ink::Ink, 1.5);
    if (!alone) triangle(sheet, p.left, y, open);
    const double width = p.plotLeft - p.left - 20;
    const double w = sheet.text(p.left + 13, y + 1, qs(name.name), Type::BodyBold, Ink::Ink, Align::Left, width);
    const QString note = alone ? say("run %1").arg(view.session.numberOf(set.counted.front())) : qs(name.note);
    if (!alone || w + 7 + textWidth(note, Type::Small) <= width) // a cut number says nothing
        sheet.text(p.left + 13 + w + 7, y + 2, note, Type::Small, Ink::Muted, Align::Left,
                   std::max(1.0, width - w - 7));
    sheet.rect(r, Ink::Part);
    const double each = r.height() / static_cast<double>(set.counted.size());
    for (std::size_t i = 0; i < set.counted.size(); ++i)
        if (const auto* figures = view.of<RunFigures>(set.counted[i]))
            bristle(sheet, *figures, ms, QRectF(r.left(), r.top() + each * static_cast<double>(i), r.width(), each),
                    view.run == set.counted[i] ? Ink::Ink : Ink::Muted);
    marks(sheet, set, ms, r);
    familyFigures(sheet, set, y + 1, p);
    sensorFigure(sheet, view, set.counted, y + 1, p, Type::BodyBold);
    Hot h;
    h.id = QStringLiteral("set.") + qs(set.counted.back().hex());
    QStringList told{qs(name.name)};
    if (const auto it = set.figures.find(frames::averageFps); it != set.figures.end())
        told << qs(wording::figureValue(frames::figure(frames::averageFps), it->second.mean, false));
    const QString names = told.join(QStringLiteral(", "));
    h.name =
        set.counted.size() == 1 ? say("%1, 1 run").arg(names) : say("%1, %2 runs").arg(names).arg(set.counted.size());
    h.role = Role::Row;
    h.rect = QRectF(p.left - 6, y, p.right - p.left + 12, line.height());
    h.hint = say("Enter opens it and shows its last run below");
    sheet.hot(h);
    if (!open) return;
    const auto why = [&](const QString& id, const QString& about, double right) {
        Hot reason;
        reason.id = id;
        reason.name = about;
        reason.rect = QRectF(right - 70, y, 72, line.height());
        reason.hint = say("Where this number comes from");
        sheet.hot(reason);
    };
    why(QStringLiteral("why.average"), say("Why: average"), p.columns[0]);
    why(QStringLiteral("why.low"), say("Why: 1% low"), p.columns[1]);
}

void runLine(Sheet& sheet, const View& view, const Line& line, const Scale& ms, double y, const Place& p) {
    const auto* run = view.session.facts->run(*line.run);
    const auto* figures = view.of<RunFigures>(*line.run);
    const QRectF r(p.plotLeft, y + 2, p.plotRight - p.plotLeft, line.height() - 4);
    if (view.run == line.run)
        sheet.rect(QRectF(p.left + 6, y, p.right - p.left, line.height()), Ink::Paper, Ink::Ink, 1.5);
    const double w = sheet.text(p.left + 13, y, say("Run %1").arg(view.session.numberOf(run->id)),
                                line.out ? Type::Note : Type::Body);
    const bool readOff = view.session.readOff(*run);
    const QString note = readOff                ? say("read off")
                         : line.out             ? say("left out")
                         : view.run == line.run ? say("below")
                         : run->name.empty()    ? QString()
                                                : qs(run->name);
    sheet.text(p.left + 13 + w + 7, y + 1, note, Type::Small, Ink::Muted, Align::Left, p.plotLeft - p.left - 26 - w);
    if (readOff) { // no frames: what the counter went through, and its average
        const auto px = [&](const Fps& fps) { return std::clamp(ms.px(1000 / fps.value()), r.left(), r.right()); };
        const auto& off = *run->readOff;
        sheet.rect(r, Ink::None, Ink::Line, 1, {4, 3});
        if (off.least && off.most && off.least->value() > 0)
            sheet.interval({px(*off.most), r.center().y()}, {px(*off.least), r.center().y()}, 8, Ink::Ink);
        sheet.line({px(off.average), r.top() - 1}, {px(off.average), r.bottom() + 1}, Ink::Ink, 2.5);
    } else if (line.out) {
        sheet.rect(r, Ink::Part);
        sheet.hatch(r, Ink::Off, 9);
    }
    if (figures != nullptr) bristle(sheet, *figures, ms, r, line.out ? Ink::Off : Ink::Ink);
    const auto reason = view.session.leftOut(*run);
    if (readOff)
        sheet.text(p.plotRight + 14, y + 1, qs(wording::readOff(view.w, *run->readOff)), Type::Note, Ink::Ink,
                   Align::Left, p.right - p.plotRight - 16);
    else if (line.out)
        sheet.text(p.plotRight + 14, y + 1, reason ? qs(wording::leftOut(view.w, *reason)) : say("no frames"),
                   Type::Note, Ink::Ink, Align::Left, p.right - p.plotRight - 16);
    else if (figures != nullptr)
        runFigures(sheet, view, *figures, y, p);
    if (!line.out) sensorFigure(sheet, view, std::span(&run->id, 1), y, p, Type::Body);
    Hot h;
    h.id = QStringLiteral("run.") + qs(run->id.hex());
    h.name = qs(wording::runTitle(view.w, view.session, *run));
    h.role = Role::Row;
    h.rect = QRectF(p.left - 6, y, p.right - p.left + 12, line.height());
    h.hint = line.out && reason ? qs(wording::leftOut(view.w, *reason)) : say("Enter shows it below");
    sheet.hot(h);
}

/// How far the runs of the open set differ beyond their own frames, in one line.
void spreadLine(Sheet& sheet, const View& view, double y) {
    const auto* family = view.get<results::BaselineFamily>();
    if (family == nullptr || !family->figures.contains(frames::averageFps)) return;
    const auto& average = family->figures.at(frames::averageFps);
    const auto& low = family->figures.at(frames::onePercentLowFps);
    if (!average.betweenSd || !low.betweenSd || !view.run) return;
    const auto ids = results::idsOf<results::BaselineRuns>(*view.results);
    if (std::find(ids.begin(), ids.end(), *view.run) == ids.end()) return;
    sheet.text(
        24, y,
        say("Baseline runs differ by %1 fps beyond their own frames (\u00b1 %2 each); their 1% lows by %3 (\u00b1 %4).")
            .arg(QString::number(*average.betweenSd, 'f', 2), QString::number(*average.withinSd, 'f', 2),
                 QString::number(*low.betweenSd, 'f', 2), QString::number(*low.withinSd, 'f', 2)),
        Type::Small, Ink::Muted, Align::Left, sheet.width() - 44);
}

QString runsAndSets(std::size_t runs, std::size_t sets) {
    return runs == 1  ? say("1 run")
           : sets < 2 ? say("%1 runs").arg(runs)
                      : say("%1 runs, %2 sets of settings").arg(runs).arg(sets);
}

} // namespace

std::optional<double> runPictureTop(const View& view, QSizeF size) {
    const auto sets = results::setsOf(view.session, *view.results);
    if (sets.empty() || view.shownRun() == nullptr) return std::nullopt;
    const double bottom = placeOf(view, linesOf(view, sets), size).bottom;
    return size.height() - bottom > 150 ? std::optional(bottom + 28) : std::nullopt;
}

Drawing layoutRuns(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto sets = results::setsOf(view.session, *view.results);
    if (sets.empty())
        return layoutEmpty(view, size, say("Do the runs agree?"),
                           say("Each set of settings will be a stroke here and each run of it a bristle, all on one "
                               "frame-time scale."));
    const auto lines = linesOf(view, sets);
    const Place p = placeOf(view, lines, size);
    std::size_t counted = 0, out = 0, strokes = 0, readOff = 0;
    for (const auto& set : sets) {
        counted += set.counted.size();
        for (const auto& id : set.leftOut) ++(view.session.readOff(*view.session.facts->run(id)) ? readOff : out);
        strokes += set.counted.empty() ? 0 : 1;
    }
    QString note = out > 0 ? say("%1 count · %2 left out").arg(counted + readOff).arg(out) : say("all count");
    if (readOff > 0) note += say(" · %1 read off a counter").arg(readOff);
    note += say(" · \u00b1 from how the runs of a set differ");
    sheet.heading(24, 12, runsAndSets(counted + readOff + out, strokes), note);
    if (size.height() >= 500)
        sheet.text(
            24, 58,
            p.last - p.first < lines.size()
                ? say("lines %1 to %2 of %3, arrows: more · marks: average, 1% low thin, 0.1% low dashed")
                      .arg(p.first + 1)
                      .arg(p.last)
                      .arg(lines.size())
                : say("a stroke per set, a bristle per run, thick where most frames are · marks: average, 1% low "
                      "thin, 0.1% low dashed"),
            Type::Note, Ink::Muted, Align::Left, size.width() - 44);
    for (std::size_t i = 0; i < p.columns.size(); ++i)
        sheet.text(p.columns[i] - (i == 3 ? 8 : intervalWidth - 8), p.top + 1,
                   i == 3 ? say("slowest 1 s") : qs(wording::figure(view.w, frames::figure(shownFigures[i]))),
                   Type::Note, Ink::Muted, Align::Right, i == 3 ? 90 : 62);
    sheet.text(p.left, p.top + 1, say("set and runs"), Type::Note, Ink::Muted);
    sheet.line({p.left, p.top + 20}, {p.right, p.top + 20}, Ink::Line, 1.2);
    const Scale ms = axisOf(view, sets, p);
    axis(sheet, view, ms, p);
    double y = p.top + 22;
    for (std::size_t i = p.first; i < p.last; ++i) {
        if (lines[i].run)
            runLine(sheet, view, lines[i], ms, y, p);
        else
            setLine(sheet, view, lines[i], ms, y, p);
        y += lines[i].height();
    }
    sensorHeading(sheet, view, p);
    const double budget = budgetOf(view.target()).value();
    if (view.edits().goal.brief && budget > ms.fromValue && budget < ms.toValue)
        sheet.line({ms.px(budget), p.top + 20}, {ms.px(budget), p.bottom}, Ink::Over, 1.5);
    spreadLine(sheet, view, p.bottom + 5);
    sheet.line({24, p.bottom + 23}, {size.width() - 16, p.bottom + 23}, Ink::Line, 1.2);
    if (const auto top = runPictureTop(view, size)) drawRunPicture(sheet, view, *view.shownRun(), *top);
    return sheet.take();
}

} // namespace impasto::app
