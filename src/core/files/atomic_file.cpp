#include "files/atomic_file.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cstring>
#include <ctime>
#include <fstream>
#include <optional>

#include "files/temporary.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr mode_t kNewFile = 0644;
constexpr mode_t kAnyoneMayWrite = S_IWUSR | S_IWGRP | S_IWOTH;

bool writeNew(const fs::path& file, std::string_view content) {
  const int fd = ::open(file.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, kNewFile);
  if (fd < 0) return false;
  bool ok = true;
  while (ok && !content.empty()) {
    const auto n = ::write(fd, content.data(), content.size());
    ok = n > 0 || (n < 0 && errno == EINTR);
    if (n > 0) content.remove_prefix(static_cast<std::size_t>(n));
  }
  ok = ok && ::fsync(fd) == 0;
  return ::close(fd) == 0 && ok;
}

struct Target {
  fs::path path;               ///< links followed
  std::optional<mode_t> mode;  ///< of the file that is there
};

Result<Target> targetOf(const fs::path& file) {
  Target t{absolutePath(file), {}};
  std::error_code ec;
  if (auto real = fs::canonical(t.path, ec); !ec) t.path = std::move(real);
  struct stat st {};
  if (::stat(t.path.c_str(), &st) != 0) return t;
  if (!S_ISREG(st.st_mode))
    return fail(ErrorKind::badInput, file.string() + " is not an ordinary file. Choose another name.");
  if ((st.st_mode & kAnyoneMayWrite) == 0 || ::access(t.path.c_str(), W_OK) != 0)
    return fail(ErrorKind::ioFailed,
                file.string() + " is write-protected. Choose another name, or allow writing to it first.");
  t.mode = st.st_mode & 07777;
  return t;
}

}  // namespace

fs::path absolutePath(const fs::path& path) {
  std::error_code ec;
  auto full = fs::absolute(path, ec);
  auto clean = ec ? path : full.lexically_normal();
  return clean.has_filename() || !clean.has_parent_path() ? clean : clean.parent_path();
}

bool syncFolder(const fs::path& folder) {
  const int fd = ::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (fd < 0) return false;
  const bool ok = ::fsync(fd) == 0;
  ::close(fd);
  return ok;
}

FileOps FileOps::real() {
  return {writeNew, [](const fs::path& from, const fs::path& to) { return ::rename(from.c_str(), to.c_str()) == 0; },
          ochron::syncFolder};
}

Result<void> writeAtomically(const fs::path& file, std::string_view content, const FileOps& ops) {
  auto target = targetOf(file);
  if (!target) return tl::unexpected(target.error());
  const auto part = partBeside(target->path);
  const auto failed = [&] {
    const std::string why = std::strerror(errno);
    std::error_code ec;
    fs::remove(part, ec);
    forgetPart(part);
    return fail(ErrorKind::ioFailed,
                file.string() + " could not be saved (" + why +
                    "). Check the folder's rights and the free space; what was there before is unharmed.",
                why);
  };
  if (!ops.writeAndSync(part, content)) return failed();
  if (target->mode && ::chmod(part.c_str(), *target->mode) != 0) return failed();
  if (!ops.rename(part, target->path)) return failed();
  forgetPart(part);
  if (!ops.syncFolder(target->path.parent_path()))
    return fail(ErrorKind::ioFailed, file.string() + " was written, but the disk did not confirm it (" +
                                         std::strerror(errno) + "). Check the disk and save again.");
  return {};
}

Result<void> checkReadable(const fs::path& path) {
  struct stat st {};
  if (::stat(path.c_str(), &st) != 0) {
    if (errno == EACCES)
      return fail(ErrorKind::notFound,
                  path.string() + ": the folder it lies in may not be read. Ask its owner for the right to.");
    return fail(ErrorKind::notFound, path.string() + ": there is no such file. Check the name and the folder.");
  }
  if (!S_ISREG(st.st_mode)) return fail(ErrorKind::badInput, path.string() + ": this is not a file. Name a file.");
  if (::access(path.c_str(), R_OK) != 0)
    return fail(ErrorKind::ioFailed, path.string() + ": this file may not be read. Ask its owner for the right to.");
  return {};
}

Result<std::string> readWholeFile(const fs::path& file, std::size_t mostBytes) {
  if (auto ok = checkReadable(file); !ok) return tl::unexpected(ok.error());
  std::error_code ec;
  const auto size = fs::file_size(file, ec);
  if (ec || size > mostBytes)
    return fail(ErrorKind::badInput,
                file.string() + " is far too large to be what its name says. Choose another file.");
  std::ifstream in(file, std::ios::binary);
  std::string text(size, '\0');
  if (!in.read(text.data(), static_cast<std::streamsize>(size)))
    return fail(ErrorKind::ioFailed, file.string() + " could not be read. Check its rights and the disk.");
  return text;
}

Result<fs::path> setAside(const fs::path& file) {
  const auto now = std::time(nullptr);
  std::tm local{};
  ::localtime_r(&now, &local);
  std::array<char, 32> when{};
  std::strftime(when.data(), when.size(), "%Y-%m-%d %H.%M.%S", &local);
  std::error_code ec;
  for (int n = 1; n < 1000; ++n) {
    const auto number = n == 1 ? std::string() : " " + std::to_string(n);
    const auto name = file.stem().string() + " (damaged, " + when.data() + number + ")" + file.extension().string();
    const auto aside = file.parent_path() / name;
    if (fs::exists(fs::symlink_status(aside, ec))) continue;
    fs::rename(file, aside, ec);
    if (ec) break;
    syncFolder(file.parent_path());
    return aside;
  }
  return fail(ErrorKind::ioFailed, file.string() + " is damaged and could not be moved aside, so it is left as it is.",
              ec.message());
}

}  // namespace ochron
