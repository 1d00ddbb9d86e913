// SPDX-License-Identifier: GPL-3.0-or-later
// A log that another program is still writing, read as it grows. Only whole rows are taken; memory grows by the frames
// alone.
#pragma once

#include <filesystem>
#include <impasto/logs/import.h>
#include <memory>

namespace impasto::logs {

class Follower {
  public:
    explicit Follower(std::filesystem::path path);
    ~Follower();
    Follower(const Follower&) = delete;
    Follower& operator=(const Follower&) = delete;

    /// What was found.
    struct Poll {
        bool grew = false;      // bytes were added
        bool restarted = false; // the file was cut or another took its name: all is read anew
        bool closed = false;    // for certain: nobody has it open for writing
    };
    /// Reads what was added, at most `most` bytes of it; `nowMs` by the caller's clock. Errors: CannotRead where the
    /// file is gone, the import's for a row that is not a row; both leave the frames until there. Until the columns are
    /// clear there are no frames and no error.
    Result<Poll> poll(double nowMs = 0, std::size_t most = std::size_t{1} << 23U);
    /// Frames so far.
    [[nodiscard]] const capture::Capture& capture() const;
    /// When the first frame started, by the caller's clock: as no frame is written before it has ended, the least of
    /// now less the frames so far over all polls that found some. Nothing without frames.
    [[nodiscard]] std::optional<double> startedMs() const;

  private:
    struct State;
    std::filesystem::path m_path;
    std::unique_ptr<State> m_state;
};

} // namespace impasto::logs
