// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/computing.h>

#include <algorithm>
#include <fcntl.h>
#include <fstream>
#include <unistd.h>

namespace impasto::logbook {
namespace {

std::string besideOf(const std::filesystem::path& logbook) {
    return logbook.string() + ".computing";
}

} // namespace

Computing::Computing(const std::filesystem::path& logbook)
    : m_fd(::open(besideOf(logbook).c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_NOFOLLOW | O_CLOEXEC, 0600)) {}

Computing::~Computing() {
    if (m_fd >= 0) ::close(m_fd);
}

void Computing::begin(const RunId& run) {
    const std::lock_guard lock(m_mutex);
    m_now.push_back(run);
    write();
}

void Computing::end(const RunId& run) {
    const std::lock_guard lock(m_mutex);
    if (const auto it = std::find(m_now.begin(), m_now.end(), run); it != m_now.end()) m_now.erase(it);
    write();
}

void Computing::write() const {
    if (m_fd < 0) return;
    std::string text; // at least as long as what stands there
    for (const auto& run : m_now) text += run.hex() + '\n';
    const std::size_t lines = m_now.size();
    for (std::size_t i = lines; i < m_written; ++i) text += std::string(32, '-') + '\n';
    m_written = std::max(m_written, lines);
    [[maybe_unused]] const auto written = ::pwrite(m_fd, text.data(), text.size(), 0);
}

std::vector<RunId> Computing::left(const std::filesystem::path& logbook) {
    std::vector<RunId> out;
    std::ifstream in(besideOf(logbook));
    for (std::string line; out.size() < 1000 && std::getline(in, line);)
        if (const auto bytes = bytesFromHex(line);
            bytes && std::find(out.begin(), out.end(), RunId{*bytes}) == out.end())
            out.push_back({*bytes});
    return out;
}

} // namespace impasto::logbook
