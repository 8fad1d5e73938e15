#pragma once

#include <filesystem>
#include <optional>
#include <string>

#include "base/result.h"
#include "files/atomic_file.h"
#include "files/outputs.h"
#include "song/song.h"
#include "store/song_json.h"

namespace ochron {

/// A project is a folder NAME.ochron with song.json, media/ and cache/ (which may be deleted at any time).
inline constexpr const char* kProjectEnding = ".ochron";
inline constexpr const char* kSongFile = "song.json";
inline constexpr const char* kAutosaveFile = "song.autosave.json";

/// The project's folder, absolute, given it or the song.json in it.
std::filesystem::path projectFolder(const std::filesystem::path& path);

/// True for a project folder or the song.json in one.
bool looksLikeProject(const std::filesystem::path& path);

/// Saves to `folder` (made when missing); recordings inside the folder are named relative to it. Removes the autosaved
/// copy. Fails when the song there is write-protected.
Result<void> saveProject(const Song& song, const std::filesystem::path& folder, const FileOps& ops = FileOps::real());
/// The same of a song that uses `fresh`, files that were written for it: when it cannot be saved they go again, unless
/// the song that lies there then uses them. A disk may fail when the new song is in its place already.
Result<void> saveWithFiles(const Song& song, const std::filesystem::path& folder,
                           const std::vector<std::filesystem::path>& fresh, const FileOps& ops = FileOps::real());
/// Paths come back absolute. Missing recordings are not an error here. `newer`: what becomes of a song of a newer
/// version.
Result<Song> openProject(const std::filesystem::path& folder, Newer newer = Newer::refuse);

/// The second copy for the time between saves. It remembers which saved song it goes on from.
Result<void> autosaveProject(const Song& song, const std::filesystem::path& folder);
void discardAutosave(const std::filesystem::path& folder);

/// What lies beside a saved song.
struct Autosave {
  enum class State {
    none,     ///< nothing, or the same song as the saved one
    newer,    ///< goes on from the song as it is saved now, or there is no saved one
    other,    ///< goes on from another state of the song: the saved one was changed since
    damaged,  ///< cannot be read
  };
  State state = State::none;
  std::optional<Song> song;  ///< with `newer` and `other`
  std::string why;           ///< with `damaged`, a sentence
};
Autosave findAutosave(const std::filesystem::path& folder);

/// Where decoded copies for a project go: its cache/ when that can be written to, else the user's own.
std::filesystem::path cacheFolderOf(const std::filesystem::path& project);
/// $XDG_CACHE_HOME/orthochron, or ~/.cache/orthochron; where neither may be written to, a folder of this user's alone
/// in the temporary one.
std::filesystem::path userCacheFolder();

/// Outputs of a command that reads a song: none may be one of its recordings.
Outputs outputsOf(const Song& song);

}  // namespace ochron
