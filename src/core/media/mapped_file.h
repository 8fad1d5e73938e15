#pragma once

#include <atomic>
#include <filesystem>
#include <memory>
#include <span>

#include "base/result.h"

namespace ochron {

/// A file mapped for reading. When somebody shortens the file meanwhile, what is gone reads as zeros instead of ending
/// the program, and the mapping says that it is broken. Any thread.
class MappedFile {
 public:
  /// `yes`: the file is kept open, so that what becomes of it is seen whatever its name is by then.
  enum class Watch { no, yes };
  /// Fails when the file is not there, is empty or cannot be mapped.
  static Result<std::unique_ptr<MappedFile>> open(const std::filesystem::path& file, Watch watch = Watch::no);
  ~MappedFile();
  MappedFile(const MappedFile&) = delete;
  MappedFile& operator=(const MappedFile&) = delete;
  std::span<const char> bytes() const { return {static_cast<const char*>(at_), size_}; }
  bool broken() const;
  /// Whether the file was written to since it was mapped, under whatever name, or another one lies in its place. One
  /// that was removed counts as it was: the mapping keeps it.
  bool writtenTo() const;
  /// Whether anything was done to the file, if only to its name, rights or times: its bytes may be others.
  bool touched() const;
  const std::filesystem::path& path() const;

 private:
  struct Stamp;
  MappedFile(void* at, std::size_t size, std::unique_ptr<const Stamp> stamp);
  void* at_;
  std::size_t size_;
  int guard_;
  std::unique_ptr<const Stamp> stamp_;
  int fd_ = -1;  // of a file that is watched
};

}  // namespace ochron
