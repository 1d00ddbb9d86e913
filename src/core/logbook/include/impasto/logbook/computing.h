// SPDX-License-Identifier: GPL-3.0-or-later
// Which runs are being computed, kept beside the logbook in FILE.computing, so that a start after a crash knows which
// ones to leave alone. Written without waiting for the disk: a program that ends loses nothing that it has written, and
// a machine that loses its power is no sign against a run. Thread-safe.
#pragma once

#include <filesystem>
#include <impasto/base/id.h>
#include <memory>
#include <mutex>
#include <vector>

namespace impasto::logbook {

class Computing {
  public:
    /// Of a logbook that this process holds. Where the file cannot be made, nothing is kept.
    explicit Computing(const std::filesystem::path& logbook);
    ~Computing();
    Computing(const Computing&) = delete;
    Computing& operator=(const Computing&) = delete;

    void begin(const RunId& run);
    void end(const RunId& run);
    /// What a process that ended amid it had begun. Once the logbook is this process's.
    static std::vector<RunId> left(const std::filesystem::path& logbook);

  private:
    void write() const;

    int m_fd;
    std::mutex m_mutex;
    std::vector<RunId> m_now;
    mutable std::size_t m_written = 0; // lines in the file
};

} // namespace impasto::logbook
