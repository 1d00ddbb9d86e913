// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/file.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

namespace impasto {
namespace {

class Descriptor {
  public:
    explicit Descriptor(int fd) : m_fd(fd) {}
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    ~Descriptor() {
        if (m_fd >= 0) ::close(m_fd);
    }
    [[nodiscard]] int get() const { return m_fd; }

  private:
    int m_fd;
};

Error systemError(ErrorCode code, const std::filesystem::path& path) {
    const int reason = errno;
    const bool full = code == ErrorCode::CannotWrite && (reason == ENOSPC || reason == EDQUOT || reason == EFBIG);
    return {full ? ErrorCode::DiskFull : code, std::strerror(reason), Where{path.string(), {}, {}, {}},
            code == ErrorCode::CannotRead ? Kept::Nothing : Kept::AllAsBefore};
}

Result<void> writeAll(int fd, std::string_view bytes, const std::filesystem::path& path) {
    while (!bytes.empty()) {
        const ssize_t n = ::write(fd, bytes.data(), bytes.size());
        if (n < 0 && errno == EINTR) continue;
        if (n < 0) return tl::unexpected(systemError(ErrorCode::CannotWrite, path));
        bytes.remove_prefix(static_cast<std::size_t>(n));
    }
    if (::fsync(fd) != 0 && errno != EINVAL && errno != EROFS)
        return tl::unexpected(systemError(ErrorCode::CannotWrite, path));
    return {};
}

} // namespace

Result<std::string> readFile(const std::filesystem::path& path, std::size_t limit) {
    const Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    if (file.get() < 0) return tl::unexpected(systemError(ErrorCode::CannotRead, path));
    struct stat info {};
    std::string bytes;
    if (::fstat(file.get(), &info) == 0 && S_ISREG(info.st_mode)) {
        if (static_cast<std::size_t>(info.st_size) > limit)
            return fail(ErrorCode::FileTooLarge, std::to_string(limit) + " bytes", {path.string(), {}, {}, {}},
                        Kept::Nothing);
        bytes.reserve(static_cast<std::size_t>(info.st_size) + 1);
    }
    constexpr std::size_t block = std::size_t{1} << 20U;
    for (;;) {
        const std::size_t old = bytes.size();
        bytes.resize(std::max(old + 1, std::min(bytes.capacity(), old + block)));
        const ssize_t n = ::read(file.get(), bytes.data() + old, bytes.size() - old);
        if (n < 0 && errno == EINTR) {
            bytes.resize(old);
            continue;
        }
        if (n < 0) return tl::unexpected(systemError(ErrorCode::CannotRead, path));
        bytes.resize(old + static_cast<std::size_t>(n));
        if (n == 0) return bytes;
        if (bytes.size() > limit)
            return fail(ErrorCode::FileTooLarge, std::to_string(limit) + " bytes", {path.string(), {}, {}, {}},
                        Kept::Nothing);
        if (bytes.size() == bytes.capacity()) bytes.reserve(2 * bytes.capacity() + block);
    }
}

Result<void> writeFileAtomically(const std::filesystem::path& path, std::string_view bytes) {
    const std::filesystem::path temporary = path.string() + ".new";
    const Descriptor file(::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644));
    if (file.get() < 0) return tl::unexpected(systemError(ErrorCode::CannotWrite, path));
    Result<void> written = writeAll(file.get(), bytes, path);
    if (written && std::rename(temporary.c_str(), path.c_str()) != 0)
        written = tl::unexpected(systemError(ErrorCode::CannotWrite, path));
    if (!written) ::unlink(temporary.c_str());
    return written;
}

} // namespace impasto
