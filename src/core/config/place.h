// SPDX-License-Identifier: GPL-3.0-or-later
// Where a value stands in a text, and how another is written there.
#pragma once

#include <impasto/base/error.h>
#include <string>
#include <string_view>

namespace impasto::config {

struct Place {
    std::size_t begin = 0, end = 0; // bytes of the value
    std::string value;              // as a person reads it
    enum class Writing { Plain, Quoted, Json, Toml, Xml } writing = Writing::Plain;
    char quote = '"'; // of Quoted and of Xml
};

// Each finds the one value of a key. Errors: NotInFile, DuplicateName, BadSyntax.
Result<Place> findIni(std::string_view text, const std::string& key);
Result<Place> findKeys(std::string_view text, const std::string& key);
Result<Place> findJson(std::string_view text, const std::string& key);
Result<Place> findToml(std::string_view text, const std::string& key);
Result<Place> findXml(std::string_view text, const std::string& key);

/// The value as it is written there. Errors: BadValue.
Result<std::string> written(const Place& place, const std::string& value);
/// From 1.
std::size_t lineOf(std::string_view text, std::size_t at);

/// Leaves out spaces and tabs around.
std::string_view trimmed(std::string_view text);
/// A value in a line, from `begin`: inside its quotes where it has some, else up to a remark or the line's end.
Place inLine(std::string_view text, std::size_t begin, std::size_t end);

} // namespace impasto::config
