// SPDX-License-Identifier: GPL-3.0-or-later
// Finds the dialect of a foreign log from its content.
#include <algorithm>
#include <array>
#include <cmath>
#include <impasto/base/text.h>
#include <impasto/logs/import.h>

#include "begin.h"
#include "head.h"
#include "heading.h"
#include "nature.h"

namespace impasto::logs {
namespace {

constexpr std::array<std::string_view, 2> allLanes{"cpu", "gpu"};

struct Choice {
    std::size_t column;
    TimeMeaning meaning;
    TimeUnit unit;
};

class Guess {
  public:
    /// `all`: with the rows of others, which may hold the readings.
    Guess(const Table& table, const Table& all, std::vector<std::size_t> programColumns)
        : m_table(table), m_all(all), m_programColumns(std::move(programColumns)) {
        for (std::size_t c = 0; c < table.values.size(); ++c) {
            auto& nature = m_natures.emplace_back(natureOf(table.values[c], table.missing[c]));
            if (nature.mostlyFalls && !saysFrameTime(header(c))) nature.perFrame = false;
            if (nature.positive >= 0.8 && saysFrameTime(header(c))) nature.perFrame = true; // else it took no time
            if (nature.fall && (nature.wide || (says(c, {"time", "elapsed", "stamp"}) && !says(c, {"frame"}))))
                nature.perFrame = false;
            else
                nature.fall.reset();
            // Whole seconds in a row are a clock where the heading says so.
            if (nature.counts && (unitInHeader(header(c)) || says(c, {"time", "elapsed", "second"}))) {
                nature.cumulative = true;
                nature.counts = false;
                continue;
            }
            // A counter of frames that some rows are missing from is no clock either.
            if (!nature.cumulative || !nature.whole || nature.typical != 1 || table.clocks[c].used) continue;
            if (says(c, {"frame", "index", "number", "count", "id", "no.", "#"}) && !unitInHeader(header(c))) {
                nature.cumulative = false;
                nature.counts = true;
            }
        }
        m_rate = rateColumn();
    }

    /// `asked`: whether a heading whose unit the values contradict is an error.
    Result<Dialect> dialect(bool asked) const {
        const auto time = timeColumn();
        if (!time) return tl::unexpected(time.error());
        if (const auto fault = notOneAfterTheOther(*time)) return tl::unexpected(*fault);
        if (const auto doubt = asked ? unclearUnit(time->column) : std::nullopt) return tl::unexpected(*doubt);
        Dialect d;
        d.delimiter = m_table.delimiter;
        d.decimalComma = m_table.decimalComma;
        d.unitsBehind = m_table.unitsBehind;
        d.firstDataLine = m_table.firstDataLine;
        d.columns = m_table.columns;
        d.timeColumn = time->column;
        d.meaning = time->meaning;
        d.unit = time->unit;
        d.programColumns = m_programColumns;
        if (const auto clock = d.meaning == TimeMeaning::PerFrame ? clockBeside(d) : std::nullopt) {
            d.clockColumn = clock->column;
            d.clockUnit = clock->unit;
        }
        addColumns(d);
        return d;
    }

    /// What each column besides the time is.
    void addColumns(Dialect& d) const {
        d.cpuColumn = workColumn("cpu", d.timeColumn);
        d.gpuColumn = workColumn("gpu", d.timeColumn);
        if (d.cpuColumn) d.cpuUnit = workUnit(d, *d.cpuColumn);
        if (d.gpuColumn) d.gpuUnit = workUnit(d, *d.gpuColumn);
        for (std::size_t c = 0; c < m_natures.size() && !d.inventedColumn; ++c)
            if (c != d.timeColumn && saysInventedCount(header(c)) && canCountInvented(m_table.values[c]))
                d.inventedColumn = c;
        d.others.clear();
        std::vector<SensorFound> found;
        for (std::size_t c = 0; c < m_natures.size(); ++c) {
            if (c == d.timeColumn || c == d.cpuColumn || c == d.gpuColumn || c == d.inventedColumn) continue;
            const auto& values = c < m_all.values.size() ? m_all.values[c] : m_table.values[c];
            if (const auto sensor = sensorOf(header(c), c, values))
                found.push_back({*sensor, header(c), meanOf(values)});
        }
        d.sensors = oneOfEach(found);
        std::stable_sort(d.sensors.begin(), d.sensors.end(), [](const SensorColumn& a, const SensorColumn& b) {
            return keyOf(a.sensor) < keyOf(b.sensor);
        });
        addOthers(d);
    }

    /// How long a row lasts where rates are told at steps far longer than their frames.
    [[nodiscard]] std::optional<double> stepOfRates() const {
        for (std::size_t c = 0; m_rate && c < m_natures.size(); ++c) {
            const double stepMs = m_natures[c].typical * msPer(unitOf(c));
            if (m_natures[c].cumulative && !saysOther(c) && isLong(stepMs, 1000 / m_natures[*m_rate].typical))
                return stepMs;
        }
        return std::nullopt;
    }

  private:
    [[nodiscard]] std::string_view header(std::size_t c) const {
        return c < m_table.header.size() ? std::string_view(m_table.header[c]) : std::string_view();
    }

    [[nodiscard]] bool says(std::size_t c, std::initializer_list<std::string_view> words) const {
        return std::any_of(words.begin(), words.end(), [&](std::string_view w) { return hasWord(header(c), w); });
    }
    /// A figure of something else, by its heading; or one and the same whole number all the way, of which no heading
    /// says that it is a time.
    [[nodiscard]] bool saysOther(std::size_t c) const {
        if (saysOtherFigure(header(c), m_table.clocks[c].used)) return true;
        return m_natures[c].constant && m_natures[c].whole && !header(c).empty() && !saysTime(header(c));
    }

    [[nodiscard]] TimeUnit unitOf(std::size_t c) const {
        if (m_table.clocks[c].used) return TimeUnit::Seconds;
        const auto byRate = unitBesideRate(c);
        const TimeUnit byValue = byRate ? *byRate : plausibleUnit(m_natures[c].typical);
        const auto said = unitInHeader(header(c));
        if (!said) return byValue;
        const double ms = m_natures[c].typical * msPer(*said);
        return ms > 0.01 && ms < 60000.0 ? *said : byValue;
    }

    /// The column of rates; of averages, where others hold least and greatest.
    [[nodiscard]] std::optional<std::size_t> rateColumn() const {
        std::optional<std::size_t> found;
        int best = -1;
        for (std::size_t c = 0; c < m_natures.size(); ++c) {
            if (!saysRate(header(c)) || m_natures[c].typical <= 0) continue;
            const bool average = says(c, {"average", "avg", "mean"}),
                       other = says(c, {"min", "max", "low", "high", "1%", "target", "limit", "worst"});
            const int fit = average ? 2 : other ? 0 : 1;
            if (fit > best) found = c;
            best = std::max(best, fit);
        }
        return found;
    }
    /// A clock that ticks evenly, far slower than frames or by one a row, is no clock of frames; one that ticks twice a
    /// second or less is none at all.
    [[nodiscard]] std::optional<Error> evenRows(std::size_t c) const {
        const double stepMs = m_natures[c].typical * msPer(unitOf(c));
        const bool counts = m_natures[c].whole && m_natures[c].typical == 1;
        const bool even = m_natures[c].uneven < 1e-6;
        const bool slow = stepMs > 500;
        if (!slow && (!even || (stepMs < 90 && !counts))) return std::nullopt;
        return refusal(ErrorCode::NotFrames,
                       stepMs < 90 ? "its clock counts rows" : fmt::format("a row every {:.3g} s", stepMs / 1000),
                       m_table.firstDataLine, c + 1);
    }
    /// Whether rows of such a step are far longer than the frames of the rates in them.
    [[nodiscard]] static bool isLong(double stepMs, double frameMs) { return stepMs > 1.5 * frameMs && stepMs >= 90; }

    /// The unit in which times agree with the rates beside them: as frames, else as steps of many.
    [[nodiscard]] std::optional<TimeUnit> unitBesideRate(std::size_t c) const {
        if (!m_rate || *m_rate == c) return std::nullopt;
        const double frameMs = 1000 / m_natures[*m_rate].typical;
        constexpr std::array units{TimeUnit::Nanoseconds, TimeUnit::Microseconds, TimeUnit::Milliseconds,
                                   TimeUnit::Seconds};
        const auto fits = [&](const auto& among, const auto& sense) -> std::optional<TimeUnit> {
            const auto it = std::find_if(among.begin(), among.end(),
                                         [&](TimeUnit u) { return sense(m_natures[c].typical * msPer(u)); });
            return it == among.end() ? std::nullopt : std::optional(*it);
        };
        if (const auto u = fits(allTimeUnits, [&](double ms) { return ms > 0.5 * frameMs && ms < 2 * frameMs; }))
            return u;
        return m_natures[c].cumulative ? fits(units, [&](double ms) { return isLong(ms, frameMs); }) : std::nullopt;
    }

    /// The heading says one unit, and the values make sense in another one alone; or it says none, and both do.
    [[nodiscard]] std::optional<Error> unclearUnit(std::size_t c) const {
        const auto said = unitInHeader(header(c));
        const auto looks = plausibleUnit(m_natures[c].typical);
        if (m_table.clocks[c].used) return std::nullopt;
        if (const auto units = said || unitBesideRate(c) ? std::nullopt : unsettledUnits(m_natures[c]))
            return refusal(ErrorCode::UnclearUnit, *units, m_table.firstDataLine, c + 1);
        if (!said || *said == looks) return std::nullopt;
        const double ms = m_natures[c].typical * msPer(*said);
        if (ms >= 0.1 && ms < 1500) return std::nullopt;
        return refusal(ErrorCode::UnclearUnit, fmt::format("{}/{}", keyOf(*said), keyOf(looks)), m_table.firstDataLine,
                       c + 1);
    }

    /// What is left, but for what counts rows or repeats the time.
    void addOthers(Dialect& d) const {
        constexpr std::size_t most = 200, longestName = 200;
        const auto used = [&d](std::size_t c) {
            const auto is = [c](const auto& s) { return s.column == c; };
            return c == d.timeColumn || c == d.cpuColumn || c == d.gpuColumn || c == d.inventedColumn ||
                   std::any_of(d.sensors.begin(), d.sensors.end(), is) ||
                   std::find(d.programColumns.begin(), d.programColumns.end(), c) != d.programColumns.end();
        };
        for (std::size_t c = 0; c < m_natures.size() && d.others.size() < most; ++c) {
            const auto& values = m_table.values[c];
            const bool repeats = m_natures[c].cumulative && (d.meaning == TimeMeaning::Cumulative || matchedPair());
            if (used(c) || m_natures[c].counts || repeats) continue;
            const auto numbers = std::count_if(values.begin(), values.end(), [](double v) { return !std::isnan(v); });
            const std::string name = c < m_table.heading.size() && !m_table.heading[c].empty()
                                         ? m_table.heading[c].substr(0, longestName)
                                         : "column " + std::to_string(c + 1);
            d.others.push_back({c, name, 2 * static_cast<std::size_t>(numbers) < values.size()});
        }
    }

    /// A per-frame column that repeats the steps of a cumulative one, in units a power of 1000 apart.
    [[nodiscard]] std::optional<Choice> matchedPair() const {
        for (std::size_t t = 0; t < m_natures.size(); ++t)
            for (std::size_t f = 0; f < m_natures.size(); ++f)
                if (!saysOther(f) && factorOf(t, f)) return Choice{f, TimeMeaning::PerFrame, unitOf(f)};
        return std::nullopt;
    }

    [[nodiscard]] std::optional<double> factorOf(std::size_t t, std::size_t f) const {
        if (!m_natures[t].cumulative || !m_natures[f].perFrame) return std::nullopt;
        for (const double factor : {1e-9, 1e-6, 1e-4, 1e-3, 1e-1, 1.0, 1e3, 1e6, 1e9})
            if (repeatsSteps(m_table.values[t], m_table.values[f], factor)) return factor;
        return std::nullopt;
    }

    /// Time stamps whose steps the frame times repeat.
    [[nodiscard]] std::optional<Choice> clockBeside(const Dialect& d) const {
        for (std::size_t t = 0; t < m_natures.size(); ++t) {
            const auto factor = factorOf(t, d.timeColumn);
            if (!factor) continue;
            const double ms = *factor * msPer(d.unit);
            for (const auto unit : allTimeUnits)
                if (std::abs(msPer(unit) / ms - 1) < 1e-6) return Choice{t, TimeMeaning::Cumulative, unit};
        }
        return std::nullopt;
    }

    [[nodiscard]] Result<Choice> timeColumn() const {
        if (const auto pair = matchedPair()) return *pair;
        std::vector<std::size_t> perFrame, cumulative;
        for (std::size_t c = 0; c < m_natures.size(); ++c) {
            // Work of one lane is not a frame time, however large.
            if (says(c, {"cpu", "gpu"}) || saysOther(c)) continue;
            if (m_natures[c].perFrame) perFrame.push_back(c);
            if (m_natures[c].cumulative) cumulative.push_back(c);
        }
        for (const bool shown : {false, true}) // what was rendered before what was shown of it
            for (const auto c : perFrame)
                if (says(c, {"frame"}) && says(c, {"display", "shown"}) == shown) {
                    auto alike = perFrame;
                    std::erase_if(alike, [&](std::size_t each) { return header(each) != header(c); });
                    if (alike.size() == 1) return Choice{c, TimeMeaning::PerFrame, unitOf(c)};
                    return tl::unexpected(refusal(ErrorCode::AmbiguousColumns, namesOf(m_table.header, alike),
                                                  m_table.firstDataLine, c + 1));
                }
        if (const auto fault = noFramesAtAll(cumulative)) return tl::unexpected(*fault);
        if (cumulative.size() == 1) {
            if (const auto fault = evenRows(cumulative[0])) return tl::unexpected(*fault);
            return Choice{cumulative[0], TimeMeaning::Cumulative, unitOf(cumulative[0])};
        }
        if (cumulative.empty() && !perFrame.empty()) {
            auto times = perFrame; // those in a unit of time, where a heading says one
            std::erase_if(times, [this](std::size_t c) { return !unitInHeader(header(c)); });
            const auto widest = dominant(times.empty() ? perFrame : times);
            // The greatest of several may be a load, watts or degrees, unless its heading says that it is a time.
            const bool named = widest && (perFrame.size() == 1 || header(*widest).empty() || saysTime(header(*widest)));
            if (named && !shorterThanWork(*widest)) return Choice{*widest, TimeMeaning::PerFrame, unitOf(*widest)};
        }
        const std::size_t line = m_table.firstDataLine;
        if (cumulative.empty() && perFrame.empty())
            for (std::size_t c = 0; c < m_natures.size(); ++c)
                if (saysRate(header(c)) && m_natures[c].typical > 0 && ratesOfFrames(c))
                    return Choice{c, TimeMeaning::Rate, TimeUnit::Milliseconds};
        if (cumulative.empty())
            for (std::size_t c = 0; c < m_natures.size(); ++c)
                if (const auto fall = m_natures[c].fall; fall && !saysOther(c))
                    return tl::unexpected(refusal(ErrorCode::TimeRunsBackwards, shortestText(m_table.values[c][*fall]),
                                                  line + *fall, c + 1));
        if (perFrame.empty() && cumulative.empty())
            return tl::unexpected(refusal(ErrorCode::NoTimeColumn, {}, line, 1));
        const auto& alike = cumulative.empty() ? perFrame : cumulative;
        return tl::unexpected(
            refusal(ErrorCode::AmbiguousColumns, namesOf(m_table.header, alike), line, alike.front() + 1));
    }

    /// Rates at steps far longer than their frames, rates alone, or what runs came to.
    [[nodiscard]] std::optional<Error> noFramesAtAll(const std::vector<std::size_t>& clocks) const {
        const auto told = [&](std::string what, std::size_t c) {
            return refusal(ErrorCode::NotFrames, std::move(what), m_table.firstDataLine, c + 1);
        };
        std::optional<std::size_t> average, low;
        for (std::size_t c = 0; c < m_natures.size(); ++c) {
            if (says(c, {"average", "avg", "mean"})) average = c;
            if (says(c, {"low", "1%", "min"})) low = c;
        }
        if (average && low && clocks.empty() && m_table.rows < 200) return told("averages and lows of runs", *average);
        if (!m_rate) return std::nullopt;
        if (const auto step = stepOfRates())
            return told(fmt::format("one rate every {:.3g} s{}", *step / 1000, whatTheyComeTo(m_table.values[*m_rate])),
                        *m_rate);
        const bool other = std::any_of(m_natures.begin(), m_natures.end(),
                                       [](const Nature& n) { return n.cumulative || n.fall.has_value(); });
        std::size_t candidates = 0;
        for (std::size_t c = 0; c < m_natures.size(); ++c)
            candidates += m_natures[c].perFrame && !saysOther(c) ? 1U : 0U;
        if (!other && candidates == 0 && !ratesOfFrames(*m_rate)) return told("one rate a line", *m_rate);
        return std::nullopt;
    }

    /// Frame times in order of size, of several frames each, or one every so often by the clock beside them.
    [[nodiscard]] std::optional<Error> notOneAfterTheOther(const Choice& time) const {
        const bool clock = says(time.column, {"elapsed", "stamp", "clock"}) ||
                           (says(time.column, {"time"}) && !says(time.column, {"frame"}));
        const auto told = [&](std::string what) {
            return refusal(ErrorCode::NotFrames, std::move(what), m_table.firstDataLine, time.column + 1);
        };
        if (!clock && !m_table.clocks[time.column].used && inOrderOfSize(m_table.values[time.column]))
            return told("its times stand in order of size");
        if (time.meaning != TimeMeaning::PerFrame) return std::nullopt;
        const double frameMs = m_natures[time.column].typical * msPer(time.unit);
        for (std::size_t c = 0; c < m_natures.size(); ++c) {
            if (saysFramesOfRow(header(c)) && m_natures[c].whole && m_natures[c].perFrame && m_natures[c].typical > 1)
                return told(fmt::format("{:.0f} frames a row", m_natures[c].typical));
            const bool named = unitInHeader(header(c)) || m_table.clocks[c].used;
            if (c == time.column || !m_natures[c].cumulative || !named || saysOther(c)) continue;
            const double stepMs = std::min(m_natures[c].typical, meanStep(m_table.values[c])) * msPer(unitOf(c));
            if (stepMs > 3 * frameMs && stepMs > 50)
                return told(fmt::format("a frame time every {:.2g} s", stepMs / 1000));
        }
        return std::nullopt;
    }

    /// Momentary rates, one a frame: the heading says so, or a counter of frames stands beside them.
    [[nodiscard]] bool ratesOfFrames(std::size_t column) const {
        if (says(column, {"average", "avg", "mean"})) return false;
        if (says(column, {"moment", "instant", "per frame"})) return true;
        for (std::size_t c = 0; c < m_natures.size(); ++c)
            if (m_natures[c].counts && says(c, {"frame"})) return true;
        return false;
    }

    /// The column that holds the others: a frame lasts at least as long as the work of each lane in it.
    [[nodiscard]] std::optional<std::size_t> dominant(const std::vector<std::size_t>& columns) const {
        std::optional<std::size_t> found;
        for (const auto c : columns) {
            bool holds = true;
            for (const auto other : columns) {
                if (other == c) continue;
                const auto& a = m_table.values[c];
                const auto& b = m_table.values[other];
                const double ms = msPer(unitOf(c)), otherMs = msPer(unitOf(other));
                std::size_t above = 0;
                for (std::size_t i = 0; i < a.size(); ++i) above += a[i] * ms >= 0.98 * b[i] * otherMs ? 1 : 0;
                // Pipelined work may outlast its own frame now and then.
                // Whole numbers up to 100 over fractions, that no heading names, may be loads.
                const bool loads = header(c).empty() && m_natures[c].whole && !m_natures[other].whole &&
                                   m_natures[c].typical > 33 && m_natures[c].typical <= 100;
                holds = holds && !loads && static_cast<double>(above) >= 0.8 * static_cast<double>(a.size()) &&
                        plausibleUnit(m_natures[other].typical) == plausibleUnit(m_natures[c].typical);
            }
            if (holds && found) return std::nullopt;
            if (holds) found = c;
        }
        return found;
    }

    /// A frame does not last less than the work of CPU or GPU in it.
    [[nodiscard]] bool shorterThanWork(std::size_t column) const {
        return std::any_of(allLanes.begin(), allLanes.end(), [&](std::string_view lane) {
            const auto work = workColumn(lane, column);
            return work && m_natures[*work].typical * msPer(unitOf(*work)) >
                               1.5 * m_natures[column].typical * msPer(unitOf(column));
        });
    }

    [[nodiscard]] std::optional<std::size_t> workColumn(std::string_view lane, std::size_t timeColumn) const {
        for (std::size_t c = 0; c < m_natures.size(); ++c) {
            const bool isTime = unitInHeader(header(c)).has_value() || says(c, {"time", "work", "busy"});
            const bool other = says(c, {"load", "%", "clock", "temp", "wait", "mem", "power", "latency"});
            if (c != timeColumn && hasWord(header(c), lane) && isTime && !other && m_natures[c].typical > 0 &&
                !m_natures[c].cumulative)
                return c;
        }
        return std::nullopt;
    }

    /// As the heading says; else that of the frame times, or another in which the work is some of a frame.
    [[nodiscard]] TimeUnit workUnit(const Dialect& d, std::size_t column) const {
        if (const auto said = unitInHeader(header(column))) return *said;
        const bool perFrame = d.meaning == TimeMeaning::PerFrame;
        const double typical = m_natures[d.timeColumn].typical;
        const double frameMs = d.meaning == TimeMeaning::Rate ? 1000 / typical : typical * msPer(d.unit);
        const auto some = [&](TimeUnit unit) {
            const double share = m_natures[column].typical * msPer(unit) / frameMs;
            return share > 0.01 && share < 5;
        };
        const auto unit = perFrame ? d.unit : unitOf(column);
        const auto other = std::find_if(allTimeUnits.begin(), allTimeUnits.end(), some);
        return some(unit) || other == allTimeUnits.end() ? unit : *other;
    }

    const Table &m_table, &m_all;
    std::vector<std::size_t> m_programColumns;
    std::vector<Nature> m_natures;
    std::optional<std::size_t> m_rate; // of the columns, the one of rates
};

} // namespace

Result<Dialect> guessColumns(std::string_view text, const std::optional<CellRule>& cells, bool asked) {
    const auto begin = beginOf(text, cells);
    if (!begin) return tl::unexpected(begin.error());
    auto dialect = Guess(begin->table, begin->all, begin->programColumns).dialect(asked);
    if (dialect) dialect->newestFirst = begin->newestFirst;
    if (dialect) dialect->program = begin->program;
    if (!begin->invented) return dialect;
    const Guess ofRendered(begin->rendered, begin->rendered, begin->programColumns);
    if (!dialect) dialect = ofRendered.dialect(asked); // the others may tell no time
    if (!dialect) return dialect;
    dialect->newestFirst = begin->newestFirst;
    dialect->inventedColumn = begin->invented->column;
    dialect->inventedCells = begin->invented->cells;
    ofRendered.addColumns(*dialect);
    return dialect;
}

std::optional<double> rateStepMs(std::string_view text, const std::optional<CellRule>& cells) {
    const auto begin = beginOf(text, cells);
    return begin ? Guess(begin->table, begin->all, begin->programColumns).stepOfRates() : std::nullopt;
}

Result<Dialect> guessDialect(std::string_view text) {
    auto dialect = guessColumns(text);
    if (dialect && dialect->program.empty()) chooseProgram(*dialect, programsIn(text, *dialect));
    return dialect;
}

} // namespace impasto::logs
