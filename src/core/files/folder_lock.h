#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>

#include "base/result.h"
#include "files/process_id.h"

namespace ochron {

/// Who has a folder open.
struct LockHolder {
  ProcessId process;
  std::int64_t since = 0;  ///< seconds since 1970

  bool operator==(const LockHolder&) const = default;
  /// For the user: "another window of this machine, since 14:03", or with the other machine's name.
  std::string described() const;
};

/// Says to other processes that a folder is open here: a small file in it with host, process and time, held by a lock
/// of the kernel's (flock) as long as the process lives. So a holder in a container or sandbox, where process numbers
/// mean something else, counts too, and one that ended does not. A file of another machine whose lock is not seen here
/// is believed.
class FolderLock {
 public:
  FolderLock() = default;
  ~FolderLock() { release(); }
  FolderLock(FolderLock&& other) noexcept;
  FolderLock& operator=(FolderLock&& other) noexcept;
  FolderLock(const FolderLock&) = delete;

  /// Whoever else has the folder open; none when it is free, or held by this process.
  static std::optional<LockHolder> holderOf(const std::filesystem::path& folder);
  /// Takes the lock of a folder that nobody has open. Of two that try at once one fails (ErrorKind::refused). Fails
  /// when nothing can be written there.
  static Result<FolderLock> take(const std::filesystem::path& folder);
  /// Takes the lock from whoever holds it.
  static Result<FolderLock> takeOver(const std::filesystem::path& folder);
  /// False after another process has taken it, or the folder went away.
  bool held() const;
  const std::filesystem::path& folder() const { return folder_; }
  void release();

 private:
  std::filesystem::path folder_;
  LockHolder mine_;
  int fd_ = -1;  ///< of the lock file, with the kernel's lock on it
};

}  // namespace ochron
