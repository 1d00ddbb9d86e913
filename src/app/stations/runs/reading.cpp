// SPDX-License-Identifier: GPL-3.0-or-later
// How a log would be read: a sentence whose values can be corrected, over the first rows with what each column means.
#include "pictures/sentence.h"
#include "stations/runs/runs.h"

namespace impasto::app {
namespace {

QString unitName(logs::TimeUnit unit) {
    return unit == logs::TimeUnit::Microseconds ? QStringLiteral("\u00b5s") : qs(std::string(logs::keyOf(unit)));
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
    if (column == d.cpuColumn) return say("CPU work, %1").arg(unitName(d.workUnit));
    if (column == d.gpuColumn) return say("GPU work, %1").arg(unitName(d.workUnit));
    for (const auto& sensor : d.sensors)
        if (sensor.column == column) return qs(wording::sensor(view.w, sensor.sensor));
    for (const auto c : d.programColumns)
        if (c == column) return say("whose row it is");
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
    s.say(say("CPU work: %1."), {{"reading.cpu", say("Column of the CPU work"), work(d.cpuColumn)}});
    s.say(say("GPU work: %1."), {{"reading.gpu", say("Column of the GPU work"), work(d.gpuColumn)}});
    if (d.cpuColumn || d.gpuColumn)
        s.say(say("Work is in %1."), {{"reading.work_unit", say("Unit of the work"), unitName(d.workUnit)}});
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

void table(Sheet& sheet, const View& view, const logs::LogPreview& preview, double top) {
    const auto& d = preview.dialect;
    std::size_t columns = d.columns;
    for (const auto& row : preview.rows) columns = std::max(columns, row.size());
    const double left = 24, right = sheet.width() - 16, numberWidth = 36;
    const auto shown =
        std::clamp<std::size_t>(static_cast<std::size_t>((right - left - numberWidth) / 118), 1, columns);
    const std::size_t first = d.timeColumn < shown ? 0 : std::min(d.timeColumn + 1 - shown, columns - shown);
    const double width = std::min(190.0, (right - left - numberWidth) / static_cast<double>(shown));
    constexpr double pitch = 20;
    const double head = top + 24, rows = head + 46;
    const auto fit = static_cast<std::size_t>(std::max(0.0, (sheet.height() - 12 - rows) / pitch));
    const std::size_t count = std::min(preview.rows.size(), fit);
    sheet.text(left, top,
               shown < columns
                   ? say("The first rows, columns %1 to %2 of %3").arg(first + 1).arg(first + shown).arg(columns)
                   : say("The first rows"),
               Type::BodyBold);
    sheet.text(right, top + 1, say("press a column to read the time from it"), Type::Small, Ink::Muted, Align::Right);
    for (std::size_t i = 0; i < shown; ++i) {
        const std::size_t c = first + i;
        const double x = left + numberWidth + static_cast<double>(i) * width;
        const bool isTime = c == d.timeColumn;
        const QRectF all(x, head - 2, width - 6, rows - head + 4 + pitch * static_cast<double>(count));
        if (isTime) sheet.rect(all, Ink::Paper, Ink::Ink, 1.5);
        const QString name = c < preview.heading.size() ? qs(preview.heading[c]) : say("column %1").arg(c + 1);
        sheet.text(x + 8, head + 2, name, Type::BodyBold, Ink::Ink, Align::Left, width - 22);
        sheet.text(x + 8, head + 21, meaningOf(view, preview, c), Type::Small, Ink::Muted, Align::Left, width - 22);
        Hot h;
        h.id = QStringLiteral("reading.column.%1").arg(c);
        h.name = say("%1: %2").arg(name, meaningOf(view, preview, c));
        h.rect = all;
        h.hint = say("Read the time from this column");
        sheet.hot(h);
    }
    sheet.line({left, rows - 3}, {right, rows - 3}, Ink::Line, 1.2);
    for (std::size_t r = 0; r < count; ++r) {
        const double y = rows + pitch * static_cast<double>(r);
        sheet.text(left + numberWidth - 10, y, QString::number(d.firstDataLine + r + 1), Type::Small, Ink::Muted,
                   Align::Right);
        for (std::size_t i = 0; i < shown; ++i)
            if (first + i < preview.rows[r].size())
                sheet.text(left + numberWidth + static_cast<double>(i) * width + width - 16, y,
                           elided(qs(preview.rows[r][first + i]), Type::Body, width - 26), Type::Body,
                           first + i == d.timeColumn ? Ink::Ink : Ink::Muted, Align::Right);
    }
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
    sheet.button(QRectF(right - 258, 16, 144, 30), QStringLiteral("reading.take"),
                 reading.instead ? say("Read it this way") : say("Read it"), {}, false,
                 reading.preview.begin.has_value());
    sheet.button(QRectF(right - 102, 16, 102, 30), QStringLiteral("reading.leave"), say("Cancel"), say("Esc"));
    const double y = sentence(sheet, reading.preview, holdsAnother(view, reading), 66);
    table(sheet, view, reading.preview, y + 16);
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
