#include "render/print_sound.h"

#include <algorithm>
#include <cmath>
#include <set>

#include "files/file_names.h"
#include "media/audio_file.h"
#include "render/racks.h"
#include "render/render.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr std::int64_t kPrintBlock = 8192;

float gainOf(double db) { return db == 0 ? 1.0F : static_cast<float>(std::pow(10.0, db / 20)); }

Result<AudioFileWriter> writerFor(const PrintTarget& t, int rate, int channels, Outputs& outputs) {
  WriteFormat format{FileFormat::wav, formatOf(t.level.samples), rate, channels, t.row.range.length()};
  format.dither = t.level.samples != PrintSamples::float32;
  return AudioFileWriter::create(outputs, t.file, format);
}

/// The channels of what a trim keeps.
Result<std::vector<Samples>> keptOf(const PrintRow& t, const MediaPool& recordings) {
  const auto found = recordings.find(t.media);
  if (found == recordings.end())
    return fail(ErrorKind::notFound, "A recording that is to be trimmed is not at hand. Look at the recordings first.");
  const auto& media = *found->second;
  std::vector<Samples> channels;
  channels.reserve(static_cast<std::size_t>(media.channels()));
  for (int c = 0; c < media.channels(); ++c)
    channels.push_back(media.channel(c).subspan(static_cast<std::size_t>(t.range.start.value),
                                                static_cast<std::size_t>(t.range.length().value)));
  return channels;
}

Result<void> writeTrim(const PrintTarget& t, const RenderPlan& plan, const MediaPool& recordings, Outputs& outputs) {
  const auto channels = keptOf(t.row, recordings);
  if (!channels) return tl::unexpected(channels.error());
  auto writer = writerFor(t, plan.rate, static_cast<int>(channels->size()), outputs);
  if (!writer) return tl::unexpected(writer.error());
  if (auto ok = writer->writeChannels(*channels); !ok) return ok;
  return writer->finish();
}

/// The plan with one track alone, at its own gain and pan, and nothing of the song's.
RenderPlan onlyTrack(const RenderPlan& plan, std::size_t track) {
  RenderPlan out;
  if (plan.racked[track]) {
    // Other tracks of its set steer its effects; what the mix goes through stays out.
    out = plan;
    for (auto& t : out.tracks) t.audible = false;
    auto racks = std::make_shared<Racks>(*plan.racks);
    racks->mix.clear();
    racks->latency = racks->trackLatency;
    useRacks(out, racks);
    out.tracks[track].audible = true;
    out.gain = {};
    return out;
  }
  out.rate = plan.rate;
  out.end = plan.end;
  out.tracks = {plan.tracks[track]};
  out.tracks.front().audible = true;
  return out;
}

/// What is heard of a track in a stretch of song, block after block, channel by channel, to `take(first frame of the
/// block, channels)`.
template <class Take>
Result<void> readRun(const PrintRow& t, const RenderPlan& plan, Progress& progress, Take&& take) {
  const auto found =
      std::find_if(plan.tracks.begin(), plan.tracks.end(), [&](const TrackPlan& p) { return p.track == t.track; });
  if (found == plan.tracks.end()) return fail(ErrorKind::notFound, "A track that is to be printed is gone.");
  const auto wide = static_cast<std::size_t>(t.channels);
  const auto alone = onlyTrack(plan, static_cast<std::size_t>(found - plan.tracks.begin()));
  std::vector<std::vector<float>> sides(2, std::vector<float>(kPrintBlock));
  PlayedThrough played(alone);
  for (auto at = t.range.start; at < t.range.end; at += Frames{kPrintBlock}) {
    if (progress.cancelled()) return cancelledError();
    const auto n = static_cast<std::size_t>(std::min(kPrintBlock, (t.range.end - at).value));
    for (auto& side : sides) std::fill(side.begin(), side.end(), 0.0F);
    const auto part = [&](std::size_t side) { return std::span(sides[side]).first(n); };
    if (t.depth == PrintDepth::track)
      played.addMix(at, part(0), part(1));
    else
      for (std::size_t c = 0; c < wide; ++c)
        addSegments(*found->channels[std::min(c, found->channels.size() - 1)], at, part(c));
    std::vector<Samples> channels;
    for (std::size_t c = 0; c < wide; ++c) channels.emplace_back(part(c));
    if (auto ok = take(at - t.range.start, channels); !ok) return ok;
    progress.report(static_cast<double>((at - t.range.start).value) / static_cast<double>(t.range.length().value));
  }
  return {};
}

Result<void> writeRun(const PrintTarget& t, const RenderPlan& plan, Outputs& outputs, Progress& progress) {
  auto writer = writerFor(t, plan.rate, t.row.channels, outputs);
  if (!writer) return tl::unexpected(writer.error());
  const float gain = gainOf(t.level.gainDb);
  std::vector<std::vector<float>> room(static_cast<std::size_t>(t.row.channels));
  auto ok = readRun(t.row, plan, progress, [&](Frames, const std::vector<Samples>& channels) {
    if (gain == 1) return writer->writeChannels(channels);
    std::vector<Samples> louder;
    for (std::size_t c = 0; c < channels.size(); ++c) {
      room[c].resize(channels[c].size());
      for (std::size_t i = 0; i < room[c].size(); ++i) room[c][i] = channels[c][i] * gain;
      louder.emplace_back(room[c]);
    }
    return writer->writeChannels(louder);
  });
  return ok ? writer->finish() : ok;
}

float peakOf(const std::vector<Samples>& channels) {
  float peak = 0;
  for (const auto& x : channels)
    for (std::size_t i = 0; i < x.size(); ++i) peak = std::max(peak, std::abs(x[i]));
  return peak;
}

Result<float> peakOf(const PrintRow& row, const RenderPlan& plan, const MediaPool& recordings, Progress& progress) {
  if (row.depth == PrintDepth::trim) {
    const auto kept = keptOf(row, recordings);
    if (!kept) return tl::unexpected(kept.error());
    return peakOf(*kept);
  }
  float peak = 0;
  auto ok = readRun(row, plan, progress, [&](Frames, const std::vector<Samples>& channels) -> Result<void> {
    peak = std::max(peak, peakOf(channels));
    return {};
  });
  if (!ok) return tl::unexpected(ok.error());
  return peak;
}

constexpr const char* kNotMade = "Some of the song's sound is not made yet. Print again when it is.";

}  // namespace

SampleFormat formatOf(PrintSamples samples) {
  switch (samples) {
    case PrintSamples::float32: return SampleFormat::float32;
    case PrintSamples::pcm24: return SampleFormat::pcm24;
    case PrintSamples::pcm16: return SampleFormat::pcm16;
  }
  return SampleFormat::float32;
}

int bytesOf(SampleFormat samples) {
  switch (samples) {
    case SampleFormat::pcm16: return 2;
    case SampleFormat::pcm24: return 3;
    case SampleFormat::pcm32:
    case SampleFormat::float32:
    case SampleFormat::compressed: break;
  }
  return 4;
}

Result<std::vector<PrintLevel>> printLevels(const std::vector<PrintRow>& rows, const RenderPlan& plan,
                                            const MediaPool& recordings, Progress& progress) {
  std::vector<PrintLevel> out(rows.size());
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const auto& manner = rows[i].manner;
    out[i].samples = manner.samples;
    if (manner.asHeard()) continue;
    if (plan.preview) return fail(ErrorKind::refused, kNotMade);
    progress.beginPart(i, rows.size());
    if (progress.cancelled()) return cancelledError();
    const auto peak = peakOf(rows[i], plan, recordings, progress);
    if (!peak) return tl::unexpected(peak.error());
    out[i].peak = *peak;
  }
  for (std::size_t i = 0; i < rows.size();) {
    auto end = i;
    float peak = 0;
    for (; end < rows.size() && rows[end].set == rows[i].set && rows[end].range == rows[i].range; ++end)
      peak = std::max(peak, out[end].peak);
    for (; i < end; ++i) {
      auto& l = out[i];
      // The printed clip's gain takes it back, so it goes no further than that can.
      if (const auto& asked = rows[i].manner.peakDb; asked && peak > 0)
        l.gainDb = -kGainRange.clamp(20 * std::log10(peak) - *asked);
      if (l.samples != PrintSamples::float32 && l.peak * gainOf(l.gainDb) > 1) l.samples = PrintSamples::float32;
    }
  }
  return out;
}

std::vector<PrintTarget> printTargets(const std::vector<PrintRow>& rows, const std::vector<PrintLevel>& levels,
                                      const fs::path& folder) {
  std::vector<PrintTarget> out;
  std::set<fs::path> taken;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    out.push_back({rows[i], freeFile(folder, fileNameFor(rows[i].name + " print"), ".wav", taken), levels[i]});
    taken.insert(out.back().file);
  }
  return out;
}

Result<void> writePrints(const std::vector<PrintTarget>& targets, const RenderPlan& plan, const MediaPool& recordings,
                         Outputs& outputs, Progress& progress) {
  if (plan.preview) return fail(ErrorKind::refused, kNotMade);
  for (std::size_t i = 0; i < targets.size(); ++i) {
    progress.beginPart(i, targets.size());
    if (progress.cancelled()) return cancelledError();
    const auto& t = targets[i];
    if (auto ok = t.row.depth == PrintDepth::trim ? writeTrim(t, plan, recordings, outputs)
                                                  : writeRun(t, plan, outputs, progress);
        !ok)
      return ok;
  }
  return plan.racks ? allAnswered(*plan.racks) : Result<void>{};
}

Result<PrintDifference> differenceFrom(const std::vector<PrintedRow>& prints, const RenderPlan& plan,
                                       const MediaPool& recordings, Progress& progress) {
  if (plan.preview)
    return fail(ErrorKind::refused, "Some of the song's sound is not made yet. Compare again when it is.");
  PrintDifference out;
  for (std::size_t i = 0; i < prints.size(); ++i) {
    progress.beginPart(i, prints.size());
    const auto& row = prints[i].row;
    const auto found = recordings.find(prints[i].media);
    if (found == recordings.end()) return fail(ErrorKind::notFound, "A printed recording is not at hand.");
    const auto& printed = *found->second;
    const float quieter = gainOf(-prints[i].levelDb);
    auto ok = readRun(row, plan, progress, [&](Frames from, const std::vector<Samples>& channels) -> Result<void> {
      for (std::size_t c = 0; c < channels.size(); ++c) {
        const auto known = printed.channel(std::min(static_cast<int>(c), printed.channels() - 1));
        for (std::size_t k = 0; k < channels[c].size(); ++k) {
          const auto at = static_cast<std::size_t>(from.value) + k;
          const float was = at < known.size() ? known[at] * quieter : 0.0F;
          const float off = std::abs(channels[c][k] - was);
          if (off <= out.peak) continue;
          out.peak = off;
          out.at = row.range.start + Frames{static_cast<std::int64_t>(at)};
        }
      }
      return {};
    });
    if (!ok) return tl::unexpected(ok.error());
  }
  return out;
}

}  // namespace ochron
