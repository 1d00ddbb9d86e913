// SPDX-License-Identifier: GPL-3.0-or-later
#include <fcntl.h>
#include <fstream>
#include <impasto/logs/follow.h>
#include <sys/stat.h>
#include <unistd.h>

#include "importer.h"
#include "rows.h"

namespace impasto::logs {
namespace {

constexpr std::size_t rowsToGuess = 40, bytesToGuess = std::size_t{1} << 16U;

struct Mark {
    std::uintmax_t size = 0, inode = 0;
};

std::optional<Mark> fileMarkOf(const std::filesystem::path& path) {
    struct stat status {};
    if (::stat(path.c_str(), &status) != 0) return std::nullopt;
    return Mark{static_cast<std::uintmax_t>(status.st_size), status.st_ino};
}

/// Linux grants a read lease only while nobody has the file open for writing; where none can be had, it is not known.
bool hasNoWriter(const std::filesystem::path& path) {
    const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (file < 0) return false;
    const bool granted = ::fcntl(file, F_SETLEASE, F_RDLCK) == 0;
    if (granted) ::fcntl(file, F_SETLEASE, F_UNLCK);
    ::close(file);
    return granted;
}

} // namespace

struct Follower::State {
    std::uintmax_t inode = 0, offset = 0;
    std::string rest;     // a row that is not whole yet; until the columns are clear, all
    std::size_t line = 0; // of the rest's begin, from 0
    std::optional<Importer> importer;
    std::optional<double> startedMs;

    /// The whole rows of the rest.
    std::optional<Error> takeRows() {
        const auto end = rest.rfind('\n');
        if (end == std::string::npos) return std::nullopt;
        const auto whole = std::string_view(rest).substr(0, end + 1);
        const auto rows = static_cast<std::size_t>(std::count(whole.begin(), whole.end(), '\n'));
        std::size_t first = 0;
        if (!importer) {
            if (rows < rowsToGuess && whole.size() < bytesToGuess) return std::nullopt;
            const auto dialect = guessDialect(whole);
            if (!dialect) return whole.size() < bytesToGuess ? std::nullopt : std::optional(dialect.error());
            importer.emplace(*dialect);
            first = dialect->firstDataLine;
        }
        std::optional<Error> fault;
        Rows lines(Lines(whole), importer->dialect());
        while (const auto row = lines.next()) {
            if (row->line.number < first || row->comment) continue;
            fault = faultOfLength(row->line);
            if (!fault) fault = importer->row(*row);
            if (fault) break;
        }
        if (fault && fault->where.line) *fault->where.line += line;
        line += rows;
        rest.erase(0, end + 1);
        return fault;
    }
};

Follower::Follower(std::filesystem::path path) : m_path(std::move(path)), m_state(std::make_unique<State>()) {}
Follower::~Follower() = default;

Result<Follower::Poll> Follower::poll(double nowMs, std::size_t most) {
    const auto mark = fileMarkOf(m_path);
    if (!mark) return fail(ErrorCode::CannotRead, "it is gone", {m_path.string(), {}, {}, {}}, Kept::FramesUntilHere);
    Poll out;
    if (m_state->offset > 0 && (mark->inode != m_state->inode || mark->size < m_state->offset)) {
        *m_state = State();
        out.restarted = true;
    }
    m_state->inode = mark->inode;
    if (mark->size <= m_state->offset) {
        out.closed = hasNoWriter(m_path);
        return out;
    }
    std::ifstream in(m_path, std::ios::binary);
    in.seekg(static_cast<std::streamoff>(m_state->offset));
    const std::size_t wanted = std::min<std::uintmax_t>(mark->size - m_state->offset, most);
    const std::size_t before = m_state->rest.size();
    m_state->rest.resize(before + wanted);
    in.read(m_state->rest.data() + before, static_cast<std::streamsize>(wanted));
    const auto read = static_cast<std::size_t>(std::max<std::streamsize>(0, in.gcount()));
    m_state->rest.resize(before + read);
    m_state->offset += read;
    out.grew = read > 0;
    auto fault = m_state->takeRows();
    if (capture().frames() > 0 && out.grew) {
        const double started = nowMs - capture::durationMs(capture());
        m_state->startedMs = std::min(m_state->startedMs.value_or(started), started);
    }
    if (fault) {
        fault->where.file = m_path.string();
        fault->kept = Kept::FramesUntilHere;
        return tl::unexpected(*fault);
    }
    return out;
}

const capture::Capture& Follower::capture() const {
    static const capture::Capture none;
    return m_state->importer ? m_state->importer->capture() : none;
}

std::optional<double> Follower::startedMs() const {
    return m_state->startedMs;
}

} // namespace impasto::logs
