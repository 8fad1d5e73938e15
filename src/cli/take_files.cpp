#include "take_files.h"

#include <unistd.h>

#include <atomic>
#include <chrono>
#include <cstdio>
#include <thread>

#include "base/all_cores.h"
#include "edits/hit_edits.h"
#include "edits/take_edits.h"
#include "edits/track_edits.h"
#include "files/content_id.h"
#include "takes/detect_hits.h"
#include "takes/material.h"
#include "takes/mic_names.h"

namespace ochron::cli {

namespace fs = std::filesystem;

Result<FileFormat> formatToWrite(const fs::path& target) {
  const auto format = formatForName(target);
  if (format != FileFormat::other) return format;
  return fail(ErrorKind::badInput, target.string() +
                                       ": this format cannot be written. Give the file the ending .wav, .flac, .aiff, "
                                       ".ogg, .opus or .mp3.");
}

Result<void> atMostStereo(const std::vector<std::string>& inputs, const TakeFiles& files) {
  for (std::size_t i = 0; i < inputs.size(); ++i)
    if (files.infos[i].channels > 2)
      return fail(ErrorKind::badInput, inputs[i] + ": it has more than two channels. Split it first.");
  return {};
}

Result<WrittenFile> writtenFile(const std::vector<std::string>& inputs, std::size_t input, const std::string& out,
                                const TakeFiles& files, Frames length) {
  auto target = inputs.size() == 1 ? fs::path(out) : fs::path(out) / fs::path(inputs[input]).filename();
  const auto format = formatToWrite(target);
  if (!format) return tl::unexpected(format.error());
  const auto& info = files.infos[input];
  const auto samples = info.samples == SampleFormat::compressed ? SampleFormat::pcm24 : info.samples;
  return WrittenFile{std::move(target), {*format, samples, files.song.rate, info.channels, length}};
}

Result<void> writeSounds(const std::vector<std::string>& inputs, const std::string& out, const TakeFiles& files,
                         const Sounds& sounds, Outputs& outputs) {
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    const auto file = writtenFile(inputs, i, out, files, Frames{std::ssize(sounds[i].front())});
    if (!file) return tl::unexpected(file.error());
    auto writer = AudioFileWriter::create(outputs, file->target, file->format, {});
    if (!writer) return tl::unexpected(writer.error());
    if (auto ok = writer->writeChannels(std::vector<Samples>(sounds[i].begin(), sounds[i].end())); !ok) return ok;
    if (auto ok = writer->finish(); !ok) return ok;
  }
  if (auto ok = stillAsRead(files.pool); !ok) return ok;
  return outputs.commit();
}

void withProgress(const char* what, Progress& progress, const std::function<void()>& work) {
  if (!::isatty(STDERR_FILENO)) return work();
  std::atomic<bool> done{false};
  std::thread shower([&] {
    while (!done) {
      std::fprintf(stderr, "\r%s %3.0f %%", what, 100 * progress.fraction());
      std::fflush(stderr);
      std::this_thread::sleep_for(std::chrono::milliseconds(100));
    }
    std::fprintf(stderr, "\r%*s\r", 60, "");
  });
  work();
  done = true;
  shower.join();
}

Result<TakeFiles> loadTake(const std::vector<std::string>& files, const std::vector<int>& guides, Damaged damaged,
                           const std::filesystem::path& scratch) {
  TakeFiles t;
  for (const auto& file : files) {
    auto reader = AudioFileReader::open(file, damaged);
    if (!reader) return tl::unexpected(reader.error());
    t.infos.push_back(reader->info());
    if (t.infos.back().rate != t.infos.front().rate)
      return fail(ErrorKind::badInput, file + ": its sample rate is " + std::to_string(t.infos.back().rate) +
                                           " Hz, the first file's " + std::to_string(t.infos.front().rate) +
                                           " Hz. Convert them to one rate first.");
  }
  std::vector<Result<std::shared_ptr<const DecodedMedia>>> decoded(files.size(), cancelledError());
  Progress progress;
  withProgress("reading", progress, [&] {
    onAllCores(files.size(), progress, [&](std::size_t i, Progress& part) {
      const auto content = contentId(files[i], part);
      decoded[i] = content ? decodeMedia(files[i], *content, {scratch, t.infos.front().rate, damaged}, part)
                           : tl::unexpected(content.error());
    });
  });
  std::vector<IncomingFile> incoming;
  std::vector<int> all;
  for (std::size_t i = 0; i < files.size(); ++i) {
    if (!decoded[i]) return tl::unexpected(decoded[i].error());
    const auto& info = t.infos[i];
    const auto name = std::filesystem::path(files[i]).stem().string();
    incoming.push_back({name, files[i], {}, info.channels, info.rate, (*decoded[i])->length(), {}, guessRole(name)});
    all.push_back(static_cast<int>(i));
  }
  for (const int g : guides)
    if (g < 0 || g >= std::ssize(files))
      return fail(ErrorKind::badInput, "--guides names input " + std::to_string(g) + ", but the inputs go from 0 to " +
                                           std::to_string(files.size() - 1) + ".");
  t.song.rate = t.infos.front().rate;
  if (auto map = TempoMap::steady(t.song.rate, 120))
    t.song.tempo = *map;
  else
    return tl::unexpected(map.error());
  ImportSettings settings;
  settings.takeName = "take";
  settings.sets = {all};
  auto song = importTake(t.song, incoming, settings);
  if (!song) return tl::unexpected(song.error());
  t.song = *song;
  t.take = t.song.takes.front().id;
  t.set = t.song.sets.front().id;
  for (std::size_t i = 0; i < decoded.size(); ++i) t.pool[t.song.takes.front().mics[i].media] = *decoded[i];
  std::vector<TrackId> guideTracks;
  for (const int i : guides.empty() ? all : guides)
    guideTracks.push_back(t.song.tracks[static_cast<std::size_t>(i)].id);
  auto guided = setGuides(t.song, t.set, guideTracks);
  if (!guided) return tl::unexpected(guided.error());
  t.song = *guided;
  return t;
}

Result<void> findHits(TakeFiles& files, const HitSettings& settings) {
  Progress progress;
  Result<HitList> hits = cancelledError();
  withProgress("finding hits", progress,
               [&] { hits = detectHits(files.song, files.take, files.set, files.pool, progress); });
  if (!hits) return tl::unexpected(hits.error());
  auto song = setDetectedHits(files.song, files.take, files.set, *hits,
                              struckShare(files.song, files.set, files.take, *hits, files.pool));
  if (song) song = setHitSettings(*song, files.set, settings);
  if (!song) return tl::unexpected(song.error());
  files.song = *song;
  return {};
}

}  // namespace ochron::cli
