// SPDX-License-Identifier: GPL-3.0-or-later
#include "importer.h"

#include "heading.h"
#include "number.h"

namespace impasto::logs {

std::size_t Importer::rows(const CutRows& rows) {
    const std::size_t timeSlot = m_slots[m_dialect.timeColumn];
    const bool clocked = m_dialect.clockColumn.has_value();
    const std::size_t clockSlot = clocked ? m_slots[*m_dialect.clockColumn] : 0;
    const double before = m_atMs;
    std::size_t taken = 0;
    for (; taken < rows.size(); ++taken) {
        const double* numbers = rows.numbersOf(taken);
        const double value = numbers[timeSlot], ms = value * m_unitMs;
        if (!(ms >= leastFrameMs && ms <= mostFrameMs)) break;
        if (clocked) {
            const double stamp = numbers[clockSlot];
            if (std::isnan(stamp) || std::pair(value, stamp) == m_rowBefore) break;
            m_rowBefore = {value, stamp};
        }
        doubt(ms, rows.cell(taken, m_dialect.timeColumn), rows.lineOf(taken));
        doubtUnit(ms, rows.lineOf(taken));
        m_capture.framesMs.push_back(ms);
        m_atMs += ms;
        if (clocked) holdAgainstClock(rows.lineOf(taken), [&] { return numbers[clockSlot] * m_clockUnitMs; });
    }
    if (taken > 0) {
        lookAtFirst([&rows](std::size_t column) { return rows.cell(0, column); });
        addBeside(rows, taken, before);
        std::size_t last = 0;
        const auto labelled = [&](std::size_t row) {
            return isLabelled([&](std::size_t column) { return rows.cell(row, column); });
        };
        while (last < taken && labelled(taken - 1 - last)) ++last;
        m_labelled = last < taken ? last : m_labelled + last;
    }
    return taken;
}

void Importer::addBeside(const CutRows& rows, std::size_t count, double atMs) {
    m_frameLine = rows.lineOf(count - 1);
    const auto work = [&](std::optional<std::vector<double>>& out, const std::optional<std::size_t>& column,
                          TimeUnit unit) {
        if (!out || !column) return;
        const double factor = msPer(unit);
        const std::size_t slot = m_slots[*column];
        for (std::size_t i = 0; i < count; ++i) {
            const double value = rows.numbersOf(i)[slot];
            out->push_back(value >= 0 ? value * factor : std::nan(""));
        }
    };
    work(m_capture.cpuWorkMs, m_dialect.cpuColumn, m_dialect.cpuUnit);
    work(m_capture.gpuWorkMs, m_dialect.gpuColumn, m_dialect.gpuUnit);
    for (std::size_t i = 0; m_counts && i < count; ++i) {
        const double value = rows.numbersOf(i)[m_slots[*m_dialect.inventedColumn]];
        m_capture.invented->push_back(value >= 0 && value <= mostInvented ? std::floor(value) : 0);
    }
    for (std::size_t s = 0; s < m_readings.size(); ++s) read(s, rows, count, atMs);
    for (std::size_t o = 0; o < m_capture.others.size(); ++o) {
        const NamedColumn& column = m_dialect.others[o];
        auto& [name, values, words] = m_capture.others[o];
        for (std::size_t i = 0; i < count; ++i)
            values.push_back(column.words ? m_words[o].indexOf(rows.cell(i, column.column), words)
                                          : capture::narrowed(rows.numbersOf(i)[m_slots[column.column]]));
    }
}

/// Logs repeat slow readings in every row: their means over a while are kept. A row may leave one out.
void Importer::read(std::size_t sensor, const CutRows& rows, std::size_t count, double atMs) {
    constexpr double paceMs = 250;
    auto& reading = m_readings[sensor];
    auto& track = m_capture.tracks[sensor];
    const std::size_t first = m_capture.frames() - count;
    for (std::size_t i = 0; i < count; ++i) {
        atMs += m_capture.framesMs[first + i];
        const auto numbers = rows.numbersOf(i);
        const double value = m_sensors[sensor].of([&](std::size_t column) { return numbers[m_slots[column]]; });
        if (!std::isnan(value)) {
            reading.ofFrames = true;
            reading.sum += value;
            ++reading.count;
        }
        if (reading.count == 0 || atMs - reading.sinceMs < paceMs) continue;
        track.timeMs.push_back(atMs);
        track.values.push_back(static_cast<float>(reading.sum / static_cast<double>(reading.count)));
        reading = {0, 0, atMs, reading.ofFrames};
    }
}

std::size_t Importer::neverShown() const {
    constexpr std::array<std::string_view, 6> yes{"1", "yes", "true", "y", "dropped", "discarded"};
    constexpr std::array<std::string_view, 6> no{"0", "no", "false", "n", "shown", "displayed"};
    const auto isOneOf = [](const auto& words, const std::string& word) {
        return std::find(words.begin(), words.end(), lowered(word)) != words.end();
    };
    for (const auto& [name, values, words] : m_capture.others) {
        const auto heading = lowered(name);
        const bool dropped = saysDropped(heading);
        if (!dropped && !saysWasShown(heading)) continue;
        std::size_t said = 0, denied = 0, told = 0;
        for (const float v : values) {
            if (std::isnan(v)) continue;
            ++told;
            said += words.empty() ? v == 1 : isOneOf(yes, words[static_cast<std::size_t>(v)]);
            denied += words.empty() ? v == 0 : isOneOf(no, words[static_cast<std::size_t>(v)]);
        }
        if (said + denied == told && said > 0 && denied > 0) return dropped ? said : denied;
    }
    return 0;
}

std::optional<std::pair<std::string, std::size_t>> Importer::rateApart() const {
    constexpr std::size_t fewest = 20, enough = 20000, longestName = 80; // frames
    constexpr double most = 0.15;
    const auto middle = [](std::vector<double> v) {
        const auto at = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
        std::nth_element(v.begin(), at, v.end());
        return *at;
    };
    if (m_dialect.meaning == TimeMeaning::Rate || m_dialect.inventedColumn) return std::nullopt;
    for (const auto& [name, values, words] : m_capture.others) {
        const auto heading = lowered(name);
        const auto has = [&heading](std::string_view word) { return hasWord(heading, word); };
        constexpr std::array other{"min", "max", "low", "high", "1%", "target", "limit", "cap", "worst", "best", "%"};
        if (!words.empty() || !saysRate(heading) || std::any_of(other.begin(), other.end(), has)) continue;
        std::vector<double> rates, own;
        for (std::size_t i = 0; i < values.size(); i += 1 + values.size() / enough)
            if (std::isfinite(values[i]) && values[i] > 0) {
                rates.push_back(static_cast<double>(values[i]));
                own.push_back(1000 / m_capture.framesMs[i]);
            }
        if (rates.size() < fewest) continue;
        const double rate = middle(std::move(rates));
        if (std::abs(rate / middle(std::move(own)) - 1) > most)
            return std::pair(name.substr(0, longestName), static_cast<std::size_t>(std::lround(rate)));
    }
    return std::nullopt;
}

std::optional<Error> Importer::finish() {
    if (m_dialect.meaning != TimeMeaning::Cumulative) leaveOutLabelled();
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
    passed(NoteKind::NeverShown).count = neverShown();
    for (std::size_t i = 0; i < m_passed.size(); ++i)
        keep(m_capture, {static_cast<NoteKind>(i), m_passed[i].count, m_passed[i].line,
                         static_cast<NoteKind>(i) == NoteKind::OtherProgram ? otherPrograms() : Names()});
    if (const auto rate = rateApart()) keep(m_capture, {NoteKind::RateApart, 1, 0, {*rate}});
    return std::nullopt;
}

capture::Capture Importer::take() {
    std::size_t i = 0;
    std::erase_if(m_capture.others, [&](const auto&) { return m_words[i++].isFreeText(); });
    return std::move(m_capture);
}

void Importer::begin() {
    m_capture = {};
    m_readings.clear();
    m_words.clear();
    m_atMs = 0;
    m_labelled = 0;
    if (m_dialect.cpuColumn) m_capture.cpuWorkMs.emplace();
    if (m_dialect.gpuColumn) m_capture.gpuWorkMs.emplace();
    if (m_dialect.inventedColumn) m_capture.invented.emplace();
    m_between = {};
    m_longer = {};
    m_sensors.clear();
    for (const auto& [sensor, column, factor] : m_dialect.sensors) {
        const auto same = [sensor = sensor](const Told& told) { return told.sensor == sensor; };
        auto told = std::find_if(m_sensors.begin(), m_sensors.end(), same);
        if (told == m_sensors.end()) {
            told = m_sensors.insert(told, {sensor, {}});
            m_capture.tracks.push_back({sensor, {}, {}});
            m_readings.emplace_back();
        }
        told->columns.emplace_back(column, factor);
    }
    for (const auto& other : m_dialect.others) m_capture.others.push_back({other.name, {}, {}});
    m_words.resize(m_dialect.others.size());
}

bool Importer::ofTheProgram(const Line& line) {
    constexpr std::size_t mostNames = 100;
    auto name = joinedCells(m_row->cells, m_dialect.programColumns);
    if (name == m_dialect.program) return true;
    if (readBeside()) {
        pass(NoteKind::Readings, line.number);
        return false;
    }
    if (m_others.size() < mostNames || m_others.contains(name)) ++m_others[std::move(name)];
    pass(NoteKind::OtherProgram, line.number);
    return false;
}

Importer::Names Importer::otherPrograms() const {
    constexpr std::size_t mostNames = 6, longest = 60;
    Names out(m_others.begin(), m_others.end());
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
    out.resize(std::min(out.size(), mostNames));
    for (auto& [name, rows] : out) name = name.substr(0, longest);
    return out;
}

bool Importer::invents(double value, const Line& line) {
    const std::size_t column = *m_dialect.inventedColumn;
    const auto cell = column < m_row->cells.size() ? trimmed(m_row->cells[column]) : std::string_view();
    const auto& said = m_dialect.inventedCells;
    if (std::find(said.begin(), said.end(), cell) == said.end()) return false;
    const double ms = m_dialect.meaning == TimeMeaning::Rate ? 1000 / value : value * m_unitMs;
    if (m_dialect.meaning != TimeMeaning::Cumulative && ms > 0 && ms <= mostFrameMs) m_between.ms += ms;
    ++m_between.frames;
    pass(NoteKind::Invented, line.number);
    return true;
}

std::optional<Error> Importer::restart(double ms, const Line& line, Error fault) {
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
    pass(NoteKind::OtherRecording, line.number, std::move(fault));
    return std::nullopt;
}

std::optional<Error> Importer::untold(const Line& line, Error fault) {
    if (fault.code == ErrorCode::NotText) return fault;
    if (saysNothing(timeCell()) && readBeside()) {
        pass(NoteKind::Readings, line.number);
        return std::nullopt;
    }
    if (saysNothing(timeCell())) {
        m_last.reset(); // how long the next one took is not known either
        pass(NoteKind::MissingTime, line.number, std::move(fault));
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

bool Importer::another(const Line& line) {
    m_headed = false;
    auto fault = std::move(*m_pending);
    m_pending.reset();
    const std::size_t rows = passed(NoteKind::OtherRecording).count + m_capture.frames();
    m_ending = {};
    if (m_recording++ >= m_dialect.recording) {
        pass(NoteKind::OtherRecording, line.number, std::move(fault));
        return true;
    }
    begin(); // the one before was not asked for
    m_passed = {};
    m_rows = m_marked = 0;
    m_againstClock = {};
    passed(NoteKind::OtherRecording) = {rows, m_dialect.firstDataLine + 1, {}};
    return false;
}

bool Importer::isWordAmongNumbers(std::string_view cell, std::size_t column) const {
    if (column >= m_numbers.size() || !m_numbers[column] || column == m_dialect.timeColumn) return false;
    const auto letter = [](char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); };
    if (!cell.empty() && !letter(cell.back()) && cell.back() != ':') return false; // nearly every one
    return std::any_of(cell.begin(), cell.end(), letter) && !saysNothing(cell) && !lowered(cell).starts_with("inf") &&
           !parseNumber(cell, m_dialect.decimalComma, true);
}

bool Importer::isLabel(std::string_view cell) {
    constexpr std::array<std::string_view, 15> labels{"average", "avg",  "mean",    "median",  "min",
                                                      "minimum", "max",  "maximum", "total",   "sum",
                                                      "stddev",  "best", "worst",   "slowest", "fastest"};
    if (cell.empty() || (cell.front() >= '0' && cell.front() <= '9')) return false; // nearly every one
    cell = trimmed(cell);
    if (cell.size() > 2 && cell.front() == '"' && cell.back() == '"') cell = cell.substr(1, cell.size() - 2);
    while (!cell.empty() && (cell.back() == ':' || cell.back() == '.' || cell.back() == '=')) cell.remove_suffix(1);
    constexpr std::size_t longest = 7;
    return cell.size() <= longest && std::find(labels.begin(), labels.end(), lowered(cell)) != labels.end();
}

void Importer::dropLast(std::size_t frames) {
    const auto drop = [frames](auto& values) { values.resize(values.size() - frames); };
    for (auto* column : {&m_capture.cpuWorkMs, &m_capture.gpuWorkMs, &m_capture.invented})
        if (*column) drop(**column);
    for (auto& other : m_capture.others) drop(other.values);
    for (std::size_t i = m_capture.frames() - frames; i < m_capture.frames(); ++i) m_atMs -= m_capture.framesMs[i];
    drop(m_capture.framesMs);
    for (auto& track : m_capture.tracks)
        for (; !track.timeMs.empty() && track.timeMs.back() > m_atMs; track.values.pop_back()) track.timeMs.pop_back();
    auto& ending = passed(NoteKind::Ending);
    if (ending.count == 0) ending.line = m_frameLine + 2 - frames;
    ending.count += frames;
}

void Importer::leaveOutLabelled() {
    constexpr std::size_t most = 20;
    if (m_labelled > 0 && m_labelled <= most && m_labelled < m_capture.frames()) dropLast(m_labelled);
}

void Importer::leaveOutSum() {
    constexpr std::size_t fewest = 20;
    const double last = m_capture.framesMs.empty() ? 0 : m_capture.framesMs.back();
    if (m_capture.frames() >= fewest && std::abs(m_atMs - 2 * last) <= 0.002 * last) dropLast(1);
}

bool Importer::readBeside() {
    bool any = false;
    for (std::size_t i = 0; i < m_readings.size(); ++i) {
        const double value = m_sensors[i].of([this](std::size_t column) { return number(column); });
        if (m_readings[i].ofFrames || std::isnan(value)) continue;
        any = true;
        m_capture.tracks[i].timeMs.push_back(m_atMs);
        m_capture.tracks[i].values.push_back(static_cast<float>(value));
    }
    return any;
}

} // namespace impasto::logs
