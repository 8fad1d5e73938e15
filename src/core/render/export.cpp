#include "render/export.h"

#include <algorithm>
#include <functional>
#include <set>

#include "files/file_names.h"
#include "render/render.h"
#include "render/speed_head.h"

namespace ochron {
namespace {

constexpr std::int64_t kBlock = 8192;

using Fill = std::function<void(Frames, std::span<float>, std::span<float>)>;

/// Gives a range of song block by block: as it is, or at the speeds of an envelope.
class BlockSource {
 public:
  BlockSource(FrameRange range, const Envelope& speed, const Fill& fill)
      : range_(range), speed_(speed), fill_(fill), at_(range.start) {}

  /// Frames written to both sides; 0 at the end.
  std::size_t next(std::span<float> left, std::span<float> right) {
    if (!speed_.empty())
      return head_.play(left, right, static_cast<double>(range_.length().value), [&](auto l, auto r) {
        const double now = valueAt(speed_, at_, 100) / 100;
        fill_(at_, l, r);
        at_ += Frames{std::ssize(l)};
        return now;
      });
    const auto n = static_cast<std::size_t>(std::min<std::int64_t>(std::ssize(left), (range_.end - at_).value));
    fill_(at_, left.first(n), right.first(n));
    at_ += Frames{static_cast<std::int64_t>(n)};
    return n;
  }
  double fraction() const {
    return std::min(1.0, static_cast<double>((at_ - range_.start).value) / static_cast<double>(range_.length().value));
  }

 private:
  FrameRange range_;
  const Envelope& speed_;
  const Fill& fill_;
  SpeedHead head_;
  Frames at_;
};

/// Writes what `fill` renders; channels beyond the second repeat it.
Result<std::int64_t> writeBlocks(AudioFileWriter& writer, int channels, FrameRange range, const Envelope& speed,
                                 Progress& progress, const Fill& fill) {
  BlockSource source(range, speed, fill);
  std::vector<float> left(kBlock);
  std::vector<float> right(kBlock);
  std::vector<float> interleaved;
  for (;;) {
    if (progress.cancelled()) return cancelledError();
    std::fill(left.begin(), left.end(), 0.0f);
    std::fill(right.begin(), right.end(), 0.0f);
    const auto n = source.next(left, right);
    if (n == 0) break;
    const auto wide = static_cast<std::size_t>(channels);
    interleaved.resize(n * wide);
    for (std::size_t c = 0; c < wide; ++c)
      for (std::size_t i = 0; i < n; ++i) interleaved[i * wide + c] = c == 0 ? left[i] : right[i];
    if (auto ok = writer.write(interleaved); !ok) return tl::unexpected(ok.error());
    progress.report(source.fraction());
  }
  if (auto ok = writer.finish(); !ok) return tl::unexpected(ok.error());
  return writer.clippedSamples();
}

/// The song's markers in a range, counted from its start in frames of the exported file.
std::vector<FileMarker> markersIn(const Song& song, const RenderPlan& plan, FrameRange range) {
  std::vector<FileMarker> out;
  for (const auto& m : song.markers) {
    const auto at = song.tempo.toFrames(m.at);
    if (!range.contains(at)) continue;
    out.push_back({plan.speed->empty() ? at - range.start : playedLength(*plan.speed, range.start, at), m.name});
  }
  return out;
}

Result<std::int64_t> exportMix(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                               const std::filesystem::path& target, Outputs& outputs, Progress& progress) {
  auto writer = AudioFileWriter::create(outputs, target, {s.format, s.samples, plan.rate, 2},
                                        {s.range.start.value, markersIn(song, plan, s.range)});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<float> scratch(kBlock);
  return writeBlocks(*writer, 2, s.range, *plan.speed, progress,
                     [&](Frames at, auto left, auto right) { addMix(plan, at, left, right, scratch, {}); });
}

}  // namespace

Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const Envelope& speed, const std::filesystem::path& target,
                                 std::optional<std::int64_t> timeReference, Outputs& outputs, Progress& progress) {
  auto writer = AudioFileWriter::create(outputs, target, format, {timeReference, {}});
  if (!writer) return tl::unexpected(writer.error());
  return writeBlocks(*writer, format.channels, range, speed, progress, [&](Frames at, auto left, auto right) {
    addTrack(track, 0, at, left);
    if (format.channels > 1) addTrack(track, 1, at, right);
  });
}

Result<ExportReport> exportSong(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                                const std::filesystem::path& target, Outputs& outputs, Progress& progress) {
  if (s.range.empty())
    return fail(ErrorKind::badInput, "There is nothing to export: the range is empty. Choose a longer range.");
  ExportReport report;
  if (s.what == ExportWhat::mix) {
    auto clipped = exportMix(song, plan, s, target, outputs, progress);
    if (!clipped) return tl::unexpected(clipped.error());
    report.files.push_back(target);
    report.clippedSamples = *clipped;
    return report;
  }
  std::set<std::string> used;
  for (const auto& track : plan.tracks) {
    const auto* t = song.find(track.track);
    auto name = fileNameFor(t ? t->name : "track");
    for (int n = 2; !used.insert(name).second; ++n) name = fileNameFor(t->name) + " " + std::to_string(n);
    const auto file = target / (name + extensionOf(s.format));
    if (progress.cancelled()) return cancelledError();
    auto clipped = exportTrack(track, {s.format, s.samples, plan.rate, static_cast<int>(track.channels.size())},
                               s.range, *plan.speed, file, s.range.start.value, outputs, progress);
    if (!clipped) return tl::unexpected(clipped.error());
    report.files.push_back(file);
    report.clippedSamples += *clipped;
  }
  progress.report(1.0);
  return report;
}

}  // namespace ochron
