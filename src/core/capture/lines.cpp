// SPDX-License-Identifier: GPL-3.0-or-later
#include "lines.h"

#include <algorithm>
#include <cstring>
#include <impasto/base/text.h>

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

std::string joinedCells(const std::vector<std::string_view>& cells, const std::vector<std::size_t>& columns) {
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

} // namespace impasto::capture
