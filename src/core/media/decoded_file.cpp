#include "media/decoded_file.h"

#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <optional>
#include <utility>

#include "files/temporary.h"

namespace ochron {
namespace {

constexpr int kMostChannels = 64;
constexpr std::size_t kHeadBytes = 4096;  // a page, so that samples begin on one
constexpr std::size_t kTextBytes = 512;
constexpr std::int64_t kSettleBytes = std::int64_t{4} << 20;
constexpr std::int64_t kMostFrames = std::int64_t{1} << 40;

using Magic = std::array<char, 8>;
constexpr Magic kSound{'O', 'C', 'H', 'R', 'D', 'E', 'C', '4'};
constexpr Magic kPeaksOnly{'O', 'C', 'H', 'R', 'P', 'E', 'A', '2'};

struct Head {
  Magic magic = kSound;
  std::int32_t rate = 0;
  std::int32_t channels = 0;
  std::int64_t frames = 0;
  std::int64_t goodFrames = -1;  ///< -1: all
  std::array<std::uint64_t, kMostChannels> channelHashes{};
  std::uint64_t peaksHash = 0;
  std::array<char, kTextBytes> damage{};
  std::uint64_t nameHash = 0;  ///< of its file name, which says what it was made of: another file's is refused
  std::uint64_t headHash = 0;  ///< of all before it
};
static_assert(sizeof(Head) <= kHeadBytes);
static_assert(offsetof(Head, headHash) + sizeof(std::uint64_t) == sizeof(Head));

std::uint64_t hashOfHead(const Head& h) { return hashOf(&h, offsetof(Head, headHash)); }

std::uint64_t hashOfName(const std::filesystem::path& file) {
  const auto name = file.filename().string();
  return hashOf(name.data(), name.size());
}

/// The head of a copy that is all there, with its checks but those of samples and peaks; none on anything else.
std::optional<Head> headOf(std::span<const char> bytes, const std::filesystem::path& file);

std::size_t peakBytes(std::int64_t frames) {
  std::size_t n = 0;
  for (int level = 0; level < kPeakLevels; ++level) n += peakCount(frames, level) * sizeof(Peak);
  return n;
}

std::int64_t channelAt(std::int64_t frames, std::size_t channel) {
  return static_cast<std::int64_t>(kHeadBytes) +
         static_cast<std::int64_t>(channel) * frames * static_cast<std::int64_t>(sizeof(float));
}

std::vector<PeakPyramid> pyramidsAt(const char* at, std::int64_t frames, int channels) {
  std::vector<PeakPyramid> all(static_cast<std::size_t>(channels));
  for (auto& p : all)
    for (int level = 0; level < kPeakLevels; ++level) {
      const auto n = peakCount(frames, level);
      p.levels.emplace_back(reinterpret_cast<const Peak*>(at), n);
      at += n * sizeof(Peak);
    }
  return all;
}

std::size_t peaksAt(const Head& head) {
  return head.magic == kSound
             ? static_cast<std::size_t>(channelAt(head.frames, static_cast<std::size_t>(head.channels)))
             : kHeadBytes;
}

std::optional<Head> headOf(std::span<const char> bytes, const std::filesystem::path& file) {
  Head head;
  if (bytes.size() < kHeadBytes) return {};
  std::memcpy(&head, bytes.data(), sizeof head);
  if ((head.magic != kSound && head.magic != kPeaksOnly) || head.headHash != hashOfHead(head) || head.channels < 1 ||
      head.channels > kMostChannels || head.frames < 1 || head.frames > kMostFrames ||
      head.nameHash != hashOfName(file))
    return {};
  if (bytes.size() != peaksAt(head) + static_cast<std::size_t>(head.channels) * peakBytes(head.frames)) return {};
  return head;
}

bool samplesUnharmed(std::span<const char> bytes, const Head& head) {
  const auto size = static_cast<std::size_t>(head.frames) * sizeof(float);
  for (std::size_t c = 0; head.magic == kSound && c < static_cast<std::size_t>(head.channels); ++c)
    if (hashOf(bytes.data() + channelAt(head.frames, c), size) != head.channelHashes[c]) return false;
  return hashOf(bytes.data() + peaksAt(head), bytes.size() - peaksAt(head)) == head.peaksHash;
}

}  // namespace

Result<DecodedFileWriter> DecodedFileWriter::create(const std::filesystem::path& target, int rate, int channels,
                                                    std::int64_t claimed) {
  DecodedFileWriter w;
  w.target_ = target;
  w.rate_ = rate;
  w.claimed_ = std::min(claimed, kMostFrames / channels);
  w.hashes_.resize(static_cast<std::size_t>(channels));
  w.peaks_.resize(static_cast<std::size_t>(channels));
  w.part_ = partBeside(target);
  w.fd_ = ::open(w.part_.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (w.fd_ < 0) return w.failed();
  return w;
}

DecodedFileWriter::DecodedFileWriter(DecodedFileWriter&& o) noexcept
    : target_(std::move(o.target_)),
      part_(std::exchange(o.part_, {})),
      fd_(std::exchange(o.fd_, -1)),
      rate_(o.rate_),
      claimed_(o.claimed_),
      done_(o.done_),
      unsettled_(o.unsettled_),
      planar_(std::move(o.planar_)),
      hashes_(std::move(o.hashes_)),
      peaks_(std::move(o.peaks_)) {}

DecodedFileWriter::~DecodedFileWriter() {
  if (fd_ >= 0) ::close(fd_);
  if (part_.empty()) return;
  ::unlink(part_.c_str());
  forgetPart(part_);
}

tl::unexpected<Error> DecodedFileWriter::failed() const {
  return fail(ErrorKind::ioFailed,
              "The decoded copy " + target_.string() + " cannot be written (" + std::strerror(errno) +
                  "). Make room on the disk and try again.",
              std::strerror(errno));
}

bool DecodedFileWriter::put(const void* bytes, std::size_t size, std::int64_t at) {
  const auto* from = static_cast<const char*>(bytes);
  while (size > 0) {
    const auto n = ::pwrite(fd_, from, size, at);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) return false;
    from += n;
    at += n;
    size -= static_cast<std::size_t>(n);
  }
  return true;
}

Result<void> DecodedFileWriter::add(std::span<const float> interleaved) {
  const auto wide = peaks_.size();
  const auto n = std::min<std::int64_t>(static_cast<std::int64_t>(interleaved.size() / wide), claimed_ - done_);
  if (n <= 0) return {};
  const auto count = static_cast<std::size_t>(n);
  planar_.resize(count);
  for (std::size_t c = 0; c < wide; ++c) {
    for (std::size_t i = 0; wide > 1 && i < count; ++i) planar_[i] = interleaved[i * wide + c];
    const auto samples = wide > 1 ? std::span<const float>(planar_) : interleaved.first(count);
    peaks_[c].add(samples);
    hashes_[c].add(samples.data(), samples.size_bytes());
    // Silence is left a hole of the file: hours of it take no room.
    const bool silent = std::all_of(samples.begin(), samples.end(), [](float x) { return x == 0 && !std::signbit(x); });
    if (!silent && !put(samples.data(), samples.size_bytes(),
                        channelAt(claimed_, c) + done_ * static_cast<std::int64_t>(sizeof(float))))
      return failed();
  }
  done_ += n;
  // What is written goes to the disk while the rest is decoded, so that the end does not wait for all of it.
  unsettled_ += n * static_cast<std::int64_t>(wide * sizeof(float));
  if (unsettled_ >= kSettleBytes) {
    ::sync_file_range(fd_, 0, 0, SYNC_FILE_RANGE_WRITE);
    unsettled_ = 0;
  }
  return {};
}

/// Moves the channels together when less came in than was claimed.
bool DecodedFileWriter::closeUp() {
  std::vector<char> block(std::size_t{1} << 20);
  const auto bytes = done_ * static_cast<std::int64_t>(sizeof(float));
  for (std::size_t c = 1; c < peaks_.size(); ++c)
    for (std::int64_t at = 0; at < bytes;) {
      const auto n =
          ::pread(fd_, block.data(), static_cast<std::size_t>(std::min<std::int64_t>(std::ssize(block), bytes - at)),
                  channelAt(claimed_, c) + at);
      if (n <= 0 || !put(block.data(), static_cast<std::size_t>(n), channelAt(done_, c) + at)) return false;
      at += n;
    }
  return ::ftruncate(fd_, channelAt(done_, peaks_.size())) == 0;
}

Result<void> DecodedFileWriter::finish(std::int64_t frames, const std::optional<Damage>& damage, Sync sync) {
  constexpr std::int64_t kSilentBlock = 65'536;
  const std::vector<float> silence(static_cast<std::size_t>(kSilentBlock) * peaks_.size(), 0.0f);
  while (!damage && done_ < std::min(frames, claimed_)) {
    const auto n = std::min(kSilentBlock, std::min(frames, claimed_) - done_);
    if (auto ok = add(std::span(silence).first(static_cast<std::size_t>(n) * peaks_.size())); !ok) return ok;
  }
  if (done_ < claimed_ && !closeUp()) return failed();
  return close(true, damage, sync);
}

Result<void> DecodedFileWriter::writePeaks(const std::filesystem::path& target, int rate, std::int64_t frames,
                                           std::vector<PeakBuilder> peaks) {
  auto w = create(target, rate, static_cast<int>(peaks.size()), frames);
  if (!w) return tl::unexpected(w.error());
  w->peaks_ = std::move(peaks);
  w->done_ = frames;
  return w->close(false, std::nullopt, Sync::later);  // made again when a power cut spoils them
}

/// Writes peaks, checksums and head, and puts the file in place.
Result<void> DecodedFileWriter::close(bool samples, const std::optional<Damage>& damage, Sync sync) {
  Head head;
  if (!samples) head.magic = kPeaksOnly;
  head.rate = rate_;
  head.channels = static_cast<std::int32_t>(peaks_.size());
  head.frames = done_;
  if (damage) {
    head.goodFrames = damage->from;
    std::strncpy(head.damage.data(), damage->what.c_str(), kTextBytes - 1);
  }
  auto at = samples ? channelAt(done_, peaks_.size()) : static_cast<std::int64_t>(kHeadBytes);
  ContentHash peaksHash;
  for (std::size_t c = 0; c < peaks_.size(); ++c) {
    head.channelHashes[c] = hashes_[c].value();
    for (const auto& level : peaks_[c].finish()) {
      const auto size = level.size() * sizeof(Peak);
      peaksHash.add(level.data(), size);
      if (!put(level.data(), size, at)) return failed();
      at += static_cast<std::int64_t>(size);
    }
  }
  head.peaksHash = peaksHash.value();
  head.nameHash = hashOfName(target_);
  head.headHash = hashOfHead(head);
  if (!put(&head, sizeof head, 0) || (sync == Sync::now && ::fdatasync(fd_) != 0)) return failed();
  if (::close(std::exchange(fd_, -1)) != 0) return failed();
  if (::rename(part_.c_str(), target_.c_str()) != 0) return failed();
  forgetPart(std::exchange(part_, {}));
  return {};
}

Result<DecodedFile> DecodedFile::open(const std::filesystem::path& file, Check check) {
  const auto refuse = [&] {
    return fail(ErrorKind::ioFailed,
                file.string() + " is not an undamaged decoded copy of this version. It will be made again.");
  };
  auto map = MappedFile::open(file);
  if (!map) return tl::unexpected(map.error());
  const auto bytes = (*map)->bytes();
  auto found = headOf(bytes, file);
  if (!found || (check == Check::all && !samplesUnharmed(bytes, *found))) return refuse();
  auto& head = *found;
  DecodedFile out;
  for (std::size_t c = 0; head.magic == kSound && c < static_cast<std::size_t>(head.channels); ++c)
    out.channels.emplace_back(reinterpret_cast<const float*>(bytes.data() + channelAt(head.frames, c)),
                              static_cast<std::size_t>(head.frames));
  out.peaks = pyramidsAt(bytes.data() + peaksAt(head), head.frames, head.channels);
  out.header = {head.rate, head.channels, head.frames, {}};
  if (head.goodFrames >= 0) {
    head.damage.back() = 0;
    out.header.damage = Damage{head.goodFrames, head.damage.data()};
  }
  out.map = std::move(*map);
  return out;
}

bool DecodedFile::unharmed(const MappedFile& map) {
  const auto head = headOf(map.bytes(), map.path());
  return head && samplesUnharmed(map.bytes(), *head);
}

}  // namespace ochron
