// SPDX-License-Identifier: GPL-3.0-or-later
// Orders, and what a capture holds beside its columns, as JSON text.
#pragma once

#include <impasto/logbook/logbook.h>
#include <span>
#include <variant>

namespace impasto::logbook {

std::string toJson(const run::Order& order);
Result<run::Order> orderFromJson(std::string_view text);
std::string toJson(const About& about);
About aboutFromJson(std::string_view text); // what cannot be read is left out
/// Of a run's capture: kind, marks, notes and which columns and tracks there are; and what was read off in its place.
std::string headJson(const run::Run& run);
/// A capture with empty columns of the right names, to be filled.
Result<capture::Capture> captureFromHead(std::string_view text);
/// Nothing where the run was recorded. Errors: DamagedLogbook for figures that cannot be.
Result<std::optional<run::ReadOff>> readOffFromHead(std::string_view text);

/// The columns of a capture by name, in storage order, where they lie in it; tracks are two columns each.
using ColumnValues = std::variant<std::span<const double>, std::span<const float>>;
struct NamedColumn {
    std::string name;
    ColumnValues values;
};
std::vector<NamedColumn> columnsOf(const capture::Capture& capture);
/// The column of that name, to be filled; nothing for a name the capture does not have.
using ColumnSink = std::variant<std::vector<double>*, std::vector<float>*>;
std::optional<ColumnSink> columnIn(capture::Capture& capture, std::string_view name);

} // namespace impasto::logbook
