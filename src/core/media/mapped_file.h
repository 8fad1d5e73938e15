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
  /// Fails when the file is not there, is empty or cannot be mapped.
  static Result<std::unique_ptr<MappedFile>> open(const std::filesystem::path& file);
  ~MappedFile();
  MappedFile(const MappedFile&) = delete;
  MappedFile& operator=(const MappedFile&) = delete;
  std::span<const char> bytes() const { return {static_cast<const char*>(at_), size_}; }
  bool broken() const;
  /// Whether the file was written to since it was mapped. Another file that was put in its place does not count: the
  /// mapping keeps the old one.
  bool writtenTo() const;

 private:
  struct Stamp;
  MappedFile(void* at, std::size_t size, std::unique_ptr<const Stamp> stamp);
  void* at_;
  std::size_t size_;
  int guard_;
  std::unique_ptr<const Stamp> stamp_;
};

}  // namespace ochron
