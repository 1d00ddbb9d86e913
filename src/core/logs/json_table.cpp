// SPDX-License-Identifier: GPL-3.0-or-later
// Frame logs in JSON (RFC 8259): the largest table in the document, whatever it is called. The document is walked twice
// and never held as a tree: once to find the table, once to write it down.
#include <algorithm>
#include <impasto/base/text.h>
#include <map>
#include <nlohmann/json.hpp>

#include "head.h"

namespace impasto::logs {
namespace {

using Json = nlohmann::json;

constexpr std::size_t fewestRows = 3, mostColumns = 200, deepest = 32, deepestInRow = 4;

std::string cellOf(std::string text) {
    std::replace_if(
        text.begin(), text.end(), [](char c) { return c == '\t' || c == '\n' || c == '\r' || c == '"' || c == '\0'; },
        ' ');
    return text;
}

/// A document as it is told by the parser: values as cells of a table, and containers.
class Events : public Json::json_sax_t {
  public:
    virtual void value(std::string cell, bool number) = 0;
    virtual void open(bool list) = 0;
    virtual void close() = 0;

    bool null() override { return told({}, false); }
    bool boolean(bool v) override { return told(v ? "1" : "0", false); }
    bool number_integer(std::int64_t v) override { return told(shortestText(static_cast<double>(v)), true); }
    bool number_unsigned(std::uint64_t v) override { return told(shortestText(static_cast<double>(v)), true); }
    bool number_float(double v, const std::string& /*text*/) override { return told(shortestText(v), true); }
    bool string(std::string& v) override { return told(cellOf(std::move(v)), false); }
    bool binary(Json::binary_t& /*v*/) override { return told({}, false); }
    bool start_object(std::size_t /*size*/) override { return opened(false); }
    bool start_array(std::size_t /*size*/) override { return opened(true); }
    bool end_object() override { return closed(); }
    bool end_array() override { return closed(); }
    bool key(std::string& name) override {
        m_key = cellOf(std::move(name));
        return true;
    }
    bool parse_error(std::size_t /*at*/, const std::string& /*token*/, const Json::exception& /*why*/) override {
        return false;
    }

  protected:
    std::string m_key; // of the value or container that comes, in an object

  private:
    bool told(std::string cell, bool number) {
        value(std::move(cell), number);
        return true;
    }
    bool opened(bool list) {
        open(list);
        return true;
    }
    bool closed() {
        close();
        return true;
    }
};

enum class Shape {
    Objects, // a list of them: a row each; values of objects inside have both names
    Lists,   // a list of them: a row each
    Values,  // a list: one column
    Columns  // an object of lists beside each other
};

/// Where a table lies: the container with this number, counted as they open.
struct Table {
    Shape shape = Shape::Values;
    std::size_t container = 0;
    std::size_t rows = 0, columns = 0;
    std::vector<std::string> heading;    // of objects
    std::vector<std::size_t> containers; // of columns
    std::string pointer = {};            // of the container (RFC 6901)
    [[nodiscard]] std::size_t cells() const { return rows * columns; }
};

/// Finds the largest table; of equal ones the outer or later one.
class Survey : public Events {
  public:
    [[nodiscard]] const Table& best() const { return m_best; }

    void value(std::string /*cell*/, bool number) override {
        if (m_tooDeep > 0 || m_levels.empty()) return;
        auto& top = m_levels.back();
        item(top, number ? Kind::Number : Kind::Other);
        if (top.list || !top.row) return;
        auto& rows = m_levels[*top.row];
        if (rows.names.size() < mostColumns && rows.known.try_emplace(top.prefix + m_key, 0).second)
            rows.names.push_back(top.prefix + m_key);
    }

    void open(bool list) override {
        const std::size_t container = m_containers++;
        if (m_levels.size() > deepest) {
            ++m_tooDeep;
            return;
        }
        Level level{list, container, {}, {}, {}, 0, Kind::None, 0, {}, {}, 0, 0, {}};
        if (!m_levels.empty()) {
            auto& parent = m_levels.back();
            level.at = parent.list ? std::to_string(parent.items) : inPointer(m_key);
            item(parent, list ? Kind::List : Kind::Object);
            if (!list && parent.list && parent.first == Kind::Object) {
                ++parent.rows;
                level.row = m_levels.size() - 1;
            } else if (!list && !parent.list && parent.row && parent.nested < deepestInRow) {
                level.row = parent.row;
                level.nested = parent.nested + 1;
                level.prefix = parent.prefix + m_key + ".";
            }
        }
        m_levels.push_back(std::move(level));
    }

    void close() override {
        if (m_tooDeep > 0) {
            --m_tooDeep;
            return;
        }
        Level top = std::move(m_levels.back());
        m_levels.pop_back();
        m_closing = top.at;
        if (top.list && top.first == Kind::Object)
            offer({Shape::Objects, top.container, top.rows, top.names.size(), std::move(top.names), {}});
        if (top.list && top.first == Kind::List) offer({Shape::Lists, top.container, top.rows, top.widest, {}, {}});
        if (top.list && top.first == Kind::Number) offer({Shape::Values, top.container, top.items, 1, {}, {}});
        if (!top.columns.empty()) {
            auto& [rows, containers] = *top.columns.rbegin(); // the longest ones
            offer({Shape::Columns, top.container, rows, containers.size(), {}, std::move(containers)});
        }
        if (m_levels.empty() || !top.list) return;
        auto& parent = m_levels.back();
        if (parent.list && parent.first == Kind::List && top.items <= mostColumns) {
            ++parent.rows;
            parent.widest = std::max(parent.widest, top.items);
        }
        const bool column = top.items >= fewestRows && (top.first == Kind::Number || top.first == Kind::Other);
        if (!parent.list && column && parent.columns.size() <= mostColumns)
            if (auto& alike = parent.columns[top.items]; alike.size() < mostColumns) alike.push_back(top.container);
    }

  private:
    enum class Kind { None, Number, Other, List, Object };
    struct Level {
        bool list;
        std::size_t container;
        std::string at;                 // its place in the one around it
        std::optional<std::size_t> row; // the level of the list of objects that a value in here belongs to
        std::string prefix;             // of its name there
        std::size_t nested;
        Kind first; // of what is in it
        std::size_t items;
        // what it may be
        std::vector<std::string> names;
        std::map<std::string, int, std::less<>> known;
        std::size_t rows, widest;
        std::map<std::size_t, std::vector<std::size_t>> columns; // by length
    };
    static void item(Level& level, Kind kind) {
        if (level.first == Kind::None) level.first = kind;
        ++level.items;
    }
    void offer(Table table) {
        if (table.rows < fewestRows || table.cells() == 0 || table.cells() < m_best.cells()) return;
        for (std::size_t i = 1; i < m_levels.size(); ++i) table.pointer += "/" + m_levels[i].at;
        if (!m_levels.empty()) table.pointer += "/" + m_closing;
        m_best = std::move(table);
    }

    std::vector<Level> m_levels;
    std::size_t m_containers = 0, m_tooDeep = 0;
    std::string m_closing; // place of the container that closes
    Table m_best;
};

/// Writes a table down as tab-separated text.
class Extract : public Events {
  public:
    explicit Extract(Table table) : m_table(std::move(table)), m_cells(m_table.columns) {
        for (std::size_t c = 0; c < m_table.heading.size(); ++c) m_columnOf.emplace(m_table.heading[c], c);
        if (m_table.shape == Shape::Objects) writeRow(m_table.heading);
        if (m_table.shape == Shape::Columns) m_columns.resize(m_table.columns);
    }

    JsonTable table() {
        if (m_table.shape == Shape::Columns) writeColumns();
        const bool columns = m_table.shape == Shape::Columns, objects = m_table.shape == Shape::Objects;
        return {std::move(m_text),
                std::move(m_table.pointer),
                false,
                columns,
                columns ? std::move(m_names) : std::move(m_table.heading),
                std::move(m_items),
                m_table.container,
                columns || objects,
                m_table.shape == Shape::Lists};
    }

    void value(std::string cell, bool /*number*/) override {
        if (m_skipped > 0 || m_depth == 0) return;
        take(std::move(cell));
        if (m_depth == 1) ++m_item;
    }

    void open(bool list) override {
        const std::size_t container = m_containers++;
        if (m_depth == 0) {
            m_depth = container == m_table.container ? 1 : 0;
            return;
        }
        const bool entered = m_skipped == 0 && enter(list, container);
        if (m_depth == 1 && m_skipped == 0) ++m_item;
        if (entered)
            ++m_depth;
        else
            ++m_skipped;
    }

    void close() override {
        if (m_depth == 0) return;
        if (m_skipped > 0) {
            --m_skipped;
            return;
        }
        --m_depth;
        if (!m_prefixes.empty()) m_prefixes.pop_back();
        if (m_depth != 1 || m_table.shape == Shape::Columns) return;
        if (m_at > m_table.columns) return; // a list may be longer than any row of the table
        m_items.push_back(static_cast<std::uint32_t>(m_item - 1));
        writeRow(m_cells);
    }

  private:
    /// Whether what is in the container belongs to the table. One that is itself in the place of a cell leaves it
    /// blank.
    bool enter(bool list, std::size_t container) {
        const bool row = m_depth == 1;
        switch (m_table.shape) {
        case Shape::Objects:
            if (list || m_depth > deepestInRow + 1) return false;
            if (row) begin();
            m_prefixes.push_back(row ? std::string() : m_prefixes.back() + m_key + ".");
            return true;
        case Shape::Lists:
            if (row && list) {
                begin();
                return true;
            }
            if (!row) take({});
            return false;
        case Shape::Values:
            take({});
            return false;
        case Shape::Columns: {
            const auto& all = m_table.containers;
            const auto it = std::find(all.begin(), all.end(), container);
            if (row && it != all.end()) {
                m_column = static_cast<std::size_t>(it - all.begin());
                m_names.resize(m_table.columns);
                m_names[m_column] = m_key;
                m_columns[m_column] = cellOf(m_key) + "\n";
                return true;
            }
            if (!row) take({});
            return false;
        }
        }
        return false;
    }

    void begin() {
        std::fill(m_cells.begin(), m_cells.end(), std::string());
        m_given.assign(m_table.columns, false);
        m_at = 0;
    }

    void take(std::string cell) {
        switch (m_table.shape) {
        case Shape::Objects: {
            if (m_depth < 2) return;
            const auto it = m_columnOf.find(m_prefixes.back() + m_key);
            if (it == m_columnOf.end() || m_given[it->second]) return; // the same name twice
            m_given[it->second] = true;
            m_cells[it->second] = std::move(cell);
            return;
        }
        case Shape::Lists:
            if (m_depth < 2) return;
            if (m_at < m_table.columns) m_cells[m_at] = std::move(cell);
            ++m_at;
            return;
        case Shape::Values:
            m_items.push_back(static_cast<std::uint32_t>(m_item));
            m_text += cell;
            m_text += '\n';
            return;
        case Shape::Columns:
            if (m_depth < 2) return;
            m_columns[m_column] += cell;
            m_columns[m_column] += '\n';
            return;
        }
    }

    void writeRow(const std::vector<std::string>& cells) {
        for (std::size_t c = 0; c < cells.size(); ++c) {
            if (c > 0) m_text += '\t';
            m_text += cells[c];
        }
        m_text += '\n';
    }

    void writeColumns() {
        std::vector<std::size_t> at(m_columns.size(), 0);
        for (std::size_t row = 0; row <= m_table.rows; ++row) // the heading first
            for (std::size_t c = 0; c < m_columns.size(); ++c) {
                const auto end = m_columns[c].find('\n', at[c]);
                m_text.append(m_columns[c], at[c], end - at[c]);
                m_text += c + 1 == m_columns.size() ? '\n' : '\t';
                at[c] = end + 1;
            }
    }

    Table m_table;
    std::string m_text;
    std::size_t m_containers = 0, m_depth = 0, m_skipped = 0; // depth: 1 in the table's container
    std::vector<std::string> m_prefixes;                      // of the objects that are open in a row
    std::map<std::string, std::size_t, std::less<>> m_columnOf;
    std::vector<std::string> m_cells; // of a row
    std::vector<bool> m_given;
    std::size_t m_at = 0, m_column = 0, m_item = 0;
    std::vector<std::uint32_t> m_items; // of the rows
    std::vector<std::string> m_names;   // of columns
    std::vector<std::string> m_columns; // each with its heading, a cell a line
};

/// One document; false where it is none.
bool walkDocument(std::string_view text, Events& events) {
    return Json::sax_parse(text, &events);
}

/// One document a line, as a list of them; a last line that was cut is left out. False where a line is none.
bool walkLines(std::string_view text, Events& events) {
    events.open(true);
    Lines lines(text);
    while (const auto line = lines.next()) {
        if (trimmed(line->text).empty()) continue;
        if (!Json::accept(line->text)) {
            if (line->ended) return false;
            break;
        }
        Json::sax_parse(line->text, &events);
    }
    events.close();
    return true;
}

std::optional<JsonTable> tableBy(bool (*walk)(std::string_view, Events&), std::string_view text) {
    Survey survey;
    if (!walk(text, survey) || survey.best().rows == 0) return std::nullopt;
    Extract extract(survey.best());
    walk(text, extract);
    return extract.table();
}

/// A document that was cut: up to the last whole item of a list, with what is open closed. Empty where there is none.
std::string mended(std::string_view text) {
    std::size_t end = 0, closers = 0;
    std::string open, closing; // what is open, by its closing bracket
    bool quoted = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (quoted && c == '\\') ++i;
        if (c == '"') quoted = !quoted;
        if (quoted) continue;
        if (c == '{' || c == '[') open += c == '{' ? '}' : ']';
        if ((c == '}' || c == ']') && !open.empty()) open.pop_back();
        if (c == ',' && !open.empty() && open.back() == ']') {
            end = i;
            closers = open.size();
            closing.assign(open, 0, std::min<std::size_t>(open.size(), deepest));
        }
    }
    if (closers == 0 || closers > deepest) return {};
    return std::string(text.substr(0, end)).append(closing.rbegin(), closing.rend());
}

} // namespace

std::optional<JsonTable> tableOfJson(std::string_view text) {
    if (text.substr(0, 3) == "\xef\xbb\xbf") text.remove_prefix(3);
    if (auto table = tableBy(walkDocument, text)) return table;
    if (auto table = tableBy(walkLines, text)) {
        // The list around the documents is not in the text; of a table inside one of them no line is known.
        table->aLineEach = table->pointer.empty();
        if (!table->aLineEach) table->container = std::size_t{0} - 1;
        return table;
    }
    return tableBy(walkDocument, mended(text));
}

} // namespace impasto::logs
