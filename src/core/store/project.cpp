#include "store/project.h"

#include <fcntl.h>
#include <unistd.h>

#include <cstring>
#include <fstream>

#include "store/song_json.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr std::size_t kLargestSong = std::size_t{1} << 30;

bool syncPath(const fs::path& path, int flags) {
  const int fd = ::open(path.c_str(), flags | O_CLOEXEC);
  if (fd < 0) return false;
  const bool ok = ::fsync(fd) == 0;
  ::close(fd);
  return ok;
}

Song withRelativePaths(Song song, const fs::path& folder) {
  for (auto& m : song.media) {
    const auto relative = fs::path(m.path).lexically_relative(folder);
    if (!relative.empty() && *relative.begin() != "..") m.path = relative.string();
  }
  return song;
}

Result<Song> readSong(const fs::path& file, const fs::path& folder) {
  auto text = readWholeFile(file, kLargestSong);
  if (!text) return tl::unexpected(text.error());
  auto song = songFromJson(*text, file.string());
  if (!song) return song;
  for (auto& m : song->media)
    if (fs::path(m.path).is_relative()) m.path = (folder / m.path).lexically_normal().string();
  return song;
}

fs::path folderOf(const fs::path& path) {
  return fs::absolute(path.filename() == kSongFile ? path.parent_path() : path).lexically_normal();
}

}  // namespace

FileOps FileOps::real() {
  return {[](const fs::path& file, std::string_view content) {
            const int fd = ::open(file.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
            if (fd < 0) return false;
            bool ok = true;
            while (ok && !content.empty()) {
              const auto n = ::write(fd, content.data(), content.size());
              ok = n > 0;
              if (ok) content.remove_prefix(static_cast<std::size_t>(n));
            }
            ok = ::fsync(fd) == 0 && ok;
            return ::close(fd) == 0 && ok;
          },
          [](const fs::path& from, const fs::path& to) { return ::rename(from.c_str(), to.c_str()) == 0; },
          [](const fs::path& folder) { return syncPath(folder, O_RDONLY | O_DIRECTORY); }};
}

Result<void> writeAtomically(const fs::path& file, std::string_view content, const FileOps& ops) {
  const auto beside = file.string() + ".part";
  const auto failed = [&] {
    const std::string why = std::strerror(errno);
    std::error_code ec;
    fs::remove(beside, ec);
    return fail(
        ErrorKind::ioFailed,
        file.string() +
            " could not be saved. Check the folder's rights and the free space; what was there before is unharmed.",
        why);
  };
  if (!ops.writeAndSync(beside, content) || !ops.rename(beside, file)) return failed();
  if (!ops.syncFolder(file.parent_path())) return failed();
  return {};
}

Result<std::string> readWholeFile(const fs::path& file, std::size_t mostBytes) {
  std::error_code ec;
  if (!fs::is_regular_file(file, ec))
    return fail(ErrorKind::notFound, file.string() + ": there is no such file. Check the name and the folder.");
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

Result<void> saveProject(const Song& song, const fs::path& path, const FileOps& ops) {
  const auto folder = folderOf(path);
  std::error_code ec;
  fs::create_directories(folder, ec);
  if (ec)
    return fail(ErrorKind::ioFailed, folder.string() + " could not be made. Choose a folder that you may write to.",
                ec.message());
  if (auto ok = writeAtomically(folder / kSongFile, songToJson(withRelativePaths(song, folder)), ops); !ok) return ok;
  discardAutosave(folder);
  return {};
}

Result<Song> openProject(const fs::path& path) {
  const auto folder = folderOf(path);
  std::error_code ec;
  if (!fs::exists(folder / kSongFile, ec))
    return fail(
        ErrorKind::notFound,
        path.string() + " is not a project: there is no song.json in it. Choose a folder that ends in .ochron.");
  return readSong(folder / kSongFile, folder);
}

Result<void> autosaveProject(const Song& song, const fs::path& folder) {
  std::error_code ec;
  fs::create_directories(folder, ec);
  return writeAtomically(folder / kAutosaveFile,
                         songToJson(withRelativePaths(song, fs::absolute(folder).lexically_normal())));
}

bool hasAutosave(const fs::path& path) {
  std::error_code ec;
  return fs::exists(folderOf(path) / kAutosaveFile, ec);
}

Result<Song> openAutosave(const fs::path& path) { return readSong(folderOf(path) / kAutosaveFile, folderOf(path)); }

void discardAutosave(const fs::path& path) {
  std::error_code ec;
  fs::remove(folderOf(path) / kAutosaveFile, ec);
}

bool looksLikeProject(const fs::path& path) {
  std::error_code ec;
  return path.filename() == kSongFile || (fs::is_directory(path, ec) && fs::exists(path / kSongFile, ec));
}

}  // namespace ochron
