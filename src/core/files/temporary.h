#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/result.h"

namespace ochron {

/// Everything this run makes that nobody is meant to find afterwards: files being written beside their targets, scratch
/// folders. Each is removed by its owner, at the latest by removeOwnTemporaries(); what a killed process left behind is
/// recognised by its name and removed by the next one that comes to the folder. Any thread.

/// A name for a file that is written beside `target` and renamed when it is complete: hidden, short whatever the
/// target's name, never given out twice. Clears the folder of what killed processes left there.
std::filesystem::path partBeside(const std::filesystem::path& target);
/// A set of files that are put in place together.
struct SetEntry {
  std::filesystem::path part;  ///< complete and on the disk
  std::filesystem::path target;
  std::filesystem::path earlier;  ///< a second name for what is at the target, to be; empty: nothing is there
};
/// Notes in `folder` what is about to be put in place, so that a run that comes after one that was ended in the middle
/// completes it. Remove it (forgetPart) when all is in place, or when it is taken back.
Result<std::filesystem::path> listSet(const std::filesystem::path& folder, const std::vector<SetEntry>& entries);
/// The file of this name has been renamed or removed.
void forgetPart(const std::filesystem::path& part);
/// Completes what processes which run no more were putting in place, then removes parts and older versions that they
/// left in `folder`.
void removeStaleParts(const std::filesystem::path& folder);
/// Removes all this process has not forgotten. For the way out: after a signal, or at the end.
void removeOwnTemporaries();

/// A folder in the system's temporary folder that is gone when this is.
class ScratchFolder {
 public:
  /// Fails when the temporary folder (TMPDIR) is not there or may not be written to.
  static Result<ScratchFolder> make();
  ~ScratchFolder();
  ScratchFolder(ScratchFolder&& other) noexcept;
  ScratchFolder& operator=(ScratchFolder&&) = delete;
  ScratchFolder(const ScratchFolder&) = delete;
  const std::filesystem::path& path() const { return path_; }

 private:
  ScratchFolder() = default;
  std::filesystem::path path_;
};

}  // namespace ochron
