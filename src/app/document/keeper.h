#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "files/folder_lock.h"
#include "song/song.h"
#include "store/kept_copies.h"
#include "store/project.h"

namespace ochron {

/// Whether a song's folder is this window's to write to.
enum class OpenAs {
  owner,   ///< saves and autosaves go there; others are told so by a lock
  heir,    ///< as owner, from another window that has it: that one can save there no more
  looker,  ///< nothing is written there: another window has it, or it may not be written to
};

/// Where the open song lies, whose it is, and what is kept of it between saves. Nothing of the user's is removed before
/// what takes its place is on the disk.
class Keeper {
 public:
  Keeper();
  /// Empty while the song has no folder.
  const std::filesystem::path& folder() const { return folder_; }
  OpenAs as() const { return as_; }

  /// A song without a folder is open now.
  void begin();
  /// The copy between saves that lies in the folder could not be kept aside: it is neither overwritten nor removed
  /// until it is; the open song's own goes to the user's recovery folder.
  void spareEarlierCopy() { spares_ = true; }
  /// A song of this folder is open now. Without the right to write there it is only looked at; the sentence says so.
  std::optional<std::string> begin(const std::filesystem::path& folder, OpenAs as);
  /// Saves, and is the owner of that folder afterwards. Refuses one that another window has open.
  Result<void> save(const Song& song, const std::filesystem::path& folder);
  /// Where the second copy goes: beside the saved song when that is ours, else to the user's recovery folder.
  std::filesystem::path autosaveFolder() const;
  /// The song was left properly: its second copy is not needed any more. Another window's is not touched.
  void leave();

  /// Folders that runs which did not end properly left, with a copy in each.
  std::vector<std::filesystem::path> abandoned() const;
  KeptCopies kept() const { return KeptCopies(state_ / "kept"); }

 private:
  /// Tries to keep the spared copy again; true when there is none any more.
  bool keepSpared();
  std::filesystem::path recovery() const { return state_ / "recovery"; }

  std::filesystem::path state_;  // the user's folder for what this program keeps
  std::filesystem::path own_;    // in the recovery folder
  std::filesystem::path folder_;
  OpenAs as_ = OpenAs::owner;
  FolderLock lock_;
  bool spares_ = false;  // an earlier copy between saves in folder_
};

}  // namespace ochron
