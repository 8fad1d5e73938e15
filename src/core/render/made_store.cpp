#include "render/made_store.h"

#include <algorithm>

#include "media/cache_folder.h"
#include "render/part_stream.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

constexpr const char* kEnding = ".decoded";  // trimmed together with decoded copies
constexpr const char* kBeginning = "made-";
constexpr std::size_t kMostChannels = 64;  // that one file can hold

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

/// On the disk, mapped; null when it cannot be there, and when `make` was `ended`. It need not survive a power cut, as
/// its checksums tell whether it did. What is good for now only has no name there once it is mapped.
std::shared_ptr<const DecodedMedia> MadeStore::written(const std::function<MadeKey()>& key, const SoundShape& shape,
                                                       const SoundMaker& make, bool& ended) {
  const auto asked = key();
  const auto file = fileOf(asked.lasting ? asked.text : asked.text + "-now");
  std::error_code ec;
  fs::create_directories(file.parent_path(), ec);
  auto writer = DecodedFileWriter::create(file, shape.rate, static_cast<int>(shape.channels), shape.frames.value);
  if (!writer) return nullptr;
  bool room = true;
  std::vector<float> block;
  ended = !make([&](ChannelSpans sound) {
    const auto n = sound.front().size();
    block.resize(n * sound.size());
    for (std::size_t c = 0; c < sound.size(); ++c)
      for (std::size_t i = 0; i < n; ++i) block[i * sound.size() + c] = sound[c][i];
    room = writer->add(block).has_value();
    return room;
  });
  if (!room) ended = false;
  if (!room || ended || key().lasting != asked.lasting) return nullptr;
  if (!writer->finish(shape.frames.value, {}, DecodedFileWriter::Sync::later)) return nullptr;
  auto mapped = DecodedMedia::map(file, DecodedFile::Check::headOnly);
  if (!asked.lasting) fs::remove(file, ec);
  return mapped ? *mapped : nullptr;
}

std::shared_ptr<const DecodedMedia> MadeStore::keep(const std::function<MadeKey()>& key, const SoundShape& shape,
                                                    const SoundMaker& make) {
  const auto asked = key();
  bool ended = false;
  std::uint64_t bytes = 0;
  std::shared_ptr<const DecodedMedia> sound;
  if (!folder_.empty() && shape.channels <= kMostChannels && shape.frames.value > 0)
    sound = written(key, shape, make, ended);
  if (ended) return nullptr;
  const bool lasts = sound && asked.lasting;
  if (!sound) {
    std::vector<std::vector<float>> channels(shape.channels);
    for (auto& c : channels) c.reserve(static_cast<std::size_t>(shape.frames.value));
    ended = !make([&](ChannelSpans made) {
      for (std::size_t c = 0; c < channels.size(); ++c)
        channels[c].insert(channels[c].end(), made[c].begin(), made[c].end());
      return true;
    });
    if (ended) return nullptr;
    bytes = shape.channels * static_cast<std::size_t>(shape.frames.value) * sizeof(float);
    sound = DecodedMedia::fromSamples(shape.rate, std::move(channels));
  }
  const std::lock_guard lock(mutex_);
  ++timesKept_;
  if (lasts) onDisk_.insert(asked.text);
  hold(asked.text, sound, bytes);
  return sound;
}

std::shared_ptr<const DecodedMedia> MadeStore::keep(const MadeKey& key, int rate,
                                                    std::vector<std::vector<float>> channels) {
  const SoundShape shape{rate, channels.size(), Frames{channels.empty() ? 0 : std::ssize(channels.front())}};
  if (key.lasting)
    return keep([&] { return key; }, shape,
                [&](const StreamSink& to) { return channels.empty() || passOn(channels, to); });
  auto sound = DecodedMedia::fromSamples(rate, std::move(channels));
  const std::lock_guard lock(mutex_);
  ++timesKept_;
  hold(key.text, sound, shape.channels * static_cast<std::size_t>(shape.frames.value) * sizeof(float));
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
