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
QString meaningOf(const logs::LogPreview& preview, std::size_t column) {
    const auto& d = preview.dialect;
    if (column == d.timeColumn)
        return d.meaning == logs::TimeMeaning::PerFrame ? say("frame time, %1").arg(unitName(d.unit))
                                                        : say("time stamp, %1").arg(unitName(d.unit));
    if (column == d.cpuColumn) return say("CPU work, %1").arg(unitName(d.workUnit));
    if (column == d.gpuColumn) return say("GPU work, %1").arg(unitName(d.workUnit));
    for (const auto& sensor : d.sensors)
        if (sensor.column == column) return sensorName(sensor.sensor);
    for (const auto c : d.programColumns)
        if (c == column) return say("whose row it is");
    for (const auto& other : d.others)
        if (other.column == column) return other.words ? say("comes along, words") : say("comes along");
    return say("repeats or counts");
}

double sentence(Sheet& sheet, const logs::LogPreview& preview, double y) {
    const auto& d = preview.dialect;
    Sentence s(sheet, 24, y, sheet.width() - 60);
    const auto value = [&](const char* id, const QString& name, const QString& text) {
        s.value(QStringLiteral("reading.") + QString::fromLatin1(id), name, text, {});
    };
    s.words(say("The column"));
    value("time", say("Column of the time"), columnName(preview, d.timeColumn));
    s.words(say("holds"));
    value("meaning", say("What the column holds"),
          d.meaning == logs::TimeMeaning::PerFrame ? say("frame times") : say("time stamps"));
    s.words(say("in"));
    value("unit", say("Unit of the time"), unitName(d.unit));
    s.words(QStringLiteral("."));
    const auto work = [&](const char* id, const QString& lane, const std::optional<std::size_t>& column) {
        s.words(say("%1 work:").arg(lane));
        value(id, say("Column of the %1 work").arg(lane), column ? columnName(preview, *column) : say("not told"));
        s.words(QStringLiteral("."));
    };
    work("cpu", say("CPU"), d.cpuColumn);
    work("gpu", say("GPU"), d.gpuColumn);
    if (d.cpuColumn || d.gpuColumn) {
        s.words(say("Work is in"));
        value("work_unit", say("Unit of the work"), unitName(d.workUnit));
        s.words(QStringLiteral("."));
    }
    s.words(say("Cells are separated by"));
    value("delimiter", say("What parts the cells"), delimiterName(d.delimiter));
    s.words(say(", decimals by a"));
    value("decimal", say("Decimal mark"), d.decimalComma ? say("comma") : say("point"));
    s.words(say(", and frames begin in line"));
    s.value(QStringLiteral("reading.line"), say("First line of the data"), QString::number(d.firstDataLine + 1),
            QString::number(d.firstDataLine + 1));
    s.words(QStringLiteral("."));
    if (preview.programs.size() > 1) {
        s.words(say("The rows of"));
        value("program", say("Whose rows count"), elided(qs(d.program), Type::SentenceBold, 300));
        s.words(say("count."));
    }
    return s.bottom();
}

void table(Sheet& sheet, const logs::LogPreview& preview, double top) {
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
        sheet.text(x + 8, head + 21, meaningOf(preview, c), Type::Small, Ink::Muted, Align::Left, width - 22);
        Hot h;
        h.id = QStringLiteral("reading.column.%1").arg(c);
        h.name = say("%1: %2").arg(name, meaningOf(preview, c));
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

QString sensorName(capture::Sensor sensor) {
    QString name = qs(std::string(capture::keyOf(sensor))).replace(u'_', u' ');
    for (const auto& lane : {QStringLiteral("gpu"), QStringLiteral("cpu")})
        if (name.startsWith(lane)) name.replace(0, 3, lane.toUpper());
    return name;
}

Drawing layoutReading(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto& reading = *view.state<RunsState>().reading;
    sheet.heading(24, 12, say("Is this log read right?"),
                  qs(reading.file.filename().string()) +
                      (reading.preview.packing.empty() ? QString()
                                                       : say(" · unpacked from %1").arg(qs(reading.preview.packing))));
    if (reading.preview.rows.empty()) {
        sheet.text(24, 84, say("Looking at its first rows."), Type::Body, Ink::Muted);
        return sheet.take();
    }
    const double right = size.width() - 16;
    sheet.button(QRectF(right - 258, 16, 144, 30), QStringLiteral("reading.take"),
                 reading.instead ? say("Read it this way") : say("Read it"), {}, false,
                 reading.preview.begin.has_value());
    sheet.button(QRectF(right - 102, 16, 102, 30), QStringLiteral("reading.leave"), say("Leave it"),
                 QStringLiteral("Esc"));
    const double y = sentence(sheet, reading.preview, 66);
    table(sheet, reading.preview, y + 16);
    return sheet.take();
}

Drawing layoutReadingColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto& reading = *view.state<RunsState>().reading;
    const auto& preview = reading.preview;
    const double x = 16, w = size.width() - 44;
    if (preview.rows.empty()) return sheet.take();
    sheet.text(x, 16, say("What comes of it"), Type::Heading);
    double y = 42;
    if (const auto& summary = reading.begin) {
        const auto line = [&](const QString& name, const QString& figure) {
            sheet.text(x, y, name, Type::Body, Ink::Muted);
            sheet.text(x + w, y - 1, figure, Type::Figure, Ink::Ink, Align::Right);
            y += 24;
        };
        line(say("frames looked at"), qs(wording::count(summary->frames)));
        line(say("average"), qs(wording::fps(summary->average.value())) + say(" fps"));
        line(say("median"), qs(wording::ms(summary->medianMs)) + say(" ms"));
        line(say("slowest"), qs(wording::ms(summary->worstMs)) + say(" ms"));
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
    y = sheet.wrapped(
            x, y, w,
            preview.headingMark == 0 ? say("The log has no heading: nothing is remembered for others like it.")
            : preview.remembered     ? say("This heading was corrected before, and is read as it was then.")
                                     : say("It is remembered: logs with this heading are read this way from now on."),
            Type::Note, Ink::Muted, 4) +
        10;
    if (reading.instead)
        sheet.wrapped(x, y, w, say("The run that is there is deleted; undo brings it back."), Type::Note, Ink::Muted,
                      3);
    return sheet.take();
}

} // namespace impasto::app
