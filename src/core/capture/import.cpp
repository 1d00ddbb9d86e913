// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/import.h>

#include <cmath>
#include <impasto/base/file.h>
#include <impasto/base/text.h>

#include "lines.h"
#include "packed.h"

namespace impasto::capture {

namespace {

/// Fills a capture row by row; the first fault ends it.
class Importer {
  public:
    explicit Importer(const Dialect& dialect) : m_dialect(dialect) {
        if (dialect.cpuColumn) m_capture.cpuWorkMs.emplace();
        if (dialect.gpuColumn) m_capture.gpuWorkMs.emplace();
        for (const auto& s : dialect.sensors) {
            m_capture.tracks.push_back({s.sensor, {}, {}});
            m_readings.emplace_back();
        }
    }

    std::optional<Error> row(const Line& line) {
        const auto cells = cellsOf(line.text, m_dialect.delimiter);
        if (cells.size() < m_dialect.columns)
            return refusal(ErrorCode::UnevenRow, fmt::format("{}/{}", cells.size(), m_dialect.columns), line.number,
                           cells.size());
        if (!m_dialect.program.empty() && joinedCells(cells, m_dialect.programColumns) != m_dialect.program)
            return std::nullopt; // another program's
        const auto cell = trimmed(cells[m_dialect.timeColumn]);
        const auto value = parseDouble(cell, m_dialect.decimalComma);
        const auto refused = [&](ErrorCode code) {
            return refusal(code, std::string(cell.substr(0, 40)), line.number, m_dialect.timeColumn + 1);
        };
        if (!value) return refused(ErrorCode::BadNumber);
        const double ms = *value * msPer(m_dialect.unit);
        if (m_dialect.meaning == TimeMeaning::PerFrame) {
            if (ms < 0) return refused(ErrorCode::NegativeTime);
            if (ms > 0) push(ms, cells);
            return std::nullopt;
        }
        if (m_last && ms < *m_last) return refused(ErrorCode::TimeRunsBackwards);
        if (m_last && ms > *m_last) push(ms - *m_last, cells);
        m_last = ms;
        return std::nullopt;
    }

    Capture take() { return std::move(m_capture); }

  private:
    void push(double frameMs, const std::vector<std::string_view>& cells) {
        m_capture.framesMs.push_back(frameMs);
        const auto work = [&](std::optional<std::vector<double>>& out, const std::optional<std::size_t>& column) {
            if (!out || !column) return;
            const auto value =
                *column < cells.size() ? parseDouble(cells[*column], m_dialect.decimalComma) : std::nullopt;
            out->push_back(value && *value >= 0 ? *value * msPer(m_dialect.workUnit) : std::nan(""));
        };
        work(m_capture.cpuWorkMs, m_dialect.cpuColumn);
        work(m_capture.gpuWorkMs, m_dialect.gpuColumn);
        m_atMs += frameMs;
        for (std::size_t i = 0; i < m_readings.size(); ++i) read(i, cells);
    }

    /// Logs repeat slow readings in every row: their means over a while are kept. A row may leave one out.
    void read(std::size_t i, const std::vector<std::string_view>& cells) {
        constexpr double paceMs = 250;
        const SensorColumn& sensor = m_dialect.sensors[i];
        auto& reading = m_readings[i];
        const auto value =
            sensor.column < cells.size() ? parseDouble(cells[sensor.column], m_dialect.decimalComma) : std::nullopt;
        if (value) {
            reading.sum += *value * sensor.factor;
            ++reading.count;
        }
        if (reading.count == 0 || m_atMs - reading.sinceMs < paceMs) return;
        m_capture.tracks[i].timeMs.push_back(m_atMs);
        m_capture.tracks[i].values.push_back(static_cast<float>(reading.sum / static_cast<double>(reading.count)));
        reading = {0, 0, m_atMs};
    }

    const Dialect& m_dialect;
    Capture m_capture;
    std::optional<double> m_last;
    struct Reading {
        double sum = 0;
        std::size_t count = 0;
        double sinceMs = 0;
    };
    std::vector<Reading> m_readings; // by the dialect's sensors
    double m_atMs = 0;
};

} // namespace

Result<Capture> importText(std::string_view text, const Dialect& dialect) {
    if (auto fault = faultOfText(text)) return tl::unexpected(*fault);
    Importer importer(dialect);
    Lines lines(text);
    while (const auto line = lines.next()) {
        if (const auto fault = faultOfLength(*line)) return tl::unexpected(*fault);
        if (line->number < dialect.firstDataLine || isComment(line->text)) continue;
        const auto fault = importer.row(*line);
        if (fault && !line->ended) break; // cut while being written
        if (fault) return tl::unexpected(*fault);
    }
    Capture capture = importer.take();
    if (capture.framesMs.empty()) return tl::unexpected(noFrames(lines));
    capture.notes["dialect"] = textOf(dialect);
    return capture;
}

namespace {

Result<Capture> readPlain(std::string_view text) {
    if (text.substr(0, 17) == "# impasto capture") return readCsv(text);
    const auto dialect = guessDialect(text);
    if (!dialect) return tl::unexpected(dialect.error());
    return importText(text, *dialect);
}

} // namespace

Result<Capture> readLogText(std::string_view bytes) {
    const auto plain = unpacked(bytes);
    if (!plain) return tl::unexpected(plain.error());
    auto capture = readPlain(plain->text(bytes));
    if (capture && !plain->how.empty()) capture->notes["packing"] = plain->how;
    return capture;
}

Result<Capture> readLog(const std::filesystem::path& path) {
    const auto bytes = readFile(path);
    if (!bytes) return tl::unexpected(bytes.error());
    auto capture = readLogText(*bytes);
    if (capture) return capture;
    Error error = capture.error();
    error.where.file = path.string();
    return tl::unexpected(error);
}

} // namespace impasto::capture
