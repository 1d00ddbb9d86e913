// SPDX-License-Identifier: GPL-3.0-or-later
// The frame times of the current run against the budget line, with parts, hitches and the selection.
#include "pictures/trace.h"
#include "shell/bars.h"
#include "stations/station.h"

#include <cmath>
#include <numeric>

namespace impasto::app {
namespace {

struct Source {
    std::span<const double> frameMs;
    const results::RunFigures* figures = nullptr; // of the shown run
    std::vector<PartSpan> parts;
    double durationMs = 0;
};

Source sourceOf(const View& view) {
    Source s;
    if (view.live.active) {
        s.frameMs = view.live.frameMs;
        double at = 0;
        std::size_t mark = 0;
        for (std::size_t i = 0; i < view.live.frameMs.size(); ++i) {
            if (mark < view.live.marks.size() && view.live.marks[mark].firstFrame == i) {
                if (!s.parts.empty()) s.parts.back().toMs = at;
                s.parts.push_back({qs(view.live.marks[mark++].part), at, at});
            }
            at += view.live.frameMs[i];
        }
        if (!s.parts.empty()) s.parts.back().toMs = at;
        const double route = view.session.route() == nullptr ? 60000 : 1000 * view.session.route()->seconds();
        s.durationMs = std::max(at, 1.03 * route);
    } else if (view.follow.active) {
        s.frameMs = view.follow.frameMs;
        s.durationMs = std::max(30000.0, std::accumulate(s.frameMs.begin(), s.frameMs.end(), 0.0));
    } else if (const auto* run = view.shownRun(); run != nullptr && run->capture) {
        s.figures = view.of<results::RunFigures>(run->id);
        if (s.figures == nullptr) return s;
        s.frameMs = run->capture->framesMs;
        s.parts = partSpans(*run->capture, s.figures->shape->pyramid);
        s.durationMs = s.figures->shape->pyramid.durationMs();
    }
    return s;
}

QRectF plotOf(QSizeF size) {
    return {236, 12, size.width() - 254, size.height() - 36};
}

/// Twice the budget; a local scale where a capped trace lies on the line; more for slow runs.
double topMsOf(const View& view, const Source& s) {
    const double budget = budgetOf(view.target()).value();
    if (s.frameMs.empty()) return 2 * budget;
    const double p95 =
        s.figures != nullptr ? s.figures->summary.p95Ms : stats::quantile(s.frameMs, 0.95).value_or(budget);
    return p95 > 1.7 * budget ? 1.35 * p95 : 2 * budget;
}

void followWords(Sheet& sheet, const Follow& follow) {
    double lastSecond = 0;
    std::size_t frames = 0;
    for (auto it = follow.frameMs.rbegin(); it != follow.frameMs.rend() && lastSecond < 1000; ++it) {
        lastSecond += *it;
        ++frames;
    }
    sheet.text(16, 8, say("Following %1").arg(follow.name), Type::BodyBold, Ink::Ink, Align::Left, 178);
    sheet.text(16, 26, say("%1 frames so far").arg(qs(wording::count(follow.frameMs.size()))), Type::Body, Ink::Muted,
               Align::Left, 178);
    sheet.text(
        16, 44,
        lastSecond > 0
            ? say("%1 fps in the last second").arg(qs(wording::fps(1000.0 * static_cast<double>(frames) / lastSecond)))
            : say("waiting for its rows"),
        Type::Body, Ink::Muted, Align::Left, 178);
    sheet.text(16, 62,
               !follow.beginMs ? say("M marks where the run starts")
               : !follow.endMs ? say("from %1 s; M marks its end").arg(std::lround(*follow.beginMs / 1000))
                               : say("counts from %1 to %2 s")
                                     .arg(std::lround(*follow.beginMs / 1000))
                                     .arg(std::lround(*follow.endMs / 1000)),
               Type::Body, Ink::Muted, Align::Left, 178);
    sheet.button(QRectF(16, 86, 52, 28), QStringLiteral("follow.mark"), say("Mark"));
    sheet.button(QRectF(72, 86, 68, 28), QStringLiteral("follow.take"), say("Import"));
    sheet.button(QRectF(144, 86, 50, 28), QStringLiteral("follow.leave"), say("Stop"));
}

void words(Sheet& sheet, const View& view) {
    if (view.live.active) {
        sheet.text(16, 8, view.live.title, Type::BodyBold, Ink::Ink, Align::Left, 172);
        sheet.text(16, 26,
                   say("run %1 of %2 · %3 frames")
                       .arg(view.live.number)
                       .arg(view.live.of)
                       .arg(qs(wording::count(view.live.frameMs.size()))),
                   Type::Body, Ink::Muted, Align::Left, 172);
        sheet.text(16, 44, say("%1 of play left").arg(qs(wording::minutes(view.w, view.live.minutesLeft))), Type::Body,
                   Ink::Muted, Align::Left, 172);
        sheet.button(QRectF(16, 68, 78, 28), QStringLiteral("live.skip"), say("Skip"));
        sheet.button(QRectF(102, 68, 86, 28), QStringLiteral("live.cancel"), say("Cancel"));
        return;
    }
    if (view.follow.active) {
        followWords(sheet, view.follow);
        return;
    }
    if (view.importing.logs > 0 && view.importing.share > 0) {
        sheet.text(16, 8,
                   view.importing.logs == 1 ? say("Reading a log") : say("Reading %1 logs").arg(view.importing.logs),
                   Type::BodyBold, Ink::Ink, Align::Left, 178);
        sheet.text(16, 26, say("%1% of the slowest one").arg(std::lround(100 * view.importing.share)), Type::Body,
                   Ink::Muted, Align::Left, 178);
        sheet.rect(QRectF(16, 50, 172, 8), Ink::StrokeOff);
        sheet.rect(QRectF(16, 50, 172 * view.importing.share, 8), Ink::Stroke);
        sheet.button(QRectF(16, 68, 86, 28), QStringLiteral("import.cancel"), say("Cancel"), QStringLiteral("Esc"));
        return;
    }
    const auto* run = view.shownRun();
    const auto* figures = run == nullptr ? nullptr : view.of<results::RunFigures>(run->id);
    if (figures == nullptr) {
        if (run != nullptr) { // its frames are not there, or not yet
            sheet.text(16, 8, qs(wording::runTitle(view.w, view.session, *run)), Type::BodyBold, Ink::Ink, Align::Left,
                       178);
            sheet.text(16, 26,
                       run->readOff                   ? qs(wording::readOff(view.w, *run->readOff))
                       : run->crashed || run->damaged ? say("its frames are left out")
                                                      : figuresWait(view),
                       Type::Body, Ink::Muted, Align::Left, 178);
            return;
        }
        sheet.text(16, 8, say("No run yet"), Type::BodyBold);
        sheet.text(16, 26, say("the ribbon, always here"), Type::Body, Ink::Muted);
        return;
    }
    const auto& s = figures->summary;
    const auto school = view.edits().goal.brief ? view.edits().goal.brief->lowRule : stats::LowRule::WorstMean;
    sheet.text(16, 8, qs(wording::runTitle(view.w, view.session, *run)), Type::BodyBold, Ink::Ink, Align::Left, 178);
    sheet.text(16, 26,
               say("%1 frames · %2 s · %3 fps")
                   .arg(qs(wording::count(s.frames)))
                   .arg(std::lround(s.durationMs / 1000))
                   .arg(qs(wording::fps(s.average.value()))),
               Type::Body, Ink::Muted, Align::Left, 178);
    sheet.text(
        16, 44,
        say("1% low %1 fps (%2)")
            .arg(qs(wording::fps(s.of(school).onePercent->rate.value())), qs(wording::lowRuleShort(view.w, school))),
        Type::Body, Ink::Muted, Align::Left, 178);
    const QString last =
        view.behind && view.behind != view.run
            ? say("%1 hitches · run %2 overlaid").arg(s.hitches.size()).arg(view.session.numberOf(*view.behind))
            : say("%1 hitches").arg(s.hitches.size());
    sheet.text(16, 62, last, Type::Body, Ink::Muted, Align::Left, 178);
}

void nothingYet(Sheet& sheet, const View& view, const QRectF& plot, const Scale& ms, double budget, bool said) {
    const auto* run = view.shownRun();
    const bool computes = run != nullptr && run->capture && run->capture->frames() > 0;
    sheet.rect(plot, Ink::None, Ink::Off, 1.2, {5, 4});
    sheet.line({plot.left(), ms.px(budget)}, {plot.right(), ms.px(budget)}, Ink::Over, 1.6);
    sheet.text(plot.center().x(), plot.top() + 12,
               computes         ? figuresWait(view)
               : run != nullptr ? say("This run shows no frames.")
               : said
                   ? say("The frame times of your first run will appear here, against %1 ms.")
                         .arg(QString::number(budget, 'f', 2))
                   : say("The frame times of a run will appear here, against the budget line. Drop a log to see one."),
               Type::Body, Ink::Muted, Align::Centre, plot.width() - 20);
    sheet.text(plot.left() - 6, ms.px(budget) - 8, said ? qs(wording::ms(budget)) : say("budget"), Type::Small,
               Ink::Over, Align::Right);
    sheet.text(plot.left() - 6, plot.bottom() - 12, say("0 ms"), Type::Small, Ink::Muted, Align::Right);
}

} // namespace

std::optional<Scale> ribbonTime(const View& view, QSizeF size) {
    const Source s = sourceOf(view);
    if (s.durationMs <= 0) return std::nullopt;
    const QRectF plot = plotOf(size);
    if (view.zoomed && view.span) return Scale{view.span->fromMs, view.span->toMs, plot.left(), plot.right()};
    return Scale{0, s.durationMs, plot.left(), plot.right()};
}

Drawing layoutRibbon(const View& view, QSizeF size) {
    Sheet sheet(size);
    sheet.rect(QRectF(QPointF(0, 0), size), Ink::Paper);
    sheet.line({0, 0.6}, {size.width(), 0.6}, Ink::Line, 1.2);
    const QRectF plot = plotOf(size);
    const Source source = sourceOf(view);
    const double budget = budgetOf(view.target()).value();
    words(sheet, view);
    const double topMs = topMsOf(view, source);
    const Scale ms{0, topMs, plot.bottom(), plot.top()};
    const bool said = view.edits().goal.brief.has_value();
    const bool growing = view.live.active || view.follow.active;
    if (source.frameMs.empty() && !growing) {
        nothingYet(sheet, view, plot, ms, budget, said);
        return sheet.take();
    }
    const auto time = ribbonTime(view, size);
    sheet.rect(plot, Ink::Part);
    bool odd = false;
    for (const auto& part : source.parts) {
        const double a = std::clamp(time->px(part.fromMs), plot.left(), plot.right()),
                     b = std::clamp(time->px(part.toMs), plot.left(), plot.right());
        if (odd && b > a) sheet.rect(QRectF(a, plot.top(), b - a, plot.height()), Ink::Band);
        odd = !odd;
        if (!part.name.isEmpty() && b - a > 40)
            sheet.text(a + 6, plot.bottom() + 4,
                       say("%1, %2 s").arg(part.name).arg(std::lround((part.toMs - part.fromMs) / 1000)), Type::Small,
                       Ink::Muted, Align::Left, b - a - 10);
    }
    if (view.span && !view.zoomed)
        sheet.rect(
            QRectF(QPointF(time->px(view.span->fromMs), plot.top()), QPointF(time->px(view.span->toMs), plot.bottom())),
            Ink::Band2);
    sheet.text(plot.left() - 6, plot.top() - 4, qs(wording::ms(topMs)), Type::Small, Ink::Muted, Align::Right);
    sheet.text(plot.left() - 6, plot.bottom() - 12, say("0 ms"), Type::Small, Ink::Muted, Align::Right);
    if (said) sheet.line({plot.left(), ms.px(budget)}, {plot.right(), ms.px(budget)}, Ink::Over, 1.6);
    const auto* behind = view.behind && !growing ? view.session.facts->run(*view.behind) : nullptr;
    const auto* others =
        behind == nullptr || view.behind == view.run ? nullptr : view.of<results::RunFigures>(behind->id);
    if (others != nullptr) sheet.curve(traceOf(others->shape->pyramid, *time, ms), Ink::Off, 0.8);
    sheet.curve(source.figures != nullptr ? traceOf(source.figures->shape->pyramid, *time, ms)
                                          : traceOf(source.frameMs, *time, ms),
                Ink::Ink, 1);
    if (view.follow.active && view.follow.beginMs) {
        const double a = time->px(*view.follow.beginMs), b = time->px(view.follow.endMs.value_or(source.durationMs));
        if (a > plot.left())
            sheet.hatch(QRectF(plot.left(), plot.top(), a - plot.left(), plot.height()), Ink::Muted, 5);
        if (view.follow.endMs) sheet.hatch(QRectF(b, plot.top(), plot.right() - b, plot.height()), Ink::Muted, 5);
    }
    if (!growing && view.run) hatchTrims(sheet, view, *view.run, *time, plot);
    if (said && std::abs(ms.px(budget) - plot.top()) > 20)
        sheet.text(plot.left() - 6, ms.px(budget) - 8, qs(wording::ms(budget)), Type::Small, Ink::Over, Align::Right);
    const auto* figures = growing || !view.run ? nullptr : view.of<results::RunFigures>(*view.run);
    if (figures != nullptr)
        for (const auto& hitch : figures->summary.hitches)
            if (const double at = capture::timeInWhole(view.session.trimsOf(*view.run), hitch.atMs);
                at >= time->fromValue && at <= time->toValue)
                sheet.rect(QRectF(time->px(at) - 1, plot.top() - 1, 2, 6), Ink::Over);
    Hot h;
    h.id = QStringLiteral("ribbon.plot");
    h.name = say("Frame times; drag selects a span");
    h.role = Role::Plot;
    h.rect = plot;
    sheet.hot(h);
    return sheet.take();
}

} // namespace impasto::app
