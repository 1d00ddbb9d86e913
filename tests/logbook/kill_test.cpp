// SPDX-License-Identifier: GPL-3.0-or-later
// A killed program loses nothing that it had said was saved.
#include "support/support.h"

#include <array>
#include <csignal>
#include <cstdio>
#include <impasto/base/random.h>
#include <impasto/logbook/logbook.h>
#include <sstream>
#include <sys/wait.h>
#include <unistd.h>

using namespace impasto;
using namespace impasto::support;

namespace {

/// Starts the program and ends it by SIGKILL after a number of its lines; the lines.
std::vector<std::string> killedAfter(const std::filesystem::path& file, std::size_t lines) {
    std::array<int, 2> ends{};
    if (::pipe(ends.data()) != 0) return {};
    const pid_t child = ::fork();
    if (child == 0) {
        ::dup2(ends[1], STDOUT_FILENO);
        ::close(ends[0]);
        ::execl(IMPASTO_RECORDING_PROGRAM, IMPASTO_RECORDING_PROGRAM, file.c_str(), nullptr);
        ::_exit(127);
    }
    ::close(ends[1]);
    FILE* out = ::fdopen(ends[0], "r");
    std::vector<std::string> read;
    std::array<char, 256> buffer{};
    while (read.size() < lines && std::fgets(buffer.data(), buffer.size(), out) != nullptr)
        read.emplace_back(buffer.data());
    ::kill(child, SIGKILL);
    while (std::fgets(buffer.data(), buffer.size(), out) != nullptr) read.emplace_back(buffer.data());
    std::fclose(out);
    ::waitpid(child, nullptr, 0);
    return read;
}

} // namespace

TEST(KillTest, EverythingSaidToBeSavedIsThere) {
    RandomStream stream(2026, "kill");
    const TemporaryFolder folder;
    for (int round = 0; round < 100; ++round) {
        // Some rounds go on in one file, as a user would.
        const auto file = folder.path("book" + std::to_string(round / 4));
        const auto lines = killedAfter(file, 1 + stream.below(30));
        ASSERT_FALSE(lines.empty());
        const auto book = logbook::Logbook::open(file);
        ASSERT_TRUE(book.has_value()) << wording::error(wording::Words(), book.error()).all();
        std::map<std::string, std::uint64_t> revisions, frames;
        std::string last;
        for (const auto& line : lines) {
            std::istringstream in(line);
            std::string kind, id;
            std::uint64_t n = 0;
            if (!(in >> kind >> id >> n)) continue; // cut by the kill
            (kind == "revision" ? revisions : frames)[id] = n;
            if (kind == "revision") last = id;
        }
        const auto stored = (*book)->load({*bytesFromHex(last)});
        ASSERT_TRUE(stored.has_value());
        EXPECT_GE(stored->session.revision, revisions[last]) << round;
        EXPECT_TRUE(stored->damage.empty());
        for (const auto& [id, count] : frames) {
            const auto* run = stored->session.facts->run({*bytesFromHex(id)});
            ASSERT_NE(run, nullptr) << round;
            EXPECT_GE(run->capture->frames(), count) << round;
        }
    }
}
