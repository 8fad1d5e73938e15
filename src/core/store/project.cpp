#include "store/project.h"

#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cstdlib>

#include "files/content_id.h"
#include "store/effect_states.h"
#include "store/song_json.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr std::size_t kLargestFile = std::size_t{1} << 30;

Song withRelativePaths(Song song, const fs::path& folder) {
  for (auto& m : song.media) {
    const auto relative = fs::path(m.path).lexically_relative(folder);
    if (!relative.empty() && *relative.begin() != "..") m.path = relative.string();
  }
  return song;
}

Result<Song> readSong(const fs::path& file, const fs::path& folder, Newer newer = Newer::refuse) {
  auto text = readWholeFile(file, kLargestFile);
  if (!text) return tl::unexpected(text.error());
  auto song = songFromJson(*text, file.string(), newer);
  if (!song) return song;
  for (auto& m : song->media)
    if (fs::path(m.path).is_relative()) m.path = (folder / m.path).lexically_normal().string();
  readEffectStates(*song, folder);
  return song;
}

/// The text of a song's file, which was read back and gives the same text again: what cannot be opened again is never
/// put in the place of what can.
Result<std::string> readableText(const Song& song, const fs::path& folder, const std::string& continues) {
  const auto relative = withRelativePaths(song, folder);
  auto text = songToJson(relative, continues);
  const auto back = songFromJson(text, "The song", Newer::look);
  if (back && songToJson(*back, continues) == text) return text;
  return fail(ErrorKind::refused,
              "\"" + song.name +
                  "\" could not be opened again as it would be written, so the earlier file was kept. Undo the last "
                  "steps and save again.",
              back ? "it comes back as another song" : back.error().message);
}

/// Names the state of the saved song; empty when there is none.
std::string stateOfSaved(const fs::path& folder) {
  const auto text = readWholeFile(folder / kSongFile, kLargestFile);
  return text ? std::to_string(hashOf(text->data(), text->size())) : std::string();
}

Result<void> makeFolder(const fs::path& folder) {
  std::error_code ec;
  fs::create_directories(folder, ec);
  if (!ec) return {};
  return fail(ErrorKind::ioFailed, folder.string() + " could not be made. Choose a folder that you may write to.",
              ec.message());
}

}  // namespace

fs::path projectFolder(const fs::path& path) {
  const auto full = absolutePath(path);
  return full.filename() == kSongFile ? full.parent_path() : full;
}

bool looksLikeProject(const fs::path& path) {
  std::error_code ec;
  return path.filename() == kSongFile || path.extension() == kProjectEnding ||
         (fs::is_directory(path, ec) && fs::exists(path / kSongFile, ec));
}

Result<void> saveProject(const Song& song, const fs::path& path, const FileOps& ops) {
  const auto folder = projectFolder(path);
  if (auto ok = makeFolder(folder); !ok) return ok;
  const auto text = readableText(song, folder, {});
  if (!text) return tl::unexpected(text.error());
  if (auto ok = writeEffectStates(song, folder); !ok) return ok;
  if (auto ok = writeAtomically(folder / kSongFile, *text, ops); !ok) return ok;
  discardAutosave(folder);
  return {};
}

Result<void> saveWithFiles(const Song& song, const fs::path& folder, const std::vector<fs::path>& fresh,
                           const FileOps& ops) {
  auto saved = saveProject(song, folder, ops);
  if (saved) return saved;
  const auto there = openProject(folder);
  std::error_code ec;
  for (const auto& file : fresh) {
    const bool used = !there || std::ranges::any_of(there->media, [&](const Media& m) {
      return fs::path(m.path).lexically_normal() == absolutePath(file).lexically_normal();
    });
    if (!used) fs::remove(file, ec);
  }
  return saved;
}

Result<Song> openProject(const fs::path& path, Newer newer) {
  const auto folder = projectFolder(path);
  std::error_code ec;
  const auto there = fs::status(folder / kSongFile, ec);
  if (ec && ec != std::errc::no_such_file_or_directory && ec != std::errc::not_a_directory)
    return fail(ErrorKind::ioFailed, path.string() + ": this project may not be read. Ask its owner for the right to.",
                ec.message());
  if (!fs::exists(there))
    return fail(
        ErrorKind::notFound,
        path.string() + " is not a project: there is no song.json in it. Choose a folder that ends in .ochron.");
  return readSong(folder / kSongFile, folder, newer);
}

Result<void> autosaveProject(const Song& song, const fs::path& path) {
  const auto folder = absolutePath(path);
  if (auto ok = makeFolder(folder); !ok) return ok;
  const auto text = readableText(song, folder, stateOfSaved(folder));
  if (!text) return tl::unexpected(text.error());
  if (auto ok = writeEffectStates(song, folder); !ok) return ok;
  return writeAtomically(folder / kAutosaveFile, *text);
}

Autosave findAutosave(const fs::path& path) {
  const auto folder = projectFolder(path);
  const auto file = folder / kAutosaveFile;
  Autosave found;
  std::error_code ec;
  if (!fs::exists(file, ec)) return found;
  auto song = readSong(file, folder);
  if (!song) {
    found.state = Autosave::State::damaged;
    found.why = song.error().message;
    return found;
  }
  const auto saved = stateOfSaved(folder);
  if (!saved.empty())
    if (const auto now = openProject(folder); now && *now == *song) return found;
  const auto text = readWholeFile(file, kLargestFile);
  const bool goesOn = saved.empty() || (text && continuedState(*text) == saved);
  found.state = goesOn ? Autosave::State::newer : Autosave::State::other;
  found.song = std::move(*song);
  return found;
}

void discardAutosave(const fs::path& path) {
  std::error_code ec;
  fs::remove(projectFolder(path) / kAutosaveFile, ec);
}

fs::path userCacheFolder() {
  const auto named = [](const char* variable) -> fs::path {
    const char* value = std::getenv(variable);
    return value ? value : "";
  };
  std::error_code ec;
  for (const auto& base : {named("XDG_CACHE_HOME"), named("HOME").empty() ? fs::path() : named("HOME") / ".cache"}) {
    if (base.empty()) continue;
    const auto folder = base / "orthochron";
    fs::create_directories(folder, ec);
    if (::access(folder.c_str(), W_OK) == 0) return folder;
  }
  // Without a home of one's own: a folder that nobody else may read or write.
  const auto own = fs::temp_directory_path(ec) / ("orthochron-" + std::to_string(::getuid()));
  ::mkdir(own.c_str(), 0700);
  struct stat st {};
  const bool safe =
      ::lstat(own.c_str(), &st) == 0 && S_ISDIR(st.st_mode) && st.st_uid == ::getuid() && (st.st_mode & 077) == 0;
  return safe ? own : fs::path(own.string() + "-" + std::to_string(::getpid()));
}

fs::path cacheFolderOf(const fs::path& project) {
  const auto folder = projectFolder(project);
  const auto cache = folder / "cache";
  std::error_code ec;
  const auto& asked = fs::exists(cache, ec) ? cache : folder;
  return ::access(asked.c_str(), W_OK) == 0 ? cache : userCacheFolder() / "decoded";
}

Outputs outputsOf(const Song& song) {
  Outputs out;
  for (const auto& m : song.media) out.protect(m.path);
  return out;
}

}  // namespace ochron
