// SPDX-License-Identifier: GPL-3.0-or-later
// Random walks through the real window in a process of its own, which is killed, closed and opened again, runs out of
// disk and switches sessions at any step. Afterwards everything that it showed as saved is asked of the file.
#include "support/support.h"

#include <array>
#include <csignal>
#include <impasto/base/random.h>
#include <impasto/logbook/logbook.h>
#include <sstream>
#include <sys/wait.h>
#include <unistd.h>

#include "mark.h"

using namespace impasto;
using namespace impasto::support;

namespace {

/// The driver, in a process.
class Process {
  public:
    /// Seen: it paints itself, which takes half of its time.
    Process(const std::filesystem::path& logbook, bool seen) {
        std::array<int, 2> in{}, out{};
        if (::pipe(in.data()) != 0 || ::pipe(out.data()) != 0) std::abort();
        m_pid = ::fork();
        if (m_pid == 0) {
            ::dup2(in[0], STDIN_FILENO);
            ::dup2(out[1], STDOUT_FILENO);
            for (const int fd : {in[0], in[1], out[0], out[1]}) ::close(fd);
            ::execl(IMPASTO_WALK_DRIVER, IMPASTO_WALK_DRIVER, logbook.c_str(), seen ? "seen" : "unseen", nullptr);
            ::_exit(127);
        }
        ::close(in[0]);
        ::close(out[1]);
        m_in = in[1];
        m_out = ::fdopen(out[0], "r");
    }
    ~Process() { end(SIGKILL); }
    Process(const Process&) = delete;
    Process& operator=(const Process&) = delete;

    void write(const std::string& line) const {
        [[maybe_unused]] const auto n = ::write(m_in, (line + "\n").c_str(), line.size() + 1);
    }
    /// The next line; nothing where it has ended.
    std::optional<std::string> read() const {
        std::array<char, 256> line{};
        if (std::fgets(line.data(), line.size(), m_out) == nullptr) return std::nullopt;
        std::string out(line.data());
        if (!out.ends_with('\n')) return std::nullopt; // cut by the kill
        out.pop_back();
        return out;
    }
    /// Ends it, and reads what it still said. How it ended.
    int end(int signal, const std::function<void(const std::string&)>& heard = {}) {
        if (m_pid <= 0) return 0;
        if (signal != 0) ::kill(m_pid, signal);
        ::close(m_in);
        while (const auto line = read())
            if (heard) heard(*line);
        int status = 0;
        ::waitpid(m_pid, &status, 0);
        std::fclose(m_out);
        m_pid = 0;
        return status;
    }

  private:
    pid_t m_pid = 0;
    int m_in = -1;
    FILE* m_out = nullptr;
};

/// What was shown as saved of a session last.
struct Shown {
    std::uint64_t revision = 0, mark = 0;
};
using AllShown = std::map<std::string, Shown>;

void hear(AllShown& shown, const std::string& line) {
    std::istringstream in(line);
    std::string word, id;
    Shown s;
    if (in >> word >> id >> s.revision >> s.mark && word == "saved") shown[id] = s;
}

/// Everything that was shown as saved is in the file.
void ask(const std::filesystem::path& file, const AllShown& shown) {
    auto book = logbook::Logbook::open(file);
    ASSERT_TRUE(book.has_value()) << wording::error(wording::Words(), book.error()).all();
    EXPECT_FALSE((*book)->lost().has_value());
    for (const auto& [id, s] : shown) {
        const auto stored = (*book)->load({*bytesFromHex(id)});
        ASSERT_TRUE(stored.has_value()) << id << ": " << stored.error().what;
        for (const auto& damage : stored->damage) EXPECT_EQ(damage.code, ErrorCode::CrashedOnRun) << damage.what;
        EXPECT_GE(stored->session.revision, s.revision) << id;
        if (stored->session.revision == s.revision && s.mark != 0 && stored->damage.empty())
            EXPECT_EQ(markOf(stored->session), s.mark) << id << ", change " << s.revision;
    }
}

std::string anyStep(RandomStream& stream, const std::vector<std::filesystem::path>& logs) {
    const auto n = std::to_string(stream.below(1000));
    const std::array<std::pair<std::size_t, std::string>, 14> steps{
        {{30, "note text " + n},
         {10, "target " + std::to_string(30 + stream.below(90))},
         {10, "undo"},
         {5, "redo"},
         {3, "practice"},
         {4, "drop " + logs[stream.below(logs.size())].string()},
         {1, "press"},
         {3, "open " + n},
         {2, "new " + n},
         {2, "delete " + n},
         {2, "full"},
         {6, "room"},
         {1, "rest"},
         {3, stream.below(2) == 0 ? "answer discard" : "answer retry"}}};
    std::size_t sum = 0;
    for (const auto& [weight, step] : steps) sum += weight;
    std::size_t at = stream.below(sum);
    for (const auto& [weight, step] : steps) {
        if (at < weight) return step;
        at -= weight;
    }
    return "rest";
}

void walk(std::uint64_t seed, std::size_t steps) {
    SCOPED_TRACE("walk " + std::to_string(seed));
    RandomStream stream(seed, "walk");
    const TemporaryFolder folder;
    const auto file = folder.path("book.impasto");
    std::vector<std::filesystem::path> logs;
    for (int i = 0; i < 5; ++i) {
        std::string text = "frame_ms\n";
        for (int f = 0; f < 60; ++f) text += std::to_string(15 + i + f % 3) + "\n";
        logs.push_back(folder.write("log" + std::to_string(i) + ".csv", text));
    }
    AllShown shown;
    std::size_t taken = 0;
    while (taken < steps && !::testing::Test::HasFailure()) {
        Process process(file, stream.below(4) == 0);
        const std::size_t lives = std::min(steps - taken, 20 + stream.below(120));
        bool ended = false;
        for (std::size_t i = 0; i < lives && !ended; ++i, ++taken) {
            process.write(anyStep(stream, logs));
            std::optional<std::string> line;
            while ((line = process.read()) && *line != "done") hear(shown, *line);
            ended = !line;
        }
        EXPECT_FALSE(ended) << "it ended by itself";
        const auto how = stream.below(3);
        if (how == 0) { // like a person: it is closed when all is saved
            process.write("room");
            process.write("answer retry");
            process.write("rest");
            process.write("close");
        }
        const int status = process.end(how == 0   ? 0
                                       : how == 1 ? SIGKILL
                                                  : SIGTERM,
                                       [&shown](const std::string& said) { hear(shown, said); });
        if (how == 0) EXPECT_TRUE(WIFEXITED(status) && WEXITSTATUS(status) == 0) << status;
        ask(file, shown);
    }
    EXPECT_FALSE(shown.empty()) << "nothing was ever saved";
}

} // namespace

TEST(WalksTest, WhatIsShownAsSavedIsInTheFile) {
    const char* said = std::getenv("IMPASTO_WALKS");
    const std::uint64_t walks = said == nullptr ? 4 : std::stoull(said);
    const char* first = std::getenv("IMPASTO_WALK");
    const std::uint64_t from = first == nullptr ? 0 : std::stoull(first);
    for (std::uint64_t seed = from; seed < from + walks && !HasFailure(); ++seed) walk(seed, 500);
}
