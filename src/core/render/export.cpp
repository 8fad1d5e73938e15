#include "render/export.h"

#include <algorithm>
#include <array>
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

std::vector<Samples> samplesOf(ChannelSpans channels) { return {channels.begin(), channels.end()}; }

/// A file under way and the sound that goes into it.
struct Stem {
  AudioFileWriter writer;
  std::size_t channels;
  std::function<void(Frames at, ChannelSpans channels)> add;
};

/// At other speeds with their pitch kept, at full quality and in step with each other.
Result<void> writeStretched(std::vector<Stem>& stems, int rate, FrameRange range, const Envelope& speed,
                            Progress& progress) {
  std::size_t channels = 0;
  for (const auto& s : stems) channels += s.channels;
  Result<void> written;
  const auto each = [&](ChannelSpans all, auto&& visit) {
    std::size_t first = 0;
    for (auto& s : stems) {
      visit(s, all.subspan(first, s.channels));
      first += s.channels;
    }
  };
  PlayedTime played(speed, range.start);
  auto keys = speed.size() < 2 ? std::map<std::size_t, std::size_t>{} : played.keys(range.length());
  const bool whole = streamStretched(
      rate, channels,
      {static_cast<std::size_t>(range.length().value), static_cast<std::size_t>(played.of(range.end).value),
       std::move(keys)},
      [&](std::size_t from, ChannelSpans all) {
        each(all,
             [&](Stem& s, ChannelSpans own) { s.add(range.start + Frames{static_cast<std::int64_t>(from)}, own); });
      },
      [&](ChannelSpans all) {
        each(all, [&](Stem& s, ChannelSpans own) {
          if (written) written = s.writer.writeChannels(samplesOf(own));
        });
        return written.has_value();
      },
      progress);
  if (!written) return written;
  if (!whole) return cancelledError();
  return {};
}

/// As recorded, or as a tape at other speeds.
Result<void> writeThrough(Stem& stem, int rate, FrameRange range, const Envelope& speed, Progress& progress) {
  const Fill fill = [&](Frames at, std::span<float> left, std::span<float> right) {
    const std::array both{left, right};
    stem.add(at, std::span(both).first(std::min<std::size_t>(stem.channels, 2)));
  };
  RangeStream song(range.start, speed, fill);
  Chain chain(rate);
  const auto length = PlayedTime(speed, range.start).of(range.end);
  for (Frames done = -chain.latency(); done < length;) {
    if (progress.cancelled()) return cancelledError();
    const auto n = static_cast<std::size_t>(std::min(kBlock, done.value < 0 ? -done.value : (length - done).value));
    std::vector<float> left(n, 0.0F);
    std::vector<float> right(n, 0.0F);
    chain.process(left, right, song);
    const bool heard = done.value >= 0;
    done += Frames{static_cast<std::int64_t>(n)};
    if (!heard) continue;
    std::vector<std::span<float>> all(stem.channels, right);  // channels beyond the second repeat it
    all[0] = left;
    if (auto ok = stem.writer.writeChannels(samplesOf(all)); !ok) return ok;
    progress.report(static_cast<double>(done.value) / static_cast<double>(length.value));
  }
  return {};
}

/// Writes all of them and ends their files; samples that were beyond full scale.
Result<std::int64_t> writeStems(std::vector<Stem>& stems, int rate, FrameRange range, const ExportSpeed& how,
                                Progress& progress) {
  if (how.keepsPitch && !how.speed.empty()) {
    if (auto ok = writeStretched(stems, rate, range, how.speed, progress); !ok) return tl::unexpected(ok.error());
  } else {
    for (auto& s : stems)
      if (auto ok = writeThrough(s, rate, range, how.speed, progress); !ok) return tl::unexpected(ok.error());
  }
  std::int64_t clipped = 0;
  for (auto& s : stems) {
    if (auto ok = s.writer.finish(); !ok) return tl::unexpected(ok.error());
    clipped += s.writer.clippedSamples();
  }
  return clipped;
}

}  // namespace

ExportSpeed exportSpeed(const Song& song) {
  if (!song.speedManner.exported) return {};
  return {*song.speedEnvelope, song.speedManner.keepsPitch};
}

Frames playedLength(const Song& song, FrameRange range) {
  return PlayedTime(exportSpeed(song).speed, range.start).of(range.end);
}

namespace {

std::optional<double> oneTempo(const Song& song) {
  const bool one = song.tempo.tempos().size() == 1 && exportSpeed(song).speed.empty();
  return one ? std::optional(song.tempo.bpmAt(Ticks{})) : std::nullopt;
}

/// The song's markers in a range, counted from its start in frames of the exported file.
std::vector<FileMarker> markersIn(const Song& song, FrameRange range) {
  std::vector<FileMarker> out;
  PlayedTime played(exportSpeed(song).speed, range.start);
  for (const auto& m : song.markers) {
    const auto at = song.tempo.toFrames(m.at);
    if (!range.contains(at)) continue;
    out.push_back({played.of(at), m.name});
  }
  return out;
}

/// The whole song's mix.
Result<std::vector<Stem>> mixStem(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                                  const std::filesystem::path& target, Outputs& outputs) {
  auto writer =
      AudioFileWriter::create(outputs, target, {s.format, s.samples, plan.rate, 2, playedLength(song, s.range)},
                              {s.range.start.value, markersIn(song, s.range), oneTempo(song)});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<Stem> out;
  out.push_back({std::move(*writer), 2, [&plan, scratch = std::vector<float>()](Frames at, ChannelSpans both) mutable {
                   scratch.resize(both[0].size());
                   addMix(plan, at, both[0], both[1], scratch, {});
                 }});
  return out;
}

Result<Stem> trackStem(const TrackPlan& track, const WriteFormat& format, const std::filesystem::path& target,
                       const WriteNotes& notes, Outputs& outputs) {
  auto writer = AudioFileWriter::create(outputs, target, format, notes);
  if (!writer) return tl::unexpected(writer.error());
  return Stem{std::move(*writer), static_cast<std::size_t>(format.channels),
              [&track](Frames at, ChannelSpans channels) {
                for (std::size_t c = 0; c < channels.size(); ++c)
                  addTrack(track, std::min<std::size_t>(c, 1), at, channels[c]);
              }};
}

}  // namespace

Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const ExportSpeed& speed, const std::filesystem::path& target, const WriteNotes& notes,
                                 Outputs& outputs, Progress& progress) {
  auto stem = trackStem(track, format, target, notes, outputs);
  if (!stem) return tl::unexpected(stem.error());
  std::vector<Stem> one;
  one.push_back(std::move(*stem));
  return writeStems(one, format.rate, range, speed, progress);
}

std::map<TrackId, std::filesystem::path> trackFiles(const Song& song, const ExportSettings& s,
                                                    const std::filesystem::path& target) {
  std::map<TrackId, std::filesystem::path> out;
  std::set<std::string> used;
  for (const auto& track : song.tracks) {
    const auto own = fileNameFor(track.name);
    auto name = own;
    for (int n = 2; !used.insert(name).second; ++n) name = own + " " + std::to_string(n);
    out[track.id] = target / (name + extensionOf(s.format));
  }
  return out;
}

Result<ExportReport> exportSong(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                                const std::filesystem::path& target, Outputs& outputs, Progress& progress) {
  if (s.range.empty())
    return fail(ErrorKind::badInput, "There is nothing to export: the range is empty. Choose a longer range.");
  if (plan.preview)
    return fail(ErrorKind::refused, "Some of the song's stretched sound is not made yet. Export again when it is.");
  ExportReport report;
  std::vector<Stem> stems;
  if (s.what == ExportWhat::mix) {
    auto mix = mixStem(song, plan, s, target, outputs);
    if (!mix) return tl::unexpected(mix.error());
    stems = std::move(*mix);
    report.files.push_back(target);
  }
  const auto files = trackFiles(song, s, target);
  const auto length = playedLength(song, s.range);
  for (const auto& track : plan.tracks) {
    if (s.what == ExportWhat::mix) break;
    const auto& file = files.at(track.track);
    auto stem = trackStem(track, {s.format, s.samples, plan.rate, static_cast<int>(track.channels.size()), length},
                          file, {s.range.start.value, {}, oneTempo(song)}, outputs);
    if (!stem) return tl::unexpected(stem.error());
    stems.push_back(std::move(*stem));
    report.files.push_back(file);
  }
  auto clipped = writeStems(stems, plan.rate, s.range, exportSpeed(song), progress);
  if (!clipped) return tl::unexpected(clipped.error());
  report.clippedSamples = *clipped;
  report.tempoTold = std::all_of(stems.begin(), stems.end(), [](const Stem& stem) { return stem.writer.tempoTold(); });
  progress.report(1.0);
  return report;
}

}  // namespace ochron
