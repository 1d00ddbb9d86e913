// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/file.h>

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fcntl.h>
#include <impasto/base/id.h>
#include <linux/magic.h>
#include <sys/stat.h>
#include <sys/vfs.h>
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

bool renamed(const std::string& from, const std::filesystem::path& to, Existing existing) {
    if (existing == Existing::Keep) {
        if (::renameat2(AT_FDCWD, from.c_str(), AT_FDCWD, to.c_str(), RENAME_NOREPLACE) == 0) return true;
        if (errno != EINVAL && errno != ENOSYS) return false; // else the file system cannot say it
    }
    return std::rename(from.c_str(), to.c_str()) == 0;
}

} // namespace

Result<std::string> readFile(const std::filesystem::path& path, std::size_t limit) {
    const Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
    struct stat info {};
    if (file.get() < 0 || ::fstat(file.get(), &info) != 0)
        return tl::unexpected(systemError(ErrorCode::CannotRead, path));
    if (!S_ISREG(info.st_mode))
        return fail(ErrorCode::CannotRead, "it is no plain file", {path.string(), {}, {}, {}}, Kept::Nothing);
    if (static_cast<std::size_t>(info.st_size) > limit)
        return fail(ErrorCode::FileTooLarge, std::to_string(limit) + " bytes", {path.string(), {}, {}, {}},
                    Kept::Nothing);
    std::string bytes;
    bytes.reserve(static_cast<std::size_t>(info.st_size) + 1);
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

Result<void> writeFileAtomically(const std::filesystem::path& path, std::string_view bytes, Existing existing) {
    struct stat old {};
    const bool there = ::stat(path.c_str(), &old) == 0;
    const auto kept = [&path] {
        return tl::unexpected(Error{ErrorCode::AlreadyThere, {}, {path.string(), {}, {}, {}}});
    };
    if (there && existing == Existing::Keep) return kept();
    const std::string temporary = path.string() + "." + toHex(systemIdSource()()).substr(0, 12);
    // What stands there already is neither followed nor written.
    const Descriptor file(::open(temporary.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0644));
    if (file.get() < 0) return tl::unexpected(systemError(ErrorCode::CannotWrite, path));
    Result<void> written = writeAll(file.get(), bytes, path);
    if (written && there && ::fchmod(file.get(), old.st_mode & 0777U) != 0)
        written = tl::unexpected(systemError(ErrorCode::CannotWrite, path));
    if (written && !renamed(temporary, path, existing))
        written = errno == EEXIST ? Result<void>(kept())
                                  : Result<void>(tl::unexpected(systemError(ErrorCode::CannotWrite, path)));
    if (!written) ::unlink(temporary.c_str());
    if (written) syncFolderOf(path);
    return written;
}

bool onNetwork(const std::filesystem::path& path) {
    struct statfs of {};
    if (::statfs(path.c_str(), &of) != 0) return false;
    for (const long kind :
         {long{NFS_SUPER_MAGIC}, long{SMB_SUPER_MAGIC}, long{CIFS_SUPER_MAGIC}, long{SMB2_SUPER_MAGIC},
          long{V9FS_MAGIC}, long{AFS_FS_MAGIC}, long{CEPH_SUPER_MAGIC}, long{CODA_SUPER_MAGIC}})
        if (static_cast<unsigned>(of.f_type) == static_cast<unsigned>(kind))
            return true; // 32 bits, with or without sign
    return false;
}

void syncFolderOf(const std::filesystem::path& file) {
    const Descriptor folder(
        ::open(file.has_parent_path() ? file.parent_path().c_str() : ".", O_RDONLY | O_DIRECTORY | O_CLOEXEC));
    if (folder.get() >= 0) ::fsync(folder.get());
}

} // namespace impasto
