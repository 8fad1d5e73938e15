#include "render/export.h"

#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <mutex>

#include "base/all_cores.h"
#include "dsp/stream_stretch.h"
#include "render/chain.h"
#include "render/file_sink.h"
#include "render/racks.h"
#include "render/render.h"
#include "render/song_speed.h"

namespace ochron {
namespace {

constexpr std::int64_t kBlock = 8192;
constexpr std::size_t kMostCores = 4;
constexpr std::size_t kOpenAtOnce = 48;  // stems whose files are open; a process may hold some thousand

using Fill = std::function<void(Frames, std::span<float>, std::span<float>)>;
using Sink = std::function<Result<void>(ChannelSpans)>;

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

/// Sound under way: where it comes from and where it goes.
struct Run {
  FrameRange range;
  std::size_t channels = 2;
  std::function<void(Frames at, ChannelSpans channels)> add;
  Sink sink;
};

/// Runs over one range, at other speeds with their pitch kept, at full quality and in step with each other.
Result<void> runStretched(std::span<const Run> runs, int rate, const Envelope& speed, Progress& progress) {
  const auto range = runs.front().range;
  std::size_t channels = 0;
  for (const auto& r : runs) channels += r.channels;
  Result<void> written;
  const auto each = [&](ChannelSpans all, auto&& visit) {
    std::size_t first = 0;
    for (const auto& r : runs) {
      visit(r, all.subspan(first, r.channels));
      first += r.channels;
    }
  };
  PlayedTime played(speed, range.start);
  auto keys = speed.size() < 2 ? std::map<std::size_t, std::size_t>{} : played.keys(range.length());
  const bool whole = streamStretched(
      rate, channels,
      {static_cast<std::size_t>(range.length().value), static_cast<std::size_t>(played.of(range.end).value),
       std::move(keys)},
      [&](std::size_t from, ChannelSpans all) {
        each(all, [&](const Run& r, ChannelSpans own) {
          r.add(range.start + Frames{static_cast<std::int64_t>(from)}, own);
        });
      },
      [&](ChannelSpans all) {
        each(all, [&](const Run& r, ChannelSpans own) {
          if (written) written = r.sink(own);
        });
        return written.has_value();
      },
      progress);
  if (!written) return written;
  if (!whole) return cancelledError();
  return {};
}

/// As recorded, or as a tape at other speeds.
Result<void> runThrough(const Run& run, int rate, const Envelope& speed, Progress& progress) {
  // A chain has two sides: of more channels each pair has a chain of its own.
  const auto pairs = (run.channels + 1) / 2;
  std::vector<std::vector<float>> sides(2 * pairs);
  std::vector<std::span<float>> views(2 * pairs);
  std::vector<Fill> fills;
  std::vector<std::unique_ptr<Chain>> chains;
  std::vector<std::unique_ptr<RangeStream>> songs;
  std::vector<std::vector<float>> all(run.channels);
  Frames filled{-1};
  std::vector<std::span<float>> read(run.channels);
  for (std::size_t p = 0; p < pairs; ++p)
    fills.emplace_back([&, p](Frames at, std::span<float> left, std::span<float> right) {
      // All pairs read the same places in the same order: the first one reads for all.
      if (p == 0 || filled != at || all[0].size() != left.size()) {
        for (std::size_t c = 0; c < run.channels; ++c) {
          all[c].assign(left.size(), 0.0F);
          read[c] = all[c];
        }
        run.add(at, read);
        filled = at;
      }
      std::copy(all[2 * p].begin(), all[2 * p].end(), left.begin());
      if (2 * p + 1 < run.channels) std::copy(all[2 * p + 1].begin(), all[2 * p + 1].end(), right.begin());
    });
  for (std::size_t p = 0; p < pairs; ++p) {
    songs.push_back(std::make_unique<RangeStream>(run.range.start, speed, fills[p]));
    chains.push_back(std::make_unique<Chain>(rate));
  }
  const auto length = PlayedTime(speed, run.range.start).of(run.range.end);
  for (Frames done = -chains[0]->latency(); done < length;) {
    if (progress.cancelled()) return cancelledError();
    const auto n = static_cast<std::size_t>(std::min(kBlock, done.value < 0 ? -done.value : (length - done).value));
    for (std::size_t i = 0; i < sides.size(); ++i) {
      sides[i].assign(n, 0.0F);
      views[i] = sides[i];
    }
    for (std::size_t p = 0; p < pairs; ++p) chains[p]->process(views[2 * p], views[2 * p + 1], *songs[p]);
    const bool heard = done.value >= 0;
    done += Frames{static_cast<std::int64_t>(n)};
    if (!heard) continue;
    if (auto ok = run.sink(std::span(views).first(run.channels)); !ok) return ok;
    progress.report(static_cast<double>(done.value) / static_cast<double>(length.value));
  }
  return {};
}

/// All of them, on so many cores where they need not keep in step.
Result<void> runAll(std::span<const Run> runs, int rate, const ExportSpeed& how, Progress& progress,
                    std::size_t cores = kMostCores) {
  if (how.keepsPitch && !how.speed.empty()) {
    std::vector<std::span<const Run>> together;
    for (std::size_t i = 0; i < runs.size();) {
      auto end = i + 1;
      while (end < runs.size() && runs[end].range == runs[i].range) ++end;
      together.push_back(runs.subspan(i, end - i));
      i = end;
    }
    Result<void> all;
    onAllCores(
        together.size(), progress,
        [&](std::size_t i, Progress& own) {
          if (all) all = runStretched(together[i], rate, how.speed, own);
        },
        1);
    if (progress.cancelled()) return cancelledError();
    return all;
  }
  std::mutex mutex;
  Result<void> all;
  onAllCores(
      runs.size(), progress,
      [&](std::size_t i, Progress& own) {
        auto ok = runThrough(runs[i], rate, how.speed, own);
        const std::scoped_lock lock(mutex);
        if (!ok && all) all = std::move(ok);
      },
      cores);
  if (progress.cancelled()) return cancelledError();
  return all;
}

/// `end`: what lies from there on is not heard.
std::function<void(Frames, ChannelSpans)> mixOf(const RenderPlan& plan, std::optional<Frames> end = {}) {
  return [played = std::make_shared<PlayedThrough>(plan, end)](Frames at, ChannelSpans both) {
    played->addMix(at, both[0], both[1]);
  };
}

/// A track of a plan in a file, and through what it is played.
struct StemTrack {
  std::size_t track = 0;
  std::size_t channels = 1;
  std::shared_ptr<PlayedThrough> effects;  ///< none: it goes through none
};

std::function<void(Frames, ChannelSpans)> sideBySide(const RenderPlan& plan, std::vector<StemTrack> tracks,
                                                     std::optional<Frames> end) {
  return [&plan, tracks = std::move(tracks), end](Frames at, ChannelSpans channels) {
    std::size_t next = 0;
    for (const auto& t : tracks) {
      const auto n = std::ssize(channels[next]);
      const auto heard = end ? std::clamp<std::int64_t>((*end - at).value, 0, n) : n;
      if (t.effects)
        t.effects->addTrack(t.track, at, channels[next], channels[next + 1]);
      else
        for (std::size_t c = 0; c < t.channels; ++c)
          addTrack(plan.tracks[t.track], c, at, channels[next + c].first(static_cast<std::size_t>(heard)));
      next += t.channels;
    }
  };
}

std::optional<double> oneTempo(const Song& song) {
  const bool one = song.tempo.tempos().size() == 1 && exportSpeed(song).speed.empty();
  return one ? std::optional(song.tempo.bpmAt(Ticks{})) : std::nullopt;
}

/// The key that all tuned lines of a song are brought to, if it is major or minor and sounds as it was set.
std::optional<FileKey> oneKey(const Song& song) {
  if (const auto speed = exportSpeed(song); !speed.speed.empty() && !speed.keepsPitch) return std::nullopt;
  std::optional<Scale> scale;
  for (const auto& set : song.sets) {
    const auto& s = set.pitch->settings;
    if (!s.on) continue;
    if (scale && (scale->name != s.scale.name || scale->tonic != s.scale.tonic)) return std::nullopt;
    scale = s.scale;
  }
  if (!scale || !(scale->name.ends_with(" major") || scale->name.ends_with(" minor"))) return std::nullopt;
  return FileKey{scale->tonic, scale->name.ends_with(" minor")};
}

/// The song's markers in a range, counted from its start in frames at a rate.
std::vector<FileMarker> markersIn(const Song& song, FrameRange range, int rate) {
  std::vector<FileMarker> out;
  PlayedTime played(exportSpeed(song).speed, range.start);
  for (const auto& m : song.markers) {
    const auto at = song.tempo.toFrames(m.at);
    if (range.contains(at)) out.push_back({atRate(played.of(at), song.rate, rate), m.name});
  }
  return out;
}

/// Where a stem's sound comes from.
Run soundOf(const ExportStem& stem, const RenderPlan& plan) {
  Run run{stem.whole(), 2, {}, {}};
  const auto end = stem.tail.value > 0 ? std::optional(stem.range.end) : std::nullopt;
  if (stem.tracks.empty()) return run.add = mixOf(plan, end), run;
  std::vector<StemTrack> tracks;
  run.channels = 0;
  for (const auto id : stem.tracks) {
    const auto found =
        std::find_if(plan.tracks.begin(), plan.tracks.end(), [&](const TrackPlan& t) { return t.track == id; });
    const auto t = static_cast<std::size_t>(found - plan.tracks.begin());
    const bool effects = plan.racked[t];
    tracks.push_back(
        {t, effects ? 2 : found->channels.size(), effects ? std::make_shared<PlayedThrough>(plan, end) : nullptr});
    run.channels += tracks.back().channels;
  }
  run.add = sideBySide(plan, std::move(tracks), end);
  return run;
}

/// A stem's files, ready to be written to.
Result<std::vector<FileSink>> openSinks(const Song& song, const ExportStem& stem, int channels, const ExportSettings& s,
                                        double gain, Outputs& outputs) {
  std::vector<FileSink> out;
  const auto length = playedLength(song, stem.whole());
  for (const auto& [kind, file] : stem.files) {
    auto format = formatOf(s, stem, kind, song.rate);
    format.channels = s.mono && !keepsMics(s.what) ? 1 : channels;
    format.length = atRate(length, song.rate, format.rate);
    WriteNotes notes{
        atRate(stem.range.start, song.rate, format.rate).value, {}, oneTempo(song), oneKey(song), song.name};
    if (stem.tracks.empty()) notes.markers = markersIn(song, stem.range, format.rate);
    auto writer = AudioFileWriter::create(outputs, file, format, notes);
    if (!writer) return tl::unexpected(writer.error());
    auto sink = FileSink::make(std::move(*writer), channels, song.rate, length, gain);
    if (!sink) return tl::unexpected(sink.error());
    out.push_back(std::move(*sink));
  }
  return out;
}

/// Writes stems side by side.
Result<void> writeStems(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                        std::span<const ExportStem> stems, double gain, Outputs& outputs, ExportReport& report,
                        Progress& progress) {
  std::vector<std::vector<FileSink>> sinks;
  std::vector<Run> runs;
  for (const auto& stem : stems) {
    runs.push_back(soundOf(stem, plan));
    auto opened = openSinks(song, stem, static_cast<int>(runs.back().channels), s, gain, outputs);
    if (!opened) return tl::unexpected(opened.error());
    sinks.push_back(std::move(*opened));
    for (const auto& f : stem.files) report.files.push_back(f.file);
  }
  for (std::size_t i = 0; i < runs.size(); ++i)
    runs[i].sink = [&files = sinks[i]](ChannelSpans channels) -> Result<void> {
      for (auto& f : files)
        if (auto ok = f.add(channels); !ok) return ok;
      return {};
    };
  // What lies one after the other goes through the same effects one after the other.
  const bool shared = plan.racks && (s.what == ExportWhat::sections || s.what == ExportWhat::clips);
  if (auto ok = runAll(runs, plan.rate, exportSpeed(song), progress, shared ? 1 : kMostCores); !ok) return ok;
  if (plan.racks)
    if (auto ok = allAnswered(*plan.racks); !ok) return ok;
  for (auto& files : sinks)
    for (auto& f : files) {
      if (auto ok = f.finish(); !ok) return ok;
      report.clippedSamples += f.writer().clippedSamples();
      report.tempoTold = report.tempoTold && f.writer().tempoTold();
    }
  return {};
}

}  // namespace

ExportSpeed exportSpeed(const Song& song) {
  if (!song.speedManner.exported) return {};
  return {*song.speedEnvelope, song.speedManner.keepsPitch};
}

Frames playedLength(const Song& song, FrameRange range) {
  return PlayedTime(exportSpeed(song).speed, range.start).of(range.end);
}

Result<LoudnessReport> measureMix(const Song& song, const RenderPlan& plan, FrameRange range, bool mono,
                                  Progress& progress) {
  LoudnessMeter meter(plan.rate, mono ? 1 : 2);
  std::vector<float> both;
  const Run run{range, 2, mixOf(plan), [&](ChannelSpans sides) -> Result<void> {
                  both.resize((mono ? 1 : 2) * sides[0].size());
                  for (std::size_t i = 0; i < sides[0].size(); ++i) {
                    if (mono) {
                      both[i] = (sides[0][i] + sides[1][i]) / 2;
                      continue;
                    }
                    both[2 * i] = sides[0][i];
                    both[2 * i + 1] = sides[1][i];
                  }
                  meter.add(both);
                  return {};
                }};
  if (auto ok = runAll(std::span(&run, 1), plan.rate, exportSpeed(song), progress); !ok)
    return tl::unexpected(ok.error());
  return meter.report();
}

ExportLoudness toLoudness(const LoudnessReport& mix, double asked) {
  ExportLoudness out{mix, asked};
  if (!mix.integrated) return out;
  out.gainDb = asked - *mix.integrated;
  if (const double most = mix.truePeak ? kTruePeakCeiling - *mix.truePeak : out.gainDb; out.gainDb > most) {
    out.gainDb = most;
    out.heldByPeak = true;
  }
  return out;
}

Result<ExportReport> exportSong(const Song& song, const RenderPlan& plan, const ExportSettings& s,
                                const std::filesystem::path& target, Outputs& outputs, Progress& progress) {
  const auto stems = exportStems(song, s, target);
  if (!stems) return tl::unexpected(stems.error());
  if (plan.preview)
    return fail(ErrorKind::refused, "Some of the song's stretched sound is not made yet. Export again when it is.");
  ExportReport report;
  if (s.loudness) {
    progress.beginPart(0, 2);
    const auto mix = measureMix(song, plan, s.range, s.mono, progress);
    if (!mix) return tl::unexpected(mix.error());
    report.loudness = toLoudness(*mix, *s.loudness);
  }
  const double gain = report.loudness ? std::pow(10.0, report.loudness->gainDb / 20) : 1;
  const auto parts = (stems->size() + kOpenAtOnce - 1) / kOpenAtOnce;
  for (std::size_t part = 0; part < parts; ++part) {
    const std::size_t before = report.loudness ? parts : 0;  // what measuring took
    progress.beginPart(before + part, before + parts);
    const auto from = part * kOpenAtOnce;
    const auto some = std::span(*stems).subspan(from, std::min(kOpenAtOnce, stems->size() - from));
    if (auto ok = writeStems(song, plan, s, some, gain, outputs, report, progress); !ok)
      return tl::unexpected(ok.error());
  }
  progress.report(1.0);
  return report;
}

Result<std::int64_t> exportTrack(const TrackPlan& track, const WriteFormat& format, FrameRange range,
                                 const ExportSpeed& speed, const std::filesystem::path& target, const WriteNotes& notes,
                                 Outputs& outputs, Progress& progress) {
  auto writer = AudioFileWriter::create(outputs, target, format, notes);
  if (!writer) return tl::unexpected(writer.error());
  const auto wide = static_cast<std::size_t>(format.channels);
  std::vector<Samples> sides(wide);
  // A file of more channels than the track has repeats the last.
  const Run run{range, wide,
                [&](Frames at, ChannelSpans channels) {
                  for (std::size_t c = 0; c < channels.size(); ++c)
                    addTrack(track, std::min<std::size_t>(c, 1), at, channels[c]);
                },
                [&](ChannelSpans channels) {
                  for (std::size_t c = 0; c < wide; ++c) sides[c] = Samples(channels[c]);
                  return writer->writeChannels(sides);
                }};
  if (auto ok = runAll(std::span(&run, 1), format.rate, speed, progress); !ok) return tl::unexpected(ok.error());
  if (auto ok = writer->finish(); !ok) return tl::unexpected(ok.error());
  return writer->clippedSamples();
}

}  // namespace ochron
