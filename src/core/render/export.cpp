#include "render/export.h"

#include <algorithm>
#include <functional>
#include <map>
#include <set>

#include "dsp/stream_stretch.h"
#include "files/file_names.h"
#include "render/chain.h"
#include "render/render.h"
#include "render/song_speed.h"

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

/// Puts both sides into a file; channels beyond the second repeat the right one.
class Interleaver {
 public:
  Interleaver(AudioFileWriter& writer, int channels) : writer_(writer), wide_(static_cast<std::size_t>(channels)) {}
  Result<void> write(std::span<const float> left, std::span<const float> right) {
    samples_.resize(left.size() * wide_);
    for (std::size_t c = 0; c < wide_; ++c)
      for (std::size_t i = 0; i < left.size(); ++i) samples_[i * wide_ + c] = c == 0 ? left[i] : right[i];
    return writer_.write(samples_);
  }

 private:
  AudioFileWriter& writer_;
  std::size_t wide_;
  std::vector<float> samples_;
};

/// Where frames of a range lie once it is played at the speeds of an envelope.
std::map<std::size_t, std::size_t> keysOf(const Envelope& speed, FrameRange range) {
  constexpr Frames kStep{4096};
  std::map<std::size_t, std::size_t> out;
  if (speed.size() < 2) return out;
  double at = 0;
  for (auto f = range.start + kStep; f < range.end; f += kStep) {
    at += static_cast<double>(playedLength(speed, f - kStep, f).value);
    out[static_cast<std::size_t>((f - range.start).value)] = static_cast<std::size_t>(at);
  }
  return out;
}

/// As writeBlocks(), at other speeds with its pitch kept, at full quality.
Result<std::int64_t> writeStretched(AudioFileWriter& writer, int rate, int channels, FrameRange range,
                                    const Envelope& speed, Progress& progress, const Fill& fill) {
  Interleaver file(writer, channels);
  Result<void> written;
  const bool whole = streamStretched(
      rate, static_cast<std::size_t>(range.length().value),
      static_cast<std::size_t>(playedLength(speed, range.start, range.end).value), keysOf(speed, range),
      [&](std::size_t from, std::span<float> left, std::span<float> right) {
        fill(range.start + Frames{static_cast<std::int64_t>(from)}, left, right);
      },
      [&](std::span<const float> left, std::span<const float> right) {
        written = file.write(left, right);
        return written.has_value();
      },
      progress);
  if (!written) return tl::unexpected(written.error());
  if (!whole) return cancelledError();
  if (auto ok = writer.finish(); !ok) return tl::unexpected(ok.error());
  return writer.clippedSamples();
}

/// Writes what `fill` renders; channels beyond the second repeat it.
Result<std::int64_t> writeBlocks(AudioFileWriter& writer, int rate, int channels, FrameRange range,
                                 const ExportSpeed& how, Progress& progress, const Fill& fill) {
  const auto& speed = how.speed;
  if (how.keepsPitch && !speed.empty()) return writeStretched(writer, rate, channels, range, speed, progress, fill);
  RangeStream song(range.start, speed, fill);
  Chain chain(rate);
  const auto length = speed.empty() ? range.length() : playedLength(speed, range.start, range.end);
  Interleaver file(writer, channels);
  for (Frames done = -chain.latency(); done < length;) {
    if (progress.cancelled()) return cancelledError();
    const auto n = static_cast<std::size_t>(std::min(kBlock, done.value < 0 ? -done.value : (length - done).value));
    std::vector<float> left(n, 0.0F);
    std::vector<float> right(n, 0.0F);
    chain.process(left, right, song);
    const bool heard = done.value >= 0;
    done += Frames{static_cast<std::int64_t>(n)};
    if (!heard) continue;
    if (auto ok = file.write(left, right); !ok) return tl::unexpected(ok.error());
    progress.report(static_cast<double>(done.value) / static_cast<double>(length.value));
  }
  if (auto ok = writer.finish(); !ok) return tl::unexpected(ok.error());
  return writer.clippedSamples();
}

std::optional<double> oneTempo(const Song& song) {
  const bool one = song.tempo.tempos().size() == 1 && exportSpeed(song).speed.empty();
  return one ? std::optional(song.tempo.bpmAt(Ticks{})) : std::nullopt;
}

/// The song's markers in a range, counted from its start in frames of the exported file.
std::vector<FileMarker> markersIn(const Song& song, FrameRange range) {
  std::vector<FileMarker> out;
  const auto speed = exportSpeed(song).speed;
  for (const auto& m : song.markers) {
    const auto at = song.tempo.toFrames(m.at);
    if (!range.contains(at)) continue;
    out.push_back({speed.empty() ? at - range.start : playedLength(speed, range.start, at), m.name});
  }
  return out;
}

Result<std::int64_t> exportMix(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                               const std::filesystem::path& target, Outputs& outputs, Progress& progress) {
  auto writer = AudioFileWriter::create(outputs, target, {s.format, s.samples, plan.rate, 2},
                                        {s.range.start.value, markersIn(song, s.range), oneTempo(song)});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<float> scratch(kBlock);
  return writeBlocks(*writer, plan.rate, 2, s.range, exportSpeed(song), progress,
                     [&](Frames at, auto left, auto right) { addMix(plan, at, left, right, scratch, {}); });
}

}  // namespace

ExportSpeed exportSpeed(const Song& song) {
  if (!song.speedManner.exported) return {};
  return {*song.speedEnvelope, song.speedManner.keepsPitch};
}

Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const ExportSpeed& speed, const std::filesystem::path& target, const WriteNotes& notes,
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
                    exportSpeed(song), file, {s.range.start.value, {}, oneTempo(song)}, outputs, progress);
    if (!clipped) return tl::unexpected(clipped.error());
    report.files.push_back(file);
    report.clippedSamples += *clipped;
  }
  progress.report(1.0);
  return report;
}

}  // namespace ochron
