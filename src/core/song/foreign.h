#pragma once

#include <string>
#include <vector>

namespace ochron {

/// What a song's file holds beyond what this version of the program knows: kept, and written back where its owner is
/// still there.
struct ForeignKeys {
  struct Key {
    std::vector<std::string> path;  ///< names of keys, and "#ID" for the entry of a list with that id
    std::string json;               ///< its value

    bool operator==(const Key&) const = default;
  };
  int format = 0;  ///< of the file, when it is newer than this program's; else 0
  std::vector<Key> keys;

  bool operator==(const ForeignKeys&) const = default;
};

}  // namespace ochron
