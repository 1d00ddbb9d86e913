// SPDX-License-Identifier: GPL-3.0-or-later
#include "split.h"

#include <algorithm>
#include <cmath>
#include <impasto/base/text.h>
#include <iterator>
#include <limits>
#include <map>
#include <numeric>
#include <utility>

#include "heading.h"
#include "lines.h"
#include "nature.h"

namespace impasto::logs {
namespace {

constexpr std::size_t fewestRows = 40, mostGroups = 12, fewestInGroup = 10;

/// The rows of each value of a column, the fullest first.
using Groups = std::vector<std::vector<std::size_t>>;

/// Nothing where the column has one value, many, or does not take turns.
std::optional<Groups> groupsOf(const std::vector<std::vector<std::string_view>>& cells, std::size_t column) {
    std::map<std::string_view, std::size_t> known;
    Groups groups;
    std::size_t turns = 0, before = 0;
    for (std::size_t row = 0; row < cells.size(); ++row) {
        const auto [it, isNew] = known.try_emplace(trimmed(cells[row][column]), groups.size());
        if (isNew && groups.size() == mostGroups) return std::nullopt;
        if (isNew) groups.emplace_back();
        groups[it->second].push_back(row);
        turns += row > 0 && it->second != before ? 1 : 0;
        before = it->second;
    }
    if (groups.size() < 2 || turns < std::max<std::size_t>(4, cells.size() / 20)) return std::nullopt;
    std::sort(groups.begin(), groups.end(), [](const auto& a, const auto& b) { return a.size() > b.size(); });
    std::erase_if(groups, [](const auto& g) { return g.size() < fewestInGroup; });
    return groups.empty() ? std::nullopt : std::optional(std::move(groups));
}

std::vector<double> of(const std::vector<double>& values, const std::vector<std::size_t>& rows) {
    std::vector<double> out;
    for (const auto row : rows)
        if (!std::isnan(values[row])) out.push_back(values[row]);
    return out;
}

bool rises(const std::vector<double>& v) {
    const auto steps = stepsOf(v);
    const auto up = std::count_if(steps.begin(), steps.end(), [](double s) { return s > 0; });
    return !steps.empty() && std::none_of(steps.begin(), steps.end(), [](double s) { return s < 0; }) &&
           2 * static_cast<std::size_t>(up) >= steps.size();
}

/// Falls now and again in all rows, and in no group.
bool clocksOfTheirOwn(const std::vector<double>& values, const Groups& groups) {
    const auto steps = stepsOf(values);
    const auto falls = std::count_if(steps.begin(), steps.end(), [](double s) { return s < 0; });
    if (static_cast<double>(falls) < std::max(3.0, 0.02 * static_cast<double>(steps.size()))) return false;
    return groups.size() > 1 &&
           std::all_of(groups.begin(), groups.end(), [&](const auto& g) { return rises(of(values, g)); });
}

/// What the values come to over the span of the stamps.
double filled(const std::vector<double>& stamps, const std::vector<double>& values) {
    double sum = 0;
    for (const double v : values) sum += v;
    const double span = stamps.back() - stamps.front();
    return span > 0 && sum > 0 ? sum / span : 0;
}

/// Each group's values alone fill the time of its stamps, in some unit.
bool fillTheTimeAlone(const std::vector<double>& stamps, const std::vector<double>& values, const Groups& groups) {
    if (!rises(stamps) || groups.size() < 2) return false;
    double one = 0;
    for (const auto& g : groups) {
        const auto at = of(stamps, g), v = of(values, g);
        if (at.size() != g.size() || v.size() != g.size()) return false;
        const double share = filled(at, v);
        if (share <= 0) return false;
        const double unit = std::pow(1000, std::round(std::log(share) / std::log(1000)));
        if (std::abs(share / unit - 1) > 0.1 || (one > 0 && unit != one)) return false;
        one = unit;
    }
    return filled(stamps, values) > 1.5 * one;
}

/// Mean, and how far eight of ten lie apart against it.
std::pair<double, double> evenness(std::vector<double> v) {
    if (v.size() < 10) return {0, 0};
    std::sort(v.begin(), v.end());
    double sum = 0;
    for (const double each : v) sum += each;
    const double mean = sum / static_cast<double>(v.size());
    return {mean, mean > 0 ? (v[9 * v.size() / 10] - v[v.size() / 10]) / mean : 1e9};
}

/// The steps of the stamps are even in the fullest group and uneven in all. Groups of one size that take strict turns
/// are buffers, or GPUs that share the frames, of one recording.
bool evenOnlyAlone(const std::vector<double>& stamps, const Groups& groups) {
    const bool alike = groups.size() > 1 && 10 * groups[0].size() < 11 * groups[1].size();
    if (!rises(stamps) || alike) return false;
    const auto [step, uneven] = evenness(stepsOf(stamps));
    const auto [own, even] = evenness(stepsOf(of(stamps, groups.front())));
    return own > 1.2 * step && uneven > 0.4 && even < 0.35 * uneven;
}

bool makesSenseAlone(const Table& table, std::size_t column, const Groups& groups) {
    for (std::size_t t = 0; t < table.columns; ++t) {
        const auto& stamps = table.values[t];
        const auto missing = std::count_if(stamps.begin(), stamps.end(), [](double v) { return std::isnan(v); });
        if (t == column || missing > 0) continue;
        if (clocksOfTheirOwn(stamps, groups) || evenOnlyAlone(stamps, groups)) return true;
        for (std::size_t v = 0; v < table.columns; ++v)
            if (v != t && v != column && fillTheTimeAlone(stamps, table.values[v], groups)) return true;
    }
    return false;
}

/// No number and no name with one: "GPU0" and "GPU1" share the frames.
bool isWord(std::string_view cell) {
    constexpr std::string_view digits = "0123456789";
    return cell.size() >= 3 && cell.find_first_of(digits) == std::string_view::npos;
}

/// The values repeat the steps of the stamps, row by row, in some unit; gives the unit, 0 where they do not.
double unitRepeated(const std::vector<double>& stamps, const std::vector<double>& values) {
    if (stamps.size() != values.size() || stamps.size() < fewestInGroup) return 0;
    const double share = filled(stamps, values);
    if (share <= 0) return 0;
    const double unit = std::pow(1000, std::round(std::log(share) / std::log(1000)));
    const auto steps = stepsOf(stamps);
    std::vector<double> atStart, atEnd;
    double total = 0;
    for (std::size_t i = 0; i < steps.size(); ++i) {
        atStart.push_back(std::abs(steps[i] - values[i] / unit));
        atEnd.push_back(std::abs(steps[i] - values[i + 1] / unit));
        total += steps[i];
    }
    return std::min(withoutWorst(atStart), withoutWorst(atEnd)) < 0.05 * total ? unit : 0;
}

/// Of groups of one size in strict turns, the one that all others follow at once; nullptr where the steps between them
/// are more even.
const std::vector<std::size_t>* followedAtOnce(const std::vector<double>& stamps, const Groups& groups) {
    constexpr double atOnce = 0.35; // of the longest step, all others together
    std::size_t rows = 0;
    for (const auto& group : groups) rows += group.size();
    if (groups.size() < 2 || rows != stamps.size() || 20 * groups.back().size() < 19 * groups.front().size())
        return nullptr;
    double sum = 0, longest = 0;
    const std::vector<std::size_t>* first = nullptr;
    for (const auto& group : groups) {
        std::vector<double> before;
        for (const auto row : group)
            if (row > 0) before.push_back(stamps[row] - stamps[row - 1]);
        const auto middle = before.begin() + static_cast<std::ptrdiff_t>(before.size() / 2);
        std::nth_element(before.begin(), middle, before.end());
        sum += *middle;
        if (*middle <= longest) continue;
        longest = *middle;
        first = &group;
    }
    return sum - longest < atOnce * longest ? first : nullptr;
}

/// A counter of frames that each group counts for itself: the same numbers in all of them, one after the other.
bool countAlike(const std::vector<double>& values, const Groups& groups) {
    if (groups.size() < 2 || groups.back().size() + 1 < groups.front().size()) return false;
    const auto steps = stepsOf(values);
    const auto byOne = [](const std::vector<double>& v) {
        const auto all = stepsOf(v);
        return !all.empty() && std::all_of(all.begin(), all.end(), [](double s) { return s == 1; });
    };
    return steps.size() + 1 == values.size() &&
           std::all_of(steps.begin(), steps.end(), [](double s) { return s == 0 || s == 1; }) &&
           std::all_of(groups.begin(), groups.end(), [&](const auto& g) { return byOne(of(values, g)); });
}

/// Of threads, or steps of a frame, that are told in rows of their own under one number: the one whose times are
/// longest is the frame; nullptr where no counter says so.
const std::vector<std::size_t>* longestOfOneNumber(const Table& table, std::size_t column, const Groups& groups) {
    const auto counts = [&](const auto& values) { return countAlike(values, groups); };
    if (std::none_of(table.values.begin(), table.values.end(), counts)) return nullptr;
    for (std::size_t v = 0; v < table.columns; ++v) {
        const auto header = v < table.header.size() ? std::string_view(table.header[v]) : std::string_view();
        if (v == column || counts(table.values[v]) || saysOtherFigure(header, false)) continue;
        const auto sum = [&](const std::vector<std::size_t>& group) {
            const auto all = of(table.values[v], group);
            return std::accumulate(all.begin(), all.end(), 0.0);
        };
        const auto it = std::max_element(groups.begin(), groups.end(),
                                         [&](const auto& a, const auto& b) { return sum(a) < sum(b); });
        if (sum(*it) > 0) return &*it;
    }
    return nullptr;
}

/// The rows that are frames where a cell says what happens in each of them. `words`: the cells are no names with a
/// number.
const std::vector<std::size_t>* framesAmong(const Table& table, std::size_t column, const Groups& groups, bool words) {
    for (std::size_t t = 0; t < table.columns; ++t) {
        const auto& stamps = table.values[t];
        const auto missing = std::count_if(stamps.begin(), stamps.end(), [](double v) { return std::isnan(v); });
        if (t == column || missing > 0 || !rises(stamps)) continue;
        for (std::size_t v = 0; v < table.columns; ++v)
            for (const auto& group : groups) {
                if (v == t || v == column) continue;
                const double unit = unitRepeated(of(stamps, group), of(table.values[v], group));
                if (unit > 0 && filled(stamps, table.values[v]) > 1.15 * unit) return &group;
            }
        if (const auto* first = words ? followedAtOnce(stamps, groups) : nullptr) return first;
    }
    return nullptr;
}

/// Rows of a log, cell by cell, with the numbers and times among them.
struct Cells {
    std::vector<std::vector<std::string_view>> cells;
    std::vector<std::vector<double>> numbers; // NaN where a cell is none
    [[nodiscard]] bool filled(std::size_t row, std::size_t column) const {
        return column < cells[row].size() && !saysNothing(cells[row][column]);
    }
    [[nodiscard]] bool number(std::size_t row, std::size_t column) const {
        return column < numbers[row].size() && !std::isnan(numbers[row][column]);
    }
    /// How many of the rows satisfy it, as a share.
    template <class Is>
    static double share(const std::vector<std::size_t>& rows, const Is& is) {
        return static_cast<double>(std::count_if(rows.begin(), rows.end(), is)) / static_cast<double>(rows.size());
    }
};

Cells cellsIn(const std::vector<Row>& sample, const Table& table) {
    Cells out;
    std::vector<Clock> clocks;
    for (const auto& row : sample) {
        if (row.line < table.firstDataLine) continue;
        out.cells.push_back(cellsOf(row.text, table.delimiter));
        auto& numbers = out.numbers.emplace_back();
        clocks.resize(std::max(clocks.size(), out.cells.back().size()));
        for (std::size_t c = 0; c < out.cells.back().size(); ++c)
            numbers.push_back(parseTime(out.cells.back()[c], table.decimalComma, table.unitsBehind, clocks[c])
                                  .value_or(std::nan("")));
    }
    return out;
}

constexpr double always = 0.98, never = 0.02;

/// Stamps go by over the others as if they were not there: a step between frames is no longer where one lies within.
bool besideTheFrames(const Cells& all, const std::vector<std::size_t>& frames, const std::vector<std::size_t>& others,
                     std::size_t column) {
    std::vector<double> plain, across;
    for (std::size_t i = 1; i < frames.size(); ++i) {
        if (!all.number(frames[i - 1], column) || !all.number(frames[i], column)) return false;
        const double step = all.numbers[frames[i]][column] - all.numbers[frames[i - 1]][column];
        const auto inside = std::upper_bound(others.begin(), others.end(), frames[i - 1]);
        (inside != others.end() && *inside < frames[i] ? across : plain).push_back(step);
    }
    if (plain.size() < 10 || across.size() < 3) return false;
    const auto middle = [](std::vector<double>& v) {
        std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
        return v[v.size() / 2];
    };
    const double usual = middle(plain);
    return usual > 0 && middle(across) < 1.4 * usual;
}

/// What goes by from frame to frame, or stands still: no figure of a frame.
bool neverFalls(const Cells& all, const std::vector<std::size_t>& frames, std::size_t column) {
    double last = -std::numeric_limits<double>::infinity();
    return std::all_of(frames.begin(), frames.end(), [&](std::size_t row) {
        if (!all.number(row, column)) return true;
        const double before = std::exchange(last, all.numbers[row][column]);
        return before <= last;
    });
}

/// The rows of a group are no frames: they fill cells that frames leave empty, or have another number of cells; and
/// have none of the figures that every frame has, or stand between the frames without taking time.
bool otherKind(const Cells& all, const std::vector<std::size_t>& frames, const std::vector<std::size_t>& others) {
    std::size_t widest = 0;
    for (const auto& cells : all.cells) widest = std::max(widest, cells.size());
    const std::size_t width = all.cells[frames.front()].size();
    bool unlike = Cells::share(frames, [&](auto r) { return all.cells[r].size() == width; }) > always &&
                  Cells::share(others, [&](auto r) { return all.cells[r].size() != width; }) > always;
    bool lacks = false, tells = false, beside = false;
    for (std::size_t c = 0; c < widest; ++c) {
        const auto filled = [&](std::size_t r) { return all.filled(r, c); };
        const auto number = [&](std::size_t r) { return all.number(r, c); };
        unlike = unlike || (Cells::share(frames, filled) < never && Cells::share(others, filled) > always);
        if (Cells::share(frames, number) <= always) continue;
        const bool clock = neverFalls(all, frames, c), told = Cells::share(others, number) >= never;
        lacks = lacks || (!clock && !told);
        tells = tells || (!clock && told);
        beside = beside || (clock && besideTheFrames(all, frames, others, c));
    }
    return unlike && ((lacks && !tells) || beside);
}

} // namespace

std::optional<Split> splitColumn(const std::vector<Row>& sample, const Table& table) {
    if (table.rows < fewestRows || table.columns < 2) return std::nullopt;
    std::vector<std::vector<std::string_view>> cells; // as the table's values are
    for (const auto& row : sample) {
        if (row.line < table.firstDataLine) continue;
        auto each = cellsOf(row.text, table.delimiter);
        if (each.size() == table.columns) cells.push_back(std::move(each));
    }
    if (cells.size() != table.rows) return std::nullopt;
    for (std::size_t c = 0; c < table.columns; ++c) {
        if (c < table.header.size() && saysOtherFigure(table.header[c], false)) continue; // a load that comes and goes
        const auto groups = groupsOf(cells, c);
        if (!groups) continue;
        if (makesSenseAlone(table, c, *groups)) return Split{c};
        const auto saysWhat = [&](const auto& group) { return isWord(trimmed(cells[group.front()][c])); };
        const bool words = std::all_of(groups->begin(), groups->end(), saysWhat);
        if (const auto* frames = framesAmong(table, c, *groups, words))
            return Split{c, std::string(trimmed(cells[frames->front()][c]))};
        if (const auto* frames = longestOfOneNumber(table, c, *groups))
            return Split{c, std::string(trimmed(cells[frames->front()][c]))};
    }
    return std::nullopt;
}

std::optional<std::size_t> kindColumn(const std::vector<Row>& sample, const Table& table) {
    constexpr std::size_t mostKinds = 6, fewestOfAKind = 3, mostColumns = 300;
    if (table.rows < fewestRows || table.columns < 2 || table.columns > mostColumns) return std::nullopt;
    const auto all = cellsIn(sample, table);
    std::size_t asked = 8; // columns of few words: a look at one takes a look at all others
    for (std::size_t c = 0; c < table.columns; ++c) {
        std::map<std::string_view, std::vector<std::size_t>> groups;
        std::size_t empty = 0;
        for (std::size_t row = 0; row < all.cells.size() && groups.size() <= mostKinds; ++row)
            if (all.filled(row, c))
                groups[trimmed(all.cells[row][c])].push_back(row);
            else
                ++empty;
        const bool says = static_cast<double>(empty) <= never * static_cast<double>(all.cells.size());
        if (groups.size() < 2 || groups.size() > mostKinds || !says) continue;
        const auto fullest = std::max_element(groups.begin(), groups.end(), [](const auto& a, const auto& b) {
            return a.second.size() < b.second.size();
        });
        const auto isKind = [&](const auto& group) {
            return group.first == fullest->first ||
                   (group.second.size() >= fewestOfAKind && !parseDouble(group.first) &&
                    otherKind(all, fullest->second, group.second));
        };
        if (2 * fullest->second.size() < all.cells.size() || parseDouble(fullest->first)) continue;
        if (std::all_of(groups.begin(), groups.end(), isKind)) return c;
        if (--asked == 0) break;
    }
    return std::nullopt;
}

std::vector<Row> firstRecording(std::vector<Row> sample, const Table& table) {
    constexpr std::size_t fewest = 20;
    constexpr std::ptrdiff_t mostRecordings = 5;
    std::size_t last = table.rows; // of the first
    for (const auto& values : table.values) {
        std::vector<double> known;
        std::vector<std::size_t> rows; // of them
        for (std::size_t row = 0; row < values.size(); ++row)
            if (!std::isnan(values[row])) {
                known.push_back(values[row]);
                rows.push_back(row);
            }
        const auto nature = natureOf(known, 0);
        const auto fall = nature.fall;
        if (!fall || *fall < fewest || !nature.wide) continue;
        const auto steps = stepsOf(known);
        const auto falls = std::count_if(steps.begin(), steps.end(), [](double s) { return s < 0; });
        if (falls > mostRecordings ||
            natureOf({known.begin(), known.begin() + static_cast<std::ptrdiff_t>(*fall)}, 0).counts)
            continue; // it counts something round and round
        if (known[*fall] <= known.front() + 0.05 * (known[*fall - 1] - known.front()))
            last = std::min(last, rows[*fall]);
    }
    if (last == table.rows) return sample;
    std::size_t seen = 0;
    const auto it = std::find_if(sample.begin(), sample.end(), [&](const Row& row) {
        return row.line >= table.firstDataLine && cellsOf(row.text, table.delimiter).size() == table.columns &&
               seen++ == last;
    });
    sample.erase(it, sample.end());
    return sample;
}

std::vector<std::size_t> programColumnsOf(const std::vector<std::string>& header) {
    std::vector<std::size_t> out;
    for (std::size_t c = 0; c < header.size(); ++c) {
        const std::string_view h = header[c];
        const bool names = hasWord(h, "application") || hasWord(h, "program") || hasWord(h, "executable") ||
                           hasWord(h, "process") || hasWord(h, "swapchain") || hasWord(h, "swap chain") || h == "app" ||
                           h == "exe" || h == "app name" || h == "app_name" || h == "pid" || h == "tid" ||
                           hasWord(h, "thread id");
        const bool figure = hasWord(h, "time") || hasWord(h, "load") || hasWord(h, "%") || hasWord(h, "ms") ||
                            hasWord(h, "processor") || hasWord(h, "mode") || hasWord(h, "memory");
        if (names && !figure) out.push_back(c);
    }
    return out;
}

std::vector<Row> ofOneProgram(const std::vector<Row>& sample, const Table& table,
                              const std::vector<std::size_t>& columns, std::string program) {
    std::map<std::string, std::size_t> counts;
    const auto keyOfRow = [&](const Row& row) { return joinedCells(cellsOf(row.text, table.delimiter), columns); };
    for (const auto& row : sample)
        if (row.line >= table.firstDataLine) ++counts[keyOfRow(row)];
    const auto most = std::max_element(counts.begin(), counts.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    if (program.empty()) program = most->first;
    std::vector<Row> out;
    for (const auto& row : sample)
        if (row.line < table.firstDataLine || keyOfRow(row) == program) out.push_back(row);
    return out;
}

} // namespace impasto::logs
