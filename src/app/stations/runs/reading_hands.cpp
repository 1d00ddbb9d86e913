// SPDX-License-Identifier: GPL-3.0-or-later
// A log that is looked at before it is read: what was guessed, corrected in place.
#include "shell/studio.h"
#include "stations/hands.h"
#include "stations/runs/runs.h"

#include <algorithm>
#include <cmath>
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

/// A column means one thing: what it was kept as before is dropped, and a column that lost its meaning is kept as it
/// is.
void tidy(logs::Dialect& now, const logs::Dialect& before, const std::vector<std::string>& heading) {
    const auto used = [&now](std::size_t c) { return c == now.timeColumn || c == now.cpuColumn || c == now.gpuColumn; };
    std::erase_if(now.others, [&](const logs::NamedColumn& o) { return used(o.column); });
    std::erase_if(now.sensors, [&](const logs::SensorColumn& s) { return used(s.column); });
    for (const auto& column : {std::optional(before.timeColumn), before.cpuColumn, before.gpuColumn}) {
        if (!column || used(*column)) continue;
        const auto name = *column < heading.size() ? heading[*column] : "column " + std::to_string(*column + 1);
        now.others.push_back({*column, name, false});
    }
}

/// Columns that are newly kept, by their headings; those without a number in them hold words.
void nameOthers(logs::Dialect& d, const logs::LogPreview& preview) {
    for (auto& other : d.others) {
        if (!other.name.empty()) continue;
        other.name = other.column < preview.heading.size() && !preview.heading[other.column].empty()
                         ? preview.heading[other.column]
                         : "column " + std::to_string(other.column + 1);
        const auto& values = preview.values[other.column];
        other.words = std::all_of(values.begin(), values.end(), [](double v) { return std::isnan(v); });
    }
    std::sort(d.others.begin(), d.others.end(),
              [](const logs::NamedColumn& a, const logs::NamedColumn& b) { return a.column < b.column; });
}

using Q = const QString&;

void takePreview(Studio& s, const std::shared_ptr<const Reading>& reading, const Result<logs::LogPreview>& preview,
                 const std::optional<frames::Summary>& begin) {
    auto& state = s.state<RunsState>();
    if (state.reading && state.reading != reading) return; // superseded
    state.readingPending = false;
    if (!state.reading) return; // left by now
    if (!preview) {
        if (reading->preview.rows.empty()) state.reading.reset(); // nothing to look at
        return s.tell(preview.error());
    }
    if (preview->rows.empty()) // the data would start behind the part of the log that was looked at
        return s.tell({ErrorCode::NoFrames, {}, {reading->file.string(), {}, {}, {}}, Kept::AllAsBefore});
    state.reading = std::make_shared<const Reading>(Reading{reading->file, *preview, begin, reading->instead});
    s.notify();
}

void readAgain(Studio& s, const logs::ReadOptions& options) {
    if (s.open() == nullptr) return;
    s.state<RunsState>().readingPending = true;
    s.open()->reader.post([&s, open = s.open(), reading = s.state<RunsState>().reading, options,
                           pending = s.pending()](const std::stop_token&) {
        auto preview = std::make_shared<Result<logs::LogPreview>>(logs::previewLog(reading->file, options));
        const auto begin =
            *preview && (*preview)->begin ? frames::summarize((*preview)->begin->framesMs) : std::nullopt;
        open->bridge.post([&s, reading, preview, begin, pending] { takePreview(s, reading, *preview, begin); });
    });
}

/// "us", "rate": the time in another unit or meaning.
void readAs(logs::Dialect& d, const std::string& how) {
    for (const auto unit : logs::allTimeUnits)
        if (logs::keyOf(unit) == how) d.unit = unit;
    if (how == "per_frame") d.meaning = logs::TimeMeaning::PerFrame;
    if (how == "cumulative") d.meaning = logs::TimeMeaning::Cumulative;
    if (how == "rate") d.meaning = logs::TimeMeaning::Rate;
}

/// What a column that is no time can be taken for, in turn.
struct TakenFor {
    enum class What { Kept, Cpu, Gpu, Sensor, Invented, Out };
    What what = What::Kept;
    std::optional<logs::SensorColumn> sensor = {};
    friend bool operator==(const TakenFor&, const TakenFor&) = default;
};

/// Kept, CPU work, GPU work, every sensor that its values can be of and no other column is, the count of invented
/// frames, or left out.
std::vector<TakenFor> canBeTakenFor(const logs::LogPreview& preview, std::size_t column) {
    using What = TakenFor::What;
    std::vector<TakenFor> out{{What::Kept}, {What::Cpu}, {What::Gpu}};
    const std::string heading = column < preview.heading.size() ? preview.heading[column] : std::string();
    for (const auto sensor : capture::allSensors) {
        const auto is = [sensor](const auto& s) { return s.sensor == sensor; };
        const auto& sensors = preview.dialect.sensors;
        const auto other = std::find_if(sensors.begin(), sensors.end(), is);
        if (other != sensors.end()) {
            if (other->column == column) out.push_back({What::Sensor, *other});
        } else if (column < preview.values.size()) {
            const auto taken = logs::takenForSensor(sensor, column, heading, preview.values[column]);
            if (taken) out.push_back({What::Sensor, taken});
        }
    }
    const auto& invented = preview.dialect.inventedColumn;
    const bool counts = column < preview.values.size() && logs::canCountInvented(preview.values[column]);
    if (counts && (!invented || invented == column)) out.push_back({What::Invented});
    out.push_back({What::Out});
    return out;
}

/// A column is taken for the next thing that it can be. The time stays the time.
void takeFor(logs::Dialect& d, const logs::LogPreview& preview, std::size_t column, int steps) {
    using What = TakenFor::What;
    if (column == d.timeColumn) return;
    const bool counts = logs::countsInvented(d) && column == d.inventedColumn;
    if (column == d.inventedColumn) { // every row a rendered frame
        d.inventedColumn.reset();
        d.inventedCells.clear();
    }
    const auto is = [column](const auto& c) { return c.column == column; };
    const auto sensor = std::find_if(d.sensors.begin(), d.sensors.end(), is);
    const TakenFor now = d.cpuColumn == column                               ? TakenFor{What::Cpu}
                         : d.gpuColumn == column                             ? TakenFor{What::Gpu}
                         : sensor != d.sensors.end()                         ? TakenFor{What::Sensor, *sensor}
                         : counts                                            ? TakenFor{What::Invented}
                         : std::any_of(d.others.begin(), d.others.end(), is) ? TakenFor{What::Kept}
                                                                             : TakenFor{What::Out};
    const TakenFor then = turned(canBeTakenFor(preview, column), now, steps);
    if (now.what == What::Cpu) d.cpuColumn.reset();
    if (now.what == What::Gpu) d.gpuColumn.reset();
    std::erase_if(d.others, is);
    std::erase_if(d.sensors, is);
    if (then.what == What::Cpu) d.cpuColumn = column;
    if (then.what == What::Gpu) d.gpuColumn = column;
    if (then.what == What::Sensor) d.sensors.push_back(*then.sensor);
    if (then.what == What::Invented) d.inventedColumn = column;
    if (then.what == What::Kept) d.others.push_back({column, {}, false});
}

/// The next value of one part of the dialect, forward or back.
void correct(Studio& s, Q what, int steps) {
    const auto& state = s.state<RunsState>();
    if (!state.reading || state.readingPending) return;
    const auto& preview = state.reading->preview;
    logs::Dialect d = preview.dialect;
    logs::ReadOptions options = s.options().reading;
    const auto columns = std::max<std::size_t>(1, d.columns);
    const std::vector<logs::TimeUnit> units(logs::allTimeUnits.begin(), logs::allTimeUnits.end());
    if (what == QStringLiteral("delimiter") || what == QStringLiteral("decimal")) {
        logs::CellRule cells{d.delimiter, d.decimalComma};
        if (what == QStringLiteral("decimal"))
            cells.decimalComma = !cells.decimalComma;
        else
            cells.delimiter = turned({',', ';', '\t', '|', ' '}, d.delimiter, steps);
        options.cells = cells;
        return readAgain(s, options);
    }
    if (what == QStringLiteral("meaning"))
        d.meaning = turned({logs::TimeMeaning::PerFrame, logs::TimeMeaning::Cumulative, logs::TimeMeaning::Rate},
                           d.meaning, steps);
    if (what == QStringLiteral("recording")) d.recording = turned({1, 2, 3, 4, 5, 6, 7, 8, 9}, d.recording, steps);
    if (what == QStringLiteral("unit")) d.unit = turned(units, d.unit, steps);
    if (what == QStringLiteral("cpu_unit")) d.cpuUnit = turned(units, d.cpuUnit, steps);
    if (what == QStringLiteral("gpu_unit")) d.gpuUnit = turned(units, d.gpuUnit, steps);
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
    if (what.startsWith(QStringLiteral("as."))) readAs(d, what.mid(3).toStdString());
    if (what.startsWith(QStringLiteral("taken."))) takeFor(d, preview, what.mid(6).toULongLong(), steps);
    if (what.startsWith(QStringLiteral("column."))) d.timeColumn = what.mid(7).toULongLong();
    d.columns = std::max(d.columns, d.timeColumn + 1);
    if (d.clockColumn == d.timeColumn || d.meaning != logs::TimeMeaning::PerFrame) d.clockColumn.reset();
    if (!what.startsWith(QStringLiteral("taken."))) tidy(d, preview.dialect, preview.heading);
    nameOthers(d, preview);
    options.dialect = d;
    readAgain(s, options);
}

void typeLine(Studio& s, Q, Q text) {
    const auto& state = s.state<RunsState>();
    if (!state.reading) return;
    const auto line = typedNumber(text);
    if (!line || *line < 1 || *line > 1e6)
        return s.tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "line"}, Kept::AllAsBefore});
    logs::ReadOptions options = s.options().reading;
    options.dialect = state.reading->preview.dialect;
    options.dialect->firstDataLine = static_cast<std::size_t>(*line) - 1;
    readAgain(s, options);
}

void take(Studio& s, Q) {
    auto& state = s.state<RunsState>();
    if (!state.reading || state.readingPending) return;
    const auto reading = std::exchange(state.reading, nullptr);
    const auto& preview = reading->preview;
    if (preview.headingMark != 0) s.remember(preview.headingMark, preview.dialect);
    // Those that waited with it are read as it is now known.
    std::vector<Log> logs{{reading->file, preview.dialect, {}, reading->instead}};
    for (auto& file : std::exchange(state.unclear, {})) logs.push_back({std::move(file)});
    s.import(std::move(logs));
    s.notify();
}

void leave(Studio& s, Q) {
    auto& state = s.state<RunsState>();
    state.reading.reset();
    state.readingPending = false;
    state.unclear.clear();
    s.notify();
}

/// A log whose columns are not clear; the one that is looked at already waits with the others.
void openUnclear(Studio& s, Q, Q file) {
    auto& state = s.state<RunsState>();
    if (state.reading) state.unclear.insert(state.unclear.begin(), state.reading->file);
    openReading(s, file.toStdString());
}

} // namespace

void openReading(Studio& s, const std::filesystem::path& file, std::optional<RunId> instead) {
    if (s.open() == nullptr) return;
    s.state<RunsState>().reading = std::make_shared<const Reading>(
        Reading{file, {{}, {}, {}, 0, false, {}, {}, {}, fail(ErrorCode::NoFrames)}, {}, instead});
    s.go(runsStation().id);
    logs::ReadOptions options = s.options().reading;
    options.remembered = s.dialects();
    readAgain(s, options);
}

std::vector<Hand> readingHands() {
    return {{"reading.", [](Studio& s, Q what) { correct(s, what, 1); }, nullptr, correct},
            {"reading.take", take},
            {"reading.leave", leave},
            {"reading.line", nullptr, typeLine},
            {"reading.open", nullptr, openUnclear}};
}

} // namespace impasto::app
