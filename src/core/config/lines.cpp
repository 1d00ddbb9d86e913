// SPDX-License-Identifier: GPL-3.0-or-later
// Configs of one value a line: with sections, or without.
#include "place.h"

#include <algorithm>
#include <functional>
#include <optional>
#include <vector>

namespace impasto::config {
namespace {

bool isBlank(char c) {
    return c == ' ' || c == '\t';
}
char small(char c) {
    return c >= 'A' && c <= 'Z' ? static_cast<char>(c | 0x20) : c;
}
bool sameLetters(std::string_view a, std::string_view b) {
    return a.size() == b.size() &&
           std::equal(a.begin(), a.end(), b.begin(), [](char x, char y) { return small(x) == small(y); });
}

/// Begin and end of every line, without its end marks.
void eachLine(std::string_view text, const std::function<void(std::size_t, std::size_t)>& use) {
    std::size_t at = text.starts_with("\xEF\xBB\xBF") ? 3 : 0;
    while (at < text.size()) {
        std::size_t end = text.find_first_of("\r\n", at);
        if (end == std::string_view::npos) end = text.size();
        use(at, end);
        at = end + 1;
    }
}

/// Candidates by how well the key fits: as written, or but for capitals.
struct Found {
    std::vector<Place> exact, alike;
    void add(std::string_view written, std::string_view wanted, Place place) {
        if (written == wanted)
            exact.push_back(std::move(place));
        else if (sameLetters(written, wanted))
            alike.push_back(std::move(place));
    }
    [[nodiscard]] Result<Place> one(const std::string& key) const {
        const auto& all = exact.empty() ? alike : exact;
        if (all.empty()) return fail(ErrorCode::NotInFile, key);
        if (all.size() > 1) return fail(ErrorCode::DuplicateName, key);
        return all.front();
    }
};

bool isRemark(std::string_view line) {
    return line.empty() || line[0] == '#' || line[0] == ';' || line.starts_with("//") || line.starts_with("--");
}

} // namespace

std::string_view trimmed(std::string_view text) {
    while (!text.empty() && isBlank(text.front())) text.remove_prefix(1);
    while (!text.empty() && isBlank(text.back())) text.remove_suffix(1);
    return text;
}

Place inLine(std::string_view text, std::size_t begin, std::size_t end) {
    while (begin < end && isBlank(text[begin])) ++begin;
    if (begin < end && (text[begin] == '"' || text[begin] == '\'')) {
        const auto close = text.substr(0, end).find(text[begin], begin + 1);
        if (close != std::string_view::npos)
            return {begin + 1, close, std::string(text.substr(begin + 1, close - begin - 1)), Place::Writing::Quoted,
                    text[begin]};
    }
    // A remark stands behind a blank; without one the sign is part of the value ("#ff0000", "a;b").
    for (std::size_t i = begin; i < end; ++i)
        if (i > begin && isBlank(text[i - 1]) && isRemark(text.substr(i, end - i))) end = i;
    while (end > begin && isBlank(text[end - 1])) --end;
    return {begin, end, std::string(text.substr(begin, end - begin)), Place::Writing::Plain, '"'};
}

Result<Place> findIni(std::string_view text, const std::string& key) {
    const auto slash = key.rfind('/');
    const std::string wantedSection = slash == std::string::npos ? std::string() : key.substr(0, slash);
    const std::string wanted = slash == std::string::npos ? key : key.substr(slash + 1);
    std::string section;
    Found found;
    eachLine(text, [&](std::size_t begin, std::size_t end) {
        const auto line = trimmed(text.substr(begin, end - begin));
        if (isRemark(line)) return;
        if (line.front() == '[') {
            const auto close = line.rfind(']');
            if (close != std::string_view::npos) section = trimmed(line.substr(1, close - 1));
            return;
        }
        const auto equals = text.substr(0, end).find('=', begin);
        if (equals == std::string_view::npos) return;
        const auto name = trimmed(text.substr(begin, equals - begin));
        if (!sameLetters(section, wantedSection)) return;
        found.add(section + "/" + std::string(name), wantedSection + "/" + wanted, inLine(text, equals + 1, end));
    });
    return found.one(key);
}

Result<Place> findKeys(std::string_view text, const std::string& key) {
    Found found;
    eachLine(text, [&](std::size_t begin, std::size_t end) {
        while (begin < end && isBlank(text[begin])) ++begin;
        if (isRemark(text.substr(begin, end - begin))) return;
        for (const std::string_view word : {"set", "seta", "export"})
            if (text.substr(begin, end - begin).starts_with(word) && begin + word.size() < end &&
                isBlank(text[begin + word.size()])) {
                begin += word.size();
                while (begin < end && isBlank(text[begin])) ++begin;
                break;
            }
        std::size_t at = begin;
        const bool quotedKey = at < end && text[at] == '"';
        if (quotedKey) {
            const auto close = text.substr(0, end).find('"', at + 1);
            if (close == std::string_view::npos) return;
            begin = at + 1;
            at = close;
        } else {
            while (at < end && !isBlank(text[at]) && text[at] != '=' && text[at] != ':') ++at;
        }
        const auto name = text.substr(begin, at - begin);
        if (quotedKey) ++at;
        while (at < end && isBlank(text[at])) ++at;
        if (at < end && (text[at] == '=' || text[at] == ':')) ++at;
        Place place = inLine(text, at, end);
        if (place.writing == Place::Writing::Plain)
            while (place.end > place.begin && (text[place.end - 1] == ';' || text[place.end - 1] == ',')) {
                --place.end;
                place.value.pop_back();
            }
        found.add(name, key, std::move(place));
    });
    return found.one(key);
}

} // namespace impasto::config
