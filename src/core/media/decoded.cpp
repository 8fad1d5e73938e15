#include "media/decoded.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/numbers.h"
#include "dsp/resample.h"
#include "files/content_id.h"
#include "media/cache_folder.h"

namespace ochron {
namespace {

constexpr std::size_t kBlockFrames = 16'384;

tl::unexpected<Error> changedWhileRead(const std::filesystem::path& file) {
  return fail(ErrorKind::ioFailed,
              file.string() + " was changed while it was read. Try again when nothing writes to it any more.");
}

/// True for contents that are not known, too: songs of an older version.
bool isContent(std::span<const char> bytes, const std::string& content) {
  return !isContentId(content) || contentId(bytes) == content;
}

/// Looks through a recording where it lies; nothing when it was cancelled or holds samples that are not numbers.
std::optional<std::vector<PeakBuilder>> peaksOf(const std::vector<Samples>& channels, Progress& progress) {
  std::vector<PeakBuilder> peaks(channels.size());
  std::vector<float> block(kBlockFrames);
  const auto frames = channels.front().size();
  for (std::size_t at = 0; at < frames; at += kBlockFrames) {
    if (progress.cancelled()) return std::nullopt;
    const auto n = std::min(kBlockFrames, frames - at);
    for (std::size_t c = 0; c < channels.size(); ++c) {
      const auto part = channels[c].subspan(at, n).in(block);
      if (!allFinite(part)) return std::nullopt;
      peaks[c].add(part);
    }
    progress.report(static_cast<double>(at + n) / static_cast<double>(frames));
  }
  return peaks;
}

/// "3 samples from 1.250 to 1.251 s are not numbers and are silent."
std::string silencedText(const AudioFileReader::NotNumbers& bad, int rate) {
  const auto at = [&](Frames f) { return fixed(static_cast<double>(f.value) / rate, 3); };
  if (bad.count == 1) return "one sample, at " + at(bad.first) + " s, is not a number and is silent.";
  return std::to_string(bad.count) + " samples from " + at(bad.first) + " to " + at(bad.last) +
         " s are not numbers and are silent.";
}

/// Reads a whole file into a decoded copy. Gives back what is wrong when it ends before its time.
class Decoding {
 public:
  Decoding(AudioFileReader& reader, DecodedFileWriter& writer, Progress& progress)
      : reader_(reader), writer_(writer), progress_(progress) {}

  Result<void> run(int rate) {
    const auto& info = reader_.info();
    std::optional<Resampler> resampler;
    if (info.rate != rate) {
      auto made = Resampler::make(info.rate, rate, info.channels);
      if (!made) return tl::unexpected(made.error());
      resampler.emplace(std::move(*made));
    }
    std::vector<float> block(kBlockFrames * static_cast<std::size_t>(info.channels));
    std::vector<float> converted;
    for (;;) {
      if (progress_.cancelled()) return cancelledError();
      auto got = reader_.read(block);
      if (!got && got.error().kind != ErrorKind::damaged) return tl::unexpected(got.error());
      if (!got) wrong_ = got.error();
      if (!got || *got == 0) break;
      std::span<const float> fresh(block.data(), static_cast<std::size_t>(*got * info.channels));
      if (resampler) {
        converted.clear();
        resampler->push(fresh, converted);
        fresh = converted;
      }
      if (auto ok = writer_.add(fresh); !ok) return ok;
      done_ += *got;
      progress_.report(static_cast<double>(done_) / static_cast<double>(info.length.value));
    }
    if (!resampler) return {};
    converted.clear();
    resampler->finish(converted);
    return writer_.add(converted);
  }

  /// The error a strict reader fails with; none when the file held all it promised.
  std::optional<Error> wrong(const std::string& name) const {
    const auto& info = reader_.info();
    if (wrong_) return wrong_;
    if (info.damage) return Error{ErrorKind::damaged, name + ": " + *info.damage + ".", {}};
    if (done_ >= info.length.value) {
      const auto& bad = reader_.notNumbers();
      if (bad.count == 0) return std::nullopt;
      return Error{ErrorKind::damaged, name + ": " + silencedText(bad, info.rate), {}};
    }
    return Error{ErrorKind::damaged,
                 name + ": it is cut short: the header promises " + std::to_string(info.length.value) +
                     " frames, the file holds " + std::to_string(done_) + ". Copy it again from its source.",
                 {}};
  }

 private:
  AudioFileReader& reader_;
  DecodedFileWriter& writer_;
  Progress& progress_;
  std::int64_t done_ = 0;
  std::optional<Error> wrong_;
};

}  // namespace

Result<std::shared_ptr<const DecodedMedia>> DecodedMedia::map(const std::filesystem::path& file,
                                                              DecodedFile::Check check, PlayedNotes notes) {
  auto decoded = DecodedFile::open(file, check);
  if (!decoded) return tl::unexpected(decoded.error());
  std::shared_ptr<DecodedMedia> m(new DecodedMedia);
  m->rate_ = decoded->header.rate;
  m->length_ = Frames{decoded->header.frames};
  if (decoded->channels.empty())
    return fail(ErrorKind::ioFailed, file.string() + " holds peaks only. The copy will be made again.");
  m->data_.assign(decoded->channels.begin(), decoded->channels.end());
  m->peaks_ = std::move(decoded->peaks);
  m->damage_ = std::move(decoded->header.damage);
  m->map_ = std::move(decoded->map);
  m->noteExtent_ = extentOf(notes);
  m->notes_ = std::move(notes);
  return m;
}

Result<std::shared_ptr<const DecodedMedia>> DecodedMedia::whereItLies(const std::filesystem::path& recording,
                                                                      const std::string& content,
                                                                      const AudioFileInfo& info,
                                                                      const std::filesystem::path& peaks,
                                                                      Progress& progress) {
  if (!info.inPlace) return nullptr;
  auto map = MappedFile::open(recording, MappedFile::Watch::yes);
  if (!map) return nullptr;
  const auto sample = bytesOf(info.inPlace->coding);
  const auto frame = sample * static_cast<std::size_t>(info.channels);
  const auto frames = static_cast<std::size_t>(info.length.value);
  const auto bytes = (*map)->bytes();
  if (info.inPlace->at > bytes.size() || (bytes.size() - info.inPlace->at) / frame < frames) return nullptr;
  std::shared_ptr<DecodedMedia> m(new DecodedMedia);
  m->rate_ = info.rate;
  m->length_ = info.length;
  for (std::size_t c = 0; c < static_cast<std::size_t>(info.channels); ++c)
    m->data_.emplace_back(bytes.data() + info.inPlace->at + c * sample, info.inPlace->coding, frame, frames);
  const auto known = [&](DecodedFile::Check check) {
    auto there = DecodedFile::open(peaks, check);
    const auto& h = there ? there->header : DecodedHeader{};
    if (!there || h.rate != info.rate || h.channels != info.channels || h.frames != info.length.value) return false;
    m->peaks_ = std::move(there->peaks);
    m->map_ = std::move(there->map);
    return true;
  };
  if (!known(DecodedFile::Check::all)) {
    auto made = peaksOf(m->data_, progress);
    if (progress.cancelled()) return cancelledError();
    if (!made) return nullptr;
    if (!isContent((*map)->bytes(), content)) return changedWhileRead(recording);
    if (auto ok = DecodedFileWriter::writePeaks(peaks, info.rate, info.length.value, std::move(*made)); !ok)
      return tl::unexpected(ok.error());
    if (!known(DecodedFile::Check::headOnly))
      return fail(ErrorKind::ioFailed, peaks.string() + " cannot be read again. Check the disk and try again.");
  }
  m->recording_ = std::move(*map);
  m->content_ = content;
  if (m->recording_->writtenTo()) return changedWhileRead(recording);
  return m;
}

bool DecodedMedia::broken() const {
  return (map_ && map_->broken()) || (recording_ && (recording_->broken() || recording_->writtenTo())) ||
         (base_ && base_->broken());
}

bool DecodedMedia::touched() const {
  return broken() || (recording_ && recording_->touched()) || (base_ && base_->touched());
}

bool DecodedMedia::asRead() const {
  if (broken() || (base_ && !base_->asRead())) return false;
  if (recording_ && recording_->touched() && !isContent(recording_->bytes(), content_)) return false;
  return !map_ || !map_->touched() || DecodedFile::unharmed(*map_);
}

std::shared_ptr<const DecodedMedia> DecodedMedia::fromSamples(int rate, std::vector<std::vector<float>> channels,
                                                              PlayedNotes notes) {
  std::shared_ptr<DecodedMedia> m(new DecodedMedia);
  m->rate_ = rate;
  m->owned_ = std::move(channels);
  m->noteExtent_ = extentOf(notes);
  m->notes_ = std::move(notes);
  m->length_ = Frames{static_cast<std::int64_t>(m->owned_.empty() ? 0 : m->owned_.front().size())};
  for (const auto& c : m->owned_) {
    m->data_.emplace_back(c);
    PeakBuilder builder;
    builder.add(c);
    m->ownedPeaks_.push_back(builder.finish());
  }
  for (const auto& channel : m->ownedPeaks_) m->peaks_.push_back({{channel.begin(), channel.end()}});
  return m;
}

std::shared_ptr<const DecodedMedia> DecodedMedia::variant(std::shared_ptr<const DecodedMedia> of, Patches patches,
                                                          std::uint64_t digest) {
  constexpr std::size_t kBlock = 1 << 16;
  std::shared_ptr<DecodedMedia> m(new DecodedMedia);
  m->rate_ = of->rate_;
  m->length_ = of->length_;
  m->notes_ = of->notes_;
  m->noteExtent_ = of->noteExtent_;
  m->damage_ = of->damage_;
  m->variant_ = digest;
  m->base_ = std::move(of);
  m->patches_ = std::move(patches);
  std::vector<float> block(kBlock);
  for (std::size_t c = 0; c < m->base_->data_.size(); ++c) {
    auto own =
        c < m->patches_.channels.size() ? std::move(m->patches_.channels[c]) : std::vector<PatchedSamples::Patch>();
    const auto& samples = m->data_.emplace_back(m->patched_.emplace_back(m->base_->data_[c], std::move(own)));
    PeakBuilder builder;
    for (std::size_t at = 0; at < samples.size(); at += kBlock) {
      const auto part = std::span(block).first(std::min(kBlock, samples.size() - at));
      samples.subspan(at, part.size()).read(part);
      builder.add(part);
    }
    m->ownedPeaks_.push_back(builder.finish());
  }
  m->patches_.channels.clear();
  for (const auto& channel : m->ownedPeaks_) m->peaks_.push_back({{channel.begin(), channel.end()}});
  return m;
}

Result<std::shared_ptr<const DecodedMedia>> decodeMedia(const std::filesystem::path& source, const std::string& content,
                                                        const DecodeSettings& settings, Progress& progress) {
  const auto name = source.filename().string();
  const auto target = settings.cacheFolder / (content + "-" + std::to_string(settings.rate) + ".decoded");
  PlayedNotes notes;
  if (isMidiFile(source)) {
    auto played = readPlayedNotes(source, settings.rate);
    if (!played) return tl::unexpected(played.error());
    notes = std::move(*played);
  }
  std::error_code ec;
  std::filesystem::create_directories(settings.cacheFolder, ec);
  auto reader = AudioFileReader::open(source, settings.damaged);
  if (reader && reader->info().inPlace && reader->info().rate == settings.rate) {
    const auto peaks = settings.cacheFolder / (content + "-peaks.decoded");
    auto there = DecodedMedia::whereItLies(source, content, reader->info(), peaks, progress);
    if (!there || *there) {
      touchCached(peaks);
      return there;
    }
  }
  if (auto there = DecodedMedia::map(target, DecodedFile::Check::all, notes)) {
    if (!(*there)->damage() || settings.damaged == Damaged::accept) {
      touchCached(target);
      return there;
    }
    return fail(ErrorKind::damaged, (*there)->damage()->what);
  }
  if (!reader) return tl::unexpected(reader.error());
  const auto& info = reader->info();
  const auto frames =
      info.rate == settings.rate
          ? info.length.value
          : static_cast<std::int64_t>(std::llround(static_cast<double>(info.length.value) * settings.rate / info.rate));
  auto writer = DecodedFileWriter::create(target, settings.rate, info.channels, frames);
  if (!writer) return tl::unexpected(writer.error());
  Decoding decoding(*reader, *writer, progress);
  if (auto ok = decoding.run(settings.rate); !ok) return tl::unexpected(ok.error());
  std::optional<Damage> damage;
  if (auto wrong = decoding.wrong(name)) {
    if (settings.damaged == Damaged::refuse) return tl::unexpected(*wrong);
    if (writer->frames() == 0)
      return fail(ErrorKind::badInput, name + ": nothing of this file can be read. Copy it again from its source.");
    damage = Damage{writer->frames(), wrong->message};
  }
  // What stands under a content's name is made of that content: the file was not changed meanwhile.
  if (isContentId(content)) {
    const auto now = contentId(source, progress);
    if (!now) return tl::unexpected(now.error());
    if (*now != content) return changedWhileRead(source);
  }
  if (auto ok = writer->finish(frames, damage); !ok) return tl::unexpected(ok.error());
  return DecodedMedia::map(target, DecodedFile::Check::headOnly, std::move(notes));
}

}  // namespace ochron
