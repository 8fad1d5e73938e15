#include "render/made_store.h"

#include <algorithm>

#include "media/cache_folder.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

constexpr const char* kEnding = ".decoded";  // trimmed together with decoded copies
constexpr const char* kBeginning = "made-";
constexpr std::size_t kMostChannels = 64;  // that one file can hold

/// Writes sound as a decoded copy; it need not survive a power cut, as its checksums tell whether it did.
bool write(const fs::path& file, const DecodedMedia& sound) {
  std::error_code ec;
  fs::create_directories(file.parent_path(), ec);
  auto writer = DecodedFileWriter::create(file, sound.rate(), sound.channels(), sound.length().value);
  if (!writer) return false;
  constexpr std::int64_t kWritten = 16'384;
  const auto wide = static_cast<std::size_t>(sound.channels());
  std::vector<float> block;
  for (std::int64_t at = 0; at < sound.length().value; at += kWritten) {
    const auto n = static_cast<std::size_t>(std::min(kWritten, sound.length().value - at));
    block.resize(n * wide);
    for (std::size_t c = 0; c < wide; ++c) {
      const auto from = sound.channel(static_cast<int>(c)).subspan(static_cast<std::size_t>(at), n);
      for (std::size_t i = 0; i < n; ++i) block[i * wide + c] = from[i];
    }
    if (!writer->add(block)) return false;
  }
  return writer->finish(sound.length().value, {}, DecodedFileWriter::Sync::later).has_value();
}

}  // namespace

MadeStore::MadeStore(fs::path folder, std::uint64_t mostInMemory)
    : folder_(std::move(folder)), mostInMemory_(mostInMemory) {
  std::error_code ec;
  for (fs::directory_iterator at(folder_, ec); !ec && at != fs::directory_iterator(); at.increment(ec)) {
    const auto name = at->path().stem().string();
    if (at->path().extension() == kEnding && name.starts_with(kBeginning))
      onDisk_.insert(name.substr(std::string_view(kBeginning).size()));
  }
}

fs::path MadeStore::fileOf(const std::string& key) const { return folder_ / (kBeginning + key + kEnding); }

std::shared_ptr<const DecodedMedia> MadeStore::find(const MadeKey& key) {
  const std::lock_guard lock(mutex_);
  if (const auto found = entries_.find(key.text); found != entries_.end()) {
    used_.splice(used_.begin(), used_, found->second.use);
    return found->second.sound;
  }
  if (!onDisk_.contains(key.text)) return nullptr;
  auto mapped = DecodedMedia::map(fileOf(key.text));
  if (!mapped) {
    onDisk_.erase(key.text);
    return nullptr;
  }
  touchCached(fileOf(key.text));
  hold(key.text, *mapped, 0);
  return *mapped;
}

std::shared_ptr<const DecodedMedia> MadeStore::atHand(const MadeKey& key) const {
  const std::lock_guard lock(mutex_);
  const auto found = entries_.find(key.text);
  return found == entries_.end() ? nullptr : found->second.sound;
}

std::shared_ptr<const DecodedMedia> MadeStore::keep(const MadeKey& key, int rate,
                                                    std::vector<std::vector<float>> channels) {
  const auto bytes = channels.empty() ? 0 : channels.size() * channels.front().size() * sizeof(float);
  std::shared_ptr<const DecodedMedia> sound = DecodedMedia::fromSamples(rate, std::move(channels));
  bool written = false;
  if (key.lasting && !folder_.empty() && sound->channels() <= static_cast<int>(kMostChannels) &&
      write(fileOf(key.text), *sound))
    if (auto mapped = DecodedMedia::map(fileOf(key.text), DecodedFile::Check::headOnly)) {
      sound = *mapped;
      written = true;
    }
  const std::lock_guard lock(mutex_);
  ++timesKept_;
  if (written) onDisk_.insert(key.text);
  hold(key.text, sound, written ? 0 : bytes);
  return sound;
}

Result<void> MadeStore::stillAsKept() const {
  const std::lock_guard lock(mutex_);
  for (const auto& [key, entry] : entries_)
    if (!entry.sound->asRead())
      return fail(ErrorKind::ioFailed, fileOf(key).string() +
                                           " was changed while it was in use, so nothing was written. Try again: it "
                                           "is made anew.");
  return {};
}

std::size_t MadeStore::timesKept() const {
  const std::lock_guard lock(mutex_);
  return timesKept_;
}

void MadeStore::hold(const std::string& key, std::shared_ptr<const DecodedMedia> sound, std::uint64_t bytes) {
  if (const auto old = entries_.find(key); old != entries_.end()) {
    inMemory_ -= old->second.bytes;
    used_.erase(old->second.use);
    entries_.erase(old);
  }
  used_.push_front(key);
  entries_[key] = {std::move(sound), bytes, used_.begin()};
  inMemory_ += bytes;
  for (auto oldest = used_.end(); inMemory_ > mostInMemory_ && oldest != std::next(used_.begin());) {
    --oldest;
    const auto entry = entries_.find(*oldest);
    if (entry->second.bytes == 0) continue;
    inMemory_ -= entry->second.bytes;
    entries_.erase(entry);
    oldest = used_.erase(oldest);
  }
}

}  // namespace ochron
