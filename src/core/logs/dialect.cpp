// SPDX-License-Identifier: GPL-3.0-or-later
// A dialect as text, the programs and the heading of a log that is read with it.
#include <algorithm>
#include <cmath>
#include <impasto/base/fingerprint.h>
#include <impasto/base/keys.h>
#include <impasto/base/text.h>
#include <impasto/logs/import.h>

#include "head.h"

namespace impasto::logs {

double msPer(TimeUnit unit) {
    switch (unit) {
    case TimeUnit::Seconds:
        return 1e3;
    case TimeUnit::Milliseconds:
        return 1.0;
    case TimeUnit::Microseconds:
        return 1e-3;
    case TimeUnit::Ticks:
        return 1e-4;
    case TimeUnit::Nanoseconds:
        return 1e-6;
    }
    return 1.0;
}

std::string_view keyOf(TimeUnit unit) {
    switch (unit) {
    case TimeUnit::Seconds:
        return "s";
    case TimeUnit::Milliseconds:
        return "ms";
    case TimeUnit::Microseconds:
        return "us";
    case TimeUnit::Ticks:
        return "100ns";
    case TimeUnit::Nanoseconds:
        return "ns";
    }
    return {};
}

namespace {

constexpr double lastColumn = longestLine; // a line holds no more

constexpr Keys<TimeMeaning, 3> meanings{
    {{TimeMeaning::PerFrame, "per_frame"}, {TimeMeaning::Cumulative, "cumulative"}, {TimeMeaning::Rate, "rate"}}};

std::string sensorText(const Dialect& d) {
    std::map<std::string_view, std::string> columns; // of a sensor
    for (const auto& s : d.sensors) {
        auto& out = columns[keyOf(s.sensor)];
        out += fmt::format("{}{}x{}", out.empty() ? "" : "+", s.column + 1, shortestText(s.factor));
    }
    std::string out;
    for (const auto& [key, text] : columns) out += fmt::format(" {}={}", key, text);
    return out;
}

std::string othersText(const Dialect& d) {
    std::string out;
    for (const auto& o : d.others)
        out += fmt::format(" {}_{}={}", o.words ? "words" : "other", o.column + 1, wordOf(o.name));
    return out;
}

std::string inventedText(const Dialect& d) {
    if (countsInvented(d)) return fmt::format(" counts_invented={}", *d.inventedColumn + 1);
    std::string out;
    for (std::size_t i = 0; d.inventedColumn && i < d.inventedCells.size(); ++i)
        out += fmt::format(" invented_{}_{}={}", *d.inventedColumn + 1, i + 1, wordOf(d.inventedCells[i]));
    return out;
}

/// False for what says it wrongly.
bool addInvented(Dialect& d, std::string_view key, std::string_view value) {
    constexpr std::string_view begin = "invented_";
    if (!key.starts_with(begin)) return true;
    const auto column = parseDouble(cellsOf(key.substr(begin.size()), '_').front());
    const auto cell = textOfWord(value);
    if (!cell || !column || *column < 1 || *column > lastColumn || *column != std::floor(*column)) return false;
    d.inventedColumn = static_cast<std::size_t>(*column) - 1;
    d.inventedCells.push_back(*cell);
    return true;
}

std::string programText(const Dialect& d) {
    if (d.programColumns.empty()) return {};
    std::string columns;
    for (const auto c : d.programColumns) columns += fmt::format("{}{}", columns.empty() ? "" : "+", c + 1);
    return fmt::format(" program_columns={} program={}", columns, wordOf(d.program));
}

/// The columns of a sensor, each with what its values are times: "5x1", "5x1+6x1".
bool addSensor(Dialect& d, capture::Sensor sensor, std::string_view text) {
    for (const auto& one : cellsOf(text, '+')) {
        const auto cells = cellsOf(one, 'x');
        const double column = parseDouble(cells.front()).value_or(0),
                     factor = cells.size() == 2 ? parseDouble(cells.back()).value_or(0) : 0;
        if (!(column >= 1 && column <= lastColumn && factor > 0)) return false;
        d.sensors.push_back({sensor, static_cast<std::size_t>(column) - 1, factor});
    }
    return true;
}

} // namespace

std::string textOf(const Dialect& d) {
    const auto column = [](std::string_view name, const std::optional<std::size_t>& c) {
        return c ? fmt::format(" {}={}", name, *c + 1) : std::string();
    };
    const std::string delimiter = d.delimiter == '\t'  ? "tab"
                                  : d.delimiter == ' ' ? "space"
                                                       : std::string(1, d.delimiter);
    return fmt::format(
        "delimiter={} decimal={}{} first_line={} columns={} time_column={} meaning={} unit={}{}{}{}{}{}{}", delimiter,
        d.decimalComma ? "comma" : "point", d.unitsBehind ? " units=behind" : "", d.firstDataLine + 1, d.columns,
        d.timeColumn + 1, keyIn(meanings, d.meaning), keyOf(d.unit), column("cpu_column", d.cpuColumn),
        column("gpu_column", d.gpuColumn),
        (d.cpuColumn ? fmt::format(" cpu_unit={}", keyOf(d.cpuUnit)) : "") +
            (d.gpuColumn ? fmt::format(" gpu_unit={}", keyOf(d.gpuUnit)) : ""),
        sensorText(d), othersText(d),
        programText(d) + inventedText(d) +
            (d.clockColumn ? fmt::format(" clock_column={} clock_unit={}", *d.clockColumn + 1, keyOf(d.clockUnit))
                           : "") +
            (d.recording > 1 ? fmt::format(" recording={}", d.recording) : "") +
            (d.newestFirst ? " order=newest_first" : ""));
}

std::optional<Dialect> dialectOf(std::string_view text) {
    std::map<std::string_view, std::string_view> said;
    for (const auto word : cellsOf(text, ' ')) {
        const auto equals = word.find('=');
        if (equals == std::string_view::npos) return std::nullopt;
        said[word.substr(0, equals)] = word.substr(equals + 1);
    }
    bool good = true;
    const auto number = [&](std::string_view key, double most = lastColumn) {
        const auto value = parseDouble(said[key]);
        good = good && value && *value >= 1 && *value <= most && *value == std::floor(*value);
        return good ? static_cast<std::size_t>(*value) : 1;
    };
    const auto unit = [&](std::string_view key) {
        for (const auto u : allTimeUnits)
            if (keyOf(u) == said[key]) return u;
        good = false;
        return TimeUnit::Milliseconds;
    };
    const auto delimiter = said["delimiter"];
    Dialect d;
    d.delimiter = delimiter == "tab" ? '\t' : delimiter == "space" ? ' ' : delimiter.size() == 1 ? delimiter[0] : '\0';
    d.decimalComma = said["decimal"] == "comma";
    d.unitsBehind = said["units"] == "behind";
    d.firstDataLine = number("first_line", 1e9) - 1;
    d.columns = number("columns");
    d.timeColumn = number("time_column") - 1;
    d.meaning = valueIn(meanings, said["meaning"]).value_or(TimeMeaning::PerFrame);
    if (said.contains("clock_column")) d.clockColumn = number("clock_column") - 1;
    if (said.contains("clock_unit")) d.clockUnit = unit("clock_unit");
    d.newestFirst = said["order"] == "newest_first";
    if (said.contains("recording")) d.recording = number("recording");
    d.unit = unit("unit");
    if (said.contains("cpu_column")) d.cpuColumn = number("cpu_column") - 1;
    if (said.contains("gpu_column")) d.gpuColumn = number("gpu_column") - 1;
    if (said.contains("work_unit")) d.cpuUnit = d.gpuUnit = unit("work_unit"); // as it was said once, of both
    if (said.contains("cpu_unit")) d.cpuUnit = unit("cpu_unit");
    if (said.contains("gpu_unit")) d.gpuUnit = unit("gpu_unit");
    if (said.contains("counts_invented")) d.inventedColumn = number("counts_invented") - 1;
    for (const auto& [key, value] : said)
        if (const auto sensor = capture::sensorOf(key)) good = good && addSensor(d, *sensor, value);
    for (const auto& [key, value] : said) {
        const bool words = key.substr(0, 6) == "words_";
        if (!words && key.substr(0, 6) != "other_") continue;
        const auto column = parseDouble(key.substr(6));
        const auto name = textOfWord(value);
        good = good && column && *column >= 1 && *column <= lastColumn && *column == std::floor(*column) && name;
        if (good) d.others.push_back({static_cast<std::size_t>(*column) - 1, *name, words});
    }
    std::sort(d.others.begin(), d.others.end(),
              [](const NamedColumn& a, const NamedColumn& b) { return a.column < b.column; });
    for (const auto& [key, value] : said) good = good && addInvented(d, key, value);
    if (said.contains("program_columns")) {
        for (const auto cell : cellsOf(said["program_columns"], '+')) {
            const auto column = parseDouble(cell);
            good = good && column && *column >= 1 && *column <= lastColumn;
            if (good) d.programColumns.push_back(static_cast<std::size_t>(*column) - 1);
        }
        const auto program = textOfWord(said["program"]);
        good = good && program;
        d.program = program.value_or(std::string());
    }
    good = good && d.timeColumn < d.columns;
    return good && d.delimiter != '\0' ? std::optional(d) : std::nullopt;
}

void chooseProgram(Dialect& dialect, const std::vector<std::pair<std::string, std::size_t>>& programs) {
    if (programs.size() > 1)
        dialect.program = programs.front().first;
    else
        dialect.programColumns.clear();
}

std::vector<std::pair<std::string, std::size_t>> programsIn(std::string_view text, const Dialect& dialect) {
    return programsOf(Lines(text), dialect);
}

std::vector<std::pair<std::string, std::size_t>> programsOf(Lines lines, const Dialect& dialect) {
    if (dialect.programColumns.empty()) return {};
    std::map<std::string, std::size_t> counts;
    while (const auto line = lines.next()) {
        if (line->tooLong || line->number < dialect.firstDataLine || isComment(line->text)) continue;
        const auto cells = cellsOf(line->text, dialect.delimiter);
        if (cells.size() >= dialect.columns) ++counts[joinedCells(cells, dialect.programColumns)];
    }
    std::vector<std::pair<std::string, std::size_t>> out(counts.begin(), counts.end());
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
    return out;
}

std::vector<std::string> headingOf(std::string_view begin, const Dialect& dialect) {
    std::vector<std::string> heading;
    Lines lines(begin);
    while (const auto line = lines.next()) {
        if (line->number >= dialect.firstDataLine) break;
        const auto cells = cellsOf(line->text, dialect.delimiter);
        if (isComment(line->text) || cells.size() != dialect.columns) continue;
        heading.clear();
        for (const auto cell : cells) heading.emplace_back(trimmed(cell));
    }
    return heading;
}

std::uint64_t markOf(const std::vector<std::string>& heading) {
    if (heading.empty()) return 0;
    Fingerprint mark;
    for (const auto& cell : heading) mark.add(cell);
    return mark.value();
}

} // namespace impasto::logs
