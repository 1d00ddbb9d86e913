// SPDX-License-Identifier: GPL-3.0-or-later
#include "source.h"

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fmt/core.h>
#include <sys/stat.h>
#include <unistd.h>
#include <zlib.h>
#include <zstd.h>

namespace impasto::logs {
namespace {

constexpr std::size_t blockBytes = std::size_t{1} << 20U;

Error tooLarge(std::size_t limit) {
    return {ErrorCode::FileTooLarge, fmt::format("{} bytes", limit), {}, Kept::Nothing};
}

Error damaged(const char* packing) {
    return {ErrorCode::DamagedPacking, packing, {}, Kept::Nothing};
}

class TextSource final : public Source {
  public:
    explicit TextSource(std::string_view text) : m_text(text) {}
    std::string_view next() override {
        m_read += m_text.size();
        return std::exchange(m_text, {});
    }
    [[nodiscard]] std::optional<Error> fault() const override { return std::nullopt; }
    [[nodiscard]] std::size_t bytesRead() const override { return m_read; }

  private:
    std::string_view m_text;
    std::size_t m_read = 0;
};

class FileSource final : public Source {
  public:
    FileSource(std::filesystem::path path, int fd) : m_path(std::move(path)), m_fd(fd), m_block(blockBytes, '\0') {}
    FileSource(const FileSource&) = delete;
    FileSource& operator=(const FileSource&) = delete;
    ~FileSource() override { ::close(m_fd); }

    std::string_view next() override {
        std::size_t have = 0;
        while (have < m_block.size() && !m_fault) {
            const ssize_t n = ::read(m_fd, m_block.data() + have, m_block.size() - have);
            if (n < 0 && errno == EINTR) continue;
            if (n < 0) m_fault = Error{ErrorCode::CannotRead, std::strerror(errno), {m_path.string(), {}, {}, {}}};
            if (n <= 0) break;
            have += static_cast<std::size_t>(n);
        }
        m_read += have;
        return std::string_view(m_block).substr(0, have);
    }
    [[nodiscard]] std::optional<Error> fault() const override { return m_fault; }
    [[nodiscard]] std::size_t bytesRead() const override { return m_read; }

  private:
    std::filesystem::path m_path;
    int m_fd;
    std::string m_block;
    std::optional<Error> m_fault;
    std::size_t m_read = 0;
};

/// A stage that makes its blocks from another's.
class Stage : public Source {
  public:
    explicit Stage(std::unique_ptr<Source> from) : m_from(std::move(from)) {}
    [[nodiscard]] std::optional<Error> fault() const override { return m_fault ? m_fault : m_from->fault(); }
    [[nodiscard]] std::size_t bytesRead() const override { return m_from->bytesRead(); }
    [[nodiscard]] bool cut() const override { return m_from->cut(); }

  protected:
    Source& from() { return *m_from; }
    std::string_view end(std::optional<Error> fault) {
        m_fault = std::move(fault);
        m_ended = true;
        return {};
    }
    [[nodiscard]] bool ended() const { return m_ended; }

  private:
    std::unique_ptr<Source> m_from;
    std::optional<Error> m_fault;
    bool m_ended = false;
};

/// Gives a block that was looked at once more.
class Begun final : public Stage {
  public:
    Begun(std::unique_ptr<Source> from, std::string_view first) : Stage(std::move(from)), m_first(first) {}
    std::string_view next() override { return m_first.empty() ? from().next() : std::exchange(m_first, {}); }

  private:
    std::string_view m_first;
};

/// Fills blocks by a step that takes of the packed bytes and gives unpacked ones.
class Unpacker : public Stage {
  public:
    Unpacker(std::unique_ptr<Source> from, std::size_t limit, const char* name)
        : Stage(std::move(from)), m_limit(limit), m_name(name), m_block(blockBytes, '\0') {}

    [[nodiscard]] bool cut() const override { return m_cut; }

    std::string_view next() override {
        if (ended()) return {};
        std::size_t made = 0;
        while (made < m_block.size()) {
            if (m_in.empty()) m_in = from().next();
            const std::size_t left = m_in.size(), before = made;
            const bool good = step(m_in, m_block.data() + made, m_block.size() - made, made);
            if (!good || (made == before && m_in.size() == left)) { // damaged, or it ends here
                m_over = true;
                m_cut = !good || !whole();
                break;
            }
        }
        m_total += made;
        if (m_total > m_limit) return end(tooLarge(m_limit));
        if (made == 0) return end(m_total == 0 ? std::optional(damaged(m_name)) : std::nullopt);
        if (m_over) end({});
        return std::string_view(m_block).substr(0, made);
    }

  protected:
    /// Takes from `in`, writes at most `room` bytes at `out` and adds to `made`. False where the bytes are damaged.
    virtual bool step(std::string_view& in, char* out, std::size_t room, std::size_t& made) = 0;
    /// Whether what was taken so far is a whole packed log.
    [[nodiscard]] virtual bool whole() const = 0;

  private:
    std::size_t m_limit;
    const char* m_name;
    std::string m_block;
    std::string_view m_in;
    std::size_t m_total = 0;
    bool m_over = false, m_cut = false;
};

/// Members may follow one another.
class Gunzip final : public Unpacker {
  public:
    Gunzip(std::unique_ptr<Source> from, std::size_t limit) : Unpacker(std::move(from), limit, "gzip") {
        m_good = inflateInit2(&m_stream, 15 + 16) == Z_OK;
    }
    Gunzip(const Gunzip&) = delete;
    Gunzip& operator=(const Gunzip&) = delete;
    ~Gunzip() override { inflateEnd(&m_stream); }

  protected:
    bool step(std::string_view& in, char* out, std::size_t room, std::size_t& made) override {
        if (m_memberEnded && in.empty()) return true; // the end
        if (m_memberEnded && inflateReset(&m_stream) != Z_OK) return false;
        m_memberEnded = false;
        // zlib takes what it reads by a pointer that is not const, and leaves it alone.
        m_stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(in.data()));
        m_stream.avail_in = static_cast<uInt>(std::min(in.size(), blockBytes));
        m_stream.next_out = reinterpret_cast<Bytef*>(out);
        m_stream.avail_out = static_cast<uInt>(room);
        const std::size_t given = m_stream.avail_in;
        const int state = m_good ? inflate(&m_stream, Z_NO_FLUSH) : Z_MEM_ERROR;
        in.remove_prefix(given - m_stream.avail_in);
        made += room - m_stream.avail_out;
        m_memberEnded = state == Z_STREAM_END;
        return state == Z_OK || state == Z_STREAM_END || state == Z_BUF_ERROR;
    }
    [[nodiscard]] bool whole() const override { return m_memberEnded; }

  private:
    z_stream m_stream{};
    bool m_good = false, m_memberEnded = false;
};

class Unzstd final : public Unpacker {
  public:
    Unzstd(std::unique_ptr<Source> from, std::size_t limit)
        : Unpacker(std::move(from), limit, "zstd"), m_context(ZSTD_createDCtx(), ZSTD_freeDCtx) {}

  protected:
    bool step(std::string_view& in, char* out, std::size_t room, std::size_t& made) override {
        ZSTD_inBuffer from{in.data(), in.size(), 0};
        ZSTD_outBuffer to{out, room, 0};
        const std::size_t state = ZSTD_decompressStream(m_context.get(), &to, &from);
        in.remove_prefix(from.pos);
        made += to.pos;
        m_whole = state == 0 || (m_whole && from.pos == 0 && to.pos == 0);
        return ZSTD_isError(state) == 0;
    }
    [[nodiscard]] bool whole() const override { return m_whole; }

  private:
    std::unique_ptr<ZSTD_DCtx, std::size_t (*)(ZSTD_DCtx*)> m_context;
    bool m_whole = false;
};

void appendUtf8(std::string& out, unsigned code) {
    const auto put = [&out](unsigned value) { out += static_cast<char>(value); };
    if (code < 0x80) return put(code);
    if (code < 0x800) {
        put(0xc0U | (code >> 6U));
    } else {
        if (code < 0x10000) {
            put(0xe0U | (code >> 12U));
        } else {
            put(0xf0U | (code >> 18U));
            put(0x80U | ((code >> 12U) & 0x3fU));
        }
        put(0x80U | ((code >> 6U) & 0x3fU));
    }
    put(0x80U | (code & 0x3fU));
}

/// A unit without its other half becomes U+FFFD; an odd byte at the end is left out.
class Utf16 final : public Stage {
  public:
    Utf16(std::unique_ptr<Source> from, bool bigEnd) : Stage(std::move(from)), m_bigEnd(bigEnd) {}

    std::string_view next() override {
        m_out.clear();
        while (m_out.empty() && !ended()) {
            const auto block = from().next();
            m_bytes.append(block);
            if (block.empty()) end({});
            decode();
        }
        return m_out;
    }

  private:
    void decode() {
        std::size_t at = std::exchange(m_begun, true) ? 0 : 2; // the mark
        for (; at + 1 < m_bytes.size(); at += 2) {
            unsigned code = unit(at);
            if (code >= 0xd800 && code < 0xe000) {
                const bool first = code < 0xdc00;
                if (first && at + 3 >= m_bytes.size() && !ended()) break; // its other half is in the next block
                const unsigned low = first && at + 3 < m_bytes.size() ? unit(at + 2) : 0;
                const bool pair = low >= 0xdc00 && low < 0xe000;
                code = pair ? 0x10000U + ((code - 0xd800U) << 10U) + (low - 0xdc00U) : 0xfffdU;
                if (pair) at += 2;
            }
            appendUtf8(m_out, code);
        }
        m_bytes.erase(0, std::min(at, m_bytes.size()));
    }
    [[nodiscard]] unsigned unit(std::size_t at) const {
        const auto first = static_cast<unsigned char>(m_bytes[at]),
                   second = static_cast<unsigned char>(m_bytes[at + 1]);
        return m_bigEnd ? 256U * first + second : 256U * second + first;
    }

    bool m_bigEnd, m_begun = false;
    std::string m_bytes, m_out;
};

/// Lines that end in a carriage return alone.
class ReturnsOnly final : public Stage {
  public:
    explicit ReturnsOnly(std::unique_ptr<Source> from) : Stage(std::move(from)) {}

    std::string_view next() override {
        m_out.assign(from().next());
        std::replace(m_out.begin(), m_out.end(), '\r', '\n');
        if (m_out.empty()) end({});
        return m_out;
    }

  private:
    std::string m_out;
};

bool begins(std::string_view text, std::string_view mark) {
    return text.substr(0, mark.size()) == mark;
}

Result<Opened> openFile(const std::filesystem::path& path) {
    const int fd = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (fd < 0) return fail(ErrorCode::CannotRead, std::strerror(errno), {path.string(), {}, {}, {}}, Kept::Nothing);
    struct stat info {};
    const bool known = ::fstat(fd, &info) == 0 && S_ISREG(info.st_mode);
    if (!known) {
        ::close(fd);
        return fail(ErrorCode::CannotRead, "it is no plain file", {path.string(), {}, {}, {}}, Kept::Nothing);
    }
    return Opened{std::make_unique<FileSource>(path, fd), {}, known ? static_cast<std::size_t>(info.st_size) : 0};
}

} // namespace

Result<Opened> openSource(const Origin& origin, std::size_t limit) {
    Opened out;
    if (const auto* path = std::get_if<std::filesystem::path>(&origin)) {
        auto file = openFile(*path);
        if (!file) return file;
        out = std::move(*file);
    } else {
        const auto text = std::get<std::string_view>(origin);
        out = {std::make_unique<TextSource>(text), {}, text.size()};
    }
    auto first = out.source->next();
    if (out.source->fault()) return tl::unexpected(*out.source->fault());
    if (first.empty()) return tl::unexpected(Error{ErrorCode::EmptyFile, {}, {}, Kept::Nothing});
    const auto again = [&out](std::string_view block) { return std::make_unique<Begun>(std::move(out.source), block); };
    const bool gzip = begins(first, "\x1f\x8b"), zstd = begins(first, "\x28\xb5\x2f\xfd");
    out.source = again(first);
    if (gzip || zstd) {
        if (gzip)
            out.source = std::make_unique<Gunzip>(std::move(out.source), limit);
        else
            out.source = std::make_unique<Unzstd>(std::move(out.source), limit);
        out.how = gzip ? "gzip" : "zstd";
        constexpr unsigned checksum = 4; // of the descriptor behind the mark (RFC 8878, 3.1.1.1.1)
        out.unchecked = zstd && first.size() > 4 && (static_cast<unsigned char>(first[4]) & checksum) == 0;
        first = out.source->next();
        if (out.source->fault()) return tl::unexpected(*out.source->fault());
        out.source = again(first);
    }
    if (out.how.empty() && out.onDisk > limit) return tl::unexpected(tooLarge(limit)); // at once
    const bool little = begins(first, "\xff\xfe"), big = begins(first, "\xfe\xff");
    if (little || big) {
        out.source = std::make_unique<Utf16>(std::move(out.source), big);
        out.how += out.how.empty() ? "UTF-16" : ", UTF-16";
    } else if (first.find('\r') < first.size() - 1 && first.find('\n') == std::string_view::npos) {
        out.source = std::make_unique<ReturnsOnly>(std::move(out.source));
    }
    return out;
}

} // namespace impasto::logs
