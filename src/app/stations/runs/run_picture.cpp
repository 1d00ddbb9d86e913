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
struct TracePlace {
    double left, right; // of all
    double plotRight;   // of the trace; the distribution stands right of it
    double tailLeft;    // where the distribution opens into its tail; right of all where it is closed
    double top, bottom; // of the plot
    double strip = 0;   // height of what lies under it, 0 without it
    [[nodiscard]] QRectF plot() const { return {left, top, plotRight - left, bottom - top}; }
    [[nodiscard]] bool tail() const { return tailLeft < right; }
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

TracePlace placeOf(const View& view, QSizeF size, double top) {
    constexpr double stripHeight = 30, gap = 22;
    const double left = 58, right = size.width() - 16, whole = right - left;
    const bool open = view.state<RunsState>().tail && whole > 520;
    TracePlace p{left, right, 0, right, top + 30, size.height() - 26, 0};
    if (view.shownRun() != nullptr && comparedOf(view, *view.shownRun())) p.top += 20;
    const double distribution = open ? 0.11 * whole : std::min(170.0, 0.22 * whole);
    if (open) p.tailLeft = right - 0.27 * whole;
    p.plotRight = p.tailLeft - distribution - gap;
    if (p.bottom - p.top > 120) p.strip = stripHeight;
    p.bottom -= p.strip > 0 ? p.strip + 8 : 0;
    return p;
}

Scale msScale(const View& view, double lowMs, double topMs, const TracePlace& p) {
    return {view.state<RunsState>().logScale ? lowMs : 0, topMs, p.bottom, p.top, view.state<RunsState>().logScale};
}

void msAxis(Sheet& sheet, const Scale& ms, const TracePlace& p) {
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

void budgetLine(Sheet& sheet, const View& view, const Scale& ms, const TracePlace& p, double right) {
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

void parts(Sheet& sheet, const run::Run& run, const RunFigures& figures, const Scale& time, const TracePlace& p) {
    bool odd = false;
    for (const auto& part : partSpans(*run.capture, figures.shape->pyramid)) {
        const double a = std::clamp(time.px(part.fromMs), p.left, p.plotRight),
                     b = std::clamp(time.px(part.toMs), p.left, p.plotRight);
        if (odd && b > a) sheet.rect(QRectF(a, p.top, b - a, p.bottom - p.top), Ink::Band);
        odd = !odd;
    }
}

void standingDistribution(Sheet& sheet, const RunFigures& figures, const Scale& ms, const TracePlace& p) {
    const double left = p.plotRight + 22, right = p.tail() ? p.tailLeft : p.right;
    const auto curve = density(figures.distribution, ms, 160);
    QPolygonF area;
    area.append(QPointF(left, p.bottom));
    for (std::size_t i = 0; i < curve.size(); ++i)
        area.append(QPointF(left + curve[i] * (right - left - 10), p.bottom - (static_cast<double>(i) + 0.5) /
                                                                                  static_cast<double>(curve.size()) *
                                                                                  (p.bottom - p.top)));
    area.append(QPointF(left, p.top));
    sheet.area(area, Ink::Band);
    sheet.curve(area, Ink::Ink, 1.2);
    sheet.line({left, p.top}, {left, p.bottom}, Ink::Ink, 1.5);
    sheet.text(left, p.bottom + 4, say("how often"), Type::Small, Ink::Muted, Align::Left, right - left - 8);
    if (figures.summary.onTimeShare && !p.tail())
        sheet.text(right, p.top + 4, say("%1 on time").arg(qs(wording::percent(*figures.summary.onTimeShare))),
                   Type::Note, Ink::Ink, Align::Right, 0, Ink::Ground);
    Hot h;
    h.id = QStringLiteral("run.tail");
    h.name = p.tail() ? say("Close the tail of the distribution") : say("Open the tail of the distribution");
    h.rect = QRectF(left, p.top, (p.tail() ? p.right : right) - left, p.bottom - p.top);
    h.hint = say("V: the slowest frames, each step to the right a tenth of those before");
    sheet.hot(h);
}

/// The slowest tenth of the frames on the same axis; lows are bars at their height over the frames that they are of.
void tailPicture(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, const Scale& ms,
                 const TracePlace& p) {
    const double decades = std::clamp(std::log10(static_cast<double>(figures.summary.frames)), 2.0, 4.0);
    const Scale place{1, decades, p.tailLeft, p.right};
    sheet.rect(QRectF(p.tailLeft, p.top, p.right - p.tailLeft, p.bottom - p.top), Ink::Paper);
    sheet.line({p.tailLeft, p.top}, {p.tailLeft, p.bottom}, Ink::Ink, 1.2);
    for (double d = 1; d <= decades; ++d) {
        if (d > 1) sheet.line({place.px(d), p.top}, {place.px(d), p.bottom}, Ink::Grid, 1);
        const QString share = QString::number(std::pow(10, 2 - d), 'g', 3) + u'%';
        if (place.px(d) < p.right - 16 || d == 1)
            sheet.text(place.px(d), p.bottom + 4,
                       d == 1 && place.px(2) - place.px(1) > 110 ? say("slowest %1").arg(share) : share, Type::Small,
                       Ink::Muted, d == 1 ? Align::Left : Align::Centre);
    }
    const auto curveOf = [&](const RunFigures& f) {
        QPolygonF out;
        for (double x = place.fromPx; x <= place.toPx; x += 1)
            out.append(QPointF(x, std::max(p.top, ms.px(f.distribution.quantile(1 - std::pow(10, -place.value(x)))))));
        return out;
    };
    const auto* behind = behindOf(view, run);
    const auto* other = behind == nullptr ? nullptr : view.of<RunFigures>(behind->id);
    if (other != nullptr) sheet.curve(curveOf(*other), Ink::Off, 1.4);
    sheet.curve(curveOf(figures), Ink::Ink, 1.8);
    const auto rule = view.edits().goal.brief ? view.edits().goal.brief->lowRule : stats::LowRule::WorstMean;
    const auto& lows = figures.summary.of(rule);
    double used = p.bottom + 40; // y of the label before
    const auto low = [&](const std::optional<stats::Low>& value, double decade, const QString& name,
                         std::vector<double> dashes) {
        if (!value || decade > decades) return;
        const double y = std::max(p.top + 1, ms.px(1000 / value->rate.value()));
        sheet.line({place.px(decade), y}, {p.right, y}, Ink::Ink, 1.2, std::move(dashes));
        sheet.line({place.px(decade), y - 4}, {place.px(decade), y + 4}, Ink::Ink, 1.2);
        double text = y - 19 < p.top ? y + 4 : y - 19;
        if (std::abs(text - used) < 17) text = used - 17 < p.top ? used + 17 : used - 17;
        used = text;
        sheet.text(p.right - 4, text, say("%1 %2 fps").arg(name, qs(wording::fps(value->rate.value()))), Type::BodyBold,
                   Ink::Ink, Align::Right, 0, Ink::Paper);
    };
    low(lows.onePercent, 2, say("1% low"), {});
    low(lows.tenthPercent, 3, say("0.1% low"), {4, 3});
}

/// Edges that can be dragged, at the top of what is hatched.
void trimEdges(Sheet& sheet, const View& view, const RunId& run, const Scale& time, const TracePlace& p) {
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

/// The average of each second.
Readings secondsOf(const RunFigures& figures, const Scale& time, double top, double bottom) {
    Readings out;
    out.name = say("each second's average, fps");
    const auto& seconds = figures.shape->seconds;
    if (seconds.empty()) return out;
    const auto [slowest, fastest] =
        std::minmax_element(seconds.begin(), seconds.end(),
                            [](const frames::Second& a, const frames::Second& b) { return a.average < b.average; });
    out.least = slowest->average.value();
    out.most = fastest->average.value();
    const Scale fps{out.least, out.most > out.least ? out.most : out.least + 1, bottom - 3, top + 3};
    double before = 0;
    for (const auto& second : seconds) {
        const double from = std::max(before, time.fromValue), to = std::min(second.atMs, time.toValue);
        before = second.atMs;
        if (to <= from) continue;
        out.curve.append(QPointF(time.px(from), fps.px(second.average.value())));
        out.curve.append(QPointF(time.px(to), fps.px(second.average.value())));
    }
    return out;
}

void strip(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, const Scale& time,
           const TracePlace& p) {
    const double top = p.bottom + 8, bottom = top + p.strip;
    const bool seconds = view.state<RunsState>().track < 0;
    const auto readings =
        seconds ? secondsOf(figures, time, top, bottom) : readingsOf(view, run, figures, time, top, bottom);
    sheet.rect(QRectF(p.left, top, p.plotRight - p.left, p.strip), Ink::Part);
    sheet.curve(readings.curve, Ink::Ink, 1);
    sheet.text(p.left + 6, top + 1, readings.name, Type::Small, Ink::Muted, Align::Left, p.plotRight - p.left - 120,
               Ink::Part);
    const auto figure = [](double v) { return QString::number(v, 'g', 4); };
    if (!readings.curve.isEmpty())
        sheet.text(p.plotRight - 6, top + 1, say("%1 to %2").arg(figure(readings.least), figure(readings.most)),
                   Type::Small, Ink::Muted, Align::Right, 0, Ink::Part);
}

/// A figure at its second, beside its place where there is room.
void placed(Sheet& sheet, const TracePlace& p, double x, double y, const QString& text) {
    const bool left = x > p.plotRight - textWidth(text, Type::Note) - 12;
    sheet.text(left ? x - 6 : x + 6, y, text, Type::Note, Ink::Ink, left ? Align::Right : Align::Left, 0, Ink::Paper);
}

/// The stalls, or else the slowest second that counts, where they are.
void placedFigures(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, const Scale& time,
                   const TracePlace& p) {
    const auto trims = view.session.trimsOf(run.id);
    const auto inWhole = [&](double ms) { return capture::timeInWhole(trims, ms); };
    const auto inside = [&](double ms) { return ms >= time.fromValue && ms <= time.toValue; };
    double y = p.top + 2;
    std::size_t told = 0;
    for (const auto& stall : figures.summary.stalls) {
        const double from = std::max(inWhole(stall.fromMs), time.fromValue),
                     to = std::min(inWhole(stall.toMs), time.toValue);
        if (to <= from) continue;
        sheet.rect(QRectF(time.px(from), p.top, std::max(2.0, time.px(to) - time.px(from)), p.bottom - p.top),
                   Ink::None, Ink::Over, 1.2);
        if (told++ < 2)
            placed(sheet, p, time.px(to), y,
                   say("stall %1 s").arg(QString::number((stall.toMs - stall.fromMs) / 1000, 'f', 1)));
        y += told < 2 ? 17 : 0;
    }
    const auto& seconds = figures.shape->seconds;
    if (seconds.size() < 4 || !figures.summary.stalls.empty()) return; // a stall is the slowest second
    const auto beginOf = [&](auto second) { return second == seconds.begin() ? 0 : (second - 1)->atMs; };
    auto slowest = seconds.end();
    for (auto it = seconds.begin(); it != seconds.end(); ++it) {
        const bool counts = std::none_of(trims.begin(), trims.end(), [&](const capture::Span& trim) {
            return trim.fromMs < it->atMs && trim.toMs > beginOf(it);
        });
        if (counts && (slowest == seconds.end() || it->average < slowest->average)) slowest = it;
    }
    if (slowest == seconds.end()) return;
    const double from = beginOf(slowest);
    if (!inside(from) || !inside(slowest->atMs)) return;
    sheet.line({time.px(from), p.bottom - 3}, {time.px(slowest->atMs), p.bottom - 3}, Ink::Ink, 3);
    placed(sheet, p, time.px(slowest->atMs), p.bottom - 20,
           say("slowest second %1 fps").arg(qs(wording::fps(slowest->average.value()))));
}

/// Each second's median, where a pixel of the trace holds so many frames that it is a band.
QPolygonF mediansOf(const RunFigures& figures, const Scale& time, const Scale& ms) {
    QPolygonF out;
    double before = 0;
    for (const auto& second : figures.shape->seconds) {
        const double from = std::max(before, time.fromValue), to = std::min(second.atMs, time.toValue);
        before = second.atMs;
        if (to > from) out.append(QPointF(time.px((from + to) / 2), ms.px(std::min(second.medianMs, ms.toValue))));
    }
    return out;
}

void tracePicture(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, const TracePlace& p) {
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
    constexpr double zoomedOutMs = 400; // a pixel
    const bool zoomedOut = span.toMs - span.fromMs > zoomedOutMs * (p.plotRight - p.left);
    sheet.curve(traceOf(pyramid, time, ms), zoomedOut ? Ink::Off : Ink::Ink, 1);
    if (zoomedOut) sheet.curve(mediansOf(figures, time, ms), Ink::Ink, 1.6);
    hatchTrims(sheet, view, run.id, time, p.plot());
    if (p.tail()) tailPicture(sheet, view, run, figures, ms, p);
    standingDistribution(sheet, figures, ms, p);
    budgetLine(sheet, view, ms, p, p.right);
    placedFigures(sheet, view, run, figures, time, p);
    trimEdges(sheet, view, run.id, time, p);
    if (p.strip > 0) strip(sheet, view, run, figures, time, p);
    timeAxis(sheet, time, sheet.height() - 21);
}

/// What can be shown, at the right of the title; gives its left end.
double choices(Sheet& sheet, const View& view, const run::Run& run, double top) {
    double x = sheet.width() - 16;
    const auto word = [&](const QString& id, const QString& text, const QString& hint, bool chosen) {
        x = sheet.choice(x, top, id, text, hint, chosen);
    };
    if (!run.capture->tracks.empty() || !run.capture->others.empty())
        word(QStringLiteral("run.track"), say("sensors"), say("K: the next sensor under the trace"),
             view.state<RunsState>().track >= 0);
    word(QStringLiteral("run.scale"), say("logarithmic"), say("L: frame times on a logarithmic axis"),
         view.state<RunsState>().logScale);
    return x;
}

} // namespace

double commonTopMs(const View& view, const RunFigures& figures) {
    const double budget = budgetOf(view.target()).value();
    const double wanted = std::max(1.6 * budget, std::min(2.2 * figures.summary.p99Ms, 4 * figures.summary.medianMs));
    const double step = niceStep(wanted, 4);
    return std::ceil(wanted / step) * step;
}

std::map<RunId, std::vector<capture::Span>> proposedTrims(const View& view) {
    std::map<RunId, std::vector<capture::Span>> out;
    for (const auto& run : view.session.facts->runs) {
        const auto* cuts = view.session.trimsOf(run.id).empty() ? view.of<results::RunCuts>(run.id) : nullptr;
        if (cuts != nullptr && !cuts->spans.empty() && view.session.shown(run)) out[run.id] = cuts->spans;
    }
    return out;
}

std::vector<TimeSpan> drawnTrims(const View& view, const RunId& run) {
    const auto trims = view.session.trimsOf(run);
    std::vector<TimeSpan> out(trims.begin(), trims.end());
    const auto* figures = view.of<results::RunFigures>(run);
    if (const auto* cuts = out.empty() ? view.of<results::RunCuts>(run) : nullptr) out = cuts->spans;
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
    if (figures == nullptr || !top || view.state<RunsState>().reading) return std::nullopt;
    const TracePlace p = placeOf(view, size, *top);
    const TimeSpan span = view.span.value_or(TimeSpan{0, figures->shape->pyramid.durationMs()});
    return Scale{span.fromMs, span.toMs, p.left, p.plotRight};
}

void drawRunPicture(Sheet& sheet, const View& view, const run::Run& run, double top) {
    const auto* figures = view.of<results::RunFigures>(run.id);
    if (figures == nullptr) return drawRates(sheet, view, run, top);
    const TracePlace p = placeOf(view, sheet.size(), top);
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
    tracePicture(sheet, view, run, *figures, p);
}

} // namespace impasto::app
