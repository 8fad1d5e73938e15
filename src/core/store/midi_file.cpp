#include "store/midi_file.h"

#include <smf.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <map>
#include <memory>
#include <string_view>

#include "files/file_names.h"
#include "song/layer_strokes.h"
#include "terms/general_midi.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

constexpr int kPulses = 960;
constexpr std::int64_t kTicksPerPulse = kTicksPerQuarter / kPulses;
constexpr int kPercussion = 9;
constexpr double kBendSemitones = 2;
constexpr int kLineLoudness = 90;
constexpr int kA4Key = 69;
constexpr double kA4Hertz = 440;
constexpr double kKeysInOctave = 12;
constexpr double kNoteQuarters = 0.1;

struct SmfDeleter {
  void operator()(smf_t* s) const { smf_delete(s); }
};
using Smf = std::unique_ptr<smf_t, SmfDeleter>;

int pulses(Ticks t) { return static_cast<int>((t.value + kTicksPerPulse / 2) / kTicksPerPulse); }
int velocity(double strength) {
  return std::clamp(static_cast<int>(std::lround(127 * std::sqrt(std::clamp(strength, 0.0, 1.0)))), 1, 127);
}

/// A file being put together: the first track for tempo and meter, the second for notes.
class Writer {
 public:
  Writer() : smf_(smf_new()), conductor_(smf_track_new()) {
    if (smf_set_ppqn(smf_.get(), kPulses) != 0) std::abort();
    smf_add_track(smf_.get(), conductor_);
    begin();
  }
  void tempo(Ticks at, double bpm) {
    const auto us = static_cast<std::uint32_t>(std::clamp(std::lround(60e6 / bpm), 1l, 0xffffffl));
    const std::array<unsigned char, 6> bytes{0xff,
                                             0x51,
                                             3,
                                             static_cast<unsigned char>(us >> 16),
                                             static_cast<unsigned char>(us >> 8),
                                             static_cast<unsigned char>(us)};
    add(conductor_, at, bytes);
  }
  void meter(Ticks at, const Meter& m) {
    unsigned char power = 0;
    while ((1 << power) < m.unit) ++power;
    const std::array<unsigned char, 7> bytes{
        0xff, 0x58, 4, static_cast<unsigned char>(m.beats), power, static_cast<unsigned char>(96 / m.unit), 8};
    add(conductor_, at, bytes);
  }
  /// Of the track of notes.
  void name(const std::string& text) {
    auto* e = smf_event_new_textual(kTrackName, text.c_str());
    if (e) smf_track_add_event_pulses(notes_, e, 0);
  }
  /// On the first track, in order together with tempos and meters.
  void marker(Ticks at, const std::string& text) {
    auto* e = smf_event_new_textual(kMarker, text.c_str());
    if (e) smf_track_add_event_pulses(conductor_, e, std::max(0, pulses(at)));
  }
  /// What follows goes to another track of notes.
  void nextTrack() {
    flush();
    begin();
  }
  /// A stroke.
  void note(Ticks at, int number, int loud) {
    const auto start = std::max(0, pulses(at));
    put(start, {0x90 | kPercussion, byte(number), byte(loud)});
    put(start + static_cast<int>(kNoteQuarters * kPulses), {0x80 | kPercussion, byte(number), 0});
  }
  /// A note that is held, on the first channel.
  void held(Ticks from, Ticks to, int number, int loud) {
    put(std::max(0, pulses(from)), {0x90, byte(number), byte(loud)});
    put(std::max(0, pulses(to)), {0x80, byte(number), 0});
  }
  /// Semitones up, within a range of two, on the first channel.
  void bend(Ticks at, double semitones) {
    const auto value = std::clamp(static_cast<int>(std::lround(8192 + semitones / kBendSemitones * 8192)), 0, 16'383);
    put(std::max(0, pulses(at)), {0xe0, byte(value & 0x7f), byte(value >> 7)});
  }
  Result<void> save(const fs::path& file, Outputs& outputs) {
    flush();
    const auto part = outputs.stage(file);
    if (!part) return tl::unexpected(part.error());
    if (smf_save(smf_.get(), part->c_str()) != 0)
      return fail(ErrorKind::ioFailed,
                  file.string() + " cannot be written. Check that the folder exists and has room.");
    return {};
  }

 private:
  static constexpr int kTrackName = 3;
  static constexpr int kMarker = 6;
  void begin() {
    notes_ = smf_track_new();
    smf_add_track(smf_.get(), notes_);
  }
  void flush() {
    for (const auto& [at, bytes] : events_) add(notes_, Ticks{at * kTicksPerPulse}, bytes);
    events_.clear();
  }
  static unsigned char byte(int v) { return static_cast<unsigned char>(v); }
  template <std::size_t N>
  static void add(smf_track_t* track, Ticks at, const std::array<unsigned char, N>& bytes) {
    auto* e = smf_event_new_from_pointer(const_cast<unsigned char*>(bytes.data()), static_cast<int>(N));
    if (e) smf_track_add_event_pulses(track, e, std::max(0, pulses(at)));
  }

  Smf smf_;
  smf_track_t* conductor_;
  smf_track_t* notes_ = nullptr;
  void put(int at, std::array<unsigned char, 3> bytes) { events_.insert({at, bytes}); }
  std::multimap<int, std::array<unsigned char, 3>> events_;  // the library wants those of a track in order
};

/// Calls meter(at, meter) and tempo(at, bpm) for what a map holds in a stretch, counted from its start.
template <class M, class T>
void eachOfTempoMap(const TempoMap& map, Ticks first, Ticks last, M&& meter, T&& tempo) {
  meter(Ticks{0}, map.meterOfBar(map.barAt(first)));
  for (const auto& m : map.meters())
    if (const auto at = map.barStart(m.bar); at > first && at < last) meter(at - first, m.meter);
  const auto& tempos = map.tempos();
  tempo(Ticks{0}, map.bpmAt(first));
  for (std::size_t i = 0; i < tempos.size(); ++i) {
    const auto& t = tempos[i];
    if (t.at > first && t.at < last) tempo(t.at - first, t.bpm);
    if (!t.ramp || i + 1 == tempos.size()) continue;
    const Ticks step{kTicksPerQuarter / 4};
    for (auto at = std::max(t.at, first); at < std::min(tempos[i + 1].at, last); at += step) {
      const auto next = std::min(at + step, tempos[i + 1].at);
      const double seconds = map.secondsFromOrigin(next) - map.secondsFromOrigin(at);
      const double quarters = static_cast<double>((next - at).value) / static_cast<double>(kTicksPerQuarter);
      tempo(at - first, quarters / seconds * 60);
    }
  }
}

void writeTempoMap(Writer& w, const TempoMap& map, Ticks first, Ticks last) {
  eachOfTempoMap(
      map, first, last, [&](Ticks at, const Meter& m) { w.meter(at, m); },
      [&](Ticks at, double bpm) { w.tempo(at, bpm); });
}

}  // namespace

Result<void> writeHitsMidi(const Song& song, const TimingResult& timing, const std::string& name, const fs::path& file,
                           Outputs& outputs) {
  if (timing.hits.empty()) return fail(ErrorKind::refused, "There are no hits to write. Find hits first.");
  const auto& map = song.tempo;
  Ticks earliest{0};
  Ticks last{0};
  for (const auto& h : timing.hits) {
    earliest = std::min(earliest, map.toTicks(h.now));
    last = std::max(last, map.toTicks(h.now));
  }
  const auto first = map.barStart(map.barAt(earliest));
  Writer w;
  writeTempoMap(w, map, first, last);
  w.name(name);
  for (const auto& h : timing.hits)
    for (const auto& s : strokesOf(h.hit))
      w.note(std::max(Ticks{0}, map.toTicks(h.now + (s.at - h.hit.at)) - first), keyOfDrum(s.drum),
             velocity(s.strength));
  return w.save(file, outputs);
}

namespace {

/// What a conductor's track says at one place.
struct Said {
  Ticks at;
  std::function<void()> write;
};

void writeStrokes(Writer& w, const Song& song, const Layer& layer, Ticks first) {
  for (const auto& s : strokesOf(song, layer)) {
    const auto at = song.tempo.toTicks(s.at) - first;
    if (s.heard && at.value >= 0) w.note(at, keyOfDrum(layer.drum.value_or(DrumClass::other)), velocity(s.strength));
  }
}

void writeLine(Writer& w, const Song& song, const MicSet& set, Ticks first) {
  for (const auto& clip : *set.clips) {
    const auto played = clip.played();
    for (const auto& n : song.lineOf(clip.take, set.id)->notes) {
      const auto start = std::max(played.start, Frames{std::llround(n.start * song.rate)});
      const auto end = std::min(played.end, Frames{std::llround(n.end * song.rate)});
      if (start >= end || clip.reversed) continue;
      const int key =
          std::clamp(static_cast<int>(std::lround(kA4Key + kKeysInOctave * std::log2(n.hertz / kA4Hertz))), 0, 127);
      const auto at = song.tempo.toTicks(clip.toSong(start)) - first;
      if (at.value < 0) continue;
      w.held(at, song.tempo.toTicks(clip.toSong(end)) - first, key, kLineLoudness);
    }
  }
}

/// What a set's clips play of performances that are notes.
void writePlayed(Writer& w, const Song& song, const MicSet& set, const MediaPool& pool, Ticks first) {
  for (const auto& clip : *set.clips) {
    if (clip.reversed || clip.muted) continue;
    const auto played = clip.played();
    for (const auto track : set.tracks) {
      const auto* mic = song.micFor(set, clip, track);
      const auto media = mic ? pool.find(mic->media) : pool.end();
      if (media == pool.end()) continue;
      for (const auto& n : media->second->notes()) {
        const auto start = n.at + mic->offset;
        if (start < played.start || start >= played.end) continue;
        const auto at = song.tempo.toTicks(clip.toSong(start)) - first;
        const auto end = song.tempo.toTicks(clip.toSong(std::min(played.end, n.end + mic->offset))) - first;
        if (at.value < 0) continue;
        if (n.drum)
          w.note(at, n.key, n.velocity);
        else
          w.held(at, std::max(end, at + Ticks{kTicksPerPulse}), n.key, n.velocity);
      }
    }
  }
}

bool playsNotes(const Song& song, const MicSet& set, const MediaPool& pool) {
  return std::any_of(set.clips->begin(), set.clips->end(), [&](const Clip& clip) {
    return std::any_of(set.tracks.begin(), set.tracks.end(), [&](TrackId track) {
      const auto* mic = song.micFor(set, clip, track);
      const auto media = mic ? pool.find(mic->media) : pool.end();
      return media != pool.end() && !media->second->notes().empty();
    });
  });
}

}  // namespace

Result<void> writeSongMidi(const Song& song, const std::map<SetId, TimingResult>& timing, const MediaPool& pool,
                           const TempoMap& tempo, Frames from, const fs::path& file, Outputs& outputs) {
  const auto& map = song.tempo;
  const auto first = map.barStart(map.barAt(from));
  const auto last = map.toTicks(song.end()) + Ticks{1};
  Writer w;
  // The library wants the events of a track in order.
  std::vector<Said> said;
  eachOfTempoMap(
      tempo, first, last,
      [&](Ticks at, const Meter& m) {
        said.push_back({at, [&w, at, m] { w.meter(at, m); }});
      },
      [&](Ticks at, double bpm) {
        said.push_back({at, [&w, at, bpm] { w.tempo(at, bpm); }});
      });
  for (const auto& m : song.markers)
    if (m.at >= first) said.push_back({m.at - first, [&w, &m, first] { w.marker(m.at - first, m.name); }});
  std::stable_sort(said.begin(), said.end(), [](const Said& a, const Said& b) { return a.at < b.at; });
  for (const auto& s : said) s.write();
  bool begun = false;
  for (const auto& set : song.sets) {
    if (const auto* layer = song.layerOn(set.tracks.front())) {
      if (begun) w.nextTrack();
      begun = true;
      w.name(set.name);
      writeStrokes(w, song, *layer, first);
      continue;
    }
    const auto planned = timing.find(set.id);
    const bool hits = planned != timing.end() && !planned->second.hits.empty();
    const bool line = std::any_of(set.clips->begin(), set.clips->end(),
                                  [&](const Clip& c) { return !song.lineOf(c.take, set.id)->notes.empty(); });
    const bool notes = playsNotes(song, set, pool);
    if (!hits && !line && !notes) continue;
    if (begun) w.nextTrack();
    begun = true;
    w.name(set.name);
    if (notes) {
      writePlayed(w, song, set, pool, first);
      continue;
    }
    if (line) {
      writeLine(w, song, set, first);
      continue;
    }
    for (const auto& h : planned->second.hits)
      for (const auto& s : strokesOf(h.hit))
        if (const auto at = map.toTicks(h.now + (s.at - h.hit.at)) - first; at.value >= 0)
          w.note(at, keyOfDrum(s.drum), velocity(s.strength));
  }
  return w.save(file, outputs);
}

Result<void> writePatternMidi(const TempoMap& map, Ticks from, const std::vector<PatternNote>& notes,
                              const std::string& name, const fs::path& file, Outputs& outputs) {
  if (notes.empty()) return fail(ErrorKind::refused, "There are no notes to write.");
  Ticks last{1};
  for (const auto& n : notes) last = std::max(last, n.at + n.length);
  Writer w;
  writeTempoMap(w, map, from, from + last);
  w.name(name);
  for (const auto& n : notes)
    w.held(n.at, n.at + std::max(n.length, Ticks{kTicksPerPulse}), std::clamp(n.key, 0, 127), velocity(n.strength));
  return w.save(file, outputs);
}

Result<void> writeLayerMidi(const Song& song, const Layer& layer, const fs::path& file, Outputs& outputs) {
  if (strokesOf(song, layer).empty())
    return fail(ErrorKind::refused, "\"" + layer.name + "\" has no strokes to write. Find hits first.");
  Writer w;
  writeTempoMap(w, song.tempo, Ticks{0}, song.tempo.toTicks(song.end()) + Ticks{1});
  w.name(layer.name);
  writeStrokes(w, song, layer, Ticks{0});
  return w.save(file, outputs);
}

Result<void> writeTempoMidi(const TempoMap& map, const fs::path& file, Outputs& outputs) {
  Writer w;
  const auto last = std::max(map.tempos().back().at, map.barStart(map.meters().back().bar));
  writeTempoMap(w, map, Ticks{0}, last + Ticks{1});
  return w.save(file, outputs);
}

Result<void> writeGrooveMidi(const Groove& groove, const fs::path& file, Outputs& outputs) {
  constexpr double kBpm = 120;
  Writer w;
  w.meter(Ticks{0}, groove.meter);
  w.tempo(Ticks{0}, kBpm);
  w.name(groove.name);
  // A note before the bar line goes to the end of the bar, where a loop of it plays it in its place.
  for (std::size_t i = 0; i < groove.offsetsMs.size(); ++i) {
    if (groove.loudness[i] <= 0) continue;
    const auto late = static_cast<std::int64_t>(groove.offsetsMs[i] / 60'000 * kBpm * kTicksPerQuarter);
    auto at = groove.grid.step() * static_cast<std::int64_t>(i) + Ticks{late};
    if (at.value < 0) at += groove.meter.barLength();
    w.note(at, keyOfDrum(DrumClass::snare), velocity(groove.loudness[i]));
  }
  return w.save(file, outputs);
}

Result<void> writeLineMidi(const SungLine& line, const std::string& name, bool bends, const fs::path& file,
                           Outputs& outputs) {
  if (line.notes.empty()) return fail(ErrorKind::refused, "There are no notes to write.");
  constexpr double kBpm = 120;
  constexpr std::size_t kBendEvery = 2;  // values of the track
  const auto ticks = [&](double seconds) { return Ticks{std::llround(seconds * kBpm / 60 * kTicksPerQuarter)}; };
  const auto midi = [](double hertz) { return kA4Key + kKeysInOctave * std::log2(hertz / kA4Hertz); };
  Writer w;
  w.meter(Ticks{0}, Meter{});
  w.tempo(Ticks{0}, kBpm);
  w.name(name);
  for (const auto& n : line.notes) {
    const int key = std::clamp(static_cast<int>(std::lround(midi(n.hertz))), 0, 127);
    if (bends) w.bend(ticks(n.start), midi(n.hertz) - key);
    w.held(ticks(n.start), ticks(n.end), key, kLineLoudness);
    if (!bends) continue;
    const auto first = static_cast<std::size_t>(n.start / PitchTrack::kHop) + 1;
    const auto last = std::min(line.track.values.size(), static_cast<std::size_t>(n.end / PitchTrack::kHop));
    for (auto t = first; t < last; t += kBendEvery)
      if (line.track.values[t].sounds())
        w.bend(ticks(PitchTrack::secondsAt(t)), midi(line.track.values[t].hertz) - key);
  }
  return w.save(file, outputs);
}

}  // namespace ochron
