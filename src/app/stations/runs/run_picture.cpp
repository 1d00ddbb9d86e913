// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/runs/run_picture.h"

#include "pictures/trace.h"

#include <QtCore/QStringList>
#include <algorithm>
#include <cmath>

namespace impasto::app {
namespace {

using results::RunFigures;

/// Where everything of the picture stands.
struct Place {
    double left, right; // of all
    double plotRight;   // of the trace; the distribution stands right of it
    double top, bottom; // of the plot
    double strip = 0;   // height of the reading under it, 0 without one
    [[nodiscard]] QRectF plot() const { return {left, top, plotRight - left, bottom - top}; }
};

/// What of a run is drawn behind the chosen one.
const run::Run* behindOf(const View& view, const run::Run& run) {
    const auto* behind = view.behind ? view.session.facts->run(*view.behind) : nullptr;
    return behind != nullptr && behind->id != run.id && behind->capture ? behind : nullptr;
}

/// The averages of the two variants, where the run behind is of another one.
std::optional<frames::FigureComparison> comparedOf(const View& view, const run::Run& run) {
    const auto* behind = behindOf(view, run);
    return behind == nullptr ? std::nullopt : results::compareVariants(view.session, *view.results, behind->id, run.id);
}

Place placeOf(const View& view, QSizeF size, double top) {
    Place p{58, size.width() - 16, 0, top + 30, size.height() - 26, 0};
    const double distribution = p.right - std::min(170.0, 0.22 * (p.right - p.left));
    if (view.shownRun() != nullptr && comparedOf(view, *view.shownRun())) p.top += 20;
    p.plotRight = view.state<RunsState>().picture == RunPicture::Percentiles ? p.right : distribution - 22;
    if (view.state<RunsState>().picture == RunPicture::Trace && view.state<RunsState>().track >= 0 &&
        p.bottom - p.top > 110)
        p.strip = 44;
    p.bottom -= p.strip > 0 ? p.strip + 8 : 0;
    return p;
}

Scale msScale(const View& view, double lowMs, double topMs, const Place& p) {
    return {view.state<RunsState>().logScale ? lowMs : 0, topMs, p.bottom, p.top, view.state<RunsState>().logScale};
}

void msAxis(Sheet& sheet, const Scale& ms, const Place& p) {
    std::vector<double> marks;
    if (ms.logarithmic)
        for (double v = std::exp2(std::floor(std::log2(ms.toValue))); v >= ms.fromValue; v /= 2)
            marks.insert(marks.begin(), v);
    else
        for (double v = 0; v <= ms.toValue + 1e-9; v += niceStep(ms.toValue, 4)) marks.push_back(v);
    for (const double v : marks) {
        sheet.line({p.left, ms.px(v)}, {p.right, ms.px(v)}, Ink::Grid, 1);
        sheet.text(p.left - 6, ms.px(v) - 8,
                   (v == marks.back() ? say("%1 ms") : QStringLiteral("%1")).arg(QString::number(v, 'g', 3)),
                   Type::Small, Ink::Muted, Align::Right, p.left - 8);
    }
}

void budgetLine(Sheet& sheet, const View& view, const Scale& ms, const Place& p, double right) {
    const double budget = budgetOf(view.target()).value();
    if (!view.edits().goal.brief || budget >= ms.toValue) return;
    sheet.line({p.left, ms.px(budget)}, {right, ms.px(budget)}, Ink::Over, 2);
    sheet.text(p.left + 6, ms.px(budget) - 19, say("%1 ms").arg(QString::number(budget, 'f', 2)), Type::BodyBold,
               Ink::Over, Align::Left, 0, Ink::Paper);
}

void timeAxis(Sheet& sheet, const Scale& time, double y) {
    const double from = time.fromValue, to = time.toValue;
    for (const double s : {from, 0.5 * (from + to), to})
        sheet.text(time.px(s), y, say("%1 s").arg(QString::number(s / 1000, 'f', to - from < 5000 ? 1 : 0)),
                   Type::Small, Ink::Muted,
                   s == from ? Align::Left
                   : s == to ? Align::Right
                             : Align::Centre);
}

void parts(Sheet& sheet, const run::Run& run, const RunFigures& figures, const Scale& time, const Place& p) {
    bool odd = false;
    for (const auto& part : partSpans(*run.capture, figures.shape->pyramid)) {
        const double a = std::clamp(time.px(part.fromMs), p.left, p.plotRight),
                     b = std::clamp(time.px(part.toMs), p.left, p.plotRight);
        if (odd && b > a) sheet.rect(QRectF(a, p.top, b - a, p.bottom - p.top), Ink::Band);
        odd = !odd;
    }
}

void standingDistribution(Sheet& sheet, const RunFigures& figures, const Scale& ms, const Place& p) {
    const double left = p.plotRight + 22;
    const auto curve = density(figures.distribution, ms, 160);
    QPolygonF area;
    area.append(QPointF(left, p.bottom));
    for (std::size_t i = 0; i < curve.size(); ++i)
        area.append(QPointF(left + curve[i] * (p.right - left - 10), p.bottom - (static_cast<double>(i) + 0.5) /
                                                                                    static_cast<double>(curve.size()) *
                                                                                    (p.bottom - p.top)));
    area.append(QPointF(left, p.top));
    sheet.area(area, Ink::Band);
    sheet.curve(area, Ink::Ink, 1.2);
    sheet.line({left, p.top}, {left, p.bottom}, Ink::Ink, 1.5);
    sheet.text(p.right, sheet.height() - 21, say("how often each time occurred"), Type::Small, Ink::Muted, Align::Right,
               p.right - p.plotRight - 4);
    if (figures.summary.onTimeShare)
        sheet.text(p.right, p.top + 4, say("%1 on time").arg(qs(wording::percent(*figures.summary.onTimeShare))),
                   Type::Note, Ink::Ink, Align::Right, 0, Ink::Ground);
}

/// Edges that can be dragged, at the top of what is hatched.
void trimEdges(Sheet& sheet, const View& view, const RunId& run, const Scale& time, const Place& p) {
    const auto spans = drawnTrims(view, run);
    for (std::size_t i = 0; i < spans.size(); ++i)
        for (const bool begin : {true, false}) {
            const double ms = begin ? spans[i].fromMs : spans[i].toMs, x = time.px(ms);
            if (ms < time.fromValue - 1e-6 || ms > time.toValue + 1e-6) continue;
            sheet.line({x, p.top}, {x, p.bottom}, Ink::Ink, 1.2);
            sheet.circle({x, p.top}, 5, Ink::Paper, Ink::Ink, 1.5);
            Hot h;
            h.id = QStringLiteral("trim.%1.%2").arg(i).arg(begin ? QStringLiteral("begin") : QStringLiteral("end"));
            h.name =
                (begin ? say("Trimmed from %1 s") : say("Trimmed to %1 s")).arg(QString::number(ms / 1000, 'f', 1));
            h.role = Role::Edge;
            h.rect = QRectF(x - 7, p.top - 7, 14, 30);
            h.hint = say("Drag, or Up and Down, moves it");
            sheet.hot(h);
        }
}

/// A reading's values over time as a curve, and its range in words.
struct Readings {
    QString name;
    QPolygonF curve;
    double least = 0, most = 0;
};

Readings readingsOf(const View& view, const run::Run& run, const RunFigures& figures, const Scale& time, double top,
                    double bottom) {
    const auto& tracks = run.capture->tracks;
    const auto index = static_cast<std::size_t>(view.state<RunsState>().track);
    Readings out;
    std::vector<QPointF> points;
    if (index < tracks.size()) {
        const auto& track = tracks[index];
        out.name = qs(wording::sensor(view.w, track.sensor));
        for (std::size_t i = 0; i < track.values.size(); ++i)
            if (track.timeMs[i] >= time.fromValue && track.timeMs[i] <= time.toValue && std::isfinite(track.values[i]))
                points.emplace_back(time.px(track.timeMs[i]), static_cast<double>(track.values[i]));
    } else if (index - tracks.size() < run.capture->others.size()) {
        const auto& other = run.capture->others[index - tracks.size()];
        out.name = qs(other.name);
        if (!other.words.empty()) {
            QStringList words;
            for (const auto& word : other.words) words << QStringLiteral("%1 %2").arg(words.size()).arg(qs(word));
            out.name += QStringLiteral(": ") + words.mid(0, 6).join(QStringLiteral(", "));
        }
        const auto& pyramid = figures.shape->pyramid;
        const std::size_t first = pyramid.frameAt(time.fromValue), last = pyramid.frameAt(time.toValue);
        // Up to some thousand of them are drawn: a reading moves slowly.
        const std::size_t step = 1 + (last - first) / 4000;
        for (std::size_t i = first; i < last; i += step)
            if (std::isfinite(other.values[i]))
                points.emplace_back(time.px(pyramid.startOf(i + 1)), static_cast<double>(other.values[i]));
    }
    if (points.empty()) return out;
    const auto [least, most] =
        std::minmax_element(points.begin(), points.end(), [](QPointF a, QPointF b) { return a.y() < b.y(); });
    out.least = least->y();
    out.most = most->y();
    const Scale value{out.least, out.most > out.least ? out.most : out.least + 1, bottom - 3, top + 3};
    for (const auto& point : points) out.curve.append(QPointF(point.x(), value.px(point.y())));
    return out;
}

void strip(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, const Scale& time,
           const Place& p) {
    const double top = p.bottom + 8, bottom = top + p.strip;
    const auto readings = readingsOf(view, run, figures, time, top, bottom);
    sheet.rect(QRectF(p.left, top, p.plotRight - p.left, p.strip), Ink::Part);
    sheet.curve(readings.curve, Ink::Ink, 1);
    sheet.text(p.left + 6, top + 1, readings.name, Type::Small, Ink::Muted, Align::Left, p.plotRight - p.left - 12,
               Ink::Part);
    const auto figure = [](double v) { return QString::number(v, 'g', 4); };
    sheet.text(p.plotRight + 6, top + 1, figure(readings.most), Type::Small, Ink::Muted);
    sheet.text(p.plotRight + 6, bottom - 16, figure(readings.least), Type::Small, Ink::Muted);
}

void tracePicture(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, const Place& p) {
    const Scale ms = msScale(view, figures.summary.medianMs / 8, commonTopMs(view, figures), p);
    const auto& pyramid = figures.shape->pyramid;
    const TimeSpan span = view.span.value_or(TimeSpan{0, pyramid.durationMs()});
    const Scale time{span.fromMs, span.toMs, p.left, p.plotRight};
    sheet.rect(p.plot(), Ink::Paper);
    parts(sheet, run, figures, time, p);
    msAxis(sheet, ms, p);
    const auto* behind = behindOf(view, run);
    const auto* others = behind == nullptr ? nullptr : view.of<results::RunFigures>(behind->id);
    if (others != nullptr) sheet.curve(traceOf(others->shape->pyramid, time, ms), Ink::Off, 0.9);
    sheet.curve(traceOf(pyramid, time, ms), Ink::Ink, 1);
    hatchTrims(sheet, view, run.id, time, p.plot());
    budgetLine(sheet, view, ms, p, p.right);
    trimEdges(sheet, view, run.id, time, p);
    if (p.strip > 0) strip(sheet, view, run, figures, time, p);
    timeAxis(sheet, time, sheet.height() - 21);
    standingDistribution(sheet, figures, ms, p);
}

void secondsPicture(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, const Place& p) {
    const auto& seconds = figures.shape->seconds;
    const TimeSpan span = view.span.value_or(TimeSpan{0, figures.shape->pyramid.durationMs()});
    const Scale time{span.fromMs, span.toMs, p.left, p.plotRight};
    double most = view.target().value();
    for (const auto& s : seconds) most = std::max(most, s.average.value());
    const double step = niceStep(1.1 * most, 4), top = std::ceil(1.1 * most / step) * step;
    const Scale fps{view.state<RunsState>().logScale ? top / 64 : 0, top, p.bottom, p.top,
                    view.state<RunsState>().logScale};
    sheet.rect(p.plot(), Ink::Paper);
    parts(sheet, run, figures, time, p);
    for (double v = view.state<RunsState>().logScale ? fps.fromValue : 0; v <= top + 1e-9;
         v = view.state<RunsState>().logScale ? 2 * v : v + step) {
        sheet.line({p.left, fps.px(v)}, {p.plotRight, fps.px(v)}, Ink::Grid, 1);
        sheet.text(p.left - 6, fps.px(v) - 8,
                   (v + step > top ? say("%1 fps") : QStringLiteral("%1")).arg(QString::number(v, 'g', 3)), Type::Small,
                   Ink::Muted, Align::Right, p.left - 8);
    }
    const auto curveOf = [&](const std::vector<frames::Second>& all, bool steps) {
        QPolygonF out;
        double before = 0;
        for (const auto& s : all) {
            const double from = std::clamp(time.px(before), p.left, p.plotRight),
                         to = std::clamp(time.px(s.atMs), p.left, p.plotRight);
            before = s.atMs;
            if (to <= from) continue;
            const double y = fps.px(steps ? s.average.value() : 1000 / s.worstMs);
            out.append(QPointF(from, y));
            out.append(QPointF(to, y));
        }
        return out;
    };
    if (const auto* behind = behindOf(view, run))
        if (const auto* other = view.of<results::RunFigures>(behind->id))
            sheet.curve(curveOf(other->shape->seconds, true), Ink::Off, 1.4);
    sheet.curve(curveOf(seconds, false), Ink::Muted, 1.2, {4, 3});
    sheet.curve(curveOf(seconds, true), Ink::Ink, 2);
    hatchTrims(sheet, view, run.id, time, p.plot());
    if (view.edits().goal.brief)
        sheet.line({p.left, fps.px(view.target().value())}, {p.plotRight, fps.px(view.target().value())}, Ink::Over, 2);
    timeAxis(sheet, time, sheet.height() - 21);
    // What each line is, at its right end.
    const double x = p.plotRight + 14;
    if (!seconds.empty()) {
        double average = fps.px(seconds.back().average.value()) - 9, worst = fps.px(1000 / seconds.back().worstMs) - 9;
        worst = std::clamp(std::max(worst, average + 36), p.top, p.bottom - 18);
        sheet.text(x, std::min(average, worst - 36), say("average of a second"), Type::Note, Ink::Ink, Align::Left,
                   p.right - x);
        sheet.text(x, worst, say("its slowest frame"), Type::Note, Ink::Muted, Align::Left, p.right - x);
    }
}

void percentilesPicture(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures,
                        const Place& p) {
    const double common = commonTopMs(view, figures);
    const Scale ms = msScale(view, figures.summary.medianMs / 8,
                             view.state<RunsState>().logScale ? std::max(common, figures.summary.worstMs) : common, p);
    // Each step to the right holds a tenth of the frames that are left.
    const double decades = std::clamp(std::log10(static_cast<double>(figures.summary.frames)), 1.0, 4.0);
    const Scale place{0, decades, p.left, p.right - 60};
    sheet.rect(QRectF(p.left, p.top, p.right - p.left, p.bottom - p.top), Ink::Paper);
    msAxis(sheet, ms, p);
    for (const double share : {0.0, 0.5, 0.75, 0.9, 0.95, 0.99, 0.995, 0.999, 0.9999}) {
        const double x = place.px(-std::log10(1 - share));
        if (x > place.toPx + 1) continue;
        sheet.line({x, p.top}, {x, p.bottom}, Ink::Grid, 1);
        const double next = place.px(-std::log10(0.5)) - x - 20; // as far as the name of the first may reach
        sheet.text(x, sheet.height() - 21, share == 0 ? say("fastest") : QString::number(100 * share, 'g', 4) + u'%',
                   Type::Small, Ink::Muted, share == 0 ? Align::Left : Align::Centre, share == 0 ? next : 0);
    }
    const auto curveOf = [&](const RunFigures& f) {
        QPolygonF out;
        for (double x = place.fromPx; x <= place.toPx; x += 1)
            out.append(QPointF(x, std::max(p.top, ms.px(f.distribution.quantile(1 - std::pow(10, -place.value(x)))))));
        return out;
    };
    const auto* behind = behindOf(view, run);
    const auto* other = behind == nullptr ? nullptr : view.of<results::RunFigures>(behind->id);
    if (other != nullptr) sheet.curve(curveOf(*other), Ink::Off, 1.6);
    sheet.curve(curveOf(figures), Ink::Ink, 2);
    budgetLine(sheet, view, ms, p, p.right);
    if (figures.summary.onTimeShare && *figures.summary.onTimeShare < 1 && view.edits().goal.brief) {
        const double budget = budgetOf(view.target()).value();
        const double x = place.px(-std::log10(1 - *figures.summary.onTimeShare));
        if (x < place.toPx) sheet.circle({x, ms.px(budget)}, 4, Ink::Paper, Ink::Over);
        sheet.text(std::min(x, place.toPx) + 10, ms.px(budget) + 3,
                   say("%1 of the frames on time").arg(qs(wording::percent(*figures.summary.onTimeShare))), Type::Note,
                   Ink::Ink, Align::Left, 0, Ink::Paper);
    }
}

/// What can be shown, at the right of the title; gives its left end.
double choices(Sheet& sheet, const View& view, const run::Run& run, double top) {
    double x = sheet.width() - 16;
    const auto word = [&](const QString& id, const QString& text, const QString& hint, bool chosen) {
        x = sheet.choice(x, top, id, text, hint, chosen);
    };
    const bool reads = !run.capture->tracks.empty() || !run.capture->others.empty();
    if (reads && view.state<RunsState>().picture == RunPicture::Trace)
        word(QStringLiteral("run.track"), say("sensors"), say("K: the next sensor under the trace"),
             view.state<RunsState>().track >= 0);
    word(QStringLiteral("run.scale"), say("logarithmic"), say("L: frame times on a logarithmic axis"),
         view.state<RunsState>().logScale);
    for (const auto& [picture, id, text] : {std::tuple(RunPicture::Percentiles, "2", say("percentiles")),
                                            std::tuple(RunPicture::Seconds, "1", say("per second")),
                                            std::tuple(RunPicture::Trace, "0", say("every frame"))})
        word(QStringLiteral("picture.") + QString::fromLatin1(id), text, say("V: the next picture"),
             view.state<RunsState>().picture == picture);
    return x;
}

} // namespace

double commonTopMs(const View& view, const RunFigures& figures) {
    const double budget = budgetOf(view.target()).value();
    const double wanted = std::max(1.6 * budget, std::min(2.2 * figures.summary.p99Ms, 4 * figures.summary.medianMs));
    const double step = niceStep(wanted, 4);
    return std::ceil(wanted / step) * step;
}

std::vector<TimeSpan> drawnTrims(const View& view, const RunId& run) {
    const auto trims = view.session.trimsOf(run);
    std::vector<TimeSpan> out(trims.begin(), trims.end());
    const auto* figures = view.of<results::RunFigures>(run);
    if (out.empty() && figures != nullptr) out = figures->shape->pollution;
    if (view.state<RunsState>().trimEdge && view.run == run && view.state<RunsState>().trimEdge->span < out.size()) {
        auto& span = out[view.state<RunsState>().trimEdge->span];
        const double whole = figures == nullptr ? span.toMs : figures->shape->pyramid.durationMs();
        if (view.state<RunsState>().trimEdge->begin)
            span.fromMs = std::clamp(view.state<RunsState>().trimEdge->ms, 0.0, span.toMs);
        else
            span.toMs = std::clamp(view.state<RunsState>().trimEdge->ms, span.fromMs, whole);
    }
    return out;
}

void hatchTrims(Sheet& sheet, const View& view, const RunId& run, const Scale& time, QRectF plot) {
    const bool proposed = view.session.trimsOf(run).empty();
    for (const auto& span : drawnTrims(view, run)) {
        const double a = std::clamp(time.px(span.fromMs), plot.left(), plot.right()),
                     b = std::clamp(time.px(span.toMs), plot.left(), plot.right());
        if (b <= a) continue;
        const QRectF r(a, plot.top(), b - a, plot.height());
        if (proposed)
            sheet.rect(r, Ink::None, Ink::Muted, 1.2, {4, 3});
        else
            sheet.hatch(r, Ink::Muted, 5);
    }
}

std::optional<Scale> runsTime(const View& view, QSizeF size) {
    const auto* run = view.shownRun();
    const auto* figures = run == nullptr ? nullptr : view.of<results::RunFigures>(run->id);
    const auto top = runPictureTop(view, size);
    if (figures == nullptr || !top || view.state<RunsState>().picture == RunPicture::Percentiles ||
        view.state<RunsState>().reading)
        return std::nullopt;
    const Place p = placeOf(view, size, *top);
    const TimeSpan span = view.span.value_or(TimeSpan{0, figures->shape->pyramid.durationMs()});
    return Scale{span.fromMs, span.toMs, p.left, p.plotRight};
}

void drawRunPicture(Sheet& sheet, const View& view, const run::Run& run, double top) {
    const auto* figures = view.of<results::RunFigures>(run.id);
    if (figures == nullptr) return;
    const Place p = placeOf(view, sheet.size(), top);
    QString title = qs(wording::runTitle(view.w, view.session, run));
    const auto* behind = behindOf(view, run);
    if (behind != nullptr) title = say("%1 over run %2").arg(title).arg(view.session.numberOf(behind->id));
    const double end = choices(sheet, view, run, top);
    const double w = sheet.text(24, top, title, Type::Heading, Ink::Ink, Align::Left, end - 34);
    const QString hint = say("drag over the ribbon to read any span · C overlays another run");
    if (const auto compared = comparedOf(view, run))
        sheet.text(24, top + 23,
                   say("Average over all runs of both: %1: %2.")
                       .arg(qs(wording::averageDifference(view.w, *compared)), qs(wording::verdict(view.w, *compared))),
                   Type::Body, Ink::Ink, Align::Left, sheet.width() - 48);
    else if (end - w - 60 > textWidth(hint, Type::Body))
        sheet.text(24 + w + 12, top + 2, hint, Type::Body, Ink::Muted);
    switch (view.state<RunsState>().picture) {
    case RunPicture::Trace:
        return tracePicture(sheet, view, run, *figures, p);
    case RunPicture::Seconds:
        return secondsPicture(sheet, view, run, *figures, p);
    case RunPicture::Percentiles:
        return percentilesPicture(sheet, view, run, *figures, p);
    }
}

} // namespace impasto::app
