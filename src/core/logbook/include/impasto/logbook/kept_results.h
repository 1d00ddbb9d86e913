// SPDX-License-Identifier: GPL-3.0-or-later
// What was computed of single runs, in the user's cache, so that a later start has it at once. Never in a logbook: what
// a file from elsewhere says of a run is computed here. Nothing is lost with it; where anything is wrong with the file,
// it is begun anew.
#pragma once

#include <filesystem>
#include <impasto/base/id.h>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace impasto::logbook {

/// Thread-safe. Every fault of the file or the disk is silent: nothing is found then, or kept.
class KeptResults {
  public:
    /// The file and its folder are opened, or made for their owner alone, when it is first asked. Over `mostBytes` of
    /// results the oldest go.
    explicit KeptResults(const std::filesystem::path& file, std::int64_t mostBytes = std::int64_t{256} << 20U);
    ~KeptResults();
    KeptResults(const KeptResults&) = delete;
    KeptResults& operator=(const KeptResults&) = delete;

    struct Entry {
        std::string_view stage;
        RunId run;
        std::uint64_t mark = 0;
        std::string_view bytes;
    };
    /// Bytes that were kept under the mark and are as they were then.
    [[nodiscard]] std::optional<std::string> find(std::string_view stage, const RunId& run, std::uint64_t mark) const;
    /// In place of what was kept of these runs by these stages; all or nothing.
    void keep(const std::vector<Entry>& entries);
    void forget(); // all

  private:
    struct State;
    std::unique_ptr<State> m_state;
};

} // namespace impasto::logbook
