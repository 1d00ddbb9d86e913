// SPDX-License-Identifier: GPL-3.0-or-later
// One thread, the latest job wins: a post asks the running job to stop and replaces the one that waits. What a job
// throws becomes an error that is told, on the thread.
#pragma once

#include <condition_variable>
#include <functional>
#include <impasto/base/error.h>
#include <mutex>
#include <optional>
#include <thread>

namespace impasto {

class Worker {
  public:
    using Job = std::function<void(std::stop_token)>;
    using Fault = std::function<void(const Error&)>;

    explicit Worker(Fault fault);
    /// Asks the running job to stop, drops the waiting one and waits for the thread.
    ~Worker();
    Worker(const Worker&) = delete;
    Worker& operator=(const Worker&) = delete;

    void post(Job job);
    /// Asks the running job to stop and drops the waiting one; does not wait.
    void cancel();
    /// Waits until nothing runs and nothing waits.
    void waitIdle();
    [[nodiscard]] bool idle() const;

  private:
    void loop(const std::stop_token& quit);

    mutable std::mutex m_mutex;
    std::condition_variable_any m_changed;
    Fault m_fault;
    std::optional<Job> m_waiting;
    std::optional<std::stop_source> m_running;
    std::jthread m_thread; // last: it uses the members above
};

} // namespace impasto
