#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <mutex>
#include <span>
#include <string>

#include "base/progress.h"
#include "base/result.h"

namespace ochron {

/// Names a file by its whole content: "xxh3-" with the 128-bit XXH3 hash and the size, both in hexadecimal. Survives
/// moving and renaming; any changed byte changes it.
Result<std::string> contentId(const std::filesystem::path& file, Progress& progress);

/// The same of bytes in memory.
std::string contentId(std::span<const char> bytes);

/// True for names of the kind that contentId gives; older songs hold others, made from parts of the content.
bool isContentId(const std::string& text);

/// The 64-bit XXH3 hash of bytes that come in pieces; how they are cut does not matter.
class ContentHash {
 public:
  ContentHash();
  ~ContentHash();
  ContentHash(ContentHash&& other) noexcept;
  ContentHash& operator=(ContentHash&&) = delete;
  void add(const void* bytes, std::size_t size);
  std::uint64_t value() const;

 private:
  void* state_;
};

/// The same of bytes in one piece.
std::uint64_t hashOf(const void* bytes, std::size_t size);

/// Remembers contentId() of files that have not changed since (path, size, times of change and node), so that reading
/// a recording whole is paid once. Any thread.
class ContentIndex {
 public:
  /// Kept in memory only.
  ContentIndex() = default;
  /// Kept in `file`; one that cannot be read counts as empty, since all in it can be found out again.
  explicit ContentIndex(std::filesystem::path file);
  Result<std::string> of(const std::filesystem::path& file, Progress& progress);
  /// Writes what is new. Failing to is no loss.
  void keep();

 private:
  struct Entry {
    std::string state;  ///< size, times and node as text
    std::string id;
  };
  std::map<std::string, Entry> read() const;

  std::filesystem::path file_;
  std::mutex mutex_;
  std::map<std::string, Entry> known_;
  bool changed_ = false;
};

}  // namespace ochron
