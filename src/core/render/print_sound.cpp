#include "render/print_sound.h"

#include <algorithm>

#include "media/audio_file.h"
#include "render/render.h"

namespace ochron {
namespace {

constexpr std::int64_t kPrintBlock = 8192;

Result<void> writeTrim(const PrintTarget& t, const MediaPool& recordings, Outputs& outputs) {
  const auto found = recordings.find(t.media);
  if (found == recordings.end())
    return fail(ErrorKind::notFound, "A recording that is to be trimmed is not at hand. Look at the recordings first.");
  const auto& media = *found->second;
  auto writer = AudioFileWriter::create(
      outputs, t.file, {FileFormat::wav, SampleFormat::float32, media.rate(), media.channels(), t.range.length()});
  if (!writer) return tl::unexpected(writer.error());
  const auto wide = static_cast<std::size_t>(media.channels());
  std::vector<float> side(kPrintBlock);
  std::vector<float> both(kPrintBlock * wide);
  for (auto at = t.range.start.value; at < t.range.end.value; at += kPrintBlock) {
    const auto n = static_cast<std::size_t>(std::min(kPrintBlock, t.range.end.value - at));
    for (std::size_t c = 0; c < wide; ++c) {
      media.channel(static_cast<int>(c)).subspan(static_cast<std::size_t>(at), n).read(std::span(side).first(n));
      for (std::size_t i = 0; i < n; ++i) both[i * wide + c] = side[i];
    }
    if (auto ok = writer->write(std::span(both).first(n * wide)); !ok) return ok;
  }
  return writer->finish();
}

/// The plan with one track alone, at its own gain and pan, and nothing of the song's.
RenderPlan onlyTrack(const RenderPlan& plan, std::size_t track) {
  RenderPlan out;
  out.rate = plan.rate;
  out.end = plan.end;
  out.tracks = {plan.tracks[track]};
  out.tracks.front().audible = true;
  return out;
}

Result<void> writeRun(const PrintTarget& t, const RenderPlan& plan, Outputs& outputs, Progress& progress) {
  const auto found =
      std::find_if(plan.tracks.begin(), plan.tracks.end(), [&](const TrackPlan& p) { return p.track == t.track; });
  if (found == plan.tracks.end()) return fail(ErrorKind::notFound, "A track that is to be printed is gone.");
  const auto wide = static_cast<std::size_t>(t.channels);
  auto writer = AudioFileWriter::create(
      outputs, t.file, {FileFormat::wav, SampleFormat::float32, plan.rate, t.channels, t.range.length()});
  if (!writer) return tl::unexpected(writer.error());
  const auto alone = onlyTrack(plan, static_cast<std::size_t>(found - plan.tracks.begin()));
  std::vector<std::vector<float>> sides(2, std::vector<float>(kPrintBlock));
  std::vector<float> scratch(kPrintBlock);
  std::vector<float> both(kPrintBlock * wide);
  for (auto at = t.range.start; at < t.range.end; at += Frames{kPrintBlock}) {
    if (progress.cancelled()) return cancelledError();
    const auto n = static_cast<std::size_t>(std::min(kPrintBlock, (t.range.end - at).value));
    for (auto& side : sides) std::fill(side.begin(), side.end(), 0.0F);
    const auto part = [&](std::size_t side) { return std::span(sides[side]).first(n); };
    if (t.depth == PrintDepth::track)
      addMix(alone, at, part(0), part(1), scratch, {});
    else
      for (std::size_t c = 0; c < wide; ++c)
        addSegments(*found->channels[std::min(c, found->channels.size() - 1)], at, part(c));
    for (std::size_t c = 0; c < wide; ++c)
      for (std::size_t i = 0; i < n; ++i) both[i * wide + c] = sides[c][i];
    if (auto ok = writer->write(std::span(both).first(n * wide)); !ok) return ok;
    progress.report(static_cast<double>((at - t.range.start).value) / static_cast<double>(t.range.length().value));
  }
  return writer->finish();
}

}  // namespace

Result<void> writePrints(const std::vector<PrintTarget>& targets, const RenderPlan& plan, const MediaPool& recordings,
                         Outputs& outputs, Progress& progress) {
  if (plan.preview)
    return fail(ErrorKind::refused, "Some of the song's sound is not made yet. Print again when it is.");
  for (std::size_t i = 0; i < targets.size(); ++i) {
    progress.beginPart(i, targets.size());
    if (progress.cancelled()) return cancelledError();
    const auto& t = targets[i];
    if (auto ok =
            t.depth == PrintDepth::trim ? writeTrim(t, recordings, outputs) : writeRun(t, plan, outputs, progress);
        !ok)
      return ok;
  }
  return {};
}

}  // namespace ochron
