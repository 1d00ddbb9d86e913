// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/import.h>

#include <cmath>
#include <cstring>
#include <impasto/base/file.h>
#include <impasto/base/text.h>

#include "lines.h"

namespace impasto::capture {

Lines::Lines(std::string_view text) : m_rest(text) {
    if (m_rest.substr(0, 3) == "\xef\xbb\xbf") m_rest.remove_prefix(3);
}

std::optional<Line> Lines::next() {
    if (m_rest.empty()) return std::nullopt;
    const void* end = std::memchr(m_rest.data(), '\n', m_rest.size());
    const bool ended = end != nullptr;
    const std::size_t length =
        ended ? static_cast<std::size_t>(static_cast<const char*>(end) - m_rest.data()) : m_rest.size();
    std::string_view text = m_rest.substr(0, std::min(length, limit));
    m_rest.remove_prefix(std::min(m_rest.size(), length + 1));
    if (!text.empty() && text.back() == '\r') text.remove_suffix(1);
    return Line{m_number++, text, ended, length > limit};
}

bool isComment(std::string_view line) {
    const auto text = trimmed(line);
    return text.empty() || text.front() == '#' || text.substr(0, 2) == "//";
}

std::vector<std::string_view> cellsOf(std::string_view line, char delimiter) {
    std::vector<std::string_view> cells;
    if (delimiter == ' ') line = trimmed(line);
    std::size_t begin = 0;
    bool quoted = false;
    for (std::size_t i = 0; i <= line.size(); ++i) {
        if (i < line.size() && line[i] == '"') quoted = !quoted;
        if (i < line.size() && (line[i] != delimiter || quoted)) continue;
        if (delimiter != ' ' || i > begin) cells.push_back(line.substr(begin, i - begin));
        begin = i + 1;
    }
    return cells;
}

Error refusal(ErrorCode code, std::string what, std::size_t line, std::size_t column) {
    return {code, std::move(what), {{}, line + 1, column, {}}, Kept::Nothing};
}

std::optional<Error> faultOfLength(const Line& line) {
    if (!line.tooLong) return std::nullopt;
    return refusal(ErrorCode::LineTooLong, std::to_string(Lines::limit), line.number, Lines::limit + 1);
}

Error noFrames(const Lines& lines) {
    return refusal(ErrorCode::NoFrames, {}, lines.linesRead(), 1);
}

std::optional<Error> faultOfText(std::string_view text) {
    if (text.empty()) return Error{ErrorCode::EmptyFile, {}, {}, Kept::Nothing};
    if (text.substr(0, 2) == "\xff\xfe" || text.substr(0, 2) == "\xfe\xff")
        return refusal(ErrorCode::NotText, "UTF-16", 0, 1);
    const auto zero = text.find('\0');
    if (zero == std::string_view::npos) return std::nullopt;
    const auto before = text.substr(0, zero);
    const auto line = static_cast<std::size_t>(std::count(before.begin(), before.end(), '\n'));
    const auto begin = before.rfind('\n');
    return refusal(ErrorCode::NotText, "binary", line, zero - (begin == std::string_view::npos ? 0 : begin + 1) + 1);
}

double msPer(TimeUnit unit) {
    switch (unit) {
    case TimeUnit::Seconds:
        return 1e3;
    case TimeUnit::Milliseconds:
        return 1.0;
    case TimeUnit::Microseconds:
        return 1e-3;
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
    case TimeUnit::Nanoseconds:
        return "ns";
    }
    return {};
}

std::string textOf(const Dialect& d) {
    const auto column = [](std::string_view name, const std::optional<std::size_t>& c) {
        return c ? fmt::format(" {}={}", name, *c + 1) : std::string();
    };
    const std::string delimiter = d.delimiter == '\t'  ? "tab"
                                  : d.delimiter == ' ' ? "space"
                                                       : std::string(1, d.delimiter);
    return fmt::format("delimiter={} decimal={} first_line={} columns={} time_column={} meaning={} unit={}{}{}{}",
                       delimiter, d.decimalComma ? "comma" : "point", d.firstDataLine + 1, d.columns, d.timeColumn + 1,
                       d.meaning == TimeMeaning::PerFrame ? "per_frame" : "cumulative", keyOf(d.unit),
                       column("cpu_column", d.cpuColumn), column("gpu_column", d.gpuColumn),
                       d.cpuColumn || d.gpuColumn ? fmt::format(" work_unit={}", keyOf(d.workUnit)) : "");
}

namespace {

/// Fills a capture row by row; the first fault ends it.
class Importer {
  public:
    explicit Importer(const Dialect& dialect) : m_dialect(dialect) {
        if (dialect.cpuColumn) m_capture.cpuWorkMs.emplace();
        if (dialect.gpuColumn) m_capture.gpuWorkMs.emplace();
    }

    std::optional<Error> row(const Line& line) {
        const auto cells = cellsOf(line.text, m_dialect.delimiter);
        if (cells.size() < m_dialect.columns)
            return refusal(ErrorCode::UnevenRow, fmt::format("{}/{}", cells.size(), m_dialect.columns), line.number,
                           cells.size());
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
    }

    const Dialect& m_dialect;
    Capture m_capture;
    std::optional<double> m_last;
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

Result<Capture> readLogText(std::string_view text) {
    if (text.substr(0, 17) == "# impasto capture") return readCsv(text);
    const auto dialect = guessDialect(text);
    if (!dialect) return tl::unexpected(dialect.error());
    return importText(text, *dialect);
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
