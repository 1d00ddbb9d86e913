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

std::optional<Error> faultOfText(std::string_view text) {
    const auto notText = [](std::string what) { return Error{ErrorCode::NotText, std::move(what), {}, Kept::Nothing}; };
    if (text.empty()) return Error{ErrorCode::EmptyFile, {}, {}, Kept::Nothing};
    if (text.substr(0, 2) == "\xff\xfe" || text.substr(0, 2) == "\xfe\xff") return notText("UTF-16");
    if (std::memchr(text.data(), '\0', text.size()) != nullptr) return notText("binary");
    return std::nullopt;
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
        const auto at = [&](std::optional<std::size_t> column) { return Where{{}, line.number + 1, column, {}}; };
        if (cells.size() < m_dialect.columns)
            return Error{ErrorCode::UnevenRow, fmt::format("{}/{}", cells.size(), m_dialect.columns), at(cells.size()),
                         Kept::Nothing};
        const auto cell = trimmed(cells[m_dialect.timeColumn]);
        const auto value = parseDouble(cell, m_dialect.decimalComma);
        const Where where = at(m_dialect.timeColumn + 1);
        if (!value) return Error{ErrorCode::BadNumber, std::string(cell.substr(0, 40)), where, Kept::Nothing};
        const double ms = *value * msPer(m_dialect.unit);
        if (m_dialect.meaning == TimeMeaning::PerFrame) {
            if (ms < 0) return Error{ErrorCode::NegativeTime, std::string(cell), where, Kept::Nothing};
            if (ms > 0) push(ms, cells);
            return std::nullopt;
        }
        if (m_last && ms < *m_last) return Error{ErrorCode::TimeRunsBackwards, std::string(cell), where, Kept::Nothing};
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
        if (line->tooLong)
            return fail(ErrorCode::LineTooLong, std::to_string(Lines::limit), {{}, line->number + 1, {}, {}},
                        Kept::Nothing);
        if (line->number < dialect.firstDataLine || isComment(line->text)) continue;
        const auto fault = importer.row(*line);
        if (fault && !line->ended) break; // cut while being written
        if (fault) return tl::unexpected(*fault);
    }
    Capture capture = importer.take();
    if (capture.framesMs.empty()) return fail(ErrorCode::NoFrames, {}, {}, Kept::Nothing);
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
