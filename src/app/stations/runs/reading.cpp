// SPDX-License-Identifier: GPL-3.0-or-later
// How a log would be read: a sentence whose values can be corrected, over a strip for each column:
// its name, what it is taken for, its first values, and three cells as written.
#include "pictures/sentence.h"
#include "stations/runs/runs.h"

#include <cmath>

namespace impasto::app {
namespace {

QString unitName(logs::TimeUnit unit) {
    return qs(wording::timeUnit(unit));
}

QString delimiterName(char delimiter) {
    return delimiter == '\t'  ? say("tabs")
           : delimiter == ' ' ? say("spaces")
           : delimiter == ',' ? say("commas")
           : delimiter == ';' ? say("semicolons")
                              : say("bars");
}

QString columnName(const logs::LogPreview& preview, std::size_t column) {
    return column < preview.heading.size() && !preview.heading[column].empty()
               ? elided(qs(preview.heading[column]), Type::SentenceBold, 190)
               : say("column %1").arg(column + 1);
}

/// What a column is read as, or nothing.
QString meaningOf(const View& view, const logs::LogPreview& preview, std::size_t column) {
    const auto& d = preview.dialect;
    if (column == d.timeColumn)
        return d.meaning == logs::TimeMeaning::Rate       ? say("rate, fps")
               : d.meaning == logs::TimeMeaning::PerFrame ? say("frame time, %1").arg(unitName(d.unit))
                                                          : say("time stamp, %1").arg(unitName(d.unit));
    if (column == d.cpuColumn) return say("CPU work, %1").arg(unitName(d.cpuUnit));
    if (column == d.gpuColumn) return say("GPU work, %1").arg(unitName(d.gpuUnit));
    for (const auto& sensor : d.sensors)
        if (sensor.column == column) return qs(wording::sensor(view.w, sensor.sensor));
    for (const auto c : d.programColumns)
        if (c == column) return say("whose row it is");
    if (column == d.clockColumn) return say("time stamp, agrees");
    if (column == d.inventedColumn) return d.inventedCells.empty() ? say("counts invented") : say("which are invented");
    for (const auto& other : d.others)
        if (other.column == column) return other.words ? say("kept, words") : say("kept");
    return say("left out");
}

double sentence(Sheet& sheet, const logs::LogPreview& preview, bool hasOther, double y) {
    const auto& d = preview.dialect;
    Sentence s(sheet, 24, y, sheet.width() - 60);
    const bool rates = d.meaning == logs::TimeMeaning::Rate;
    const QString meaning = rates                                      ? say("momentary rates")
                            : d.meaning == logs::TimeMeaning::PerFrame ? say("frame times")
                                                                       : say("time stamps");
    s.say(rates ? say("The column %1 holds %2 in fps.") : say("The column %1 holds %2 in %3."),
          {{"reading.time", say("Column of the time"), columnName(preview, d.timeColumn)},
           {"reading.meaning", say("What the column holds"), meaning},
           {"reading.unit", say("Unit of the time"), unitName(d.unit)}});
    const auto work = [&](const std::optional<std::size_t>& column) {
        return column ? columnName(preview, *column) : say("not in this log");
    };
    s.say(d.cpuColumn ? say("CPU work: %1 in %2.") : say("CPU work: %1."),
          {{"reading.cpu", say("Column of the CPU work"), work(d.cpuColumn)},
           {"reading.cpu_unit", say("Unit of the CPU work"), unitName(d.cpuUnit)}});
    s.say(d.gpuColumn ? say("GPU work: %1 in %2.") : say("GPU work: %1."),
          {{"reading.gpu", say("Column of the GPU work"), work(d.gpuColumn)},
           {"reading.gpu_unit", say("Unit of the GPU work"), unitName(d.gpuUnit)}});
    const QString line = QString::number(d.firstDataLine + 1);
    s.say(say("Cells are separated by %1, the decimal mark is a %2, and frames start in line %3."),
          {{"reading.delimiter", say("Separator of the cells"), delimiterName(d.delimiter)},
           {"reading.decimal", say("Decimal mark"), d.decimalComma ? say("comma") : say("point")},
           {"reading.line", say("First line of the data"), line, line}});
    if (preview.programs.size() > 1)
        s.say(say("The rows of %1 count."),
              {{"reading.program", say("Whose rows count"), elided(qs(d.program), Type::SentenceBold, 300)}});
    if (hasOther || d.recording > 1)
        s.say(say("The log holds several recordings; number %1 counts."),
              {{"reading.recording", say("Which recording counts"), QString::number(d.recording)}});
    return s.bottom();
}

/// Whether another recording was met in the log, at its begin or when it was read.
bool holdsAnother(const View& view, const Reading& reading) {
    const auto met = [](const capture::Capture& capture) {
        const auto notes = logs::notesOf(capture);
        return std::any_of(notes.begin(), notes.end(),
                           [](const auto& n) { return n.kind == logs::NoteKind::OtherRecording; });
    };
    const auto* run = reading.instead ? view.session.facts->run(*reading.instead) : nullptr;
    return (run != nullptr && run->capture && met(*run->capture)) ||
           (reading.preview.begin && met(*reading.preview.begin));
}

/// How a strip lies.
struct Strip {
    std::size_t column;
    QRectF all, plot;
    bool isTime = false, used = false;
};

bool isUsed(const logs::Dialect& d, std::size_t column) {
    const auto is = [column](const auto& c) { return c.column == column; };
    return column == d.timeColumn || column == d.cpuColumn || column == d.gpuColumn || column == d.clockColumn ||
           column == d.inventedColumn || std::any_of(d.sensors.begin(), d.sensors.end(), is) ||
           std::any_of(d.others.begin(), d.others.end(), is) ||
           std::find(d.programColumns.begin(), d.programColumns.end(), column) != d.programColumns.end();
}

/// The strips that fit, the time's among them.
std::vector<Strip> stripsOf(const logs::LogPreview& preview, QSizeF size, double top) {
    const auto& d = preview.dialect;
    const double left = 24, right = size.width() - 16, bottom = size.height() - 34;
    const double plotLeft = left + std::clamp(0.2 * size.width(), 120.0, 172.0),
                 plotRight = right - std::clamp(0.3 * size.width(), 150.0, 240.0);
    const auto heightOf = [&](std::size_t c) { return c == d.timeColumn ? 82.0 : isUsed(d, c) ? 42.0 : 26.0; };
    std::vector<std::size_t> shown{d.timeColumn};
    double height = heightOf(d.timeColumn);
    for (const bool used : {true, false}) // those that are read come before those that are not
        for (std::size_t c = 0; c < preview.values.size(); ++c) {
            if (c == d.timeColumn || isUsed(d, c) != used || height + heightOf(c) > bottom - top) continue;
            shown.push_back(c);
            height += heightOf(c);
        }
    std::sort(shown.begin(), shown.end());
    std::vector<Strip> out;
    double y = top;
    for (const auto c : shown) {
        const QRectF all(left - 6, y, right - left + 12, heightOf(c) - 6);
        const double plotHeight = c == d.timeColumn ? 44 : all.height() - 2;
        out.push_back({c,
                       all,
                       {plotLeft, y + (c == d.timeColumn ? 5 : 1), plotRight - plotLeft, plotHeight},
                       c == d.timeColumn,
                       isUsed(d, c)});
        y += heightOf(c);
    }
    return out;
}

/// A column's first values on a scale of its own; words as runs of two grounds.
void valuesCurve(Sheet& sheet, const std::vector<double>& values, const Strip& strip, Ink ink) {
    double least = 0, most = 0;
    bool any = false;
    for (const double v : values) {
        if (std::isnan(v)) continue;
        least = any ? std::min(least, v) : v;
        most = any ? std::max(most, v) : v;
        any = true;
    }
    if (!any) return;
    const QRectF& r = strip.plot;
    const Scale value{least, most > least ? most : least + 1, r.bottom() - 3, r.top() + 3};
    QPolygonF points;
    for (std::size_t i = 0; i < values.size(); ++i)
        if (!std::isnan(values[i]))
            points.append(QPointF(r.left() + static_cast<double>(i) /
                                                 static_cast<double>(std::max<std::size_t>(1, values.size() - 1)) *
                                                 r.width(),
                                  value.px(values[i])));
    sheet.curve(points, ink, 1);
    if (!strip.used || r.height() < 30) return;
    sheet.text(r.right() + 5, r.top() - 2, QString::number(most, 'g', 3), Type::Small, Ink::Muted);
    sheet.text(r.right() + 5, r.bottom() - 15, QString::number(least, 'g', 3), Type::Small, Ink::Muted);
}

/// A column of words as runs of two grounds, each with its word where there is room.
void wordRuns(Sheet& sheet, const capture::Capture& begin, const logs::LogPreview& preview, const Strip& strip) {
    const auto& named = preview.dialect.others;
    const auto column =
        std::find_if(named.begin(), named.end(), [&](const auto& o) { return o.column == strip.column; });
    if (column == named.end() || !column->words) return;
    const auto other =
        std::find_if(begin.others.begin(), begin.others.end(), [&](const auto& o) { return o.name == column->name; });
    if (other == begin.others.end() || other->values.empty()) return;
    const QRectF& r = strip.plot;
    const double each = r.width() / static_cast<double>(other->values.size());
    constexpr double narrowest = 3; // words that change more often than that are no runs
    bool odd = false;
    for (std::size_t from = 0, to = 0; from < other->values.size(); from = to, odd = !odd) {
        const float word = other->values[from];
        while (to < other->values.size() &&
               (std::isnan(word) ? std::isnan(other->values[to]) : other->values[to] == word))
            ++to;
        const QRectF run(r.left() + each * static_cast<double>(from), r.top(), each * static_cast<double>(to - from),
                         r.height());
        if (run.width() < narrowest || std::isnan(word)) continue;
        sheet.rect(run, odd ? Ink::Band2 : Ink::Band);
        const auto index = static_cast<std::size_t>(word);
        if (run.width() > 40 && index < other->words.size())
            sheet.text(run.left() + 6, r.center().y() - 9, qs(other->words[index]), Type::Note, Ink::Ink, Align::Left,
                       run.width() - 10);
    }
}

/// The other ways to read the time, each with the rate that would follow.
void otherWays(Sheet& sheet, const Reading& reading, const Strip& strip) {
    const auto& d = reading.preview.dialect;
    double x = strip.all.left() + 10;
    const double y = strip.plot.bottom() + 6;
    x += sheet.text(x, y, say("Read as"), Type::Note, Ink::Muted) + 12;
    const auto way = [&](const QString& id, const QString& name, const QString& follows, bool now) {
        const double w = textWidth(name, Type::BodyBold) + textWidth(follows, Type::Note) + 6;
        if (x + w > strip.all.right() - 8) return;
        if (now) sheet.rect(QRectF(x - 6, y - 2, w + 12, 20), Ink::None, Ink::Ink, 1.2);
        const double t = sheet.text(x, y - 1, name, Type::BodyBold);
        sheet.text(x + t + 6, y, follows, Type::Note, Ink::Muted);
        Hot h;
        h.id = id;
        h.name = follows.isEmpty() ? say("Read as %1").arg(name) : say("Read as %1: %2").arg(name, follows);
        h.rect = QRectF(x - 6, y - 3, w + 12, 22);
        sheet.hot(h);
        x += w + 22;
    };
    const bool rates = d.meaning == logs::TimeMeaning::Rate;
    if (!rates)
        for (const auto unit : logs::allTimeUnits) {
            const double fps =
                reading.begin ? reading.begin->average.value() * logs::msPer(d.unit) / logs::msPer(unit) : 0;
            if (fps > 1e6) continue; // no game, and no figure that anyone could read
            const bool rare = unit == logs::TimeUnit::Ticks || unit == logs::TimeUnit::Nanoseconds;
            if (rare && unit != d.unit && (fps < 5 || fps > 2000)) continue;
            way(QStringLiteral("reading.as.") + qs(std::string(logs::keyOf(unit))), unitName(unit),
                fps > 0 ? say("%1 fps").arg(QString::number(fps, 'g', fps < 1000 ? 3 : 5)) : QString(), unit == d.unit);
        }
    if (d.meaning != logs::TimeMeaning::PerFrame)
        way(QStringLiteral("reading.as.per_frame"), say("frame times"), say("a row is a frame"), false);
    if (d.meaning != logs::TimeMeaning::Cumulative)
        way(QStringLiteral("reading.as.cumulative"), say("time stamps"), say("frames lie between them"), false);
    if (!rates) way(QStringLiteral("reading.as.rate"), say("rates"), say("fps of each frame"), false);
}

void strips(Sheet& sheet, const View& view, const Reading& reading, double top) {
    const auto& preview = reading.preview;
    const auto all = stripsOf(preview, sheet.size(), top + 26);
    const double left = 24, right = sheet.width() - 16;
    sheet.text(left, top, say("column, as written"), Type::Note, Ink::Muted);
    if (!all.empty())
        sheet.text(all.front().plot.left(), top,
                   say("its first %1 values, each on its own scale")
                       .arg(preview.values.empty() ? 0 : preview.values.front().size()),
                   Type::Note, Ink::Muted, Align::Left, all.front().plot.width());
    sheet.text(right, top, say("first three cells"), Type::Note, Ink::Muted, Align::Right);
    sheet.line({left, top + 21}, {right, top + 21}, Ink::Line, 1.2);
    for (const auto& strip : all) {
        const std::size_t c = strip.column;
        if (strip.isTime) sheet.rect(strip.all, Ink::Paper, Ink::Ink, 1.5);
        const QString name = c < preview.heading.size() ? qs(preview.heading[c]) : say("column %1").arg(c + 1);
        const QString meaning = meaningOf(view, preview, c);
        const double x = left + 4, width = strip.plot.left() - x - 8;
        const bool low = strip.all.height() < 30;
        const double w = sheet.text(x, strip.plot.top() + (low ? 0 : 1), name, low ? Type::Body : Type::BodyBold,
                                    low ? Ink::Muted : Ink::Ink, Align::Left, low ? 0.6 * width : width);
        const QPointF at = low ? QPointF(x + w + 7, strip.plot.top() + 1) : QPointF(x, strip.plot.top() + 18);
        const double t =
            sheet.text(at.x(), at.y(), meaning, Type::Note, Ink::Muted, Align::Left, strip.plot.left() - at.x() - 8);
        sheet.line({at.x(), at.y() + 16}, {at.x() + t, at.y() + 16}, Ink::Muted, 1);
        sheet.rect(strip.plot, Ink::Part);
        if (!strip.used) sheet.hatch(strip.plot, Ink::Off, 9);
        const Ink ink = c == preview.dialect.cpuColumn   ? Ink::Cpu
                        : c == preview.dialect.gpuColumn ? Ink::Gpu
                        : strip.isTime                   ? Ink::Ink
                                                         : Ink::Muted;
        valuesCurve(sheet, preview.values[c], strip, ink);
        if (preview.begin) wordRuns(sheet, *preview.begin, preview, strip);
        const double each = (right - strip.plot.right() - 44) / 3;
        for (std::size_t r = 0; r < std::min<std::size_t>(3, preview.rows.size()); ++r)
            if (c < preview.rows[r].size())
                sheet.text(right - each * static_cast<double>(2 - r), strip.plot.center().y() - 9,
                           elided(qs(preview.rows[r][c]), Type::Body, each - 8), Type::Body,
                           strip.isTime ? Ink::Ink : Ink::Muted, Align::Right);
        Hot h;
        h.id = QStringLiteral("reading.column.%1").arg(c);
        h.name = say("%1: %2").arg(name, meaning);
        h.rect = strip.all;
        h.hint = say("Read the time from this column");
        sheet.hot(h);
        Hot taken;
        taken.id = QStringLiteral("reading.taken.%1").arg(c);
        taken.name = say("%1 is taken for: %2").arg(name, meaning);
        taken.role = Role::Value;
        taken.rect = QRectF(at.x() - 3, at.y() - 1, std::max(t, 20.0) + 6, 19);
        taken.hint = say("Up and Down: what it is taken for");
        sheet.hot(taken);
        if (strip.isTime) otherWays(sheet, reading, strip);
    }
    if (all.size() < preview.values.size())
        sheet.text(left, sheet.height() - 26,
                   say("%1 more columns are not shown; the column of the time above steps through all")
                       .arg(preview.values.size() - all.size()),
                   Type::Small, Ink::Muted);
}

} // namespace

Drawing layoutReading(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto& reading = *view.state<RunsState>().reading;
    sheet.heading(
        24, 12, say("Is this log read right?"),
        reading.preview.packing.empty()
            ? qs(reading.file.filename().string())
            : say("%1 · unpacked from %2").arg(qs(reading.file.filename().string()), qs(reading.preview.packing)));
    if (reading.preview.rows.empty()) {
        sheet.text(24, 84, say("Looking at its first rows."), Type::Body, Ink::Muted);
        return sheet.take();
    }
    const double right = size.width() - 16;
    sheet.button(QRectF(right - 280, 16, 144, 30), QStringLiteral("reading.take"),
                 reading.instead ? say("Read it this way") : say("Read it"), {}, false,
                 reading.preview.begin.has_value());
    sheet.button(QRectF(right - 124, 16, 124, 30), QStringLiteral("reading.leave"), say("Cancel"), say("Esc"));
    const double y = sentence(sheet, reading.preview, holdsAnother(view, reading), 66);
    strips(sheet, view, reading, y + 12);
    return sheet.take();
}

Drawing layoutReadingColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto& reading = *view.state<RunsState>().reading;
    const auto& preview = reading.preview;
    const double x = 16, w = size.width() - 44;
    if (preview.rows.empty()) return sheet.take();
    sheet.text(x, 16, say("The result"), Type::Heading);
    double y = 42;
    if (const auto& summary = reading.begin) {
        const auto line = [&](const QString& name, const QString& figure) {
            sheet.row(x, y, w, name, figure, Type::Figure);
            y += 24;
        };
        line(say("frames looked at"), qs(wording::count(summary->frames)));
        line(say("average"), say("%1 fps").arg(qs(wording::fps(summary->average.value()))));
        line(say("median"), say("%1 ms").arg(qs(wording::ms(summary->medianMs))));
        line(say("slowest"), say("%1 ms").arg(qs(wording::ms(summary->worstMs))));
        if (preview.begin)
            for (const auto& note : wording::importNotes(view.w, *preview.begin))
                y = sheet.wrapped(x, y + 4, w, qs(note), Type::Note, Ink::Ink, 3);
        const double average = summary->average.value();
        y = sheet.wrapped(x, y + 6, w,
                          average < 5 || average > 1500
                              ? say("No game runs at such a rate: another unit or another column is likelier.")
                              : say("If this is about the rate you saw, the log is read right."),
                          Type::Note, average < 5 || average > 1500 ? Ink::Over : Ink::Muted, 4) +
            14;
    } else {
        const auto words = wording::error(view.w, preview.begin.error());
        y = sheet.wrapped(x, y, w, qs(words.all()), Type::Note, Ink::Over, 8) + 14;
    }
    y = sheet.wrapped(x, y, w,
                      preview.headingMark == 0
                          ? say("The log has no heading, so the correction cannot be remembered for others like it.")
                      : preview.remembered ? say("You corrected this heading before; it is read the same way again.")
                                           : say("Logs with this heading will be read this way from now on."),
                      Type::Note, Ink::Muted, 4) +
        10;
    if (reading.instead)
        sheet.wrapped(x, y, w, say("The run that was read before is replaced; undo brings it back."), Type::Note,
                      Ink::Muted, 3);
    return sheet.take();
}

} // namespace impasto::app
