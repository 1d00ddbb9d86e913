// SPDX-License-Identifier: GPL-3.0-or-later
// The rows of a foreign log, one after the other, into a capture.
#pragma once

#include <cmath>
#include <impasto/base/text.h>
#include <impasto/capture/import.h>

#include "lines.h"

namespace impasto::capture {

/// Fills a capture row by row; the first fault ends it.
class Importer {
  public:
    explicit Importer(Dialect dialect) : m_dialect(std::move(dialect)) {
        if (m_dialect.cpuColumn) m_capture.cpuWorkMs.emplace();
        if (m_dialect.gpuColumn) m_capture.gpuWorkMs.emplace();
        for (const auto& s : m_dialect.sensors) {
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

    [[nodiscard]] const Capture& capture() const { return m_capture; }
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

    Dialect m_dialect;
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

} // namespace impasto::capture
