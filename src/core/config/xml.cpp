// SPDX-License-Identifier: GPL-3.0-or-later
// XML 1.0, parsed by Expat; a key is a path of elements with an attribute or the element's text at its end:
// "settings/shadows/@quality", "settings/option[name=shadows]/@value", "settings/shadows".
#include "place.h"

#include <expat.h>
#include <optional>
#include <vector>

namespace impasto::config {
namespace {

struct Step {
    std::string element, attribute, value; // of the one that is meant, where the attribute has that value
};
struct Path {
    std::vector<Step> steps;
    std::string attribute; // empty: the element's text
};

Path pathOf(const std::string& key) {
    Path out;
    std::size_t at = key.starts_with('/') ? 1 : 0;
    while (at <= key.size()) {
        std::size_t end = at;
        bool inside = false; // a slash in brackets is none
        while (end < key.size() && (inside || key[end] != '/')) {
            inside = key[end] == '[' || (inside && key[end] != ']');
            ++end;
        }
        std::string part = key.substr(at, end - at);
        at = end + 1;
        if (part.starts_with('@')) {
            out.attribute = part.substr(1);
            break;
        }
        Step step;
        const auto bracket = part.find('['), equals = part.find('=', bracket == std::string::npos ? 0 : bracket);
        step.element = part.substr(0, bracket);
        if (bracket != std::string::npos && equals != std::string::npos && part.back() == ']') {
            step.attribute = part.substr(bracket + 1, equals - bracket - 1);
            if (step.attribute.starts_with('@')) step.attribute.erase(0, 1);
            step.value = part.substr(equals + 1, part.size() - equals - 2);
        }
        out.steps.push_back(std::move(step));
    }
    return out;
}

struct XmlWalk {
    XML_Parser parser = nullptr;
    std::string_view text;
    Path path;
    std::size_t depth = 0, matched = 0; // how many of the open elements are steps of the path
    std::vector<Place> found;
    std::optional<std::size_t> textBegin; // of the element that is meant
    std::string content;
    bool holdsElements = false, doctype = false;

    [[nodiscard]] std::size_t here() const { return static_cast<std::size_t>(XML_GetCurrentByteIndex(parser)); }
    [[nodiscard]] std::size_t length() const { return static_cast<std::size_t>(XML_GetCurrentByteCount(parser)); }

    /// The attribute inside the tag's bytes: well-formed, or the parser had said so.
    void takeAttribute(const std::string& value) {
        const std::size_t begin = here(), end = begin + length();
        for (std::size_t at = begin; at < end;) {
            const auto equals = text.substr(0, end).find('=', at);
            if (equals == std::string_view::npos) return;
            const auto open = text.substr(0, end).find_first_of("\"'", equals);
            if (open == std::string_view::npos) return;
            const auto close = text.substr(0, end).find(text[open], open + 1);
            if (close == std::string_view::npos) return;
            std::size_t nameEnd = equals;
            while (nameEnd > at && std::string_view(" \t\r\n").find(text[nameEnd - 1]) != std::string_view::npos)
                --nameEnd;
            std::size_t name = nameEnd;
            while (name > at && std::string_view(" \t\r\n").find(text[name - 1]) == std::string_view::npos) --name;
            if (text.substr(name, nameEnd - name) == path.attribute) {
                found.push_back({open + 1, close, value, Place::Writing::Xml, text[open]});
                return;
            }
            at = close + 1;
        }
    }
};

extern "C" {
static void begins(void* user, const XML_Char* name, const XML_Char** attributes) {
    auto& w = *static_cast<XmlWalk*>(user);
    if (w.textBegin) w.holdsElements = true;
    const bool onPath = w.matched == w.depth && w.matched < w.path.steps.size();
    ++w.depth;
    if (!onPath || w.path.steps[w.matched].element != name) return;
    const auto& step = w.path.steps[w.matched];
    const auto valueOf = [&](const std::string& wanted) -> const XML_Char* {
        for (const XML_Char** a = attributes; *a != nullptr; a += 2)
            if (wanted == *a) return *(a + 1);
        return nullptr;
    };
    if (!step.attribute.empty()) {
        const auto* value = valueOf(step.attribute);
        if (value == nullptr || step.value != value) return;
    }
    if (++w.matched < w.path.steps.size()) return;
    if (!w.path.attribute.empty()) {
        if (const auto* value = valueOf(w.path.attribute)) w.takeAttribute(value);
        return;
    }
    w.textBegin = w.here() + w.length();
    w.content.clear();
    w.holdsElements = false;
}
static void ends(void* user, const XML_Char*) {
    auto& w = *static_cast<XmlWalk*>(user);
    if (w.matched == w.depth && w.matched == w.path.steps.size() && w.textBegin) {
        const std::size_t end = w.here();
        const bool single = end < *w.textBegin || w.length() == 0; // <shadows/>: there is no text to replace
        if (!w.holdsElements && !single) w.found.push_back({*w.textBegin, end, w.content, Place::Writing::Xml, '"'});
        w.textBegin.reset();
    }
    if (w.matched == w.depth) --w.matched;
    --w.depth;
}
static void says(void* user, const XML_Char* text, int length) {
    auto& w = *static_cast<XmlWalk*>(user);
    if (w.textBegin) w.content.append(text, static_cast<std::size_t>(length));
}
/// Definitions of a text's own could make it mean anything.
static void declares(void* user, const XML_Char*, const XML_Char*, const XML_Char*, int) {
    auto& w = *static_cast<XmlWalk*>(user);
    w.doctype = true;
    XML_StopParser(w.parser, XML_FALSE);
}
}

} // namespace

Result<Place> findXml(std::string_view text, const std::string& key) {
    XmlWalk walk;
    walk.text = text;
    walk.path = pathOf(key);
    const std::unique_ptr<XML_ParserStruct, decltype(&XML_ParserFree)> parser(XML_ParserCreate("UTF-8"),
                                                                              XML_ParserFree);
    if (!parser) return fail(ErrorCode::OutOfMemory);
    walk.parser = parser.get();
    XML_SetUserData(parser.get(), &walk);
    XML_SetElementHandler(parser.get(), begins, ends);
    XML_SetCharacterDataHandler(parser.get(), says);
    XML_SetStartDoctypeDeclHandler(parser.get(), declares);
    if (XML_Parse(parser.get(), text.data(), static_cast<int>(text.size()), XML_TRUE) == XML_STATUS_ERROR)
        return fail(ErrorCode::BadSyntax,
                    walk.doctype ? "it declares a document type" : XML_ErrorString(XML_GetErrorCode(parser.get())),
                    {{}, XML_GetCurrentLineNumber(parser.get()), {}, {}});
    if (walk.found.empty()) return fail(ErrorCode::NotInFile, key);
    if (walk.found.size() > 1) return fail(ErrorCode::DuplicateName, key);
    return walk.found.front();
}

} // namespace impasto::config
