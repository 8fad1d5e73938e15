#include <algorithm>
#include <cmath>
#include <deque>
#include <memory>
#include <set>

#include "commands.h"
#include "dsp/formants.h"
#include "dsp/repitch.h"
#include "dsp/stream_stretch.h"
#include "dsp/varispeed.h"
#include "edits/pitch_edits.h"
#include "edits/plan_edits.h"
#include "edits/stretch_edits.h"
#include "files/file_names.h"
#include "files/outputs.h"
#include "number_option.h"
#include "render/export.h"
#include "render/made_store.h"
#include "render/render_plan.h"
#include "seams/apply_plan.h"
#include "store/pins_file.h"
#include "take_files.h"
#include "takes/hear_line.h"
#include "takes/hear_tempo.h"
#include "tune/correction.h"
#include "tune/tuned_sound.h"

namespace ochron::cli {
namespace {

namespace fs = std::filesystem;

constexpr SettingRange kCentsRange{"cents", "cents", -2400, 2400, 1, 0};
constexpr SettingRange kRatioOption{"ratio", "", 0, 10, 0.01, 0};
constexpr SettingRange kBpmOption{"tempo", "BPM", 0, 999, 0.01, 0};
constexpr SettingRange kBeatsOption{"beats", "", 0, 4096, 1, 0};

struct StretchOptions {
  bool keepExisting = false;
  std::vector<std::string> inputs;
  std::string out;
  std::string method;
  std::string formants = "shift";
  std::string pins;
  double ratio = 0;
  double fromBpm = 0;
  double toBpm = 0;
  double beats = 0;
  double tempo = 0;
  double cents = 0;
  bool acceptDamaged = false;
};

/// Output length against input length, by whichever of the three ways was asked for.
Result<double> ratioOf(const StretchOptions& o, double seconds) {
  const bool byTempo = o.fromBpm > 0 && o.toBpm > 0;
  const bool byBeats = o.beats > 0 && o.tempo > 0;
  if ((o.ratio > 0 ? 1 : 0) + (byTempo ? 1 : 0) + (byBeats ? 1 : 0) != 1)
    return fail(ErrorKind::badInput, "Say how long: --ratio R, or --from-bpm A --to-bpm B, or --beats N --tempo T.");
  const double ratio = o.ratio > 0 ? o.ratio : byTempo ? o.fromBpm / o.toBpm : o.beats * 60 / o.tempo / seconds;
  if (!kStretchRatioRange.accepts(ratio))
    return fail(ErrorKind::badInput,
                "A ratio of " + fixed(ratio, 3) + " is too much. It may be a tenth to ten times the length.");
  return ratio;
}

/// All channels of all inputs at another pitch and length, in one run: stretched, then read at another speed.
Sounds atPitch(const TakeFiles& files, std::size_t frames, const StretchOptions& o) {
  prepareSpeedReading();
  const auto rate = files.song.rate;
  std::vector<std::span<const float>> in;
  std::deque<std::vector<float>> rooms;
  for (const auto& mic : files.song.takes.front().mics) {
    const auto& media = *files.pool.at(mic.media);
    for (int c = 0; c < media.channels(); ++c) in.push_back(media.channel(c).in(rooms.emplace_back()));
  }
  const double speed = std::exp2(o.cents / 1200);
  std::vector<double> at(frames + 1);
  for (std::size_t i = 0; i < at.size(); ++i) at[i] = static_cast<double>(i) * speed;
  auto made = repitched(rate, in, at, 0, frames);
  const bool held = o.formants == "keep";
  const auto whole = static_cast<std::size_t>(files.song.takes.front().length.value);
  const auto recorded = held ? soundStretched(rate, in, {whole, frames}) : std::vector<std::vector<float>>{};
  Sounds out;
  std::size_t k = 0;
  for (const auto& mic : files.song.takes.front().mics) {
    auto& file = out.emplace_back();
    for (int c = 0; c < files.pool.at(mic.media)->channels(); ++c, ++k) {
      auto& y = file.emplace_back(std::move(made[k]));
      if (held) y = withFormants(y, recorded[k], rate, [&](std::size_t) { return FormantPlace{speed, 1}; });
    }
  }
  return out;
}

/// What the recordings sing or play, when it is a single line.
Result<HeardLine> lineOf(const TakeFiles& files) {
  Progress progress;
  Result<HeardLine> line = cancelledError();
  withProgress("listening", progress,
               [&] { line = hearLine(files.song, *files.song.find(files.set), files.take, files.pool, {}, progress); });
  return line;
}

/// A single line at another pitch and the same length, period by period: formants stay or go along, what has no pitch
/// is the recording.
Sounds asLine(const TakeFiles& files, const SungLine& line, const StretchOptions& o) {
  const auto& set = *files.song.find(files.set);
  const auto mono = mixOf(files.song, set, files.take, files.pool);
  Sounds out;
  for (const auto& mic : files.song.takes.front().mics) {
    auto& file = out.emplace_back();
    const auto& media = *files.pool.at(mic.media);
    for (int c = 0; c < media.channels(); ++c)
      file.push_back(Voice{mic.media, files.pool.at(mic.media), c, mic.offset}.read({}, std::ssize(mono)));
  }
  const auto recorded = out;
  std::vector<std::span<const float>> channels;
  for (const auto& file : recorded) channels.insert(channels.end(), file.begin(), file.end());
  for (const auto& s : transposed(line.track, o.cents, o.formants == "keep" ? 0 : o.cents)) {
    const auto made = tunedSound(channels, mono, files.song.rate, {}, line.track, s);
    std::size_t k = 0;
    for (auto& file : out)
      for (auto& channel : file) {
        if (k < made.channels.size())
          std::copy(made.channels[k].begin(), made.channels[k].end(), channel.begin() + made.start.value);
        ++k;
      }
  }
  return out;
}

/// Speed and pitch together, as a tape runs.
Sounds asTape(const TakeFiles& files, std::size_t frames, double ratio) {
  prepareSpeedReading();
  Sounds out;
  std::vector<float> room;
  for (const auto& mic : files.song.takes.front().mics) {
    auto& file = out.emplace_back();
    const auto& media = *files.pool.at(mic.media);
    for (int c = 0; c < media.channels(); ++c) {
      const auto x = media.channel(c).in(room);
      auto& y = file.emplace_back(frames);
      for (std::size_t i = 0; i < frames; ++i)
        y[i] = speedRead({x.data(), 1, std::ssize(x)}, static_cast<double>(i) / ratio, 1 / ratio);
    }
  }
  return out;
}

/// Pinned at every hit, what lies between stretched.
Result<Song> pinnedAtHits(const TakeFiles& files, double ratio, StretchMethod method) {
  const auto song = setStretchMethod(files.song, files.set, method);
  return song ? stretchAtHits(*song, song->find(files.set)->clips->front().id, ratio) : song;
}

/// Pinned as a file says, or from end to end; with what was heard of a single line, if anything was.
Result<Song> pinnedAsGiven(const TakeFiles& files, const std::vector<Pin>& pins, StretchMethod method,
                           const Result<SungLine>& line) {
  Song song = files.song;
  if (line && method == StretchMethod::single) {
    auto known = setLine(song, files.take, files.set, *line);
    if (!known) return known;
    song = std::move(*known);
  }
  for (auto& set : song.sets) {
    if (set.id != files.set) continue;
    set.method = method;
    ClipList clips = *set.clips;
    auto& clip = clips.front();
    clip.map = TakeMap(pins);
    clip.source = std::max(Frames{}, clip.map.stretched(Frames{}));
    clip.start = clip.source;
    clip.length = clip.map.stretched(song.takes.front().length) - clip.source;
    if (clip.length.value < 1) return fail(ErrorKind::badInput, "Nothing would be left of the recording.");
    set.clips = std::move(clips);
  }
  return song;
}

std::vector<Pin> endToEnd(const TakeFiles& files, std::size_t frames) {
  return {{Frames{}, Frames{}}, {files.song.takes.front().length, Frames{static_cast<std::int64_t>(frames)}}};
}

/// The same recordings with silence after them: pieces of a plan stay within the clip they were cut from.
void lengthen(TakeFiles& files, Frames length) {
  auto& take = files.song.takes.front();
  if (length <= take.length) return;
  for (const auto& mic : take.mics) {
    auto& media = files.pool.at(mic.media);
    std::vector<std::vector<float>> channels;
    for (int c = 0; c < media->channels(); ++c) {
      channels.push_back(media->channel(c).copy());
      channels.back().resize(static_cast<std::size_t>((length - mic.offset).value), 0.0F);
    }
    media = DecodedMedia::fromSamples(media->rate(), std::move(channels));
    for (auto& m : files.song.media)
      if (m.id == mic.media) m.length = length - mic.offset;
  }
  take.length = length;
  for (auto& set : files.song.sets) {
    ClipList clips = *set.clips;
    if (clips.empty()) continue;
    clips.back().length = length - clips.back().start;
    set.clips = std::move(clips);
  }
}

/// Cut at every hit, the pieces moved and nothing stretched.
Result<Song> inSlices(TakeFiles& files, double ratio, Frames length) {
  lengthen(files, length);
  const auto& set = *files.song.find(files.set);
  TimingPlan plan;
  plan.settings.on = true;
  plan.settings.method = TimingMethod::slices;
  for (const auto& h : activeHits(*files.song.hitsOf(files.take, files.set), set.hits, files.song.rate)) {
    const Frames to{std::llround(static_cast<double>(h.at.value) * ratio)};
    plan.overrides[h.id].target = files.song.tempo.toTicks(to);
    plan.overrides[h.id].joined = false;
  }
  if (plan.overrides.empty())
    return fail(ErrorKind::badInput, "No hits were found to cut at. Choose the method single or chords.");
  auto song = setTimingPlan(files.song, files.set, plan);
  return song ? applyTimingPlan(*song, files.set, files.pool) : song;
}

StretchMethod methodNamed(const std::string& name) {
  const auto at = std::find(kStretchMethodNames.begin(), kStretchMethodNames.end(), name);
  return static_cast<StretchMethod>(at - kStretchMethodNames.begin());
}

/// Writes what a song's only set sounds like, every mic from the song's beginning on, block by block.
Result<void> writeRendered(const StretchOptions& o, const TakeFiles& files, const Result<Song>& song, Frames frames,
                           const fs::path& scratch, Outputs& outputs) {
  if (!song) return tl::unexpected(song.error());
  MadeStore made(scratch);
  Progress progress;
  Result<void> done;
  withProgress("stretching", progress, [&] { done = makeMissing(*song, files.pool, made, Frames{}, progress); });
  if (!done) return done;
  const auto plan = compilePlan(*song, files.pool, nullptr, &made);
  if (plan.preview) return fail(ErrorKind::ioFailed, "Some of the sound could not be made. Make room on the disk.");
  for (std::size_t i = 0; i < o.inputs.size(); ++i) {
    const auto file = writtenFile(o.inputs, i, o.out, files, frames);
    if (!file) return tl::unexpected(file.error());
    Progress writing;
    Result<std::int64_t> clipped = cancelledError();
    withProgress("writing", writing, [&] {
      clipped = exportTrack(plan.tracks[i], file->format, {Frames{}, frames}, {}, file->target, {}, outputs, writing);
    });
    if (!clipped) return tl::unexpected(clipped.error());
  }
  if (auto ok = stillAsRead(files.pool); !ok) return ok;
  return outputs.commit();
}

/// How long the recordings become, and where what lies: by a ratio, or by pins.
struct Target {
  std::size_t frames = 0;
  double ratio = 1;
  std::vector<Pin> pins;
};
Result<Target> targetOf(const StretchOptions& o, const TakeFiles& files) {
  const auto length = files.song.takes.front().length;
  Target out;
  if (o.pins.empty()) {
    const auto asked = ratioOf(o, static_cast<double>(length.value) / files.song.rate);
    if (!asked) return tl::unexpected(asked.error());
    out.ratio = *asked;
    out.frames = static_cast<std::size_t>(std::llround(static_cast<double>(length.value) * out.ratio));
    return out;
  }
  if (o.ratio > 0 || o.fromBpm > 0 || o.beats > 0)
    return fail(ErrorKind::badInput, "Pins say how long it becomes. Leave out --ratio, --from-bpm and --beats.");
  if (o.cents != 0 || o.method == "slices")
    return fail(ErrorKind::badInput, "--pins goes with the methods drums, single, chords and tape, without --cents.");
  auto given = loadPins(o.pins, files.song.rate);
  if (!given) return tl::unexpected(given.error());
  if (given->back().take > length)
    return fail(ErrorKind::badInput, o.pins + ": the last pin lies beyond the recording's end.");
  out.pins = std::move(*given);
  out.frames = static_cast<std::size_t>(std::max<std::int64_t>(1, TakeMap(out.pins).stretched(length).value));
  out.ratio = static_cast<double>(out.frames) / static_cast<double>(length.value);
  return out;
}

Result<std::string> run(const StretchOptions& o) {
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  for (const auto& in : o.inputs) outputs.protect(in);
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake(o.inputs, {}, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  if (auto ok = atMostStereo(o.inputs, *files); !ok) return tl::unexpected(ok.error());
  const auto target = targetOf(o, *files);
  if (!target) return tl::unexpected(target.error());
  const auto& [frames, ratio, pins] = *target;
  auto method = o.method;
  if (o.cents != 0 && (method == "tape" || method == "drums" || method == "slices"))
    return fail(ErrorKind::badInput, "--cents goes with the methods single and chords.");
  Result<HeardLine> line = cancelledError();
  if ((method.empty() && o.cents == 0) ||
      (pins.empty() && (method == "drums" || method == "slices" || method == "chords"))) {
    if (auto ok = findHits(*files, {}); !ok) return tl::unexpected(ok.error());
    const auto& set = *files->song.find(files->set);
    if (method.empty() && files->song.materialOf(set, files->take) == StretchMethod::drums) method = "drums";
  }
  // What may be a single line is listened for.
  if (method == "single" || (method.empty() && (o.cents == 0 || ratio == 1))) {
    line = lineOf(*files);
    const bool needed = method == "single" && o.cents != 0 && ratio == 1;
    if (!line && (needed || line.error().kind == ErrorKind::cancelled)) return tl::unexpected(line.error());
  }
  if (method.empty()) method = line ? "single" : "chords";
  const Frames length{static_cast<std::int64_t>(frames)};
  const auto write = [&](const Result<Song>& song) {
    return writeRendered(o, *files, song, length, scratch->path(), outputs);
  };
  const auto writeMade = [&](const Sounds& sounds) { return writeSounds(o.inputs, o.out, *files, sounds, outputs); };
  const bool byPeriods = line && o.cents == 0 && method == "single";
  Result<void> written;
  if (!pins.empty() || byPeriods)
    written = write(pinnedAsGiven(*files, pins.empty() ? endToEnd(*files, frames) : pins, methodNamed(method), line));
  else if (method == "drums" || (method == "chords" && o.cents == 0))
    written = write(pinnedAtHits(*files, ratio, methodNamed(method)));
  else if (method == "slices")
    written = write(inSlices(*files, ratio, length));
  else if (method == "single" && ratio == 1 && o.cents != 0)
    written = writeMade(asLine(*files, *line, o));
  else
    written = writeMade(method == "tape" ? asTape(*files, frames, ratio) : atPitch(*files, frames, o));
  if (!written) return tl::unexpected(written.error());
  const bool noLine = method == "single" && !line;
  return method + (noLine ? " (no single line was heard: as chords)" : "") + ", " + fixed(ratio, 4) +
         " times as long, " + o.out + "\n";
}

}  // namespace

void addStretch(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<StretchOptions>();
  auto* c =
      app.add_subcommand("stretch", "Change the length or the pitch of recordings; several inputs are one mic set");
  c->add_option("INPUT", o->inputs, "audio files recorded together")->required();
  addNumber(*c, "--ratio", o->ratio, kRatioOption, "output length against input length");
  auto* from = addNumber(*c, "--from-bpm", o->fromBpm, kBpmOption, "the recording's tempo");
  auto* to = addNumber(*c, "--to-bpm", o->toBpm, kBpmOption, "the tempo it is to have");
  auto* beats = addNumber(*c, "--beats", o->beats, kBeatsOption, "the recording is so many beats");
  auto* tempo = addNumber(*c, "--tempo", o->tempo, kBpmOption, "the tempo these are to have");
  from->needs(to), to->needs(from), beats->needs(tempo), tempo->needs(beats);
  auto* cents = addNumber(*c, "--cents", o->cents, kCentsRange, "pitch up or down, cents");
  auto* formants =
      c->add_option("--formants", o->formants, "keep: a voice stays the same person's; shift: they go along")
          ->check(CLI::IsMember({"keep", "shift"}))
          ->capture_default_str();
  formants->needs(cents);
  c->add_option("--method", o->method, "slices, drums, single, chords or tape (default: by the material)")
      ->check(CLI::IsMember({"slices", "drums", "single", "chords", "tape"}));
  c->add_option("--pins", o->pins, "pairs of seconds, JSON or CSV: a map by hand instead of a ratio");
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_option("--out", o->out, "file to write; with several inputs the folder")->required();
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged files");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
