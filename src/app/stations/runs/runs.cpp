// SPDX-License-Identifier: GPL-3.0-or-later
// What is known of the chosen run: figures that have no place in its picture, what was found in it, what can be done.
#include "stations/runs/runs.h"

#include <cmath>
#include <impasto/base/text.h>

namespace impasto::app {
namespace {

using results::RunFigures;

constexpr double buttonsHeight = 48; // at the column's foot

/// How a foreign log was read, and the way to correct it; gives the y below.
double readAsLines(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w) {
    const auto note = run.capture->notes.find("dialect");
    const auto dialect = note == run.capture->notes.end() ? std::nullopt : logs::dialectOf(note->second);
    if (!dialect || y + 120 > sheet.height()) return y;
    sheet.text(x, y + 4, say("Read as"), Type::BodyBold);
    const auto packing = run.capture->notes.find("packing");
    // What was passed over comes first: it says what the figures rest on.
    QString how;
    for (const auto& sentence : wording::importNotes(view.w, *run.capture)) how += qs(sentence) + QLatin1Char(' ');
    how += qs(wording::dialect(view.w, *dialect));
    if (packing != run.capture->notes.end()) how = say("Unpacked from %1. %2").arg(qs(packing->second), how);
    const double top = y;
    const bool told = !logs::notesOf(*run.capture).empty();
    y = sheet.wrapped(x, y + 23, w, how, Type::Note, told ? Ink::Ink : Ink::Muted, told ? 4 : 2) + 8;
    if (!run.capture->notes.contains("file")) return y;
    Hot h;
    h.id = QStringLiteral("run.reading");
    h.name = say("Read as: %1 Check and correct it").arg(how);
    h.rect = QRectF(x - 4, top, w + 8, y - top);
    h.hint = say("%1 Press to see the first rows of the log and to read it another way.").arg(how);
    sheet.text(x + w, top + 5, say("correct it"), Type::Small, Ink::Ink, Align::Right);
    sheet.line({x + w - textWidth(say("correct it"), Type::Small), top + 21}, {x + w, top + 21}, Ink::Ink, 1);
    sheet.hot(h);
    return y;
}

/// What was looked for in the run, what was found first; gives the y below.
double examinedLines(Sheet& sheet, const View& view, const run::Run& run, const RunFigures& figures, double x, double y,
                     double w) {
    std::vector<frames::Examined> all = figures.examined;
    if (const auto* siblings = view.get<results::Siblings>())
        if (const auto others = siblings->examined.find(run.id); others != siblings->examined.end())
            all.insert(all.end(), others->second.begin(), others->second.end());
    // A run that was ordered with a cap or sync is not a surprise.
    const auto* order = view.session.orderOf(run);
    if (order != nullptr && (order->variant.cap || order->variant.sync != run::Sync::None))
        std::erase_if(all, [](const frames::Examined& e) { return e.finding == frames::Finding::Flattened; });
    std::stable_partition(all.begin(), all.end(), [](const frames::Examined& e) { return e.found; });
    const double bottom = sheet.height() - buttonsHeight;
    const auto fit = static_cast<std::ptrdiff_t>((bottom - y - 25) / 17);
    if (fit < 1) return y;
    sheet.text(x, y + 6, say("Checked"), Type::BodyBold);
    y += 25;
    all.resize(std::min(all.size(), static_cast<std::size_t>(fit))); // what was found comes first
    for (const auto& e : all) {
        const auto words = wording::finding(view.w, e);
        const double t =
            sheet.text(x, y, qs(words.title), e.found ? Type::BodyBold : Type::Note, e.found ? Ink::Over : Ink::Ink);
        sheet.text(x + t + 8, y + (e.found ? 1 : 0), qs(words.detail), Type::Note, Ink::Muted, Align::Left, w - t - 8);
        y += 17;
    }
    const auto* family = view.get<results::BaselineFamily>();
    const QString more = family == nullptr || !family->figures.contains(frames::onePercentLowFps)
                             ? QString()
                             : qs(wording::moreRuns(view.w, frames::figure(frames::onePercentLowFps),
                                                    family->figures.at(frames::onePercentLowFps)));
    if (!more.isEmpty() && y + 34 < bottom + 6)
        y = sheet.wrapped(x, y + 2, w, say("%1 on the 1% low of the baseline.").arg(more), Type::Note, Ink::Ink, 2) + 2;
    return y + 4;
}

/// What is trimmed, and what looks as if it should be; gives the y below.
double trimLines(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w) {
    const auto seconds = [](std::span<const capture::Span> spans) {
        double sum = 0;
        for (const auto& s : spans) sum += s.toMs - s.fromMs;
        return QString::number(sum / 1000, 'f', 1);
    };
    const auto trims = view.session.trimsOf(run.id);
    const auto* cuts = view.of<results::RunCuts>(run.id);
    const auto proposed = cuts == nullptr ? std::vector<capture::Span>() : cuts->spans;
    if ((trims.empty() && proposed.empty() && !view.span) || y + 60 > sheet.height()) return y;
    y += 6;
    if (view.span) {
        const bool mine = view.session.game() != nullptr && !view.practiceGame;
        const double half = w / 2 - 4;
        sheet.button(QRectF(x, y, mine ? half : w, 28), QStringLiteral("run.trim"),
                     mine ? say("Trim") : say("Trim the selected span"), QStringLiteral("T"));
        if (mine)
            sheet.button(QRectF(x + w - half, y, half, 28), QStringLiteral("run.part"), say("A part"),
                         QStringLiteral("P"));
        return y + 34;
    }
    if (!trims.empty()) {
        sheet.text(x, y + 6, say("%1 s trimmed").arg(seconds(trims)), Type::Body);
        sheet.button(QRectF(x + w / 2 + 4, y, w / 2 - 4, 28), QStringLiteral("run.untrim"), say("Count all"));
        return y + 34;
    }
    y = sheet.wrapped(x, y, w, say("%1 s look like loading or a menu, not like the route.").arg(seconds(proposed)),
                      Type::Note, Ink::Ink, 2);
    sheet.button(QRectF(x, y + 4, w / 2 - 4, 28), QStringLiteral("run.proposed"), say("Trim them"));
    if (const auto all = proposedTrims(view).size(); all > 1)
        sheet.button(QRectF(x + w / 2 + 4, y + 4, w / 2 - 4, 28), QStringLiteral("run.proposed-all"),
                     say("Trim %1 runs").arg(all));
    return y + 38;
}

/// Of a variant that the user named: what its runs and the baseline's tell together; gives the y below.
double stateLines(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w) {
    const auto* states = view.get<results::NamedStates>();
    if (states == nullptr || !states->ofRun.contains(run.id) || y + 90 > sheet.height()) return y;
    const auto& found = states->ofRun.at(run.id);
    if (found.empty()) return y;
    sheet.text(x, y + 6, say("Against the baseline"), Type::BodyBold);
    y += 25;
    for (const auto& each : found) {
        if (y + 60 > sheet.height()) break;
        y = sheet.wrapped(
                x, y, w,
                say("%1 %2 sure.").arg(qs(wording::pairFinding(view.w, each)), qs(wording::percent(each.sure))),
                Type::Note, Ink::Ink, 3) +
            2;
    }
    return y + 4;
}

QString framesAndSeconds(const frames::Summary& s) {
    return say("%1 frames · %2 s").arg(qs(wording::count(s.frames)), QString::number(s.durationMs / 1000, 'f', 1));
}

/// A figure with a note below it; gives the y below.
double figureLine(Sheet& sheet, double y, const QString& name, const QString& figure, const QString& note) {
    const double x = 16, w = sheet.width() - 44;
    sheet.row(x, y, w, name, figure, Type::Figure);
    sheet.text(x, y + 18, note, Type::Note, Ink::Muted, Align::Left, w);
    return y + 42;
}

double averageLine(Sheet& sheet, const frames::Summary& s, double y, const QString& note) {
    return figureLine(
        sheet, y, say("average"), say("%1 fps").arg(qs(wording::fps(s.average.value()))),
        say("seconds from %1 to %2 · %3")
            .arg(qs(wording::fps(s.slowestSecond.value())), qs(wording::fps(s.fastestSecond.value())), note));
}

/// Average, lows, budget and hitches of frames; gives the y below.
double figureLines(Sheet& sheet, const View& view, const frames::Summary& s, const frames::RunDoubt* doubt, double y,
                   const QString& averageNote, const QString& hitchesFrom) {
    const double x = 16, w = sheet.width() - 44;
    const auto line = [&](const QString& name, const QString& figure, const QString& note) {
        y = figureLine(sheet, y, name, figure, note);
    };
    y = averageLine(sheet, s, y, averageNote);
    sheet.text(x, y, say("1% and 0.1% low, and their frames"), Type::Body, Ink::Muted, Align::Left, w);
    y += 19;
    for (const auto school : stats::allLowRules) {
        const auto& lows = s.of(school);
        sheet.text(x, y, qs(wording::lowRuleShort(view.w, school)), Type::Note, Ink::Muted, Align::Left, w - 132);
        sheet.text(x + w - 88, y, QStringLiteral("%1, %2").arg(lows.onePercent->frames).arg(lows.tenthPercent->frames),
                   Type::Note, Ink::Muted, Align::Right);
        sheet.text(x + w, y - 2,
                   qs(wording::fps(lows.onePercent->rate.value()) + " \u00b7 " +
                      wording::fps(lows.tenthPercent->rate.value())),
                   Type::Figure, Ink::Ink, Align::Right);
        y += 19;
    }
    y += 6;
    sheet.text(x, y, doubt == nullptr ? say("frame times, ms") : say("frame times, ms (\u00b1 this run alone)"),
               Type::Body, Ink::Muted, Align::Left, w);
    y += 19;
    const double half = (w - 14) / 2;
    const auto time = [&](double left, const QString& name, double value, const stats::Doubt* own) {
        sheet.row(left, y, half, name,
                  own == nullptr ? qs(wording::ms(value))
                                 : qs(wording::plusMinus(value, (own->high - own->low) / 2, value < 10 ? 2 : 1)),
                  Type::Figure, Ink::Ink, Type::Note);
    };
    time(x, say("median"), s.medianMs, doubt == nullptr ? nullptr : &doubt->median);
    time(x + half + 14, QStringLiteral("95%"), s.p95Ms, doubt == nullptr ? nullptr : &doubt->p95);
    y += 19;
    time(x, QStringLiteral("99%"), s.p99Ms, doubt == nullptr ? nullptr : &doubt->p99);
    time(x + half + 14, QStringLiteral("99.9%"), s.p999Ms, doubt == nullptr ? nullptr : &doubt->p999);
    y += 25;
    line(say("pacing, frame to frame"), say("%1 ms").arg(qs(wording::ms(s.stepMs))),
         s.worstDip
             ? say("dips to %1 fps at %2 s, for %3 s")
                   .arg(qs(wording::fps(s.worstDip->lowest.value())), QString::number(s.worstDip->atMs / 1000, 'f', 1),
                        QString::number(s.worstDip->lengthMs / 1000, 'f', 1))
             : say("%1 ms around the neighbours' median").arg(qs(wording::ms(s.spreadMs))));
    if (s.onTimeShare) {
        sheet.row(x, y, w, say("on-time frames"), qs(wording::percent(*s.onTimeShare)), Type::Figure);
        y += 25;
    }
    Hot hitches;
    hitches.id = QStringLiteral("why.hitches");
    hitches.name = say("Why: %1 hitches").arg(s.hitches.size());
    hitches.rect = QRectF(x - 4, y - 4, w + 8, 40);
    hitches.hint = say("Which they are, and what counts as one");
    if (!view.follow.active) sheet.hot(hitches); // the drawer speaks of the shown run
    const QString often =
        say("%1 a minute, %2 s lost")
            .arg(QString::number(s.hitchesPerMinute(), 'f', 1), QString::number(s.lostMs / 1000, 'f', 1));
    line(say("hitches (N: next)"), QString::number(s.hitches.size()),
         hitchesFrom.isEmpty() ? often : say("%1 \u00b7 %2").arg(often, hitchesFrom));
    return y;
}

/// When a log that is followed ends, to be edited.
double restLine(Sheet& sheet, const View& view, double x, double y, double w) {
    sheet.text(x, y, say("It ends"), Type::BodyBold);
    y = sheet.wrapped(x, y + 20, w, say("when the program that writes it closes it, or without a new frame for"),
                      Type::Body, Ink::Muted);
    const QString value = qs(shortestText(view.edits().runs.followRestS));
    const double t = std::max(sheet.text(x, y, value, Type::Value), 20.0);
    sheet.line({x, y + 18}, {x + t, y + 18}, Ink::Ink, 1);
    sheet.text(x + t + 6, y + 1, say("s"), Type::Body, Ink::Muted);
    Hot h;
    h.id = QStringLiteral("rest");
    h.name = say("Without a new frame for %1 s").arg(value);
    h.role = Role::Value;
    h.rect = QRectF(x - 4, y - 3, t + 8, 24);
    h.edit = value;
    sheet.hot(h);
    return y + 32;
}

/// What is read of this machine's sensors while a log is followed.
void sensorLines(Sheet& sheet, const View& view, double x, double y, double w) {
    sheet.text(x, y, say("Sensors"), Type::BodyBold);
    y += 20;
    if (view.follow.elsewhere || view.edits().subject.rig != document::RigKind::Hand) {
        sheet.wrapped(x, y, w, say("None are read: another machine plays."), Type::Body, Ink::Muted);
        return;
    }
    const bool read = view.edits().runs.followSensors;
    const QString now = qs(wording::meanwhile(view.w, view.follow.sensors));
    y = sheet.wrapped(x, y, w,
                      !read           ? say("None of this machine are read.")
                      : now.isEmpty() ? say("This machine tells none without root.")
                                      : say("Of this machine, kept with the run. Now: %1").arg(now),
                      Type::Body, Ink::Muted, 5) +
        4;
    sheet.button(QRectF(x, y, w, 28), QStringLiteral("sensors.read"),
                 read ? say("Another machine plays: read none") : say("Read this machine's"));
}

/// Of a run whose figures were read off: what was read, and how much it weighs.
Drawing readOffColumn(const View& view, const run::Run& run, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    sheet.text(x, 16, qs(wording::runTitle(view.w, view.session, run)), Type::Heading, Ink::Ink, Align::Left, w);
    sheet.text(x, 37,
               run.readOff->rates.empty() ? say("read off a counter, not recorded")
                                          : say("a table of rates, not frame by frame"),
               Type::Body, Ink::Muted, Align::Left, w);
    double y = sheet.wrapped(x, 66, w, qs(wording::readOff(view.w, *run.readOff)), Type::Value) + 6;
    y = sheet.wrapped(x, y, w,
                      say("It counts for less than a recorded run: such a figure is within about %1 of a run's own "
                          "average. What it does not say, no low and no part, is not known.")
                          .arg(qs(wording::percent(2 * run.readOff->doubt()))),
                      Type::Body, Ink::Muted) +
        12;
    const bool out = view.session.leftOut(run).has_value();
    sheet.button(QRectF(x, y, w / 2 - 4, 30), QStringLiteral("run.count"), out ? say("Count it") : say("Leave it out"));
    sheet.button(QRectF(x + w / 2 + 4, y, w / 2 - 4, 30), QStringLiteral("run.hide"), say("Delete"));
    if (run.order)
        sheet.wrapped(x, y + 42, w, say("Deleted, its order waits again for a log."), Type::Note, Ink::Muted);
    return sheet.take();
}

/// Before a run, or before its figures.
Drawing columnBefore(const View& view, const run::Run* run, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    sheet.text(x, 16, run == nullptr ? say("No run yet") : qs(wording::runTitle(view.w, view.session, *run)),
               Type::Heading, Ink::Ink, Align::Left, w);
    sheet.wrapped(x, 40, w,
                  run != nullptr ? figuresWait(view)
                                 : say("Record one, or drop a frame log on the window: CSV or TSV of any tool with a "
                                       "column of frame times or time stamps."),
                  Type::Body, Ink::Muted);
    return sheet.take();
}

} // namespace

Drawing layoutRunsColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto* run = view.shownRun();
    const auto* figures = run == nullptr ? nullptr : view.of<results::RunFigures>(run->id);
    if (view.follow.active && view.follow.summary) {
        const auto& s = *view.follow.summary;
        sheet.text(x, 16, say("Following %1").arg(view.follow.name), Type::Heading, Ink::Ink, Align::Left, w);
        sheet.text(x, 37, framesAndSeconds(s), Type::Body, Ink::Muted);
        constexpr double wholeHeight = 560; // in a lower one the end and the sensors matter more
        double y = size.height() >= wholeHeight ? figureLines(sheet, view, s, nullptr, 66, say("so far"), {})
                                                : averageLine(sheet, s, 66, say("so far"));
        y = restLine(sheet, view, x, y + 8, w);
        sensorLines(sheet, view, x, y, w);
        return sheet.take();
    }
    const bool crashed = run != nullptr && run->crashed;
    if (crashed || (run != nullptr && run->damaged)) {
        sheet.text(x, 16, qs(wording::runTitle(view.w, view.session, *run)), Type::Heading, Ink::Ink, Align::Left, w);
        const auto why = crashed ? document::LeftOut::Crashed : document::LeftOut::Damaged;
        const double y = sheet.wrapped(x, 40, w, qs(wording::leftOut(view.w, why)), Type::Body, Ink::Muted) + 12;
        if (crashed) sheet.button(QRectF(x, y, w / 2 - 4, 30), QStringLiteral("run.count"), say("Count it"));
        sheet.button(QRectF(x + w / 2 + 4, y, w / 2 - 4, 30), QStringLiteral("run.hide"), say("Delete"));
        return sheet.take();
    }
    if (run != nullptr && run->readOff) return readOffColumn(view, *run, size);
    if (figures == nullptr) return columnBefore(view, run, size);
    const auto& spanSummary = view.span ? view.spanSummary : nullptr;
    const auto& s = spanSummary ? *spanSummary : figures->summary;
    sheet.text(x, 16, spanSummary ? say("The selected span") : qs(wording::runTitle(view.w, view.session, *run)),
               Type::Heading, Ink::Ink, Align::Left, w);
    sheet.text(x, 37, framesAndSeconds(s), Type::Body, Ink::Muted);
    const auto* origins = view.get<results::HitchOrigins>();
    const QString from =
        spanSummary || origins == nullptr ? QString() : qs(wording::hitchOrigin(view.w, origins->of(run->id)));
    const bool invented = run->capture->invented && !spanSummary;
    const auto* own = spanSummary ? nullptr : view.of<results::RunDoubt>(run->id);
    double y = figureLines(sheet, view, s, own == nullptr ? nullptr : &own->doubt, 66,
                           invented ? say("rendered; %1 fps are shown, the rest invented")
                                          .arg(qs(wording::fps(capture::shownRate(*run->capture).value())))
                                    : say("frames / time"),
                           from);
    const QString meanwhile = qs(wording::meanwhile(view.w, *run->capture));
    if (!meanwhile.isEmpty() && y + 150 < size.height()) {
        sheet.text(x, y + 4, say("Sensors during the run"), Type::BodyBold);
        y = sheet.wrapped(x, y + 23, w, meanwhile, Type::Note, Ink::Muted, 4) + 2;
    }
    y = readAsLines(sheet, view, *run, x, y, w);
    const bool out = view.session.leftOut(*run).has_value();
    y = answerLine(sheet, view, *run, x, y, w);
    y = variantLine(sheet, view, *run, x, y, w);
    y = stateLines(sheet, view, *run, x, y, w);
    y = partLine(sheet, view, *run, x, y, w);
    y = trimLines(sheet, view, *run, x, y, w);
    y = examinedLines(sheet, view, *run, *figures, x, y, w);
    y = std::min(y + 6, size.height() - buttonsHeight + 6);
    if (view.step.run == run->id) { // the odd one of the baseline
        sheet.button(QRectF(x, y, w, 30), QStringLiteral("run.keep"), say("Count it all the same"));
        return sheet.take();
    }
    sheet.button(QRectF(x, y, w / 2 - 4, 30), QStringLiteral("run.count"), out ? say("Count it") : say("Leave out"));
    sheet.button(QRectF(x + w / 2 + 4, y, w / 2 - 4, 30), QStringLiteral("run.hide"), say("Delete"));
    return sheet.take();
}

} // namespace impasto::app
