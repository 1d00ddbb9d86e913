// SPDX-License-Identifier: GPL-3.0-or-later
// Our own capture file: comment lines with what a table cannot hold, then a table.
#include <algorithm>
#include <charconv>
#include <cmath>
#include <impasto/base/text.h>
#include <impasto/logs/import.h>

#include "head.h"

namespace impasto::logs {
namespace {

constexpr std::string_view magic = "# impasto capture 1";

/// Notes may hold any text: a backslash and line ends are escaped.
std::string escaped(std::string_view text) {
    std::string out;
    for (const char c : text) {
        if (c == '\\')
            out += "\\\\";
        else if (c == '\n')
            out += "\\n";
        else if (c == '\r')
            out += "\\r";
        else if (c == '\0')
            out += "\\0";
        else
            out += c;
    }
    return out;
}

std::string unescaped(std::string_view text) {
    std::string out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        if (text[i] != '\\' || i + 1 == text.size()) {
            out += text[i];
            continue;
        }
        const char c = text[++i];
        out += c == 'n' ? '\n' : c == 'r' ? '\r' : c == '0' ? '\0' : c;
    }
    return out;
}

std::vector<std::string_view> words(std::string_view text, std::size_t most) {
    std::vector<std::string_view> out;
    while (out.size() + 1 < most) {
        const auto space = text.find(' ');
        if (space == std::string_view::npos) break;
        out.push_back(text.substr(0, space));
        text.remove_prefix(space + 1);
    }
    out.push_back(text);
    return out;
}

std::optional<std::size_t> wholeNumber(std::string_view text) {
    std::size_t value = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (code != std::errc() || end != text.data() + text.size()) return std::nullopt;
    return value;
}

Error badLine(const Line& line, std::string_view wanted) {
    return refusal(ErrorCode::BadValue, std::string(wanted), line.number, 1);
}

/// One "# key ..." line.
std::optional<Error> readHead(const Line& line, capture::Capture& capture) {
    const auto w = words(line.text, 2);
    const std::string_view rest = w.size() == 2 ? w[1] : std::string_view();
    const auto head = words(rest, 2);
    const std::string_view tail = head.size() == 2 ? head[1] : std::string_view();
    if (head[0] == "kind") {
        const auto kind = capture::intervalKindOf(tail);
        if (!kind) return badLine(line, "a kind of frame interval");
        capture.kind = *kind;
    } else if (head[0] == "note") {
        const auto pair = words(tail, 2);
        capture.notes[std::string(pair[0])] = pair.size() == 2 ? unescaped(pair[1]) : std::string();
    } else if (head[0] == "part") {
        const auto pair = words(tail, 2);
        const auto first = wholeNumber(pair[0]);
        if (pair.size() != 2 || !first || (!capture.marks.empty() && capture.marks.back().firstFrame > *first))
            return badLine(line, "a first frame in order and a name");
        capture.marks.push_back({unescaped(pair[1]), *first});
    } else if (head[0] == "other") {
        const auto pair = words(tail, 2);
        if (wholeNumber(pair[0]) != capture.others.size() || pair.size() != 2)
            return badLine(line, "the next column's number and its name");
        capture.others.push_back({unescaped(pair[1]), {}, {}});
    } else if (head[0] == "word") {
        const auto pair = words(tail, 2);
        const auto column = wholeNumber(pair[0]);
        if (!column || *column >= capture.others.size() || pair.size() != 2)
            return badLine(line, "a column's number and its next word");
        capture.others[*column].words.push_back(unescaped(pair[1]));
    } else if (head[0] == "sample") {
        const auto triple = words(tail, 3);
        const auto sensor = capture::sensorOf(triple[0]);
        const auto time = triple.size() == 3 ? parseDouble(triple[1]) : std::nullopt;
        const auto value = triple.size() == 3 ? parseDouble(triple[2]) : std::nullopt;
        if (!sensor || !time || !value) return badLine(line, "a sensor, a time and a value");
        if (capture.track(*sensor) == nullptr) capture.tracks.push_back({*sensor, {}, {}});
        for (auto& track : capture.tracks)
            if (track.sensor == *sensor) {
                track.timeMs.push_back(*time);
                track.values.push_back(static_cast<float>(*value));
            }
    }
    return std::nullopt;
}

using Columns = std::vector<std::optional<std::vector<double>> capture::Capture::*>;

/// Makes the columns that the heading names, with room for so many rows.
std::optional<Error> readHeading(const Line& line, Columns& order, capture::Capture& capture, std::size_t expected) {
    const auto cells = cellsOf(line.text, ',');
    for (const auto cell : cells)
        for (const auto& column : capture::optionalColumns)
            if (cell == column.name && !(capture.*column.values)) {
                order.push_back(column.values);
                (capture.*column.values).emplace().reserve(expected);
            }
    if (cells.size() != 1 + order.size() + capture.others.size()) return badLine(line, "a heading of known columns");
    capture.framesMs.reserve(expected);
    for (auto& other : capture.others) other.values.reserve(expected);
    return std::nullopt;
}

std::optional<Error> readRow(const Line& line, const Columns& order, capture::Capture& capture) {
    const auto cells = cellsOf(line.text, ',');
    const std::size_t columns = 1 + order.size() + capture.others.size();
    if (cells.size() != columns)
        return refusal(ErrorCode::UnevenRow, fmt::format("{}/{}", cells.size(), columns), line.number, cells.size());
    const auto noNumber = [&](std::size_t cell) {
        return refusal(ErrorCode::BadNumber, std::string(cells[cell].substr(0, 40)), line.number, cell + 1);
    };
    const auto frame = parseDouble(cells[0]);
    if (!frame || *frame <= 0) return noNumber(0);
    for (std::size_t c = 0; c < order.size(); ++c) {
        const auto value = parseDouble(cells[c + 1]);
        if (!value && !trimmed(cells[c + 1]).empty()) return noNumber(c + 1);
        (capture.*order[c])->push_back(value.value_or(std::nan("")));
    }
    std::size_t c = 1 + order.size();
    for (auto& other : capture.others) {
        const auto value = parseDouble(cells[c]);
        const bool good = value
                              ? other.words.empty() || (*value >= 0 && *value < static_cast<double>(other.words.size()))
                              : trimmed(cells[c]).empty();
        if (!good) return noNumber(c);
        other.values.push_back(capture::narrowed(value.value_or(std::nan(""))));
        ++c;
    }
    capture.framesMs.push_back(*frame);
    return std::nullopt;
}

} // namespace

std::string writeCsv(const capture::Capture& capture) {
    std::string out = std::string(magic) + "\n";
    out += fmt::format("# kind {}\n", keyOf(capture.kind));
    for (const auto& [key, value] : capture.notes) out += fmt::format("# note {} {}\n", key, escaped(value));
    for (const auto& mark : capture.marks) out += fmt::format("# part {} {}\n", mark.firstFrame, escaped(mark.part));
    for (const auto& track : capture.tracks)
        for (std::size_t i = 0; i < track.values.size(); ++i)
            if (std::isfinite(track.values[i]))
                out += fmt::format("# sample {} {} {}\n", keyOf(track.sensor), shortestText(track.timeMs[i]),
                                   shortestText(static_cast<double>(track.values[i])));
    for (std::size_t i = 0; i < capture.others.size(); ++i) {
        out += fmt::format("# other {} {}\n", i, escaped(capture.others[i].name));
        for (const auto& word : capture.others[i].words) out += fmt::format("# word {} {}\n", i, escaped(word));
    }
    out += "frame_ms";
    for (const auto& column : capture::optionalColumns)
        if (capture.*column.values) out += fmt::format(",{}", column.name);
    for (std::size_t i = 0; i < capture.others.size(); ++i) out += fmt::format(",other_{}", i);
    out += "\n";
    for (std::size_t i = 0; i < capture.frames(); ++i) {
        out += shortestText(capture.framesMs[i]);
        for (const auto& column : capture::optionalColumns) {
            const auto& values = capture.*column.values;
            if (!values) continue;
            out += ',';
            if (std::isfinite((*values)[i])) out += shortestText((*values)[i]);
        }
        for (const auto& other : capture.others) {
            out += ',';
            if (std::isfinite(other.values[i])) out += shortestText(static_cast<double>(other.values[i]));
        }
        out += '\n';
    }
    return out;
}

Result<capture::Capture> readOwn(Lines lines, std::size_t expected, const Context& context) {
    capture::Capture capture;
    Columns order;
    bool heading = true;
    while (const auto line = lines.next()) {
        std::optional<Error> fault;
        if ((fault = faultOfLength(*line))) return tl::unexpected(*fault);
        if (line->number == 0) {
            if (line->text != magic) fault = badLine(*line, magic);
        } else if (line->text.substr(0, 1) == "#") {
            fault = readHead(*line, capture);
        } else if (heading) {
            fault = readHeading(*line, order, capture, expected);
            heading = false;
        } else if (!trimmed(line->text).empty()) {
            fault = readRow(*line, order, capture);
            if (fault && !line->ended) break;
        }
        if (fault) return tl::unexpected(*fault);
        if (line->number % linesBetweenLooks != 0) continue;
        if (context.cancelled()) return fail(ErrorCode::Cancelled);
        context.report(0);
    }
    if (capture.framesMs.empty()) return tl::unexpected(noFrames(lines.linesRead()));
    // Of a last row that was cut, what was read of it goes.
    for (const auto& column : order) (capture.*column)->resize(capture.frames());
    for (auto& other : capture.others) other.values.resize(capture.frames());
    std::erase_if(capture.marks, [&](const capture::PartMark& m) { return m.firstFrame >= capture.frames(); });
    return capture;
}

} // namespace impasto::logs
