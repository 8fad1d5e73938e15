#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "song/layer.h"

namespace ochron {

/// A set of sounds as a file of it says, before its samples are read.
struct SoundSetFile {
  std::string name;
  std::string origin;
  std::vector<std::filesystem::path> files;
  struct Entry {
    std::size_t file = 0;
    Frames from;     ///< at the file's own rate
    Frames to;       ///< 0: its end
    KitSound sound;  ///< without media and range
  };
  std::vector<Entry> entries;
  std::vector<std::string> notUnderstood;  ///< words of the file that change the sound and are not read, each once
};

/// A file of sound that comes into the song for a layer.
struct IncomingSound {
  std::string name;
  std::string path;
  std::string fingerprint;
  int channels = 1;
  int fileRate = 48'000;
  Frames length;  ///< at the song's rate
};
/// A sound of a set that is coming in: `file` is an index among the files.
struct IncomingKitSound {
  std::size_t file = 0;
  KitSound sound;  ///< its media is filled in
};
struct IncomingSoundSet {
  std::string name;
  std::string origin;
  std::vector<IncomingSound> files;
  std::vector<IncomingKitSound> sounds;
};

}  // namespace ochron
