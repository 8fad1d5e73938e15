#pragma once

#include <cstdint>
#include <filesystem>
#include <string_view>
#include <vector>

#include "base/result.h"

namespace ochron {

/// The files that one run writes: they appear together when commit() succeeds; otherwise none does, and what was there
/// before stays. No output may be a file that the run reads, by whatever name or link it is reached.
class Outputs {
 public:
  Outputs() = default;
  ~Outputs();
  Outputs(Outputs&& other) noexcept;
  Outputs& operator=(Outputs&&) = delete;
  Outputs(const Outputs&) = delete;

  /// Nothing that is there already is replaced: stage() refuses such a target.
  void keepExisting() { keepExisting_ = true; }
  /// Which of these targets are there already and would be replaced.
  static std::vector<std::filesystem::path> existing(const std::vector<std::filesystem::path>& targets);
  /// A file that the run reads. Files that are not there are ignored.
  void protect(const std::filesystem::path& input);
  /// Whether something may be written there at all; what stage() would refuse a target for that is there is said before
  /// the work.
  Result<void> allows(const std::filesystem::path& target) const;
  /// Where to write what becomes `target`; its folder is made when missing. Fails when the target is a protected file,
  /// another output of this run, write-protected or no ordinary file, and when the folder cannot be written to.
  Result<std::filesystem::path> stage(const std::filesystem::path& target);
  /// Stages a whole file of text.
  Result<void> add(const std::filesystem::path& target, std::string_view content);
  /// Puts everything in place. Afterwards the staged files are the targets, on the disk. What a run that is ended in
  /// the middle of this leaves is completed by the next one that comes to one of the folders (completeStaleSets).
  Result<void> commit();

 private:
  struct FileId {
    std::uint64_t device = 0;
    std::uint64_t node = 0;
    bool operator==(const FileId&) const = default;
  };
  struct Staged {
    std::filesystem::path target;
    std::filesystem::path part;
    std::filesystem::path earlier;  ///< a second name of what was there, while committing
    bool placed = false;
  };
  static bool idOf(const std::filesystem::path& file, FileId& id);
  Result<std::filesystem::path> checked(const std::filesystem::path& target) const;
  Result<void> makeFolder(const std::filesystem::path& folder);
  Result<void> writeList();
  void removeLists();
  bool place(Staged& s);
  void takeBack();
  void clear();

  std::vector<FileId> inputs_;
  std::vector<std::filesystem::path> madeFolders_;
  std::vector<Staged> staged_;
  std::vector<std::filesystem::path> lists_;  ///< of what is to be put in place, one in each folder
  bool keepExisting_ = false;
  bool done_ = false;
};

}  // namespace ochron
