#include "files/whole_folder.h"

#include "files/atomic_file.h"
#include "files/content_id.h"
#include "files/temporary.h"

namespace ochron {
namespace fs = std::filesystem;

Result<FilesInFolder> readWholeFolder(const fs::path& folder, std::size_t mostFiles, std::size_t mostBytes) {
  FilesInFolder out;
  std::size_t size = 0;
  std::error_code ec;
  fs::recursive_directory_iterator at(folder, ec);
  for (; !ec && at != fs::recursive_directory_iterator(); at.increment(ec)) {
    std::error_code other;
    if (!fs::is_regular_file(at->path(), other)) continue;
    const auto more = fs::file_size(at->path(), other);
    if (other) return fail(ErrorKind::ioFailed, at->path().string() + " cannot be read.", other.message());
    if (out.size() >= mostFiles || more > mostBytes - size)
      return fail(ErrorKind::refused, folder.string() + " holds more than " + std::to_string(mostBytes / 1'000'000) +
                                          " MB or " + std::to_string(mostFiles) + " files, too much to be kept.");
    auto bytes = readWholeFile(at->path(), mostBytes - size);
    if (!bytes) return tl::unexpected(bytes.error());
    size += bytes->size();
    out[at->path().lexically_relative(folder).generic_string()] = std::move(*bytes);
  }
  if (ec) return fail(ErrorKind::ioFailed, folder.string() + " cannot be read.", ec.message());
  return out;
}

Result<void> writeWholeFolder(const fs::path& folder, const FilesInFolder& files) {
  std::error_code ec;
  if (fs::exists(folder, ec)) return {};
  const auto failed = [&](const std::string& why) {
    return fail(ErrorKind::ioFailed, folder.string() + " could not be written. Check the free space and the rights.",
                why);
  };
  fs::create_directories(folder.parent_path(), ec);
  if (ec) return failed(ec.message());
  const auto part = partBeside(folder);
  const auto write = [&]() -> Result<void> {
    for (const auto& [name, bytes] : files) {
      fs::create_directories((part / name).parent_path(), ec);
      if (ec) return failed(ec.message());
      if (auto ok = writeAtomically(part / name, bytes); !ok) return failed(ok.error().message);
    }
    fs::rename(part, folder, ec);
    if (ec) return failed(ec.message());
    syncFolder(folder.parent_path());
    return {};
  };
  auto done = write();
  if (!done) fs::remove_all(part, ec);
  forgetPart(part);
  return done;
}

std::string contentId(const FilesInFolder& files) {
  std::string all;
  for (const auto& [name, bytes] : files)
    all += std::to_string(name.size()) + ' ' + std::to_string(bytes.size()) + ' ' + name + bytes;
  return contentId(std::span<const char>(all));
}

}  // namespace ochron
