// SPDX-License-Identifier: GPL-3.0-or-later
// Frame logs of any tool: delimited text with a column of frame times or of time stamps. The dialect is found from the
// content alone, is stored with the run, and can be corrected.
#pragma once

#include <array>
#include <filesystem>
#include <impasto/base/context.h>
#include <impasto/base/error.h>
#include <impasto/capture/capture.h>

namespace impasto::logs {

enum class TimeUnit { Seconds, Milliseconds, Microseconds, Ticks, Nanoseconds }; // ticks of 100 ns
inline constexpr std::array allTimeUnits{TimeUnit::Seconds, TimeUnit::Milliseconds, TimeUnit::Microseconds,
                                         TimeUnit::Ticks, TimeUnit::Nanoseconds};
enum class TimeMeaning { PerFrame, Cumulative, Rate }; // Rate: of each frame, in fps; a row is a frame all the same

/// A slow reading in a column, and the factor from its unit to the sensor's.
struct SensorColumn {
    capture::Sensor sensor = capture::Sensor::GpuLoad;
    std::size_t column = 0;
    double factor = 1;
    friend bool operator==(const SensorColumn&, const SensorColumn&) = default;
};

/// A column that is kept as it is.
struct NamedColumn {
    std::size_t column = 0;
    std::string name;
    bool words = false; // it holds words, not numbers
    friend bool operator==(const NamedColumn&, const NamedColumn&) = default;
};

/// How a text is to be read. Columns count from 0.
struct Dialect {
    char delimiter = ',';
    bool decimalComma = false;
    bool unitsBehind = false;      // "16.2 ms": a unit stands in the cells
    std::size_t firstDataLine = 0; // lines before it (from 0) are header, title or comment
    std::size_t columns = 1;
    std::size_t timeColumn = 0;
    TimeMeaning meaning = TimeMeaning::PerFrame;
    TimeUnit unit = TimeUnit::Milliseconds;
    std::optional<std::size_t> cpuColumn; // CPU work, only where a header names it
    std::optional<std::size_t> gpuColumn;
    TimeUnit cpuUnit = TimeUnit::Milliseconds, gpuUnit = TimeUnit::Milliseconds;
    std::vector<SensorColumn> sensors = {};       // where a header names them; one a sensor, of BusiestCore each core
    std::vector<NamedColumn> others = {};         // columns that mean nothing to this program
    std::vector<std::size_t> programColumns = {}; // that tell programs or swap chains apart, where a header names them
    std::string program = {};                     // whose rows count: its cells, joined by " / "; empty: all rows
    std::optional<std::size_t> clockColumn = {};  // stamps beside frame times, which they are held against
    TimeUnit clockUnit = TimeUnit::Seconds;
    std::optional<std::size_t> inventedColumn = {}; // tells rows of invented frames from rendered ones, or counts them
    std::vector<std::string> inventedCells = {};    // what it says of invented ones; none: it counts those of each row
    std::size_t recording = 1;                      // which of those that follow one another, each from its own start
    bool newestFirst = false;                       // rows, which are read from the last one on
    friend bool operator==(const Dialect&, const Dialect&) = default;
};

/// Whether the invented column counts the frames that were invented with a rendered one.
inline bool countsInvented(const Dialect& dialect) {
    return dialect.inventedColumn && dialect.inventedCells.empty();
}
/// Of one rendered frame.
inline constexpr double mostInvented = 16;
/// Whether a column's values can be such counts: whole, few, and more than a yes and no of each row.
bool canCountInvented(std::span<const double> values);

/// The factor from a unit to milliseconds.
double msPer(TimeUnit unit);
std::string_view keyOf(TimeUnit unit);
/// One line of text that says the dialect, as stored with a run; and back.
std::string textOf(const Dialect& dialect);
std::optional<Dialect> dialectOf(std::string_view text); // nothing for other text

/// A column that its user takes for a sensor: memory in the unit of the heading, else in GiB where no value is 256 or
/// more. Nothing where the values cannot be such readings, and of clocks, whose highest no log tells.
std::optional<SensorColumn> takenForSensor(capture::Sensor sensor, std::size_t column, std::string_view heading,
                                           std::span<const double> values);

/// The programs or swap chains of a log with their rows, most first; empty without program columns.
std::vector<std::pair<std::string, std::size_t>> programsIn(std::string_view text, const Dialect& dialect);
/// A pure function of the text. Where it holds several programs, the one with the most rows. Errors: EmptyFile,
/// NotText, DamagedPacking, NoTable, LineTooLong, NoFrames, NoTimeColumn, AmbiguousColumns.
Result<Dialect> guessDialect(std::string_view text);
/// Errors: BadNumber, NegativeTime, TimeRunsBackwards, UnevenRow, NoFrames; each with line and column. A last line
/// without its line end, cut by a program that still writes, is left out. A cumulative log has one frame less than
/// rows.
Result<capture::Capture> importText(std::string_view text, const Dialect& dialect);

/// Our own capture file ("# impasto capture 1"), see docs/formats.md. Reads back equal to the bit.
std::string writeCsv(const capture::Capture& capture);

/// Dialects that were corrected by hand, by the mark of the heading they were corrected for.
using RememberedDialects = std::map<std::uint64_t, Dialect>;
/// A file of one line each. A missing file holds none; lines that say no dialect are left out.
RememberedDialects loadDialects(const std::filesystem::path& file);
Result<void> saveDialects(const std::filesystem::path& file, const RememberedDialects& dialects);

/// How the cells of a log are written, said by hand.
struct CellRule {
    char delimiter = ',';
    bool decimalComma = false;
};

struct ReadOptions {
    std::optional<Dialect> dialect = {}; // corrected by hand; else the one remembered for the heading, else a guess
    std::optional<CellRule> cells = {};  // the guess keeps to it
    RememberedDialects remembered = {};
    std::size_t mostRows = 200'000'000;            // FileTooLarge beyond
    std::size_t mostBytes = std::size_t{1} << 34U; // unpacked
    Context context = {};                          // progress by bytes; errors: Cancelled
};
/// A log of either kind, plain or packed by gzip or zstd, UTF-8 or UTF-16 with its mark, or JSON (a table of objects,
/// of lists, or lists of one length). Read block by block: memory grows by the columns alone, but for JSON. The notes
/// "dialect" and "packing" of the capture say how it was read. Lines in errors count in the unpacked text; Where.file
/// is filled in.
Result<capture::Capture> readLog(const std::filesystem::path& path, const ReadOptions& options = {});
Result<capture::Capture> readLogText(std::string_view bytes, const ReadOptions& options = {});

/// What stands in a log, and how it would be read: to be looked at and corrected.
struct LogPreview {
    std::string packing; // as in the note; empty: plain
    Dialect dialect;
    std::vector<std::string> heading;           // cells of the line before the first data; empty without one
    std::uint64_t headingMark = 0;              // 0 without one
    bool remembered = false;                    // the dialect was corrected before for this heading
    std::vector<std::vector<std::string>> rows; // the first ones, as many cells as they have
    /// Of each column, the cells of the log's begin (some 2,000 rows): NaN where one is no number or clock time.
    std::vector<std::vector<double>> values;
    std::vector<std::pair<std::string, std::size_t>> programs; // at the start of the log, with their rows
    Result<capture::Capture> begin;        // what comes of the first rows (some 2,000) by the dialect
    std::optional<double> rateStepMs = {}; // how long a row lasts, where it is a table of rates beside a clock
};
/// Errors: CannotRead, EmptyFile, NotText, NoFrames (no row of numbers); own capture files are refused as BadValue:
/// they say themselves how they are read. Where the columns are not clear, `begin` says why and the first one is taken.
Result<LogPreview> previewLog(const std::filesystem::path& path, const ReadOptions& options = {});

} // namespace impasto::logs
