// SPDX-License-Identifier: GPL-3.0-or-later
// Results as bytes and back: fixed widths in the order of the members, counts before what is counted. For results that
// are kept on the machine that made them; what does not parse to its end is refused.
#pragma once

#include <array>
#include <cstring>
#include <impasto/base/quantity.h>
#include <map>
#include <optional>
#include <string>
#include <type_traits>
#include <vector>

namespace impasto::results {

/// fields(archive, value) of a struct names its members; both ways walk the same list.
class Packer {
  public:
    template <class... T>
    void operator()(const T&... values) {
        (put(values), ...);
    }
    [[nodiscard]] std::string take() { return std::move(m_out); }

  private:
    template <class T>
    void put(const T& value) {
        if constexpr (std::is_arithmetic_v<T> || std::is_enum_v<T>)
            m_out.append(reinterpret_cast<const char*>(&value), sizeof(value));
        else
            fields(*this, value);
    }
    template <class Tag>
    void put(const Quantity<Tag>& value) {
        put(value.value());
    }
    void put(const std::string& text) {
        put(std::uint64_t{text.size()});
        m_out += text;
    }
    template <class T>
    void put(const std::optional<T>& value) {
        put(value.has_value());
        if (value) put(*value);
    }
    template <class T>
    void put(const std::vector<T>& values) {
        put(std::uint64_t{values.size()});
        for (const auto& v : values) put(v);
    }
    template <class T, std::size_t N>
    void put(const std::array<T, N>& values) {
        for (const auto& v : values) put(v);
    }
    template <class Key, class T, class Less>
    void put(const std::map<Key, T, Less>& values) {
        put(std::uint64_t{values.size()});
        for (const auto& [key, v] : values) (*this)(key, v);
    }
    std::string m_out;
};

class Unpacker {
  public:
    explicit Unpacker(std::string_view bytes) : m_rest(bytes) {}
    template <class... T>
    void operator()(T&... values) {
        (get(values), ...);
    }
    /// Every byte was read, and none was missing.
    [[nodiscard]] bool whole() const { return m_sound && m_rest.empty(); }

  private:
    template <class T>
    void get(T& value) {
        if constexpr (std::is_same_v<T, bool>) {
            unsigned char byte = 0;
            raw(&byte, 1);
            m_sound = m_sound && byte <= 1;
            value = byte == 1;
        } else if constexpr (std::is_arithmetic_v<T> || std::is_enum_v<T>) {
            raw(&value, sizeof(value));
        } else {
            fields(*this, value);
        }
    }
    void raw(void* to, std::size_t bytes) {
        m_sound = m_sound && bytes <= m_rest.size();
        if (!m_sound) return;
        std::memcpy(to, m_rest.data(), bytes);
        m_rest.remove_prefix(bytes);
    }
    /// Each of what is counted takes a byte at least.
    std::size_t count() {
        std::uint64_t n = 0;
        get(n);
        m_sound = m_sound && n <= m_rest.size();
        return m_sound ? static_cast<std::size_t>(n) : 0;
    }
    template <class Tag>
    void get(Quantity<Tag>& value) {
        double v = 0;
        get(v);
        value = Quantity<Tag>(v);
    }
    void get(std::string& text) {
        text = m_rest.substr(0, count());
        m_rest.remove_prefix(text.size());
    }
    template <class T>
    void get(std::optional<T>& value) {
        bool there = false;
        get(there);
        if (there) get(value.emplace());
    }
    template <class T>
    void get(std::vector<T>& values) {
        values.clear();
        for (std::size_t n = count(); n > 0 && m_sound; --n) get(values.emplace_back());
    }
    template <class T, std::size_t N>
    void get(std::array<T, N>& values) {
        for (auto& v : values) get(v);
    }
    template <class Key, class T, class Less>
    void get(std::map<Key, T, Less>& values) {
        for (std::size_t n = count(); n > 0 && m_sound; --n) {
            Key key;
            get(key);
            get(values[key]);
        }
    }
    std::string_view m_rest;
    bool m_sound = true;
};

template <class T>
std::string packed(const T& value) {
    Packer out;
    out(value);
    return out.take();
}

} // namespace impasto::results
