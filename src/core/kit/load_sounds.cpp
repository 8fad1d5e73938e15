#include "kit/load_sounds.h"

#include <algorithm>

#include "base/all_cores.h"
#include "files/content_id.h"
#include "files/file_names.h"
#include "media/audio_file.h"

namespace ochron {
namespace {

constexpr double kLongestMinutes = 10;

struct Sample {
  IncomingSound incoming;
  std::shared_ptr<const DecodedMedia> media;
  int fileRate = 48'000;
};

Result<Sample> loadSample(const std::filesystem::path& file, int rate, const std::filesystem::path& cacheFolder,
                          Progress& progress) {
  const auto reader = AudioFileReader::open(file);
  if (!reader) return tl::unexpected(reader.error());
  const auto& info = reader->info();
  if (info.length.value <= 0)
    return fail(ErrorKind::badInput, shownPath(file) + ": it holds no sound. Choose another file.");
  if (static_cast<double>(info.length.value) > kLongestMinutes * 60 * info.rate)
    return fail(ErrorKind::badInput,
                shownPath(file) + ": it is longer than ten minutes. A layer plays single sounds; cut one out of it.");
  const auto content = contentId(file, progress);
  if (!content) return tl::unexpected(content.error());
  auto media = decodeMedia(file, *content, {cacheFolder, rate}, progress);
  if (!media) return tl::unexpected(media.error());
  return Sample{
      {file.stem().string(), file.string(), *content, info.channels, info.rate, (*media)->length()}, *media, info.rate};
}

}  // namespace

Result<LoadedSounds> loadSounds(const SoundSetFile& file, int rate, const std::filesystem::path& cacheFolder,
                                Progress& progress) {
  std::vector<Result<Sample>> samples(file.files.size(), cancelledError());
  onAllCores(samples.size(), progress,
             [&](std::size_t i, Progress& part) { samples[i] = loadSample(file.files[i], rate, cacheFolder, part); });
  LoadedSounds out;
  out.set.name = file.name;
  out.set.origin = file.origin;
  for (auto& s : samples) {
    if (!s) return tl::unexpected(s.error());
    out.set.files.push_back(s->incoming);
    out.media.push_back(s->media);
  }
  for (const auto& e : file.entries) {
    const auto& sample = *samples[e.file];
    const auto at = [&](Frames f) {
      return Frames{static_cast<std::int64_t>(static_cast<double>(f.value) * rate / sample.fileRate)};
    };
    auto sound = e.sound;
    const auto end = sample.media->length();
    sound.range = {std::min(at(e.from), end - Frames{1}), e.to.value > 0 ? std::min(at(e.to), end) : end};
    if (sound.range.end <= sound.range.start) sound.range.end = end;
    out.set.sounds.push_back({e.file, std::move(sound)});
  }
  return out;
}

}  // namespace ochron
