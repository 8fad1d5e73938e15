#include "render/export.h"

#include <algorithm>
#include <functional>
#include <set>

#include "files/file_names.h"
#include "render/chain.h"
#include "render/render.h"
#include "render/speed_head.h"

namespace ochron {
namespace {

constexpr std::int64_t kBlock = 8192;

using Fill = std::function<void(Frames, std::span<float>, std::span<float>)>;

/// A range of song as a chain reads it.
class RangeStream : public SongStream {
 public:
  RangeStream(Frames start, const Envelope& speed, const Fill& fill) : speed_(speed), fill_(fill), at_(start) {}
  void read(std::span<float> left, std::span<float> right) noexcept override {
    fill_(at_, left, right);
    at_ += Frames{std::ssize(left)};
  }
  double speed() const noexcept override { return speed_.empty() ? 0 : valueAt(speed_, at_, 100) / 100; }

 private:
  const Envelope& speed_;
  const Fill& fill_;
  Frames at_;
};

/// Writes what `fill` renders; channels beyond the second repeat it.
Result<std::int64_t> writeBlocks(AudioFileWriter& writer, int rate, int channels, FrameRange range,
                                 const Envelope& speed, Progress& progress, const Fill& fill) {
  RangeStream song(range.start, speed, fill);
  Chain chain(rate);
  const auto length = speed.empty() ? range.length() : playedLength(speed, range.start, range.end);
  const auto wide = static_cast<std::size_t>(channels);
  std::vector<float> interleaved;
  for (Frames done = -chain.latency(); done < length;) {
    if (progress.cancelled()) return cancelledError();
    const auto n = static_cast<std::size_t>(std::min(kBlock, done.value < 0 ? -done.value : (length - done).value));
    std::vector<float> left(n, 0.0F);
    std::vector<float> right(n, 0.0F);
    chain.process(left, right, song);
    const bool heard = done.value >= 0;
    done += Frames{static_cast<std::int64_t>(n)};
    if (!heard) continue;
    interleaved.resize(n * wide);
    for (std::size_t c = 0; c < wide; ++c)
      for (std::size_t i = 0; i < n; ++i) interleaved[i * wide + c] = c == 0 ? left[i] : right[i];
    if (auto ok = writer.write(interleaved); !ok) return tl::unexpected(ok.error());
    progress.report(static_cast<double>(done.value) / static_cast<double>(length.value));
  }
  if (auto ok = writer.finish(); !ok) return tl::unexpected(ok.error());
  return writer.clippedSamples();
}

std::optional<double> oneTempo(const Song& song, const RenderPlan& plan) {
  const bool one = song.tempo.tempos().size() == 1 && plan.speed->empty();
  return one ? std::optional(song.tempo.bpmAt(Ticks{})) : std::nullopt;
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
                                        {s.range.start.value, markersIn(song, plan, s.range), oneTempo(song, plan)});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<float> scratch(kBlock);
  return writeBlocks(*writer, plan.rate, 2, s.range, *plan.speed, progress,
                     [&](Frames at, auto left, auto right) { addMix(plan, at, left, right, scratch, {}); });
}

}  // namespace

Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const Envelope& speed, const std::filesystem::path& target, const WriteNotes& notes,
                                 Outputs& outputs, Progress& progress) {
  auto writer = AudioFileWriter::create(outputs, target, format, notes);
  if (!writer) return tl::unexpected(writer.error());
  return writeBlocks(*writer, format.rate, format.channels, range, speed, progress,
                     [&](Frames at, auto left, auto right) {
                       addTrack(track, 0, at, left);
                       if (format.channels > 1) addTrack(track, 1, at, right);
                     });
}

Result<ExportReport> exportSong(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                                const std::filesystem::path& target, Outputs& outputs, Progress& progress) {
  if (s.range.empty())
    return fail(ErrorKind::badInput, "There is nothing to export: the range is empty. Choose a longer range.");
  if (plan.preview)
    return fail(ErrorKind::refused, "Some of the song's stretched sound is not made yet. Export again when it is.");
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
    auto clipped =
        exportTrack(track, {s.format, s.samples, plan.rate, static_cast<int>(track.channels.size())}, s.range,
                    *plan.speed, file, {s.range.start.value, {}, oneTempo(song, plan)}, outputs, progress);
    if (!clipped) return tl::unexpected(clipped.error());
    report.files.push_back(file);
    report.clippedSamples += *clipped;
  }
  progress.report(1.0);
  return report;
}

}  // namespace ochron
