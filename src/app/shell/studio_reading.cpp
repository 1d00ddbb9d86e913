// SPDX-License-Identifier: GPL-3.0-or-later
// A log that is looked at before it is read: what was guessed, corrected in place.
#include "shell/studio.h"

#include <algorithm>
#include <impasto/base/text.h>
#include <numeric>

namespace impasto::app {
namespace {

template <class T>
T turned(const std::vector<T>& all, const T& now, int steps) {
    const auto it = std::find(all.begin(), all.end(), now);
    const auto size = static_cast<std::ptrdiff_t>(all.size());
    const auto at = it == all.end() ? 0 : (it - all.begin() + steps % size + size) % size;
    return all[static_cast<std::size_t>(at)];
}

/// None, then every column.
std::optional<std::size_t> turnedColumn(const std::optional<std::size_t>& now, std::size_t columns, int steps) {
    std::vector<std::optional<std::size_t>> all{std::nullopt};
    for (std::size_t c = 0; c < columns; ++c) all.emplace_back(c);
    return turned(all, now, steps);
}

/// A column means one thing: what it came along as before is dropped, and what lost its meaning comes along.
void tidy(capture::Dialect& now, const capture::Dialect& before, const std::vector<std::string>& heading) {
    const auto used = [&now](std::size_t c) { return c == now.timeColumn || c == now.cpuColumn || c == now.gpuColumn; };
    std::erase_if(now.others, [&](const capture::NamedColumn& o) { return used(o.column); });
    std::erase_if(now.sensors, [&](const capture::SensorColumn& s) { return used(s.column); });
    for (const auto& column : {std::optional(before.timeColumn), before.cpuColumn, before.gpuColumn}) {
        if (!column || used(*column)) continue;
        const auto name = *column < heading.size() ? heading[*column] : "column " + std::to_string(*column + 1);
        now.others.push_back({*column, name, false});
    }
}

} // namespace

void Studio::openReading(const std::filesystem::path& file, std::optional<RunId> instead) {
    m_view.reading = std::make_shared<const Reading>(
        Reading{file, {{}, {}, {}, 0, false, {}, {}, fail(ErrorCode::NoFrames)}, {}, instead});
    m_view.station = Station::Runs;
    capture::ReadOptions options;
    options.remembered = m_dialects;
    readReading(options);
}

void Studio::readReading(const capture::ReadOptions& options) {
    m_readingPending = true;
    m_reader.post([this, reading = m_view.reading, options](const std::stop_token&) {
        auto preview = std::make_shared<Result<capture::LogPreview>>(capture::previewLog(reading->file, options));
        const auto begin = *preview && (*preview)->begin ? stats::summarize((*preview)->begin->framesMs) : std::nullopt;
        m_bridge.post([this, reading, preview, begin] {
            if (m_view.reading && m_view.reading != reading) return; // superseded
            m_readingPending = false;
            if (!m_view.reading) return; // left by now
            if (!*preview) {
                if (reading->preview.rows.empty()) m_view.reading.reset(); // nothing to look at
                return tell(preview->error());
            }
            if ((*preview)->rows.empty()) // the data would begin behind the log's begin
                return tell({ErrorCode::NoFrames, {}, {reading->file.string(), {}, {}, {}}, Kept::AllAsBefore});
            m_view.reading =
                std::make_shared<const Reading>(Reading{reading->file, **preview, begin, reading->instead});
            notify();
        });
    });
}

void Studio::correctReading(const QString& what, int steps) {
    if (!m_view.reading || m_readingPending) return;
    const auto& preview = m_view.reading->preview;
    capture::Dialect d = preview.dialect;
    capture::ReadOptions options;
    const auto columns = std::max<std::size_t>(1, d.columns);
    const std::vector<capture::TimeUnit> units{capture::TimeUnit::Seconds, capture::TimeUnit::Milliseconds,
                                               capture::TimeUnit::Microseconds, capture::TimeUnit::Nanoseconds};
    if (what == QStringLiteral("delimiter") || what == QStringLiteral("decimal")) {
        capture::CellRule cells{d.delimiter, d.decimalComma};
        if (what == QStringLiteral("decimal"))
            cells.decimalComma = !cells.decimalComma;
        else
            cells.delimiter = turned({',', ';', '\t', '|', ' '}, d.delimiter, steps);
        options.cells = cells;
        return readReading(options);
    }
    if (what == QStringLiteral("meaning"))
        d.meaning = d.meaning == capture::TimeMeaning::PerFrame ? capture::TimeMeaning::Cumulative
                                                                : capture::TimeMeaning::PerFrame;
    if (what == QStringLiteral("unit")) d.unit = turned(units, d.unit, steps);
    if (what == QStringLiteral("work_unit")) d.workUnit = turned(units, d.workUnit, steps);
    if (what == QStringLiteral("time")) {
        std::vector<std::size_t> all(columns);
        std::iota(all.begin(), all.end(), std::size_t{0});
        d.timeColumn = turned(all, d.timeColumn, steps);
    }
    if (what == QStringLiteral("cpu")) d.cpuColumn = turnedColumn(d.cpuColumn, columns, steps);
    if (what == QStringLiteral("gpu")) d.gpuColumn = turnedColumn(d.gpuColumn, columns, steps);
    if (what == QStringLiteral("program") && !preview.programs.empty()) {
        std::vector<std::string> names;
        for (const auto& [name, rows] : preview.programs) names.push_back(name);
        d.program = turned(names, d.program, steps);
    }
    if (what.startsWith(QStringLiteral("column."))) d.timeColumn = what.mid(7).toULongLong();
    d.columns = std::max(d.columns, d.timeColumn + 1);
    tidy(d, preview.dialect, preview.heading);
    options.dialect = d;
    readReading(options);
}

void Studio::editReading(const QString& what, const QString& text) {
    if (!m_view.reading || what != QStringLiteral("line")) return;
    const auto line = parseDouble(text.toStdString());
    if (!line || *line < 1 || *line > 1e6)
        return tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "line"}, Kept::AllAsBefore});
    capture::ReadOptions options;
    options.dialect = m_view.reading->preview.dialect;
    options.dialect->firstDataLine = static_cast<std::size_t>(*line) - 1;
    readReading(options);
}

void Studio::takeReading() {
    if (!m_view.reading || m_readingPending) return;
    const auto reading = std::exchange(m_view.reading, nullptr);
    const auto& preview = reading->preview;
    if (preview.headingMark != 0) {
        m_dialects[preview.headingMark] = preview.dialect;
        if (!m_dialectFile.empty())
            if (const auto saved = capture::saveDialects(m_dialectFile, m_dialects); !saved) tell(saved.error());
    }
    // Those that waited with it are read as it is now known.
    std::vector<Log> logs{{reading->file, preview.dialect, {}, reading->instead}};
    for (auto& log : std::exchange(m_unclear, {})) logs.push_back(std::move(log));
    import(std::move(logs));
    notify();
}

} // namespace impasto::app
