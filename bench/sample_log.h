// SPDX-License-Identifier: GPL-3.0-or-later
// A log of five columns for the benchmarks, written once and gone at the end. IMPASTO_BENCH_ROWS says how many rows; a
// million otherwise. And what a piece of work takes of memory at its peak, in a process of its own.
#pragma once

#include <cstdlib>
#include <filesystem>
#include <fmt/os.h>
#include <functional>
#include <optional>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

namespace bench {

inline std::int64_t rows() {
    static const char* const said = std::getenv("IMPASTO_BENCH_ROWS");
    static const std::int64_t rows = said == nullptr ? 1000000 : std::atoll(said);
    return rows;
}

class SampleLog {
  public:
    /// `frameMs` of the row's index.
    explicit SampleLog(const std::function<double(std::int64_t)>& frameMs)
        : m_path(std::filesystem::temp_directory_path() / fmt::format("impasto-bench-{}.csv", ::getpid())) {
        auto out = fmt::output_file(m_path.string());
        out.print("time_s,frame_ms,cpu_ms,gpu_ms,quality\n");
        double at = 0;
        for (std::int64_t i = 0; i < rows(); ++i) {
            const double ms = frameMs(i);
            at += ms / 1000;
            out.print("{:.6f},{:.4f},{:.3f},{:.3f},{}\n", at, ms, 0.6 * ms, 0.9 * ms, i % 7);
        }
    }
    ~SampleLog() { std::filesystem::remove(m_path); }
    SampleLog(const SampleLog&) = delete;
    SampleLog& operator=(const SampleLog&) = delete;
    [[nodiscard]] const std::filesystem::path& path() const { return m_path; }

  private:
    std::filesystem::path m_path;
};

struct Memory {
    double dataBytes = 0; // what the work says that its data take
    double peakBytes = 0; // above what the process took before
};
/// Works in a child of this process; nothing where that failed. Memory that this process gave back before would hide
/// what is taken: call it first.
inline std::optional<Memory> peakOf(const std::function<double()>& work) {
    int ends[2];
    if (::pipe(ends) != 0) return std::nullopt;
    const pid_t child = ::fork();
    if (child == 0) {
        rusage before{};
        ::getrusage(RUSAGE_SELF, &before);
        const double bytes[2] = {work(), static_cast<double>(before.ru_maxrss) * 1024};
        ::_exit(::write(ends[1], bytes, sizeof(bytes)) == sizeof(bytes) ? 0 : 1);
    }
    double bytes[2] = {0, 0};
    const bool whole = ::read(ends[0], bytes, sizeof(bytes)) == sizeof(bytes);
    int status = 0;
    rusage used{};
    ::wait4(child, &status, 0, &used);
    ::close(ends[0]);
    ::close(ends[1]);
    if (!whole || bytes[0] <= 0) return std::nullopt;
    return Memory{bytes[0], static_cast<double>(used.ru_maxrss) * 1024 - bytes[1]};
}

} // namespace bench
