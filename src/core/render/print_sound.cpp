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

Result<void> writeTrim(const PrintRow& t, const fs::path& file, const MediaPool& recordings, Outputs& outputs) {
  const auto found = recordings.find(t.media);
  if (found == recordings.end())
    return fail(ErrorKind::notFound, "A recording that is to be trimmed is not at hand. Look at the recordings first.");
  const auto& media = *found->second;
  auto writer = AudioFileWriter::create(
      outputs, file, {FileFormat::wav, SampleFormat::float32, media.rate(), media.channels(), t.range.length()});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<Samples> channels;
  for (int c = 0; c < media.channels(); ++c)
    channels.push_back(media.channel(c).subspan(static_cast<std::size_t>(t.range.start.value),
                                                static_cast<std::size_t>(t.range.length().value)));
  if (auto ok = writer->writeChannels(channels); !ok) return ok;
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

Result<void> writeRun(const PrintRow& t, const fs::path& file, const RenderPlan& plan, Outputs& outputs,
                      Progress& progress) {
  auto writer = AudioFileWriter::create(
      outputs, file, {FileFormat::wav, SampleFormat::float32, plan.rate, t.channels, t.range.length()});
  if (!writer) return tl::unexpected(writer.error());
  auto ok = readRun(t, plan, progress,
                    [&](Frames, const std::vector<Samples>& channels) { return writer->writeChannels(channels); });
  return ok ? writer->finish() : ok;
}

}  // namespace

std::vector<PrintTarget> printTargets(const std::vector<PrintRow>& rows, const fs::path& folder) {
  std::vector<PrintTarget> out;
  std::set<fs::path> taken;
  for (const auto& row : rows) {
    out.push_back({row, freeFile(folder, fileNameFor(row.name + " print"), ".wav", taken)});
    taken.insert(out.back().file);
  }
  return out;
}

Result<void> writePrints(const std::vector<PrintTarget>& targets, const RenderPlan& plan, const MediaPool& recordings,
                         Outputs& outputs, Progress& progress) {
  if (plan.preview)
    return fail(ErrorKind::refused, "Some of the song's sound is not made yet. Print again when it is.");
  for (std::size_t i = 0; i < targets.size(); ++i) {
    progress.beginPart(i, targets.size());
    if (progress.cancelled()) return cancelledError();
    const auto& [row, file] = targets[i];
    if (auto ok = row.depth == PrintDepth::trim ? writeTrim(row, file, recordings, outputs)
                                                : writeRun(row, file, plan, outputs, progress);
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
    auto ok = readRun(row, plan, progress, [&](Frames from, const std::vector<Samples>& channels) -> Result<void> {
      for (std::size_t c = 0; c < channels.size(); ++c) {
        const auto known = printed.channel(std::min(static_cast<int>(c), printed.channels() - 1));
        for (std::size_t k = 0; k < channels[c].size(); ++k) {
          const auto at = static_cast<std::size_t>(from.value) + k;
          const float was = at < known.size() ? known[at] : 0.0F;
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
