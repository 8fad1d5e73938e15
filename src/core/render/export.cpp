#include "render/export.h"

#include <algorithm>
#include <functional>
#include <set>

#include "render/render.h"

namespace ochron {
namespace {

constexpr std::int64_t kBlock = 8192;

/// Renders blocks with `fill(at, channels)` into a file.
Result<std::int64_t> writeBlocks(AudioFileWriter& writer, int channels, FrameRange range, Progress& progress,
                                 const std::function<void(Frames, std::vector<std::vector<float>>&)>& fill) {
  std::vector<std::vector<float>> side(static_cast<std::size_t>(channels));
  std::vector<float> interleaved;
  for (auto at = range.start; at < range.end; at += Frames{kBlock}) {
    if (progress.cancelled()) return cancelledError();
    const auto n = static_cast<std::size_t>(std::min(kBlock, (range.end - at).value));
    for (auto& s : side) s.assign(n, 0.0f);
    fill(at, side);
    interleaved.resize(n * side.size());
    for (std::size_t c = 0; c < side.size(); ++c)
      for (std::size_t i = 0; i < n; ++i) interleaved[i * side.size() + c] = side[c][i];
    if (auto ok = writer.write(interleaved); !ok) return tl::unexpected(ok.error());
    progress.report(static_cast<double>((at - range.start).value) / static_cast<double>(range.length().value));
  }
  if (auto ok = writer.finish(); !ok) return tl::unexpected(ok.error());
  return writer.clippedSamples();
}

Result<std::int64_t> exportMix(const RenderPlan& plan, const ExportSettings& s, const std::filesystem::path& target,
                               Progress& progress) {
  auto writer = AudioFileWriter::create(target, {s.format, s.samples, plan.rate, 2}, s.range.start.value, s.markers);
  if (!writer) return tl::unexpected(writer.error());
  std::vector<float> scratch(kBlock);
  return writeBlocks(*writer, 2, s.range, progress,
                     [&](Frames at, auto& side) { addMix(plan, at, side[0], side[1], scratch, {}); });
}

}  // namespace

std::string fileNameFor(const std::string& trackName) {
  std::string out;
  for (const char c : trackName)
    out += c == '/' || c == '\\' || c == '\0' || static_cast<unsigned char>(c) < 32 ? '_' : c;
  while (!out.empty() && out.front() == '.') out.erase(0, 1);
  return out.empty() ? "track" : out;
}

Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const std::filesystem::path& target, std::optional<std::int64_t> timeReference,
                                 Progress& progress) {
  auto writer = AudioFileWriter::create(target, format, timeReference);
  if (!writer) return tl::unexpected(writer.error());
  return writeBlocks(*writer, format.channels, range, progress, [&](Frames at, auto& side) {
    for (std::size_t c = 0; c < side.size(); ++c)
      addSegments(*track.channels[std::min(c, track.channels.size() - 1)], at, side[c]);
  });
}

Result<ExportReport> exportSong(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                                const std::filesystem::path& target, Progress& progress) {
  if (s.range.empty())
    return fail(ErrorKind::badInput, "There is nothing to export: the range is empty. Choose a longer range.");
  ExportReport report;
  if (s.what == ExportWhat::mix) {
    auto clipped = exportMix(plan, s, target, progress);
    if (!clipped) return tl::unexpected(clipped.error());
    report.files.push_back(target);
    report.clippedSamples = *clipped;
    return report;
  }
  std::set<std::string> used;
  const auto undo = [&] {
    std::error_code ec;
    for (const auto& f : report.files) std::filesystem::remove(f, ec);
  };
  for (const auto& track : plan.tracks) {
    const auto* t = song.find(track.track);
    auto name = fileNameFor(t ? t->name : "track");
    for (int n = 2; !used.insert(name).second; ++n) name = fileNameFor(t->name) + " " + std::to_string(n);
    const auto file = target / (name + extensionOf(s.format));
    if (progress.cancelled()) return undo(), cancelledError();
    auto clipped = exportTrack(track, {s.format, s.samples, plan.rate, static_cast<int>(track.channels.size())},
                               s.range, file, s.range.start.value, progress);
    if (!clipped) return undo(), tl::unexpected(clipped.error());
    report.files.push_back(file);
    report.clippedSamples += *clipped;
  }
  progress.report(1.0);
  return report;
}

}  // namespace ochron
