// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/description/description.h>

#include <fmt/core.h>
#include <impasto/base/text.h>
#include <set>
#include <toml++/toml.h>

namespace impasto::description {

struct Document::State {
    std::string fileName;
    toml::table table;
    std::optional<Error> first;
    std::set<const toml::node*> asked; // values and tables that some read asked for
};

struct Section::Node {
    const toml::table* table; // null for an absent table
    std::string path;
};

namespace {

Where placeOf(const Document::State& state, const toml::node* node, std::string key) {
    Where where{state.fileName, {}, {}, std::move(key)};
    if (node != nullptr) where.line = node->source().begin.line;
    return where;
}

std::string joined(const std::string& path, std::string_view key) {
    return path.empty() ? std::string(key) : path + "." + std::string(key);
}

/// The first key below a table that nobody asked for.
std::optional<Error> unasked(const Document::State& state, const toml::table& table, const std::string& path) {
    for (const auto& [key, node] : table) {
        const std::string here = joined(path, key.str());
        if (!state.asked.contains(&node)) return Error{ErrorCode::UnknownName, here, placeOf(state, &node, here)};
        if (const auto* array = node.as_array())
            for (const auto& element : *array)
                if (const auto* each = element.as_table())
                    if (auto error = unasked(state, *each, here)) return error;
        if (const auto* sub = node.as_table())
            if (auto error = unasked(state, *sub, here)) return error;
    }
    return std::nullopt;
}

/// What the parser would take apart by calling itself, or for minutes: keys of a great many parts, a great many keys.
/// Texts and comments are counted too, so that nothing hides behind a quote.
std::optional<Error> tooMuch(std::string_view text, const std::string& fileName) {
    constexpr std::size_t mostPoints = 1000, mostEquals = 20000;
    std::size_t points = 0, equals = 0, line = 1;
    for (const char c : text) {
        points = c == '\n' ? 0 : points + (c == '.' ? 1 : 0);
        line += c == '\n' ? 1 : 0;
        equals += c == '=' ? 1 : 0;
        if (points <= mostPoints && equals <= mostEquals) continue;
        const std::string what = points > mostPoints ? fmt::format("more than {} points in a line", mostPoints)
                                                     : fmt::format("more than {} keys", mostEquals);
        return Error{ErrorCode::BadSyntax, what, {fileName, line, {}, {}}, Kept::Nothing};
    }
    return std::nullopt;
}

} // namespace

Result<Document> Document::parse(std::string_view text, std::string fileName) {
    if (firstInvalidUtf8(text)) return fail(ErrorCode::NotText, "not UTF-8", {fileName, {}, {}, {}}, Kept::Nothing);
    if (auto fault = tooMuch(text, fileName)) return tl::unexpected(*fault);
    Document document;
    document.m_state = std::make_shared<State>();
    document.m_state->fileName = fileName;
    try {
        document.m_state->table = toml::parse(text);
    } catch (const toml::parse_error& error) {
        const auto at = error.source().begin;
        return fail(ErrorCode::BadSyntax, std::string(error.description()), {fileName, at.line, at.column, {}},
                    Kept::Nothing);
    }
    return document;
}

Section Document::root() const {
    Section section;
    section.m_state = m_state;
    section.m_node = std::make_shared<Section::Node>(Section::Node{&m_state->table, {}});
    return section;
}

Result<void> Document::check() const {
    if (!m_state->first) m_state->first = unasked(*m_state, m_state->table, {});
    if (m_state->first) return tl::unexpected(*m_state->first);
    return {};
}

void Section::fault(std::string_view key, ErrorCode code, std::string what) const {
    if (m_state->first) return;
    const toml::node* node = m_node->table == nullptr ? nullptr : m_node->table->get(key);
    if (node == nullptr) node = m_node->table;
    m_state->first = Error{code, std::move(what), placeOf(*m_state, node, joined(m_node->path, key)), Kept::Nothing};
}

bool Section::has(std::string_view key) const {
    return m_node->table != nullptr && m_node->table->contains(key);
}

namespace {

const toml::node* ask(Document::State& state, const toml::table* table, std::string_view key) {
    const toml::node* node = table == nullptr ? nullptr : table->get(key);
    if (node != nullptr) state.asked.insert(node);
    return node;
}

} // namespace

std::string Section::text(std::string_view key) const {
    const toml::node* node = ask(*m_state, m_node->table, key);
    if (node == nullptr) {
        fault(key, ErrorCode::MissingKey, joined(m_node->path, key));
        return {};
    }
    const auto value = node->value_exact<std::string>();
    if (!value || value->empty()) {
        fault(key, ErrorCode::BadValue, "text");
        return {};
    }
    return *value;
}

std::string Section::text(std::string_view key, std::string_view fallback) const {
    return has(key) ? text(key) : std::string(fallback);
}

double Section::number(std::string_view key, double low, double high) const {
    const toml::node* node = ask(*m_state, m_node->table, key);
    if (node == nullptr) {
        fault(key, ErrorCode::MissingKey, joined(m_node->path, key));
        return low;
    }
    const auto value = node->is_number() ? node->value<double>() : std::nullopt;
    if (!value || !(*value >= low && *value <= high)) {
        fault(key, ErrorCode::OutOfRange, shortestText(low) + " to " + shortestText(high));
        return low;
    }
    return *value;
}

double Section::number(std::string_view key, double low, double high, double fallback) const {
    return has(key) ? number(key, low, high) : fallback;
}

bool Section::flag(std::string_view key, bool fallback) const {
    const toml::node* node = ask(*m_state, m_node->table, key);
    if (node == nullptr) return fallback;
    const auto value = node->value_exact<bool>();
    if (!value) fault(key, ErrorCode::BadValue, "true or false");
    return value.value_or(fallback);
}

std::vector<double> Section::numbers(std::string_view key, double low, double high) const {
    const toml::node* node = ask(*m_state, m_node->table, key);
    std::vector<double> out;
    if (node == nullptr) return out;
    const toml::array* array = node->as_array();
    if (array == nullptr) fault(key, ErrorCode::BadValue, "a list of numbers");
    for (std::size_t i = 0; array != nullptr && i < array->size(); ++i) {
        const toml::node& element = *array->get(i);
        const auto value = element.is_number() ? element.value<double>() : std::nullopt;
        if (!value || !(*value >= low && *value <= high)) {
            fault(key, ErrorCode::OutOfRange, shortestText(low) + " to " + shortestText(high));
            return {};
        }
        out.push_back(*value);
    }
    return out;
}

std::vector<std::string> Section::texts(std::string_view key) const {
    const toml::node* node = ask(*m_state, m_node->table, key);
    std::vector<std::string> out;
    if (node == nullptr) return out;
    const toml::array* array = node->as_array();
    if (array == nullptr) fault(key, ErrorCode::BadValue, "a list of texts");
    for (std::size_t i = 0; array != nullptr && i < array->size(); ++i) {
        const auto value = array->get(i)->value_exact<std::string>();
        if (!value) {
            fault(key, ErrorCode::BadValue, "a list of texts");
            return {};
        }
        out.push_back(*value);
    }
    return out;
}

Section Section::table(std::string_view key) const {
    const toml::node* node = ask(*m_state, m_node->table, key);
    const toml::table* sub = node == nullptr ? nullptr : node->as_table();
    if (node != nullptr && sub == nullptr) fault(key, ErrorCode::BadValue, "a table");
    if (sub != nullptr) m_state->asked.insert(sub);
    Section section;
    section.m_state = m_state;
    section.m_node = std::make_shared<Node>(Node{sub, joined(m_node->path, key)});
    return section;
}

std::vector<Section> Section::tables(std::string_view key) const {
    const toml::node* node = ask(*m_state, m_node->table, key);
    std::vector<Section> out;
    if (node == nullptr) return out;
    const toml::array* array = node->as_array();
    if (array == nullptr) fault(key, ErrorCode::BadValue, "a list of tables");
    for (std::size_t i = 0; array != nullptr && i < array->size(); ++i) {
        const toml::table* each = array->get(i)->as_table();
        if (each == nullptr) {
            fault(key, ErrorCode::BadValue, "a list of tables");
            return {};
        }
        m_state->asked.insert(each);
        Section section;
        section.m_state = m_state;
        section.m_node = std::make_shared<Node>(Node{each, joined(m_node->path, key) + "[" + std::to_string(i) + "]"});
        out.push_back(section);
    }
    return out;
}

std::vector<std::string> Section::keys() const {
    std::vector<std::string> out;
    if (m_node->table != nullptr)
        for (const auto& [key, node] : *m_node->table) out.emplace_back(key.str());
    return out;
}

void Section::leave(std::string_view key) const {
    const auto mark = [this](const auto& self, const toml::node* node) -> void {
        if (node == nullptr) return;
        m_state->asked.insert(node);
        if (const auto* table = node->as_table())
            for (const auto& [name, child] : *table) self(self, &child);
        if (const auto* array = node->as_array())
            for (const auto& child : *array) self(self, &child);
    };
    mark(mark, m_node->table == nullptr ? nullptr : m_node->table->get(key));
}

std::string quoted(std::string_view text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        if (static_cast<unsigned char>(c) < 0x20)
            out += fmt::format("\\u{:04X}", static_cast<unsigned>(c));
        else
            out += c;
    }
    return out + "\"";
}

} // namespace impasto::description
