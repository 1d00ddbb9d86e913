// SPDX-License-Identifier: GPL-3.0-or-later
// The rows of a foreign log, one after the other, into a capture.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <impasto/base/text.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <limits>
#include <map>

#include "against_clock.h"
#include "clock.h"
#include "number.h"
#include "rows.h"
#include "words_column.h"

namespace impasto::logs {

/// What a frame can last, in sense.
inline constexpr double leastFrameMs = 0.05, mostFrameMs = 60000;

/// Fills a capture row by row; the first fault ends it. What is passed over is counted, and told as notes.
class Importer {
  public:
    explicit Importer(Dialect dialect) : m_dialect(std::move(dialect)) {
        const auto read = columnsRead(m_dialect);
        m_slots.resize(read.back() + 1);
        for (std::size_t i = 0; i < read.size(); ++i) m_slots[read[i]] = i;
        m_frames = m_dialect.meaning == TimeMeaning::PerFrame && m_dialect.program.empty() &&
                   (!m_dialect.inventedColumn || m_counts);
        begin();
    }

    /// Room for about so many rows, so that nothing is copied while it grows.
    void expect(std::size_t rows) {
        m_capture.framesMs.reserve(rows);
        if (m_capture.cpuWorkMs) m_capture.cpuWorkMs->reserve(rows);
        if (m_capture.gpuWorkMs) m_capture.gpuWorkMs->reserve(rows);
        for (auto& other : m_capture.others) other.values.reserve(rows);
    }

    /// A line before the first row: one that a second recording may begin with, too.
    void before(const Line& line) {
        constexpr std::size_t most = 50, longest = 65536;
        if (m_heading.size() < most && !trimmed(line.text).empty())
            m_heading.emplace_back(line.text.substr(0, longest));
    }

    /// Whether rows may be frames one after the other, so that rows() takes many of them at once.
    [[nodiscard]] bool takesTogether() const { return m_frames && !m_pending && m_recording <= m_dialect.recording; }
    /// Of rows() each.
    [[nodiscard]] std::size_t cellsTogether() const {
        std::size_t most = fewestCells();
        for (const auto& other : m_dialect.others) most = std::max(most, other.column + 1);
        return most;
    }
    /// Takes the first of the rows, up to one of which something is to be said, a column at a time; gives how many.
    std::size_t rows(const CutRows& rows);

    /// Takes a row, or passes it over with a note. Errors: a cell that is neither a time nor says that there is none,
    /// told once a frame follows it (else it is a summary's); a time that falls.
    std::optional<Error> row(const CutLine& cut) {
        const Line& line = cut.line;
        m_row = &cut;
        if (m_row->cells.size() < fewestCells()) {
            const auto uneven =
                refusal(ErrorCode::UnevenRow, fmt::format("{}/{}", m_row->cells.size(), m_dialect.columns), line.number,
                        m_row->cells.size());
            if (!line.ended) return uneven; // cut while it was written
            pass(NoteKind::OtherWidth, line.number, uneven);
            return std::nullopt;
        }
        if (!m_dialect.program.empty() && !ofTheProgram(line)) return std::nullopt;
        if (m_unsure) {
            const double next = time(m_dialect.timeColumn);
            if (!std::isnan(next) && !goesOn(next * m_unitMs)) return m_unsure;
            if (!std::isnan(next)) m_unsure.reset();
        }
        if (m_recording > m_dialect.recording) {
            pass(NoteKind::OtherRecording, line.number);
            return std::nullopt;
        }
        const double value = time(m_dialect.timeColumn);
        if (m_dialect.inventedColumn && !m_counts && invents(value, line)) return std::nullopt;
        const auto refused = [&](ErrorCode code) {
            if (line.text.find('\0') != std::string_view::npos) // no log any more
                return refusal(ErrorCode::NotText, "binary", line.number, line.text.find('\0') + 1);
            return refusal(code, std::string(trimmed(timeCell()).substr(0, 40)), line.number, m_dialect.timeColumn + 1);
        };
        if (std::isnan(value)) return untold(line, refused(ErrorCode::BadNumber));
        if (m_dialect.meaning == TimeMeaning::Cumulative) return stamp(value * m_unitMs, line, refused);
        if (m_pending && m_headed && another(line)) return std::nullopt;
        if (m_pending) return m_pending;
        if (value < 0) return refused(ErrorCode::NegativeTime);
        if (m_dialect.clockColumn && again(value)) {
            pass(NoteKind::RepeatedStamp, line.number);
            return std::nullopt;
        }
        doubt(value * m_unitMs, timeCell(), line.number);
        const std::size_t before = m_capture.frames();
        const bool rate = m_dialect.meaning == TimeMeaning::Rate;
        if (rate) pass(NoteKind::RatesTurned, line.number);
        take(!rate ? value * m_unitMs : value > 0 ? 1000 / value : 1e30, NoteKind::ZeroTime, line, refused);
        if (m_dialect.clockColumn && m_capture.frames() > before)
            holdAgainstClock(line.number, [this] { return time(*m_dialect.clockColumn) * m_clockUnitMs; });
        return std::nullopt;
    }

    /// In a log of one column, so many lines between frames were empty: of frames whose time is missing, unless they
    /// are many: then it was written so.
    void blank(std::size_t lines, std::size_t firstLine) {
        if (4 * lines >= m_capture.frames()) return;
        for (std::size_t i = 0; i < lines; ++i)
            pass(NoteKind::MissingTime, firstLine, refusal(ErrorCode::BadNumber, "", firstLine, 1));
    }

    /// After the last row. Errors: where so much was passed over that what is left is not the log.
    std::optional<Error> finish();

    [[nodiscard]] const capture::Capture& capture() const { return m_capture; }
    [[nodiscard]] const Dialect& dialect() const { return m_dialect; }
    capture::Capture take();

  private:
    [[nodiscard]] std::size_t fewestCells() const { return std::max(m_dialect.columns, m_dialect.timeColumn + 1); }
    /// An empty capture with the columns of the dialect.
    void begin();

    struct Passed {
        std::size_t count = 0, line = 0; // of the first, from 1
        std::optional<Error> first;      // what it would be told as
    };

    using Names = std::vector<std::pair<std::string, std::size_t>>;

    /// Else it is counted under the name of its own.
    bool ofTheProgram(const Line& line);
    /// The fullest of them.
    [[nodiscard]] Names otherPrograms() const;

    /// A frame that was invented: what it takes belongs to the rendered one behind it.
    [[nodiscard]] bool invents(double value, const Line& line);

    /// A time stamp; one that falls is an error, unless it falls back to about where the first one was: then another
    /// recording begins.
    template <class Refused>
    std::optional<Error> stamp(double ms, const Line& line, const Refused& refused) {
        constexpr std::size_t fewestFrames = 3;
        if (m_last && ms < *m_last && m_seen >= fewestFrames) {
            const double length = *m_last - m_firstStamp;
            if (!m_clock.used && ms <= m_firstStamp + std::min(1000.0, 0.05 * length))
                return restart(ms, line, refused(ErrorCode::TimeRunsBackwards));
        }
        if (m_pending) return m_pending;
        if (m_last && ms < *m_last) return refused(ErrorCode::TimeRunsBackwards);
        const auto before = std::exchange(m_last, ms);
        if (++m_seen == 1) {
            m_firstStamp = ms;
            m_between = {}; // before the first frame
        }
        if (before) take(ms - *before, NoteKind::RepeatedStamp, line, refused);
        return std::nullopt;
    }

    /// The row before once more: its frame time at its stamp.
    [[nodiscard]] bool again(double value) {
        const double stamp = time(*m_dialect.clockColumn);
        const bool same = value == m_rowBefore.first && stamp == m_rowBefore.second;
        m_rowBefore = {value, stamp};
        return same;
    }

    /// A long frame without a decimal mark among others that have one has perhaps lost it.
    void doubt(double ms, std::string_view cell, std::size_t line) {
        constexpr std::size_t everyNth = 16; // is looked at: a look costs more than a row may
        const bool longFrame = ms * static_cast<double>(m_capture.frames()) > 5 * m_atMs;
        if (m_rows++ % everyNth != 0 && !longFrame) return;
        const bool usual = cell.find(m_dialect.decimalComma ? ',' : '.') != std::string_view::npos &&
                           cell.find_first_of("eE") == std::string_view::npos;
        m_marked += usual && (m_rows - 1) % everyNth == 0 ? 1 : 0;
        if (!usual && longFrame) pass(NoteKind::Unlike, line);
    }

    /// Frames that follow one another and take hundreds of times as long as those before are perhaps in another unit.
    void doubtUnit(double ms, std::size_t line) {
        constexpr double times = 300;
        constexpr std::size_t fewest = 3, fewestBefore = 10;
        const std::size_t frames = m_capture.frames();
        if (m_longer.count == 0) {
            if (frames < fewestBefore || ms * static_cast<double>(frames) <= times * m_atMs)
                return; // nearly every frame
            m_longer = {0, line, m_atMs / static_cast<double>(frames)};
        } else if (ms <= times * m_longer.usualMs) {
            if (m_longer.count < fewest) m_longer = {};
            return;
        }
        if (++m_longer.count < fewest) return;
        auto& all = passed(NoteKind::UnitChange);
        if (all.count == 0) all.line = m_longer.line + 1;
        all.count += m_longer.count == fewest ? fewest : 1;
    }

    template <class Stamp>
    void holdAgainstClock(std::size_t line, const Stamp& stamp) {
        if (m_againstClock.apart(m_capture.frames(), m_capture.framesMs.back(), m_atMs, stamp))
            pass(NoteKind::ClockApart, line);
    }
    /// Such frames are told only where nearly all others have a mark.
    [[nodiscard]] bool marksAreUsual() const { return 20 * m_marked * 16 >= 19 * m_rows; }

    std::optional<Error> restart(double ms, const Line& line, Error fault);

    /// Whether the stamp after a restart goes on from there as those before it did: else a single one was wrong.
    [[nodiscard]] bool goesOn(double ms) const {
        const double step = ms - m_restartMs, usual = (*m_last - m_firstStamp) / static_cast<double>(m_seen);
        return step >= 0 && (m_seen < 3 || step <= std::max(1000.0, 20 * usual));
    }

    [[nodiscard]] Passed& passed(NoteKind kind) { return m_passed[static_cast<std::size_t>(kind)]; }

    void pass(NoteKind kind, std::size_t line, std::optional<Error> fault = {}) {
        auto& all = passed(kind);
        if (all.count++ == 0) {
            all.line = line + 1;
            all.first = std::move(fault);
        }
    }

    /// A cell that holds no time.
    std::optional<Error> untold(const Line& line, Error fault);

    /// A heading alone lies between the frames: what follows it is another recording. True where this row is not of
    /// the one that is read.
    bool another(const Line& line);

    /// A frame, or what cannot be one.
    template <class Refused>
    void take(double ms, NoteKind none, const Line& line, const Refused& refused) {
        if (ms >= leastFrameMs && ms <= mostFrameMs) return push(ms);
        if (ms == 0) return pass(none, line.number);
        auto fault = refused(ErrorCode::OutOfRange);
        fault.what = "0.05 ms to 60 s";
        pass(NoteKind::AbsurdTime, line.number, std::move(fault));
    }

    /// Last rows that name themselves "average" or "max", and one that repeats what all before it come to, are no
    /// frames.
    void leaveOutLabelled();
    /// A column of rates that comes to another one than the frame times, and its rate.
    [[nodiscard]] std::optional<std::pair<std::string, std::size_t>> rateApart() const;
    /// Rows that say that their frame was never shown.
    [[nodiscard]] std::size_t neverShown() const;
    void leaveOutSum();
    void dropLast(std::size_t frames);
    /// A cell that names a figure of all other rows.
    [[nodiscard]] static bool isLabel(std::string_view cell);
    /// Where the first frame's row had a number: words, letters last ("avg", "1% low").
    [[nodiscard]] bool isWordAmongNumbers(std::string_view cell, std::size_t column) const;
    /// One of the cells that every row has names a figure of all other rows. `cell`: of a column.
    template <class Cell>
    [[nodiscard]] bool isLabelled(const Cell& cell) const {
        const std::size_t cells = cellsTogether();
        for (std::size_t column = 0; column < cells; ++column)
            if (isLabel(cell(column)) || isWordAmongNumbers(cell(column), column)) return true;
        return false;
    }
    /// Which columns are numbers, by the first frame's row.
    template <class Cell>
    void lookAtFirst(const Cell& cell) {
        for (std::size_t column = m_numbers.size(); column < cellsTogether(); ++column)
            m_numbers.push_back(parseNumber(cell(column), m_dialect.decimalComma).has_value());
    }

    [[nodiscard]] std::string_view timeCell() const { return m_row->cells[m_dialect.timeColumn]; }
    /// Of the row; NaN where there is none.
    [[nodiscard]] double number(std::size_t column) const { return m_row->numbers[m_slots[column]]; }
    /// A number, or a clock time in seconds.
    [[nodiscard]] double time(std::size_t column) {
        const double value = number(column);
        if (!std::isnan(value) || column >= m_row->cells.size()) return value;
        return parseClock(m_row->cells[column], m_clock).value_or(value);
    }

    void push(double frameMs) {
        frameMs += m_between.ms;
        if (m_capture.invented && !m_counts) m_capture.invented->push_back(static_cast<double>(m_between.frames));
        m_between = {};
        doubtUnit(frameMs, m_row->line.number);
        m_capture.framesMs.push_back(frameMs);
        const auto cell = [this](std::size_t column) {
            return column < m_row->cells.size() ? m_row->cells[column] : std::string_view();
        };
        lookAtFirst(cell);
        m_labelled = isLabelled(cell) ? m_labelled + 1 : 0;
        const double before = std::exchange(m_atMs, m_atMs + frameMs);
        const RowEntry entry{0, 0, 0, true, false, false};
        addBeside({m_row->line.number, {&entry, 1}, m_row->cells, m_row->numbers.data(), m_row->numbers.size()}, 1,
                  before);
    }

    /// A sensor's columns, as the dialect has them: of several the greatest value counts.
    struct Told {
        capture::Sensor sensor = capture::Sensor::GpuLoad;
        std::vector<std::pair<std::size_t, double>> columns; // with what their values are times
        template <class NumberIn>
        [[nodiscard]] double of(const NumberIn& numberIn) const {
            double most = std::numeric_limits<double>::quiet_NaN();
            for (const auto& [column, factor] : columns) most = std::fmax(most, factor * numberIn(column));
            return most;
        }
    };

    /// What the first so many rows say beside their frames, which were taken; the first one begins at `atMs`.
    void addBeside(const CutRows& rows, std::size_t count, double atMs);
    void read(std::size_t sensor, const CutRows& rows, std::size_t count, double atMs);

    /// Readings in a row that is no frame, of sensors that no frame told so far: kept as they stand. True where there
    /// are any.
    bool readBeside();

    Dialect m_dialect;
    double m_unitMs = msPer(m_dialect.unit), m_clockUnitMs = msPer(m_dialect.clockUnit);
    bool m_counts = countsInvented(m_dialect);
    capture::Capture m_capture;
    const CutLine* m_row = nullptr;   // the one that is read
    std::vector<std::size_t> m_slots; // of a column that is read, in the numbers
    bool m_frames = false;            // every row is a frame's, with its time
    std::optional<double> m_last;
    std::size_t m_rows = 0, m_marked = 0; // frame times; of those looked at, with a decimal mark
    AgainstClock m_againstClock;
    std::pair<double, double> m_rowBefore{-1, 0}; // frame time and stamp, as written
    std::optional<Error> m_unsure;                // a restart that the next stamp must bear out
    double m_restartMs = 0;
    double m_firstStamp = 0;                     // of the recording
    std::size_t m_seen = 0, m_recording = 1;     // stamps of it; which one it is
    std::map<std::string, std::size_t> m_others; // rows of programs that do not count
    Clock m_clock;
    std::array<Passed, noteKinds> m_passed;
    Passed m_ending;                    // rows without a time that no frame follows yet
    std::optional<Error> m_pending;     // the first of them, as it is told where one does
    bool m_headed = false;              // they are lines of the heading
    std::vector<std::string> m_heading; // the lines before the first row
    struct Reading {
        double sum = 0;
        std::size_t count = 0;
        double sinceMs = 0;
        bool ofFrames = false; // told in their rows
    };
    std::vector<Told> m_sensors;
    std::vector<Reading> m_readings;  // by sensor
    std::vector<WordsColumn> m_words; // by the dialect's other columns
    double m_atMs = 0;
    std::size_t m_frameLine = 0; // of the last frame, from 0
    std::vector<bool> m_numbers; // which columns are, in the first frame's row
    std::size_t m_labelled = 0;  // last frames whose rows name themselves a figure of all others
    struct Between {
        double ms = 0;
        std::size_t frames = 0;
    };
    Between m_between; // invented frames since the last rendered one
    struct Longer {
        std::size_t count = 0, line = 0; // of the first
        double usualMs = 0;              // before it
    };
    Longer m_longer; // frames that are perhaps in another unit
};

} // namespace impasto::logs
