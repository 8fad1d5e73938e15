#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <list>
#include <memory>
#include <mutex>
#include <unordered_map>
#include <unordered_set>

#include "dsp/stream_stretch.h"
#include "render/made_sound.h"

namespace ochron {

struct SoundShape {
  int rate = 48'000;
  std::size_t channels = 1;
  Frames frames;
};
/// Gives a sound in order to a sink, the same each time; false when the sink has ended it.
using SoundMaker = std::function<bool(const StreamSink&)>;

/// Made sound by what it was made from: in a folder, mapped when it is asked for, and in memory as far as it has no
/// folder or may not be kept there. Files are checked when they are mapped; one that is not what it should be is made
/// again. Any thread.
class MadeStore {
 public:
  /// Kept in memory only.
  MadeStore() = default;
  /// Kept in `folder`, which is made when there is something to keep. `mostInMemory`: bytes of what is not on the disk.
  explicit MadeStore(std::filesystem::path folder, std::uint64_t mostInMemory = std::uint64_t{1} << 30);

  /// Null when it is not made yet.
  std::shared_ptr<const DecodedMedia> find(const MadeKey& key);
  /// As find(), but what is only on the disk counts as not made: nothing is read.
  std::shared_ptr<const DecodedMedia> atHand(const MadeKey& key) const;
  /// Takes in what `make` gives and gives it back as it is kept: with a folder it is written there as it comes, so that
  /// memory stays small, else collected. `key` is asked before and after, for what it is made of may have been touched
  /// meanwhile; then, and where the disk takes nothing, it is made again, in memory. What was longest unused gives way
  /// there. Null when `make` ends before its time by giving back false.
  std::shared_ptr<const DecodedMedia> keep(const std::function<MadeKey()>& key, const SoundShape& shape,
                                           const SoundMaker& make);
  /// Takes in sound at hand.
  std::shared_ptr<const DecodedMedia> keep(const MadeKey& key, int rate, std::vector<std::vector<float>> channels);
  /// Fails when kept sound that is mapped was changed on the disk since.
  Result<void> stillAsKept() const;
  /// How often sound was taken in since the store was opened.
  std::size_t timesKept() const;

 private:
  struct Entry {
    std::shared_ptr<const DecodedMedia> sound;
    std::uint64_t bytes = 0;  ///< in memory; 0 when mapped
    std::list<std::string>::iterator use;
  };
  std::filesystem::path fileOf(const std::string& key) const;
  std::shared_ptr<const DecodedMedia> written(const std::function<MadeKey()>& key, const SoundShape& shape,
                                              const SoundMaker& make, bool& ended);
  void hold(const std::string& key, std::shared_ptr<const DecodedMedia> sound, std::uint64_t bytes);

  const std::filesystem::path folder_;
  const std::uint64_t mostInMemory_ = std::uint64_t{1} << 30;
  mutable std::mutex mutex_;
  std::unordered_map<std::string, Entry> entries_;
  std::unordered_set<std::string> onDisk_;
  std::list<std::string> used_;  // the latest first
  std::uint64_t inMemory_ = 0;
  std::size_t timesKept_ = 0;
};

}  // namespace ochron
