#include "document/last_copy.h"

#include <mutex>

#include "store/project.h"

namespace ochron {
namespace {

struct LastSong {
  std::mutex mutex;
  std::shared_ptr<const Song> song;
  std::filesystem::path folder;
};

LastSong& lastSong() {
  static LastSong one;
  return one;
}

}  // namespace

void LastCopy::hold(std::shared_ptr<const Song> song, const std::filesystem::path& folder) {
  auto& last = lastSong();
  const std::lock_guard lock(last.mutex);
  last.song = std::move(song);
  last.folder = folder;
}

void LastCopy::forget() { hold(nullptr, {}); }

void LastCopy::write() {
  auto& last = lastSong();
  const std::lock_guard lock(last.mutex);
  // Nobody is left to be told when it fails; what was there before stays.
  if (last.song) static_cast<void>(autosaveProject(*last.song, last.folder));
}

}  // namespace ochron
