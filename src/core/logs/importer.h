// SPDX-License-Identifier: GPL-3.0-or-later
// The rows of a foreign log, one after the other, into a capture.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <impasto/base/text.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <map>

#include "against_clock.h"
#include "clock.h"
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

    /// Takes a row, or passes it over with a note. Errors: a cell that is neither a time nor says that there is none,
    /// told once a frame follows it (else it is a summary's); a time that falls.
    std::optional<Error> row(const CutLine& cut) {
        const Line& line = cut.line;
        m_row = &cut;
        if (m_row->cells.size() < std::max(m_dialect.columns, m_dialect.timeColumn + 1)) {
            const auto uneven =
                refusal(ErrorCode::UnevenRow, fmt::format("{}/{}", m_row->cells.size(), m_dialect.columns), line.number,
                        m_row->cells.size());
            if (!line.ended) return uneven; // cut while it was written
            pass(NoteKind::OtherWidth, line, uneven);
            return std::nullopt;
        }
        if (!m_dialect.program.empty() && !ofTheProgram(line)) return std::nullopt;
        if (m_unsure) {
            const double next = time(m_dialect.timeColumn);
            if (!std::isnan(next) && !goesOn(next * m_unitMs)) return m_unsure;
            if (!std::isnan(next)) m_unsure.reset();
        }
        if (m_recording > m_dialect.recording) {
            pass(NoteKind::OtherRecording, line);
            return std::nullopt;
        }
        const double value = time(m_dialect.timeColumn);
        if (m_dialect.inventedColumn && invents(value, line)) return std::nullopt;
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
            pass(NoteKind::RepeatedStamp, line);
            return std::nullopt;
        }
        doubt(value * m_unitMs, line);
        const std::size_t before = m_capture.frames();
        const bool rate = m_dialect.meaning == TimeMeaning::Rate;
        if (rate) pass(NoteKind::RatesTurned, line);
        take(!rate ? value * m_unitMs : value > 0 ? 1000 / value : 1e30, NoteKind::ZeroTime, line, refused);
        if (m_dialect.clockColumn && m_capture.frames() > before) holdAgainstClock(line);
        return std::nullopt;
    }

    /// After the last row. Errors: where so much was passed over that what is left is not the log.
    std::optional<Error> finish() {
        if (m_dialect.meaning == TimeMeaning::PerFrame) leaveOutSum();
        const std::size_t frames = m_capture.frames();
        const auto many = [&](NoteKind kind, std::size_t share) {
            const auto& all = passed(kind);
            return all.count * share > frames + all.count ? all.first : std::nullopt;
        };
        if (auto fault = many(NoteKind::MissingTime, 5)) return fault; // lows of less would say little
        if (auto fault = many(NoteKind::OtherWidth, 3)) return fault;
        if (auto fault = many(NoteKind::AbsurdTime, 20)) return fault;
        constexpr std::size_t fewestFrames = 3; // a row or two are no recording
        if (const auto& other = passed(NoteKind::OtherRecording); other.first && other.count < fewestFrames)
            return other.first;
        auto& unlike = passed(NoteKind::Unlike);
        if (!marksAreUsual() || unlike.count * 20 > frames) unlike = {};
        if (m_recording < m_dialect.recording) begin(); // there is no such one
        if (m_pending && frames == 0) return m_pending;
        if (m_pending) passed(NoteKind::Ending) = m_ending;
        for (std::size_t i = 0; i < m_passed.size(); ++i)
            keep(m_capture, {static_cast<NoteKind>(i), m_passed[i].count, m_passed[i].line,
                             static_cast<NoteKind>(i) == NoteKind::OtherProgram ? otherPrograms() : Names()});
        return std::nullopt;
    }

    [[nodiscard]] const capture::Capture& capture() const { return m_capture; }
    [[nodiscard]] const Dialect& dialect() const { return m_dialect; }
    capture::Capture take() {
        std::size_t i = 0;
        std::erase_if(m_capture.others, [&](const auto&) { return m_words[i++].isFreeText(); });
        return std::move(m_capture);
    }

  private:
    /// An empty capture with the columns of the dialect.
    void begin() {
        m_capture = {};
        m_readings.clear();
        m_words.clear();
        m_atMs = 0;
        if (m_dialect.cpuColumn) m_capture.cpuWorkMs.emplace();
        if (m_dialect.gpuColumn) m_capture.gpuWorkMs.emplace();
        if (m_dialect.inventedColumn) m_capture.invented.emplace();
        m_between = {};
        for (const auto& s : m_dialect.sensors) {
            m_capture.tracks.push_back({s.sensor, {}, {}});
            m_readings.emplace_back();
        }
        for (const auto& other : m_dialect.others) m_capture.others.push_back({other.name, {}, {}});
        m_words.resize(m_dialect.others.size());
    }

    struct Passed {
        std::size_t count = 0, line = 0; // of the first, from 1
        std::optional<Error> first;      // what it would be told as
    };

    using Names = std::vector<std::pair<std::string, std::size_t>>;

    /// Else it is counted under the name of its own.
    bool ofTheProgram(const Line& line) {
        constexpr std::size_t mostNames = 100;
        auto name = joinedCells(m_row->cells, m_dialect.programColumns);
        if (name == m_dialect.program) return true;
        if (readBeside()) {
            pass(NoteKind::Readings, line);
            return false;
        }
        if (m_others.size() < mostNames || m_others.contains(name)) ++m_others[std::move(name)];
        pass(NoteKind::OtherProgram, line);
        return false;
    }
    /// The fullest of them.
    [[nodiscard]] Names otherPrograms() const {
        constexpr std::size_t mostNames = 6, longest = 60;
        Names out(m_others.begin(), m_others.end());
        std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
        out.resize(std::min(out.size(), mostNames));
        for (auto& [name, rows] : out) name = name.substr(0, longest);
        return out;
    }

    /// A frame that was invented: what it takes belongs to the rendered one behind it.
    [[nodiscard]] bool invents(double value, const Line& line) {
        const std::size_t column = *m_dialect.inventedColumn;
        const auto cell = column < m_row->cells.size() ? trimmed(m_row->cells[column]) : std::string_view();
        const auto& said = m_dialect.inventedCells;
        if (std::find(said.begin(), said.end(), cell) == said.end()) return false;
        const double ms = m_dialect.meaning == TimeMeaning::Rate ? 1000 / value : value * m_unitMs;
        if (m_dialect.meaning != TimeMeaning::Cumulative && ms > 0 && ms <= mostFrameMs) m_between.ms += ms;
        ++m_between.frames;
        pass(NoteKind::Invented, line);
        return true;
    }

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
    void doubt(double ms, const Line& line) {
        constexpr std::size_t everyNth = 16; // is looked at: a look costs more than a row may
        const bool longFrame = ms * static_cast<double>(m_capture.frames()) > 5 * m_atMs;
        if (m_rows++ % everyNth != 0 && !longFrame) return;
        const std::string_view cell = timeCell();
        const bool usual = cell.find(m_dialect.decimalComma ? ',' : '.') != std::string_view::npos &&
                           cell.find_first_of("eE") == std::string_view::npos;
        m_marked += usual && (m_rows - 1) % everyNth == 0 ? 1 : 0;
        if (!usual && longFrame) pass(NoteKind::Unlike, line);
    }

    void holdAgainstClock(const Line& line) {
        const auto stamp = [this] { return time(*m_dialect.clockColumn) * m_clockUnitMs; };
        if (m_againstClock.apart(m_capture.frames(), m_capture.framesMs.back(), m_atMs, stamp))
            pass(NoteKind::ClockApart, line);
    }
    /// Such frames are told only where nearly all others have a mark.
    [[nodiscard]] bool marksAreUsual() const { return 20 * m_marked * 16 >= 19 * m_rows; }

    std::optional<Error> restart(double ms, const Line& line, Error fault) {
        m_pending.reset(); // rows between the two: a summary, a heading
        m_unsure = fault;
        m_restartMs = ms;
        auto& other = passed(NoteKind::OtherRecording);
        if (m_recording++ < m_dialect.recording) { // the one before was not asked for
            const std::size_t rows = other.count + m_seen;
            begin();
            m_passed = {};
            m_ending = {};
            other.count = rows;
            other.line = m_dialect.firstDataLine + 1;
            m_last = m_firstStamp = ms;
            m_seen = 1;
            return std::nullopt;
        }
        if (m_ending.count > 0) passed(NoteKind::Ending) = m_ending;
        m_ending = {};
        pass(NoteKind::OtherRecording, line, std::move(fault));
        return std::nullopt;
    }

    /// Whether the stamp after a restart goes on from there as those before it did: else a single one was wrong.
    [[nodiscard]] bool goesOn(double ms) const {
        const double step = ms - m_restartMs, usual = (*m_last - m_firstStamp) / static_cast<double>(m_seen);
        return step >= 0 && (m_seen < 3 || step <= std::max(1000.0, 20 * usual));
    }

    [[nodiscard]] Passed& passed(NoteKind kind) { return m_passed[static_cast<std::size_t>(kind)]; }

    void pass(NoteKind kind, const Line& line, std::optional<Error> fault = {}) {
        auto& all = passed(kind);
        if (all.count++ == 0) {
            all.line = line.number + 1;
            all.first = std::move(fault);
        }
    }

    /// A cell that holds no time.
    std::optional<Error> untold(const Line& line, Error fault) {
        if (fault.code == ErrorCode::NotText) return fault;
        if (saysNothing(timeCell()) && readBeside()) {
            pass(NoteKind::Readings, line);
            return std::nullopt;
        }
        if (saysNothing(timeCell())) {
            m_last.reset(); // how long the next one took is not known either
            pass(NoteKind::MissingTime, line, std::move(fault));
            return std::nullopt;
        }
        if (!line.ended) return fault; // cut while it was written
        m_headed = (m_ending.count == 0 || m_headed) && m_capture.frames() > 0 &&
                   std::find(m_heading.begin(), m_heading.end(), line.text) != m_heading.end();
        if (m_ending.count++ == 0) {
            m_ending.line = line.number + 1;
            m_pending = std::move(fault);
        }
        return std::nullopt;
    }

    /// A heading alone lies between the frames: what follows it is another recording. True where this row is not of
    /// the one that is read.
    bool another(const Line& line) {
        m_headed = false;
        auto fault = std::move(*m_pending);
        m_pending.reset();
        const std::size_t rows = passed(NoteKind::OtherRecording).count + m_capture.frames();
        m_ending = {};
        if (m_recording++ >= m_dialect.recording) {
            pass(NoteKind::OtherRecording, line, std::move(fault));
            return true;
        }
        begin(); // the one before was not asked for
        m_passed = {};
        m_rows = m_marked = 0;
        m_againstClock = {};
        passed(NoteKind::OtherRecording) = {rows, m_dialect.firstDataLine + 1, {}};
        return false;
    }

    /// A frame, or what cannot be one.
    template <class Refused>
    void take(double ms, NoteKind none, const Line& line, const Refused& refused) {
        if (ms >= leastFrameMs && ms <= mostFrameMs) return push(ms);
        if (ms == 0) return pass(none, line);
        auto fault = refused(ErrorCode::OutOfRange);
        fault.what = "0.05 ms to 60 s";
        pass(NoteKind::AbsurdTime, line, std::move(fault));
    }

    /// A last row that repeats what all before it come to is no frame.
    void leaveOutSum() {
        constexpr std::size_t fewest = 20;
        const double last = m_capture.framesMs.empty() ? 0 : m_capture.framesMs.back();
        if (m_capture.frames() < fewest || std::abs(m_atMs - 2 * last) > 0.002 * last) return;
        for (auto* column : {&m_capture.cpuWorkMs, &m_capture.gpuWorkMs, &m_capture.invented})
            if (*column) (*column)->pop_back();
        for (auto& other : m_capture.others) other.values.pop_back();
        m_capture.framesMs.pop_back();
        m_atMs -= last;
        for (auto& track : m_capture.tracks)
            for (; !track.timeMs.empty() && track.timeMs.back() > m_atMs; track.values.pop_back())
                track.timeMs.pop_back();
        auto& ending = passed(NoteKind::Ending);
        if (ending.count++ == 0) ending.line = m_frameLine + 1;
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
        if (m_capture.invented) m_capture.invented->push_back(static_cast<double>(m_between.frames));
        m_between = {};
        m_frameLine = m_row->line.number;
        m_capture.framesMs.push_back(frameMs);
        const auto work = [&](std::optional<std::vector<double>>& out, const std::optional<std::size_t>& column) {
            if (!out || !column) return;
            const double value = number(*column);
            out->push_back(value >= 0 ? value * m_workUnitMs : std::nan(""));
        };
        work(m_capture.cpuWorkMs, m_dialect.cpuColumn);
        work(m_capture.gpuWorkMs, m_dialect.gpuColumn);
        m_atMs += frameMs;
        for (std::size_t i = 0; i < m_readings.size(); ++i) read(i);
        for (std::size_t i = 0; i < m_capture.others.size(); ++i) m_capture.others[i].values.push_back(other(i));
    }

    /// Logs repeat slow readings in every row: their means over a while are kept. A row may leave one out.
    void read(std::size_t i) {
        constexpr double paceMs = 250;
        auto& reading = m_readings[i];
        if (const double value = number(m_dialect.sensors[i].column); !std::isnan(value)) {
            reading.ofFrames = true;
            reading.sum += value * m_dialect.sensors[i].factor;
            ++reading.count;
        }
        if (reading.count == 0 || m_atMs - reading.sinceMs < paceMs) return;
        m_capture.tracks[i].timeMs.push_back(m_atMs);
        m_capture.tracks[i].values.push_back(static_cast<float>(reading.sum / static_cast<double>(reading.count)));
        reading = {0, 0, m_atMs, reading.ofFrames};
    }

    /// Readings in a row that is no frame, of sensors that no frame told so far: kept as they stand. True where there
    /// are any.
    bool readBeside() {
        bool any = false;
        for (std::size_t i = 0; i < m_readings.size(); ++i) {
            const double value = number(m_dialect.sensors[i].column);
            if (m_readings[i].ofFrames || std::isnan(value)) continue;
            any = true;
            m_capture.tracks[i].timeMs.push_back(m_atMs);
            m_capture.tracks[i].values.push_back(static_cast<float>(value * m_dialect.sensors[i].factor));
        }
        return any;
    }

    [[nodiscard]] float other(std::size_t i) {
        const NamedColumn& column = m_dialect.others[i];
        if (!column.words) return capture::narrowed(number(column.column));
        return m_words[i].indexOf(column.column < m_row->cells.size() ? m_row->cells[column.column]
                                                                      : std::string_view(),
                                  m_capture.others[i].words);
    }

    Dialect m_dialect;
    double m_unitMs = msPer(m_dialect.unit), m_workUnitMs = msPer(m_dialect.workUnit),
           m_clockUnitMs = msPer(m_dialect.clockUnit);
    capture::Capture m_capture;
    const CutLine* m_row = nullptr;   // the one that is read
    std::vector<std::size_t> m_slots; // of a column that is read, in the numbers
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
    std::vector<Reading> m_readings;  // by the dialect's sensors
    std::vector<WordsColumn> m_words; // by the dialect's other columns
    double m_atMs = 0;
    std::size_t m_frameLine = 0; // of the last frame, from 0
    struct Between {
        double ms = 0;
        std::size_t frames = 0;
    };
    Between m_between; // invented frames since the last rendered one
};

} // namespace impasto::logs
