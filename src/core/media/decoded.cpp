#include "media/decoded.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "dsp/resample.h"
#include "media/cache_folder.h"

namespace ochron {
namespace {

constexpr std::size_t kBlockFrames = 16'384;

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
    if (done_ >= info.length.value) return std::nullopt;
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
  m->data_ = std::move(decoded->channels);
  m->peaks_ = std::move(decoded->peaks);
  m->damage_ = std::move(decoded->header.damage);
  m->map_ = std::move(decoded->map);
  m->noteExtent_ = extentOf(notes);
  m->notes_ = std::move(notes);
  return m;
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

std::shared_ptr<const DecodedMedia> DecodedMedia::variant(const DecodedMedia& of,
                                                          std::vector<std::vector<float>> channels,
                                                          std::uint64_t digest) {
  auto made = std::const_pointer_cast<DecodedMedia>(fromSamples(of.rate_, std::move(channels), of.notes_));
  made->damage_ = of.damage_;
  made->variant_ = digest;
  return made;
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
  if (auto there = DecodedMedia::map(target, DecodedFile::Check::all, notes)) {
    if (!(*there)->damage() || settings.damaged == Damaged::accept) {
      touchCached(target);
      return there;
    }
    return fail(ErrorKind::damaged, (*there)->damage()->what);
  }
  auto reader = AudioFileReader::open(source, settings.damaged);
  if (!reader) return tl::unexpected(reader.error());
  const auto& info = reader->info();
  const auto frames =
      info.rate == settings.rate
          ? info.length.value
          : static_cast<std::int64_t>(std::llround(static_cast<double>(info.length.value) * settings.rate / info.rate));
  std::error_code ec;
  std::filesystem::create_directories(settings.cacheFolder, ec);
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
  if (auto ok = writer->finish(frames, damage); !ok) return tl::unexpected(ok.error());
  return DecodedMedia::map(target, DecodedFile::Check::headOnly, std::move(notes));
}

}  // namespace ochron
