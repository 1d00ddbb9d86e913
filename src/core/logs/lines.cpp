// SPDX-License-Identifier: GPL-3.0-or-later
#include "lines.h"

#include <impasto/base/text.h>

namespace impasto::logs {

Lines::Lines(std::string_view text) : m_rest(text) {
    if (m_rest.substr(0, 3) == "\xef\xbb\xbf") m_rest.remove_prefix(3);
}

Lines::Lines(std::string_view begin, Source& rest) : Lines(begin) {
    m_source = &rest;
}

/// Puts the next block behind the begun line; false at the end.
bool Lines::refill() {
    if (m_source == nullptr) return false;
    std::string begun(m_rest); // before the block it may lie in is gone
    const auto block = m_source->next();
    if (block.empty()) {
        m_source = nullptr;
        m_buffer = std::move(begun);
        m_rest = m_buffer;
        return false;
    }
    if (begun.empty()) {
        m_rest = block;
        return true;
    }
    m_buffer = std::move(begun.append(block));
    m_rest = m_buffer;
    return true;
}

std::optional<Line> Lines::next() {
    const char* end = lineEnd(m_rest);
    while (end == nullptr && m_rest.size() <= longestLine && refill()) end = lineEnd(m_rest);
    if (m_rest.empty()) return std::nullopt;
    return takeLine(m_rest, end, m_number++);
}

bool Lines::block(std::size_t bytes, std::string& out) {
    out.clear();
    while (!m_rest.empty() || refill()) {
        const bool enough = out.size() >= bytes;
        const auto end = enough ? m_rest.find('\n') : std::string_view::npos;
        const std::size_t length = end != std::string_view::npos ? end + 1
                                   : enough                      ? std::min(m_rest.size(), longestLine + 1)
                                                                 : std::min(bytes - out.size(), m_rest.size());
        out.append(m_rest.substr(0, length));
        m_rest.remove_prefix(length);
        if (out.size() >= bytes && (out.back() == '\n' || out.size() > bytes + longestLine)) break;
    }
    return !out.empty();
}

bool isComment(std::string_view line) {
    if (!line.empty() && line.front() >= '0' && line.front() <= '9') return false; // nearly every line
    const auto text = trimmed(line);
    if (text.empty() || text.front() == '#' || text.substr(0, 2) == "//") return true;
    // A line that is drawn under a heading.
    return text.find_first_not_of("-=+|: \t") == std::string_view::npos &&
           (text.find("---") != std::string_view::npos || text.find("===") != std::string_view::npos);
}

std::vector<std::string_view> cellsOf(std::string_view line, char delimiter) {
    std::vector<std::string_view> cells;
    splitCells(line, delimiter, cells);
    return cells;
}

void splitCells(std::string_view line, char delimiter, std::vector<std::string_view>& cells) {
    if (delimiter == ' ') line = trimmed(line);
    std::size_t begin = 0;
    if (delimiter != ' ' && (line.empty() || std::memchr(line.data(), '"', line.size()) == nullptr)) {
        for (std::size_t i = 0; i < line.size(); ++i)
            if (line[i] == delimiter) {
                cells.push_back(line.substr(begin, i - begin));
                begin = i + 1;
            }
        cells.push_back(line.substr(begin));
        return;
    }
    bool quoted = false;
    for (std::size_t i = 0; i < line.size(); ++i) {
        const char c = line[i];
        if (c == '"') quoted = !quoted;
        if (c != delimiter || quoted) continue;
        if (delimiter != ' ' || i > begin) cells.push_back(line.substr(begin, i - begin));
        begin = i + 1;
    }
    if (delimiter != ' ' || line.size() > begin) cells.push_back(line.substr(begin));
}

std::string joinedCells(std::span<const std::string_view> cells, const std::vector<std::size_t>& columns) {
    std::string out;
    for (const auto c : columns)
        if (c < cells.size()) {
            if (!out.empty()) out += " / ";
            out += trimmed(cells[c]);
        }
    return out;
}

Error refusal(ErrorCode code, std::string what, std::size_t line, std::size_t column) {
    return {code, std::move(what), {{}, line + 1, column, {}}, Kept::Nothing};
}

std::optional<Error> faultOfLength(const Line& line) {
    if (!line.tooLong) return std::nullopt;
    return refusal(ErrorCode::LineTooLong, std::to_string(longestLine), line.number, longestLine + 1);
}

Error noFrames(std::size_t linesRead) {
    return refusal(ErrorCode::NoFrames, {}, linesRead, 1);
}

namespace {

/// A table that is wider than any log; one line after the other of its begin.
std::optional<Error> faultOfWidth(std::string_view text) {
    constexpr std::size_t widest = 4000, looked = 20;
    Lines lines(text);
    for (std::size_t i = 0; i < looked; ++i) {
        const auto line = lines.next();
        if (!line) break;
        for (const char delimiter : {',', ';', '\t', '|'})
            if (static_cast<std::size_t>(std::count(line->text.begin(), line->text.end(), delimiter)) >= widest)
                return Error{ErrorCode::FileTooLarge,
                             std::to_string(widest) + " columns",
                             {{}, line->number + 1, {}, {}},
                             Kept::Nothing};
    }
    return std::nullopt;
}

} // namespace

std::optional<Error> faultOfText(std::string_view text) {
    if (text.empty()) return Error{ErrorCode::EmptyFile, {}, {}, Kept::Nothing};
    if (auto wide = faultOfWidth(text)) return wide;
    if (text.substr(0, 2) == "\xff\xfe" || text.substr(0, 2) == "\xfe\xff")
        return refusal(ErrorCode::NotText, "UTF-16", 0, 1);
    const auto zero = text.find('\0');
    if (zero == std::string_view::npos) return std::nullopt;
    const auto before = text.substr(0, zero);
    const auto line = static_cast<std::size_t>(std::count(before.begin(), before.end(), '\n'));
    const auto begin = before.rfind('\n');
    return refusal(ErrorCode::NotText, "binary", line, zero - (begin == std::string_view::npos ? 0 : begin + 1) + 1);
}

} // namespace impasto::logs
