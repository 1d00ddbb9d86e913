// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logs/import.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <impasto/base/file.h>
#include <impasto/base/fingerprint.h>
#include <impasto/base/shown.h>
#include <impasto/base/text.h>
#include <impasto/capture/check.h>
#include <utility>

#include "begin.h"
#include "head.h"
#include "heading.h"
#include "importer.h"
#include "number.h"
#include "rows.h"

namespace impasto::logs {
namespace {

constexpr std::size_t headLines = 2100, mostHead = std::size_t{1} << 23U,
                      mostWhole = std::size_t{1} << 28U; // of what is not read block by block

bool looksLikeJson(std::string_view text) {
    if (text.substr(0, 3) == "\xef\xbb\xbf") text.remove_prefix(3);
    constexpr std::string_view blanks = " \t\r\n";
    const auto first = text.find_first_not_of(blanks);
    if (first == std::string_view::npos || (text[first] != '{' && text[first] != '[')) return false;
    // "[12:00:01.500] frame 7": a mark at the begin of a line.
    const auto close = text.find_first_of("]\n", first + 1);
    const auto behind = text.find_first_not_of(" \t", close == std::string_view::npos ? text.size() : close + 1);
    if (text[first] == '[' && behind != std::string_view::npos && text[close] == ']' &&
        std::string_view(",]}\r\n").find(text[behind]) == std::string_view::npos)
        return false;
    const auto second = text.find_first_not_of(blanks, first + 1);
    return second != std::string_view::npos &&
           std::string_view("{[\"-0123456789]}").find(text[second]) != std::string_view::npos;
}

std::size_t linesIn(std::string_view text) {
    return static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n'));
}

Error tooManyRows(std::size_t most) {
    return {ErrorCode::FileTooLarge, fmt::format("{} rows", most), {}, Kept::Nothing};
}

/// Lines without a cell between frames.
struct Blank {
    std::size_t inside = 0, pending = 0, first = 0;
    void line(std::size_t number) {
        if (inside + pending++ == 0) first = number;
    }
    void frame() { inside += std::exchange(pending, 0); }
};

/// Reads all lines; about `expected` rows.
Result<capture::Capture> importLines(Lines lines, const Dialect& dialect, std::size_t expected, const Context& context,
                                     std::size_t mostRows, const Source* source = nullptr) {
    constexpr std::size_t fewestFrames = 3; // no figure rests on less
    Importer importer(dialect);
    importer.expect(expected);
    Note cutRow{NoteKind::CutRow, 0, 0, {}};
    Rows rows(std::move(lines), dialect);
    std::size_t linesRead = 0;
    const std::size_t cells = importer.cellsTogether();
    Blank blank;
    for (std::size_t lookAt = 0; true;) {
        if (rows.lineNumber() >= lookAt) {
            lookAt = rows.lineNumber() + linesBetweenLooks;
            if (rows.lineNumber() > mostRows) return tl::unexpected(tooManyRows(mostRows));
            if (context.cancelled()) return fail(ErrorCode::Cancelled);
            context.report(0);
        }
        if (rows.lineNumber() >= dialect.firstDataLine && importer.takesTogether()) {
            const std::size_t taken = importer.rows(rows.together(cells));
            rows.skip(taken);
            linesRead = rows.lineNumber();
            if (taken > 0) blank.frame();
        }
        const auto row = rows.next();
        if (!row) break;
        const Line& line = row->line;
        linesRead = line.number + 1;
        if (const auto fault = faultOfLength(line)) return tl::unexpected(*fault);
        if (line.number < dialect.firstDataLine) importer.before(line);
        if (line.number >= dialect.firstDataLine && line.text.empty()) blank.line(line.number);
        if (line.number < dialect.firstDataLine || row->comment) continue;
        blank.frame();
        const bool torn = !line.ended && source != nullptr && source->cut();
        const auto fault = torn ? std::optional(noFrames(linesRead)) : importer.row(*row);
        if (fault && !line.ended) { // cut while being written
            cutRow = {NoteKind::CutRow, 1, linesRead, {}};
            break;
        }
        if (fault) return tl::unexpected(*fault);
    }
    if (dialect.columns == 1) importer.blank(blank.inside, blank.first);
    if (const auto fault = importer.finish()) return tl::unexpected(*fault);
    capture::Capture capture = importer.take();
    keep(capture, cutRow);
    if (capture.frames() < fewestFrames) return tl::unexpected(noFrames(linesRead));
    capture.notes["dialect"] = textOf(dialect);
    if (!dialect.program.empty()) capture.notes["program"] = dialect.program;
    return capture;
}

/// Of a log whose rows are read from the last one on: the line in the text of one in what is read, from 1.
std::size_t turnedLine(std::size_t line, std::size_t heading, std::size_t lines) {
    return line <= heading || line > lines ? line : heading + 1 + lines - line;
}

/// The same with the rows of the whole text turned round.
Result<capture::Capture> importTurned(std::string_view text, const Dialect& dialect, const Context& context,
                                      std::size_t mostRows) {
    std::string turned;
    turned.reserve(text.size() + 1);
    std::size_t begin = 0, lines = 0;
    for (; lines < dialect.firstDataLine && begin < text.size(); ++lines) {
        const auto end = std::min(text.size() - 1, text.find('\n', begin));
        turned.append(text.substr(begin, end + 1 - begin));
        begin = end + 1;
    }
    const std::size_t heading = lines;
    for (auto rest = text.substr(begin); !rest.empty(); ++lines) {
        if (lines % linesBetweenLooks == 0 && context.cancelled()) return fail(ErrorCode::Cancelled);
        if (rest.back() == '\n') rest.remove_suffix(1);
        const auto before = rest.rfind('\n');
        const std::size_t from = before == std::string_view::npos ? 0 : before + 1;
        turned.append(rest.substr(from)).push_back('\n');
        rest = rest.substr(0, from);
    }
    auto capture = importLines(Lines(turned), dialect, lines, context, mostRows);
    if (!capture) {
        auto error = capture.error();
        if (error.where.line) error.where.line = turnedLine(*error.where.line, heading, lines);
        return tl::unexpected(std::move(error));
    }
    for (auto note : notesOf(*capture)) {
        note.firstLine = turnedLine(note.firstLine, heading, lines);
        keep(*capture, note);
    }
    keep(*capture, {NoteKind::NewestFirst, capture->frames(), 0, {}});
    return capture;
}

/// A remembered dialect stands for a heading: where the data begins, which row comes first and whose rows count is the
/// log's own matter.
Dialect adapted(Dialect remembered, std::string_view text) {
    const CellRule cells{remembered.delimiter, remembered.decimalComma};
    if (const auto table = guessTable(text, cells)) remembered.firstDataLine = table->firstDataLine;
    if (const auto begin = beginOf(text, cells)) remembered.newestFirst = begin->newestFirst;
    return remembered;
}

/// Rows that a log of this size holds, from the length of those in its head.
std::size_t rowsIn(const Head& head) {
    const std::size_t lines = linesIn(head.text);
    if (lines == 0 || !head.opened.how.empty()) return lines;
    const double perLine = static_cast<double>(head.text.size()) / static_cast<double>(lines);
    return static_cast<std::size_t>(1.02 * static_cast<double>(head.opened.onDisk) / perLine) + 16;
}

Result<Dialect> dialectFor(const Origin& origin, const Head& head, const ReadOptions& options) {
    if (options.dialect) return *options.dialect;
    auto dialect = guessColumns(head.text, options.cells);
    if (!options.remembered.empty() && !options.cells)
        if (const auto table = dialect ? std::optional(*dialect) : guessTable(head.text)) {
            const auto it = options.remembered.find(markOf(headingOf(head.text, *table)));
            if (it != options.remembered.end()) dialect = adapted(it->second, head.text);
        }
    if (!dialect || dialect->programColumns.empty()) return dialect;
    // Whose rows count takes a look at all of them.
    const auto all = openHead(origin, options.mostBytes);
    if (!all) return tl::unexpected(all.error());
    const auto programs = programsOf((*all)->lines(), *dialect);
    const auto known = [&](const auto& p) { return p.first == dialect->program; };
    if (std::none_of(programs.begin(), programs.end(), known)) chooseProgram(*dialect, programs);
    return dialect;
}

/// All of the text, in memory.
Result<void> readWhole(Head& head) {
    if (head.text.data() != head.storage.data()) return {};
    // What still comes goes behind it.
    if (head.opened.how.empty()) head.storage.reserve(std::min(head.opened.onDisk, mostWhole));
    for (auto block = head.opened.source->next(); !block.empty(); block = head.opened.source->next()) {
        if (head.storage.size() + block.size() > mostWhole)
            return fail(ErrorCode::FileTooLarge, fmt::format("{} bytes", mostWhole), {}, Kept::Nothing);
        head.storage.append(block);
    }
    if (head.opened.source->fault()) return tl::unexpected(*head.opened.source->fault());
    head.text = head.storage;
    return {};
}

/// The table of a JSON document in the place of its text.
Result<void> turnIntoTable(Head& head) {
    if (const auto whole = readWhole(head); !whole) return whole;
    constexpr std::size_t mostKept = std::size_t{1} << 25U; // for the place of a fault
    auto table = tableOfJson(head.text);
    if (!table) return fail(ErrorCode::NoTable, {}, {}, Kept::Nothing);
    if (head.text.size() <= mostKept) head.document = std::string(head.text);
    head.storage = std::move(table->text);
    head.text = head.storage;
    head.json = std::move(*table);
    head.opened.how += head.opened.how.empty() ? "JSON" : ", JSON";
    return {};
}

/// A fault in the table of a JSON document, told where it stands in the document.
Error placed(Error error, const Head& head) {
    if (!head.json || !error.where.line) return error;
    auto where = placeInJson(*head.json, head.document, *error.where.line, error.where.column.value_or(0));
    where.file = std::move(error.where.file);
    error.where = std::move(where);
    return error;
}

/// What of the times no heading says.
struct Unnamed {
    bool unit = false;       // nothing but the size of the values says it
    std::string column = {}; // the heading of the time, which names no time
};

Unnamed unnamedIn(std::string_view begin, const Dialect& dialect, const ReadOptions& options) {
    constexpr std::size_t longestName = 80;
    Unnamed out;
    if (options.dialect || dialect.meaning == TimeMeaning::Rate) return out;
    const auto heading = headingOf(begin, dialect);
    if (options.remembered.contains(markOf(heading))) return out;
    const auto name = dialect.timeColumn < heading.size() ? heading[dialect.timeColumn] : std::string();
    const auto said = lowered(name);
    const bool confirmed = dialect.clockColumn.has_value(); // by stamps whose steps it repeats
    if (!confirmed && !saysTime(said) && said != "t") {
        const bool quoted = name.size() > 2 && name.front() == '"' && name.back() == '"';
        out.column = (quoted ? name.substr(1, name.size() - 2) : name).substr(0, longestName);
    }
    if (unitInHeader(said)) return out;
    Lines lines(begin);
    auto line = lines.next();
    while (line && (line->number < dialect.firstDataLine || isComment(line->text))) line = lines.next();
    if (!line) return out;
    const auto cells = cellsOf(line->text, dialect.delimiter);
    out.unit = dialect.timeColumn < cells.size() &&
               parseNumber(cells[dialect.timeColumn], dialect.decimalComma).has_value(); // not "12:00:01.5"
    return out;
}

/// A unit that nothing says is told of where it comes to an unusual rate.
void tell(const Unnamed& unnamed, const Dialect& dialect, capture::Capture& capture) {
    constexpr double fewest = 10, most = 400;
    const double rate = 1000 * static_cast<double>(capture.frames()) / capture::durationMs(capture);
    const auto unit = std::string(keyOf(dialect.unit));
    if (unnamed.unit && (rate < fewest || rate > most))
        keep(capture,
             {NoteKind::UnitBySize, capture.frames(), 0, {{unit, static_cast<std::size_t>(std::lround(rate))}}});
    if (!unnamed.column.empty())
        keep(capture, {NoteKind::TakenForTime, 1, 0, {{unnamed.column, dialect.timeColumn + 1}}});
}

Result<capture::Capture> readFrom(const Origin& origin, const ReadOptions& options) {
    const auto head = openHead(origin, options.mostBytes);
    if (!head) return tl::unexpected(head.error());
    if (rowsIn(**head) / 2 > options.mostRows) return tl::unexpected(tooManyRows(options.mostRows)); // at once
    const std::string_view begin = (*head)->text;
    const Context progress{options.context.stop, [&](double) {
                               const auto& opened = (*head)->opened;
                               if (opened.onDisk > 0)
                                   options.context.report(static_cast<double>(opened.source->bytesRead()) /
                                                          static_cast<double>(opened.onDisk));
                           }};
    Result<capture::Capture> capture = fail(ErrorCode::NoFrames);
    if (begin.substr(0, 17) == "# impasto capture") {
        capture = readOwn((*head)->lines(), rowsIn(**head), progress);
    } else {
        const auto dialect = dialectFor(origin, **head, options);
        if (!dialect) return tl::unexpected(placed(dialect.error(), **head));
        const auto unnamed = unnamedIn(begin, *dialect, options); // before the text is gone
        if (dialect->newestFirst) {
            if (const auto whole = readWhole(**head); !whole) return tl::unexpected(whole.error());
            capture = importTurned((*head)->text, *dialect, progress, options.mostRows);
        } else {
            capture = importLines((*head)->lines(), *dialect, rowsIn(**head), progress, options.mostRows,
                                  (*head)->opened.source.get());
        }
        if (capture) tell(unnamed, *dialect, *capture);
    }
    if ((*head)->opened.source->fault()) return tl::unexpected(*(*head)->opened.source->fault());
    if (!capture) return tl::unexpected(placed(capture.error(), **head));
    if (const auto wrong = capture::faultOf(*capture))
        return fail(ErrorCode::BadValue, "plausible: " + *wrong, {}, Kept::Nothing);
    if (!(*head)->opened.how.empty()) capture->notes["packing"] = (*head)->opened.how;
    if ((*head)->opened.source->cut()) keep(*capture, {NoteKind::CutFile, 1, 0, {}});
    if ((*head)->opened.unchecked) keep(*capture, {NoteKind::Unchecked, 1, 0, {}});
    return capture;
}

template <class T>
Result<T> naming(Result<T> result, const std::filesystem::path& path) {
    if (result) return result;
    Error error = result.error();
    error.where.file = path.string();
    return tl::unexpected(error);
}

} // namespace

Result<std::unique_ptr<Head>> openHead(const Origin& origin, std::size_t mostBytes) {
    auto opened = openSource(origin, mostBytes);
    if (!opened) return tl::unexpected(opened.error());
    auto head = std::make_unique<Head>();
    head->opened = std::move(*opened);
    const auto* text = std::get_if<std::string_view>(&origin);
    if (text != nullptr && head->opened.how.empty()) {
        head->text = head->opened.source->next(); // all of it
    } else {
        while (linesIn(head->storage) < headLines && head->storage.size() < mostHead) {
            const auto block = head->opened.source->next();
            if (block.empty()) break;
            head->storage.append(block);
        }
        if (head->opened.source->fault()) return tl::unexpected(*head->opened.source->fault());
        head->text = head->storage;
    }
    if (looksLikeJson(head->text))
        if (const auto table = turnIntoTable(*head); !table) return tl::unexpected(table.error());
    if (auto fault = faultOfText(head->text)) return tl::unexpected(*fault);
    return head;
}

Result<capture::Capture> importText(std::string_view text, const Dialect& dialect) {
    if (auto fault = faultOfText(text)) return tl::unexpected(*fault);
    if (dialect.newestFirst) return importTurned(text, dialect, {}, ReadOptions().mostRows);
    return importLines(Lines(text), dialect, linesIn(text), {}, ReadOptions().mostRows);
}

Result<capture::Capture> readLogText(std::string_view bytes, const ReadOptions& options) {
    return readFrom(bytes, options);
}

Result<capture::Capture> readLog(const std::filesystem::path& path, const ReadOptions& options) {
    return naming(readFrom(path, options), path);
}

Result<LogPreview> previewLog(const std::filesystem::path& path, const ReadOptions& options) {
    constexpr std::size_t shownRows = 14, mostColumns = 200;
    const auto head = openHead(path);
    if (!head) return naming(Result<LogPreview>(tl::unexpected(head.error())), path);
    const std::string_view begin = (*head)->text;
    const auto refuse = [&](ErrorCode code, const char* what) {
        return naming(Result<LogPreview>(fail(code, what, {}, Kept::Nothing)), path);
    };
    if (begin.substr(0, 17) == "# impasto capture") return refuse(ErrorCode::BadValue, "a log of another program");
    const auto table = guessTable(begin, options.cells);
    if (!table) return refuse(ErrorCode::NoFrames, "");
    LogPreview out{(*head)->opened.how, *table, {}, 0, false, {}, {}, {}, fail(ErrorCode::NoFrames)};
    // A heading is known by how it would be read without a hand.
    if (const auto unaided = guessTable(begin)) out.headingMark = markOf(headingOf(begin, *unaided));
    const auto guessed = dialectFor(path, **head, options);
    if (guessed)
        out.dialect = *guessed;
    else if (guessed.error().code == ErrorCode::UnclearUnit)
        out.dialect = guessColumns(begin, options.cells, false).value_or(*table);
    if (!guessed && guessed.error().code == ErrorCode::NotFrames) out.rateStepMs = rateStepMs(begin, options.cells);
    out.heading = headingOf(begin, out.dialect);
    out.remembered =
        !options.dialect && !options.cells && out.headingMark != 0 && options.remembered.contains(out.headingMark);
    Lines lines(begin);
    std::vector<Clock> clocks;
    while (const auto line = lines.next()) {
        if (line->number < out.dialect.firstDataLine || isComment(line->text)) continue;
        const auto cells = cellsOf(line->text, out.dialect.delimiter);
        const bool listed = out.rows.size() < shownRows;
        if (listed) out.rows.emplace_back();
        out.values.resize(std::min(mostColumns, std::max(out.values.size(), cells.size())));
        clocks.resize(out.values.size());
        for (std::size_t c = 0; c < cells.size(); ++c) {
            if (listed) out.rows.back().push_back(shown(trimmed(cells[c]).substr(0, 80)));
            if (c < out.values.size())
                out.values[c].push_back(
                    parseTime(cells[c], out.dialect.decimalComma, out.dialect.unitsBehind, clocks[c])
                        .value_or(std::nan("")));
        }
    }
    out.programs = programsOf(Lines(begin), out.dialect);
    out.begin = naming(guessed ? importText(begin.substr(0, begin.rfind('\n') + 1), out.dialect)
                               : Result<capture::Capture>(tl::unexpected(guessed.error())),
                       path);
    return out;
}

RememberedDialects loadDialects(const std::filesystem::path& file) {
    RememberedDialects out;
    const auto text = readFile(file, std::size_t{1} << 22U);
    if (!text) return out;
    Lines lines(*text);
    while (const auto line = lines.next()) {
        constexpr std::size_t digits = 16;
        std::uint64_t mark = 0;
        const auto word = line->text.substr(0, digits);
        const auto [end, code] = std::from_chars(word.data(), word.data() + word.size(), mark, 16);
        if (code != std::errc() || end != word.data() + digits) continue;
        if (const auto dialect = dialectOf(line->text.substr(digits))) out[mark] = *dialect;
    }
    return out;
}

Result<void> saveDialects(const std::filesystem::path& file, const RememberedDialects& dialects) {
    std::string text;
    for (const auto& [mark, dialect] : dialects) text += fmt::format("{:016x} {}\n", mark, textOf(dialect));
    return writeFileAtomically(file, text);
}

} // namespace impasto::logs
