// SPDX-License-Identifier: GPL-3.0-or-later
// JSON (RFC 8259), remarks allowed, by JSON pointers (RFC 6901). The text is parsed for faults first, so that the walk
// to the value may trust it.
#include "place.h"

#include <cstdint>
#include <nlohmann/json.hpp>

namespace impasto::config {
namespace {

/// Walks over text that was parsed before.
class Walk {
  public:
    explicit Walk(std::string_view text) : m_text(text) {
        if (m_text.starts_with("\xEF\xBB\xBF")) m_at = 3;
    }
    /// The value at a pointer's steps from here; not a list or an object.
    Result<Place> find(std::span<const std::string> steps, const std::string& key) {
        blanks();
        if (steps.empty()) return scalar(key);
        const char open = peek();
        if (open != '{' && open != '[') return fail(ErrorCode::NotInFile, key);
        ++m_at;
        std::optional<std::size_t> at;
        for (std::size_t index = 0;; ++index) {
            blanks();
            if (peek() == '}' || peek() == ']') break;
            std::string name = std::to_string(index);
            if (open == '{') {
                name = nlohmann::json::parse(string()).get<std::string>();
                blanks();
                ++m_at; // the colon
                blanks();
            }
            if (name == steps.front()) {
                if (at) return fail(ErrorCode::DuplicateName, key);
                at = m_at;
            }
            skip();
            blanks();
            if (peek() == ',') ++m_at;
        }
        if (!at) return fail(ErrorCode::NotInFile, key);
        m_at = *at;
        return find(steps.subspan(1), key);
    }

  private:
    [[nodiscard]] char peek() const { return m_at < m_text.size() ? m_text[m_at] : '\0'; }
    void blanks() {
        for (;;) {
            while (m_at < m_text.size() && std::string_view(" \t\r\n").find(m_text[m_at]) != std::string_view::npos)
                ++m_at;
            if (m_text.substr(m_at).starts_with("//"))
                m_at = std::min(m_text.find_first_of("\r\n", m_at), m_text.size());
            else if (m_text.substr(m_at).starts_with("/*"))
                m_at = std::min(m_text.find("*/", m_at + 2), m_text.size() - 2) + 2;
            else
                return;
        }
    }
    std::string_view string() {
        const std::size_t begin = m_at++;
        while (m_at < m_text.size() && m_text[m_at] != '"') m_at += m_text[m_at] == '\\' ? 2 : 1;
        m_at = std::min(m_at + 1, m_text.size());
        return m_text.substr(begin, m_at - begin);
    }
    void skip() {
        std::size_t depth = 0;
        do {
            blanks();
            const char c = peek();
            if (c == '"') {
                string();
            } else if (c == '{' || c == '[') {
                ++depth;
                ++m_at;
            } else if (c == '}' || c == ']') {
                --depth;
                ++m_at;
            } else if (c == ',' || c == ':') {
                ++m_at;
            } else {
                word();
            }
            if (depth > 0) blanks();
        } while (depth > 0 && m_at < m_text.size());
    }
    std::string_view word() {
        const std::size_t begin = m_at;
        while (m_at < m_text.size() && std::string_view(" \t\r\n,]}/").find(m_text[m_at]) == std::string_view::npos)
            ++m_at;
        return m_text.substr(begin, m_at - begin);
    }
    Result<Place> scalar(const std::string& key) {
        const std::size_t begin = m_at;
        if (peek() == '{' || peek() == '[') return fail(ErrorCode::NotInFile, key);
        if (peek() == '"') {
            const auto text = string();
            return Place{begin, m_at, nlohmann::json::parse(text).get<std::string>(), Place::Writing::Json, '"'};
        }
        const auto text = word();
        return Place{begin, m_at, std::string(text), Place::Writing::Json, '\0'};
    }

    std::string_view m_text;
    std::size_t m_at = 0;
};

/// The steps of a pointer; one without a slash is a key of the root.
std::vector<std::string> stepsOf(const std::string& key) {
    std::vector<std::string> out;
    std::size_t at = key.starts_with('/') ? 1 : 0;
    for (;;) {
        const auto slash = std::min(key.find('/', at), key.size());
        std::string step;
        for (std::size_t i = at; i < slash; ++i) {
            const bool escaped = key[i] == '~' && i + 1 < slash && (key[i + 1] == '0' || key[i + 1] == '1');
            step += escaped ? (key[i + 1] == '0' ? '~' : '/') : key[i];
            if (escaped) ++i;
        }
        out.push_back(std::move(step));
        if (slash == key.size()) return out;
        at = slash + 1;
    }
}

/// Depth alone could end the walk: the parser is asked with a bound.
bool tooDeep(std::string_view text) {
    int depth = 0;
    bool inside = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (inside) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                inside = false;
        } else if (c == '"') {
            inside = true;
        } else if (c == '{' || c == '[') {
            if (++depth > 64) return true;
        } else if (c == '}' || c == ']') {
            --depth;
        }
    }
    return false;
}

} // namespace

Result<Place> findJson(std::string_view text, const std::string& key) {
    if (tooDeep(text)) return fail(ErrorCode::BadSyntax, "more than 64 levels");
    std::string_view plain = text;
    if (plain.starts_with("\xEF\xBB\xBF")) plain.remove_prefix(3);
    try {
        const auto parsed = nlohmann::json::parse(plain, nullptr, true, true);
        static_cast<void>(parsed);
    } catch (const nlohmann::json::parse_error& e) {
        const std::size_t at = std::min(e.byte > 0 ? e.byte - 1 : 0, text.size());
        return fail(ErrorCode::BadSyntax, "no JSON", {{}, lineOf(text, at), {}, {}});
    } catch (const nlohmann::json::exception&) { // a number that no machine holds
        return fail(ErrorCode::BadSyntax, "no JSON");
    }
    return Walk(text).find(stepsOf(key), key);
}

} // namespace impasto::config
