// SPDX-License-Identifier: GPL-3.0-or-later
// Small files below a root, as the kernel shows them: each bounded, each may be gone, unreadable or odd at any time.
#pragma once

#include <filesystem>
#include <impasto/base/context.h>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace impasto::probe {

class Tree {
  public:
    Tree(std::filesystem::path root, Context context) : m_root(std::move(root)), m_context(std::move(context)) {}
    /// Nothing once the reading was cancelled.
    [[nodiscard]] std::optional<std::string> bytes(const std::string& path, std::size_t limit = 65536) const;
    /// The first line as clean text of at most 120 bytes; nothing where it is empty.
    [[nodiscard]] std::optional<std::string> line(const std::string& path) const;
    /// The number that the first line begins with ("16.0 GT/s" is 16).
    [[nodiscard]] std::optional<double> number(const std::string& path) const;
    /// What a folder holds, sorted; at most 1024 names.
    [[nodiscard]] std::vector<std::string> names(const std::string& folder) const;
    /// The value of KEY=value in a file of such lines.
    [[nodiscard]] std::optional<std::string> valueOf(const std::string& path, std::string_view key) const;
    [[nodiscard]] bool has(const std::string& path) const;
    [[nodiscard]] bool cancelled() const { return m_context.cancelled(); }

  private:
    std::filesystem::path m_root;
    Context m_context;
};

std::vector<std::string_view> linesOf(std::string_view text);
/// KiB behind the key in the lines of /proc/meminfo (proc(5)).
std::optional<double> kibIn(std::string_view meminfo, std::string_view key);
/// Clean text of at most 120 bytes.
std::string cleanText(std::string_view text);

} // namespace impasto::probe
