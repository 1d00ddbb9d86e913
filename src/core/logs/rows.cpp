// SPDX-License-Identifier: GPL-3.0-or-later
#include "rows.h"

#include <algorithm>
#include <cmath>
#include <impasto/base/parallel.h>
#include <impasto/base/text.h>
#include <tuple>
#include <utility>

#include "number.h"

namespace impasto::logs {
namespace {

constexpr std::size_t cutBytes = std::size_t{1} << 18U, mostThreads = 8;

} // namespace

std::vector<std::size_t> columnsRead(const Dialect& dialect) {
    std::vector<std::size_t> out{dialect.timeColumn};
    for (const auto& column : {dialect.cpuColumn, dialect.gpuColumn})
        if (column) out.push_back(*column);
    for (const auto& sensor : dialect.sensors) out.push_back(sensor.column);
    for (const auto& other : dialect.others)
        if (!other.words) out.push_back(other.column);
    if (dialect.clockColumn) out.push_back(*dialect.clockColumn);
    if (countsInvented(dialect)) out.push_back(*dialect.inventedColumn);
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

Rows::Rows(Lines lines, const Dialect& dialect)
    : m_lines(std::move(lines)), m_delimiter(dialect.delimiter), m_decimalComma(dialect.decimalComma),
      m_units(dialect.unitsBehind), m_columns(columnsRead(dialect)),
      m_blocks(2 * std::clamp<std::size_t>(threadsAtOnce(), 1, mostThreads)) {
    for (auto& block : m_blocks) fill(block);
    if (m_blocks[1].state == State::Empty) return; // a short one needs no help
    for (std::size_t i = 1; i < m_blocks.size() / 2; ++i)
        m_helpers.emplace_back([this](const std::stop_token& stop) { help(stop); });
}

void Rows::cutLine(Block& block, std::string_view text, double* numbers) const {
    const std::size_t from = block.used;
    block.cells.resize(from);
    splitCells(text, m_delimiter, block.cells);
    block.used = block.cells.size();
    for (const auto column : m_columns) {
        const bool has = from + column < block.cells.size();
        const auto value = has ? parseNumber(block.cells[from + column], m_decimalComma, m_units) : std::nullopt;
        *numbers++ = value.value_or(std::nan(""));
    }
}

/// The same in one pass, without quotes and with a delimiter that is neither a space nor the decimal mark. There is
/// room for as many cells as the line has bytes, and one more; gives their end.
std::string_view* Rows::cutPlainLine(std::string_view text, std::string_view* cells, double* numbers) const {
    const char mark = m_decimalComma ? ',' : '.', delimiter = m_delimiter;
    const char *at = text.data(), *const end = at + text.size();
    const std::size_t *next = m_columns.data(), *const last = next + m_columns.size();
    for (std::size_t column = 0;; ++column) {
        const char* const from = at;
        const bool read = next != last && *next == column;
        double value = 0;
        if (read) at = readDecimal(at, end, mark, value);
        const bool plain = at != from && (at == end || *at == delimiter);
        while (at != end && *at != delimiter) ++at;
        const std::string_view cell(from, static_cast<std::size_t>(at - from));
        *cells++ = cell;
        if (read) {
            *numbers++ = plain ? value : parseNumber(cell, m_decimalComma, m_units).value_or(std::nan(""));
            ++next;
        }
        if (at == end) break;
        ++at;
    }
    for (; next != last; ++next) *numbers++ = std::nan("");
    return cells;
}

/// Room for the numbers of one more line.
double* Rows::Block::numbersOf(std::size_t line, std::size_t columns) {
    const std::size_t at = line * columns;
    if (at + columns > numbers.size()) numbers.resize(2 * at + 1024 * columns);
    return numbers.data() + at;
}

void Rows::cut(Block& block) const {
    block.entries.clear();
    block.used = 0;
    const bool plain =
        m_delimiter != ' ' && m_delimiter != (m_decimalComma ? ',' : '.') && block.text.find('"') == std::string::npos;
    for (std::string_view rest = block.text; !rest.empty();) {
        const Line line = takeLine(rest, lineEnd(rest), 0);
        const bool comment = isComment(line.text);
        double* const numbers = block.numbersOf(block.entries.size(), m_columns.size());
        block.entries.push_back({static_cast<std::uint32_t>(line.text.data() - block.text.data()),
                                 static_cast<std::uint32_t>(line.text.size()), static_cast<std::uint32_t>(block.used),
                                 line.ended, line.tooLong, comment});
        if (comment) continue;
        if (!plain) {
            cutLine(block, line.text, numbers);
            continue;
        }
        if (const std::size_t most = block.used + line.text.size() + 1; most > block.cells.size())
            block.cells.resize(2 * most);
        std::string_view* const cells = block.cells.data() + block.used;
        block.used += static_cast<std::size_t>(cutPlainLine(line.text, cells, numbers) - cells);
    }
}

void Rows::fill(Block& block) {
    const bool any = m_lines.block(cutBytes, block.text);
    {
        const std::lock_guard lock(m_mutex);
        block.state = any ? State::Filled : State::Empty;
    }
    if (any) m_changed.notify_one();
}

/// The filled block that is read next; nullptr where there is none.
Rows::Block* Rows::waiting() {
    for (std::size_t i = 0; i < m_blocks.size(); ++i)
        if (auto& block = m_blocks[(m_block + i) % m_blocks.size()]; block.state == State::Filled) return &block;
    return nullptr;
}

/// Cuts a filled block, without the lock meanwhile.
void Rows::take(Block& block, std::unique_lock<std::mutex>& lock) {
    block.state = State::Taken;
    lock.unlock();
    try {
        cut(block);
    } catch (...) {
        block.thrown = std::current_exception();
    }
    lock.lock();
    block.state = State::Cut;
    m_changed.notify_all();
}

void Rows::help(const std::stop_token& stop) {
    std::unique_lock lock(m_mutex);
    while (m_changed.wait(lock, stop, [this] { return waiting() != nullptr; })) take(*waiting(), lock);
}

/// To the next block; the one that was read up is filled anew. False at the end.
bool Rows::advance() {
    if (m_current != nullptr) {
        m_current = nullptr;
        fill(m_blocks[m_block]);
        const std::lock_guard lock(m_mutex);
        m_block = (m_block + 1) % m_blocks.size();
    }
    Block& block = m_blocks[m_block];
    std::unique_lock lock(m_mutex);
    if (block.state == State::Empty) return false;
    while (block.state != State::Cut)
        if (auto* other = waiting())
            take(*other, lock); // this one, or one behind it that nobody has taken
        else
            m_changed.wait(lock);
    if (block.thrown) std::rethrow_exception(std::exchange(block.thrown, nullptr));
    m_current = &block;
    m_at = m_wholeTo = 0;
    return true;
}

CutRows Rows::together(std::size_t cells) {
    while (m_current == nullptr || m_at == m_current->entries.size())
        if (!advance()) return {m_number, {}, {}, nullptr, 0};
    const auto& entries = m_current->entries;
    // Each line is looked at once, however few of them are taken at a time.
    for (m_wholeTo = std::max(m_wholeTo, m_at); m_wholeTo < entries.size(); ++m_wholeTo) {
        const auto& entry = entries[m_wholeTo];
        const std::size_t end = m_wholeTo + 1 < entries.size() ? entries[m_wholeTo + 1].from : m_current->used;
        if (entry.comment || entry.tooLong || !entry.ended || end - entry.from < cells) break;
    }
    return {m_number,
            {entries.data() + m_at, m_wholeTo - m_at},
            {m_current->cells.data(), m_current->used},
            m_current->numbers.data() + m_at * m_columns.size(),
            m_columns.size()};
}

void Rows::skip(std::size_t rows) {
    m_at += rows;
    m_number += rows;
}

std::optional<CutLine> Rows::next() {
    while (m_current == nullptr || m_at == m_current->entries.size())
        if (!advance()) return std::nullopt;
    const auto& [text, entries, cells, numbers] =
        std::tie(m_current->text, m_current->entries, m_current->cells, m_current->numbers);
    const std::size_t i = m_at++;
    const auto& entry = entries[i];
    const std::size_t to = m_at < entries.size() ? entries[m_at].from : m_current->used;
    return CutLine{{m_number++, {text.data() + entry.begin, entry.length}, entry.ended, entry.tooLong},
                   entry.comment,
                   {cells.data() + entry.from, to - entry.from},
                   {numbers.data() + i * m_columns.size(), m_columns.size()}};
}

} // namespace impasto::logs
