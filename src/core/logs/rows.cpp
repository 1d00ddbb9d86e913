// SPDX-License-Identifier: GPL-3.0-or-later
#include "rows.h"

#include <algorithm>
#include <cmath>
#include <impasto/base/parallel.h>
#include <impasto/base/text.h>

namespace impasto::logs {
namespace {

constexpr std::size_t cutBytes = std::size_t{1} << 19U, mostBlocks = 8;

std::vector<std::size_t> columnsRead(const Dialect& dialect) {
    std::vector<std::size_t> out{dialect.timeColumn};
    for (const auto& column : {dialect.cpuColumn, dialect.gpuColumn})
        if (column) out.push_back(*column);
    for (const auto& sensor : dialect.sensors) out.push_back(sensor.column);
    for (const auto& other : dialect.others)
        if (!other.words) out.push_back(other.column);
    if (dialect.clockColumn) out.push_back(*dialect.clockColumn);
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

} // namespace

Rows::Rows(Lines lines, const Dialect& dialect)
    : m_lines(std::move(lines)), m_delimiter(dialect.delimiter), m_decimalComma(dialect.decimalComma),
      m_columns(columnsRead(dialect)), m_blocks(std::clamp<std::size_t>(threadsAtOnce(), 1, mostBlocks)) {}

void Rows::cut(Block& block) const {
    block.entries.clear();
    block.cells.clear();
    block.numbers.clear();
    Lines lines = Lines::within(block.text);
    while (const auto line = lines.next()) {
        const std::size_t from = block.cells.size();
        block.entries.push_back({*line, from});
        splitCells(line->text, m_delimiter, block.cells);
        block.numbers.resize(block.cells.size(), std::nan(""));
        for (const auto column : m_columns) {
            if (from + column >= block.cells.size()) break;
            if (const auto value = parseDouble(block.cells[from + column], m_decimalComma))
                block.numbers[from + column] = *value;
        }
    }
}

bool Rows::refill() {
    m_block = m_at = m_filled = 0;
    while (m_filled < m_blocks.size() && m_lines.block(cutBytes, m_blocks[m_filled].text)) ++m_filled;
    inParallel(m_filled, [this](std::size_t i) { cut(m_blocks[i]); });
    return m_filled > 0;
}

std::optional<CutLine> Rows::next() {
    while (m_block == m_filled || m_at == m_blocks[m_block].entries.size()) {
        m_at = 0;
        if (m_block + 1 < m_filled)
            ++m_block;
        else if (!refill())
            return std::nullopt;
    }
    const Block& block = m_blocks[m_block];
    const auto& [line, from] = block.entries[m_at++];
    const std::size_t to = m_at < block.entries.size() ? block.entries[m_at].from : block.cells.size();
    CutLine out{line, std::span(block.cells).subspan(from, to - from),
                std::span(block.numbers).subspan(from, to - from)};
    out.line.number = m_number++;
    return out;
}

} // namespace impasto::logs
