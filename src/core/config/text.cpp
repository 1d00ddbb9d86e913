// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/config/text.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <toml++/toml.h>

#include "place.h"

namespace impasto::config {
namespace {

using game::ConfigFormat;

Result<Place> find(std::string_view text, ConfigFormat format, const std::string& key) {
    switch (format) {
    case ConfigFormat::Ini:
        return findIni(text, key);
    case ConfigFormat::Json:
        return findJson(text, key);
    case ConfigFormat::Toml:
        return findToml(text, key);
    case ConfigFormat::Xml:
        return findXml(text, key);
    case ConfigFormat::Keys:
        return findKeys(text, key);
    case ConfigFormat::Environment:
    case ConfigFormat::Command:
        break;
    }
    return fail(ErrorCode::NotInFile, key);
}

/// UTF-16 with a mark, as UTF-8 and back.
enum class Coding { Bytes, Little, Big };
Coding codingOf(std::string_view bytes) {
    if (bytes.starts_with("\xFF\xFE")) return Coding::Little;
    if (bytes.starts_with("\xFE\xFF")) return Coding::Big;
    return Coding::Bytes;
}

void putUtf8(std::string& out, char32_t c) {
    const auto put = [&out](char32_t byte) { out += static_cast<char>(static_cast<unsigned char>(byte)); };
    if (c < 0x80) {
        put(c);
    } else if (c < 0x800) {
        put(0xC0 | (c >> 6U));
        put(0x80 | (c & 0x3FU));
    } else if (c < 0x10000) {
        put(0xE0 | (c >> 12U));
        put(0x80 | ((c >> 6U) & 0x3FU));
        put(0x80 | (c & 0x3FU));
    } else {
        put(0xF0 | (c >> 18U));
        put(0x80 | ((c >> 12U) & 0x3FU));
        put(0x80 | ((c >> 6U) & 0x3FU));
        put(0x80 | (c & 0x3FU));
    }
}

/// With the mark, so that nothing is lost; nothing where it is no UTF-16.
std::optional<std::string> toUtf8(std::string_view bytes, Coding coding) {
    if (bytes.size() % 2 != 0) return std::nullopt;
    const auto unit = [&](std::size_t i) {
        const auto a = static_cast<unsigned char>(bytes[i]), b = static_cast<unsigned char>(bytes[i + 1]);
        return static_cast<char32_t>(coding == Coding::Little ? a | (b << 8U) : (a << 8U) | b);
    };
    std::string out;
    for (std::size_t i = 0; i < bytes.size(); i += 2) {
        char32_t c = unit(i);
        if (c >= 0xDC00 && c < 0xE000) return std::nullopt;
        if (c >= 0xD800 && c < 0xDC00) {
            if (i + 3 >= bytes.size()) return std::nullopt;
            const char32_t low = unit(i + 2);
            if (low < 0xDC00 || low >= 0xE000) return std::nullopt;
            c = 0x10000 + ((c - 0xD800) << 10U) + (low - 0xDC00);
            i += 2;
        }
        putUtf8(out, c);
    }
    return out;
}

std::string fromUtf8(std::string_view text, Coding coding) {
    std::string out;
    const auto put = [&](char32_t unit) {
        const auto low = static_cast<char>(static_cast<unsigned char>(unit & 0xFFU));
        const auto high = static_cast<char>(static_cast<unsigned char>(unit >> 8U));
        out += coding == Coding::Little ? low : high;
        out += coding == Coding::Little ? high : low;
    };
    for (std::size_t i = 0; i < text.size();) {
        const auto first = static_cast<unsigned char>(text[i]);
        const std::size_t length = first < 0x80 ? 1 : first < 0xE0 ? 2 : first < 0xF0 ? 3 : 4;
        char32_t c = length == 1 ? first : first & (0xFFU >> (length + 1));
        for (std::size_t k = 1; k < length && i + k < text.size(); ++k)
            c = (c << 6U) | (static_cast<unsigned char>(text[i + k]) & 0x3FU);
        i += length;
        if (c < 0x10000) {
            put(c);
        } else {
            put(0xD800 + ((c - 0x10000) >> 10U));
            put(0xDC00 + ((c - 0x10000) & 0x3FFU));
        }
    }
    return out;
}

bool isNumberOrWord(const std::string& value) {
    const auto parsed = nlohmann::json::parse(value, nullptr, false);
    return !parsed.is_discarded() && !parsed.is_structured() && !parsed.is_string();
}

std::string escapedXml(const std::string& value) {
    std::string out;
    for (const char c : value) switch (c) {
        case '&':
            out += "&amp;";
            break;
        case '<':
            out += "&lt;";
            break;
        case '>':
            out += "&gt;";
            break;
        case '"':
            out += "&quot;";
            break;
        case '\'':
            out += "&apos;";
            break;
        default:
            out += c;
        }
    return out;
}

bool isToml(const std::string& value) {
    try {
        const auto parsed = toml::parse("v = " + value);
        return parsed.size() == 1 && !parsed["v"].is_table() && !parsed["v"].is_array() && !parsed["v"].is_string();
    } catch (const toml::parse_error&) {
        return false;
    }
}

std::string shellWord(const std::string& value) {
    const bool plain = !value.empty() && std::all_of(value.begin(), value.end(), [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
               std::string_view("_-+=.,:/%@").find(c) != std::string_view::npos;
    });
    if (plain) return value;
    std::string out = "'";
    for (const char c : value) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

struct Text {
    std::string utf8;
    Coding coding = Coding::Bytes;
};
Result<Text> textOf(std::string_view bytes) {
    const Coding coding = codingOf(bytes);
    if (coding != Coding::Bytes) {
        auto text = toUtf8(bytes, coding);
        return text ? Result<Text>(Text{std::move(*text), coding}) : fail(ErrorCode::NotText, "UTF-16");
    }
    if (bytes.find('\0') != std::string_view::npos) return fail(ErrorCode::NotText, "binary");
    return Text{std::string(bytes), coding};
}

} // namespace

std::size_t lineOf(std::string_view text, std::size_t at) {
    return 1 + static_cast<std::size_t>(std::count(
                   text.begin(), text.begin() + static_cast<std::ptrdiff_t>(std::min(at, text.size())), '\n'));
}

Result<std::string> written(const Place& place, const std::string& value) {
    if (value.find_first_of(std::string_view("\r\n\0", 3)) != std::string::npos)
        return fail(ErrorCode::BadValue, "one line of text");
    switch (place.writing) {
    case Place::Writing::Plain: {
        const auto again = inLine(value, 0, value.size());
        if (again.value != value || again.writing != Place::Writing::Plain || (value.empty() && !place.value.empty()))
            return fail(ErrorCode::BadValue, "a text that can stand without quotes");
        return value;
    }
    case Place::Writing::Quoted:
        if (value.find(place.quote) != std::string::npos)
            return fail(ErrorCode::BadValue, "a text without quotes in it");
        return value;
    case Place::Writing::Json:
        if (place.quote != '\0')
            return nlohmann::json(value).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
        if (!isNumberOrWord(value))
            return fail(ErrorCode::BadValue, "a number, true, false or null, as stands there now");
        return value;
    case Place::Writing::Toml:
        if (place.quote != '\0') {
            std::string json = nlohmann::json(value).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
            return json; // a JSON string is a basic string
        }
        if (!isToml(value)) return fail(ErrorCode::BadValue, "a number, true, false or a date, as stands there now");
        return value;
    case Place::Writing::Xml:
        return escapedXml(value);
    }
    return value;
}

Result<Patched> patched(std::string_view bytes, ConfigFormat format, std::span<const Assignment> values) {
    auto text = textOf(bytes);
    if (!text) return tl::unexpected(text.error());
    struct Splice {
        Place place;
        std::string bytes;
        Change change;
    };
    std::vector<Splice> splices;
    for (const auto& [key, value] : values) {
        auto place = find(text->utf8, format, key);
        if (!place) return tl::unexpected(place.error());
        if (place->value == value) continue;
        auto put = written(*place, value);
        if (!put) return fail(put.error().code, put.error().what, {{}, lineOf(text->utf8, place->begin), {}, key});
        Change change{key, place->value, value, lineOf(text->utf8, place->begin)};
        splices.push_back({std::move(*place), std::move(*put), std::move(change)});
    }
    std::sort(splices.begin(), splices.end(),
              [](const auto& a, const auto& b) { return a.place.begin < b.place.begin; });
    Patched out;
    std::size_t at = 0;
    for (auto& splice : splices) {
        if (splice.place.begin < at) return fail(ErrorCode::DuplicateName, splice.change.key);
        out.text += std::string_view(text->utf8).substr(at, splice.place.begin - at);
        out.text += splice.bytes;
        at = splice.place.end;
        out.changes.push_back(std::move(splice.change));
    }
    out.text += std::string_view(text->utf8).substr(at);
    if (text->coding != Coding::Bytes) out.text = fromUtf8(out.text, text->coding);
    // What was written is what is read there.
    for (const auto& [key, value] : values) {
        const auto now = valueIn(out.text, format, key);
        if (!now) return tl::unexpected(now.error());
        if (*now != value) return fail(ErrorCode::BadValue, "a text that stays what it is there", {{}, {}, {}, key});
    }
    return out;
}

Result<std::string> valueIn(std::string_view bytes, ConfigFormat format, const std::string& key) {
    auto text = textOf(bytes);
    if (!text) return tl::unexpected(text.error());
    auto place = find(text->utf8, format, key);
    return place ? Result<std::string>(std::move(place->value)) : tl::unexpected(place.error());
}

std::string handedOver(ConfigFormat format, std::span<const Assignment> values) {
    std::string out;
    for (const auto& [key, value] : values) {
        if (!out.empty()) out += ' ';
        const auto hole = key.find("{}");
        if (format == ConfigFormat::Environment)
            out += key + "=" + shellWord(value);
        else if (hole == std::string::npos)
            out += key + " " + shellWord(value);
        else
            out += key.substr(0, hole) + shellWord(value) + key.substr(hole + 2);
    }
    return out;
}

} // namespace impasto::config
