// SPDX-License-Identifier: GPL-3.0-or-later
// Reads TOML descriptions (machines, games, the demo recipe) with errors that name file, line and key. The first fault
// is remembered and later reads return a harmless value, so that a reader is a list of fields and one check at the end.
#pragma once

#include <impasto/base/error.h>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

namespace impasto::description {

class Section;

class Document {
  public:
    /// Errors: NotText, BadSyntax (line, column). `fileName` is only for messages.
    static Result<Document> parse(std::string_view text, std::string fileName);
    [[nodiscard]] Section root() const;
    /// The first fault that a read met, or the first key that no read asked for (UnknownName).
    [[nodiscard]] Result<void> check() const;

    struct State;

  private:
    std::shared_ptr<State> m_state;
};

/// One table of the document. Cheap to copy; shares the document's state.
class Section {
  public:
    [[nodiscard]] bool has(std::string_view key) const;
    /// MissingKey when absent and no fallback is given; BadValue for another type, or empty text.
    [[nodiscard]] std::string text(std::string_view key) const;
    [[nodiscard]] std::string text(std::string_view key, std::string_view fallback) const;
    /// A number within [low, high]; whole TOML integers count as numbers.
    [[nodiscard]] double number(std::string_view key, double low, double high) const;
    [[nodiscard]] double number(std::string_view key, double low, double high, double fallback) const;
    /// true or false.
    [[nodiscard]] bool flag(std::string_view key, bool fallback) const;
    [[nodiscard]] std::vector<double> numbers(std::string_view key, double low, double high) const;
    [[nodiscard]] std::vector<std::string> texts(std::string_view key) const;
    /// A sub-table; an empty one when absent.
    [[nodiscard]] Section table(std::string_view key) const;
    /// The elements of an array of tables; empty when absent.
    [[nodiscard]] std::vector<Section> tables(std::string_view key) const;
    [[nodiscard]] std::vector<std::string> keys() const;
    /// A table that another reader takes: not looked at, not unknown.
    void leave(std::string_view key) const;
    /// Records a fault of this section's own finding.
    void fault(std::string_view key, ErrorCode code, std::string what) const;

    struct Node;

  private:
    friend class Document;
    std::shared_ptr<Document::State> m_state;
    std::shared_ptr<const Node> m_node;
};

/// The text as a TOML basic string, in quotes.
std::string quoted(std::string_view text);

} // namespace impasto::description
