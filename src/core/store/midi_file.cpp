#include "store/midi_file.h"

#include <smf.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <map>
#include <memory>
#include <string_view>

#include "feel/player.h"
#include "files/atomic_file.h"
#include "files/file_names.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

constexpr int kPulses = 960;
constexpr std::int64_t kTicksPerPulse = kTicksPerQuarter / kPulses;
constexpr std::array<int, kDrumClassNames.size()> kNotes{36, 38, 45, 42, 49, 39};  // General MIDI percussion
constexpr int kPercussion = 9;
constexpr double kBendSemitones = 2;
constexpr int kLineLoudness = 90;
constexpr int kA4Key = 69;
constexpr double kA4Hertz = 440;
constexpr double kKeysInOctave = 12;
constexpr double kNoteQuarters = 0.1;
constexpr std::size_t kLargestMidi = std::size_t{16} << 20;
constexpr std::int64_t kMostPulses = std::int64_t{1} << 31;  // so that ticks of any division stay within 64 bits
constexpr std::size_t kMostNotes = 2'000'000;

struct SmfDeleter {
  void operator()(smf_t* s) const { smf_delete(s); }
};
using Smf = std::unique_ptr<smf_t, SmfDeleter>;

int pulses(Ticks t) { return static_cast<int>((t.value + kTicksPerPulse / 2) / kTicksPerPulse); }
int velocity(double strength) {
  return std::clamp(static_cast<int>(std::lround(127 * std::sqrt(std::clamp(strength, 0.0, 1.0)))), 1, 127);
}
double loudness(int v) { return v / 127.0 * v / 127.0; }

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

struct Note {
  Ticks at;
  double loud = 0;
};

struct NoteFile {
  std::vector<Note> notes;
  Meter meter;
  double bpm = 120;
};

/// Reads the bytes of one chunk, never past its end.
class Bytes {
 public:
  explicit Bytes(std::string_view data) : data_(data) {}
  bool atEnd() const { return at_ >= data_.size(); }
  int next() {
    if (atEnd()) {
      broken_ = true;
      return 0;
    }
    return static_cast<unsigned char>(data_[at_++]);
  }
  int peek() const { return atEnd() ? 0 : static_cast<unsigned char>(data_[at_]); }
  /// Variable-length quantity, at most four bytes.
  std::int64_t quantity() {
    std::int64_t v = 0;
    for (int i = 0; i < 4; ++i) {
      const int b = next();
      v = v << 7 | (b & 0x7f);
      if (b < 0x80) return v;
    }
    broken_ = true;
    return 0;
  }
  std::string_view take(std::int64_t n) {
    if (n < 0 || static_cast<std::size_t>(n) > data_.size() - at_) return broken_ = true, std::string_view{};
    at_ += static_cast<std::size_t>(n);
    return data_.substr(at_ - static_cast<std::size_t>(n), static_cast<std::size_t>(n));
  }
  std::uint32_t number(int bytes) {
    std::uint32_t v = 0;
    for (int i = 0; i < bytes; ++i) v = v << 8 | static_cast<std::uint32_t>(next());
    return v;
  }
  bool broken() const { return broken_; }

 private:
  std::string_view data_;
  std::size_t at_ = 0;
  bool broken_ = false;
};

/// The notes, and the first tempo and meter, of one track chunk. False when it is damaged.
bool readTrack(std::string_view chunk, int division, NoteFile& out, bool& haveMeter, bool& haveTempo) {
  Bytes in(chunk);
  std::int64_t pulse = 0;
  int status = 0;
  while (!in.atEnd()) {
    pulse += in.quantity();
    if (pulse > kMostPulses) return false;
    if (in.peek() >= 0x80) status = in.next();
    if (status < 0x80 || in.broken()) return false;
    if (status == 0xff) {
      const int type = in.next();
      const auto data = in.take(in.quantity());
      const auto at = [&](std::size_t i) { return static_cast<unsigned char>(data[i]); };
      if (type == 0x2f) return !in.broken();
      if (in.broken()) return false;
      if (type == 0x58 && data.size() >= 2 && !haveMeter && at(0) > 0 && at(0) <= 64 && at(1) <= 6) {
        out.meter = {at(0), 1 << at(1)};
        haveMeter = true;
      }
      const int us = data.size() >= 3 ? at(0) << 16 | at(1) << 8 | at(2) : 0;
      if (type == 0x51 && !haveTempo && us > 0) {
        out.bpm = 60e6 / us;
        haveTempo = true;
      }
      status = 0;
    } else if (status >= 0xf0) {
      in.take(in.quantity());
      status = 0;
    } else {
      const int kind = status & 0xf0;
      in.next();
      const int second = kind == 0xc0 || kind == 0xd0 ? 0 : in.next();
      if (kind == 0x90 && second > 0 && !in.broken() && out.notes.size() < kMostNotes)
        out.notes.push_back({Ticks{pulse * kTicksPerQuarter / division}, loudness(std::min(second, 127))});
    }
  }
  return !in.broken();
}

/// Standard MIDI File 1.0, chunk by chunk. The library that writes them ends the program on damaged files, so reading
/// is done here.
Result<NoteFile> readNotes(std::string_view bytes, const std::string& fileName) {
  const auto refuse = [&](const std::string& why) {
    return fail(ErrorKind::badInput, fileName + " cannot be read as a groove: " + why + ". Choose another file.");
  };
  Bytes in(bytes);
  if (in.take(4) != "MThd" || in.number(4) < 6) return refuse("it is not a MIDI file");
  const auto header = in.number(4);
  const auto division = static_cast<int>(in.number(2));
  if (in.broken()) return refuse("it is cut short");
  if (division == 0 || division >= 0x8000) return refuse("it counts in film frames, not in beats");
  if ((header >> 16) > 1) return refuse("it holds several songs; save one of them on its own");
  NoteFile out;
  bool haveMeter = false;
  bool haveTempo = false;
  while (!in.atEnd()) {
    const auto name = in.take(4);
    const auto chunk = in.take(in.number(4));
    if (in.broken() || (name == "MTrk" && !readTrack(chunk, division, out, haveMeter, haveTempo)))
      return refuse("it is damaged or cut short");
  }
  if (out.notes.empty()) return refuse("it holds no note");
  return out;
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
      w.note(std::max(Ticks{0}, map.toTicks(h.now + (s.at - h.hit.at)) - first),
             kNotes[static_cast<std::size_t>(s.drum)], velocity(s.strength));
  return w.save(file, outputs);
}

namespace {

/// What a conductor's track says at one place.
struct Said {
  Ticks at;
  std::function<void()> write;
};

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

}  // namespace

Result<void> writeSongMidi(const Song& song, const std::map<SetId, TimingResult>& timing, const TempoMap& tempo,
                           Frames from, const fs::path& file, Outputs& outputs) {
  const auto& map = song.tempo;
  const auto first = map.barStart(map.barAt(map.toTicks(from)));
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
    const auto planned = timing.find(set.id);
    const bool hits = planned != timing.end() && !planned->second.hits.empty();
    const bool line = std::any_of(set.clips->begin(), set.clips->end(),
                                  [&](const Clip& c) { return !song.lineOf(c.take, set.id)->notes.empty(); });
    if (!hits && !line) continue;
    if (begun) w.nextTrack();
    begun = true;
    w.name(set.name);
    if (line) {
      writeLine(w, song, set, first);
      continue;
    }
    for (const auto& h : planned->second.hits)
      for (const auto& s : strokesOf(h.hit))
        if (const auto at = map.toTicks(h.now + (s.at - h.hit.at)) - first; at.value >= 0)
          w.note(at, kNotes[static_cast<std::size_t>(s.drum)], velocity(s.strength));
  }
  return w.save(file, outputs);
}

Result<void> writeTempoMidi(const TempoMap& map, const fs::path& file, Outputs& outputs) {
  Writer w;
  writeTempoMap(w, map, Ticks{0}, map.tempos().back().at);
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
    w.note(at, kNotes[1], velocity(groove.loudness[i]));
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
        w.bend(ticks(static_cast<double>(t) * PitchTrack::kHop), midi(line.track.values[t].hertz) - key);
  }
  return w.save(file, outputs);
}

Result<Groove> readGrooveMidi(const fs::path& file, const Grid& grid) {
  auto text = readWholeFile(file, kLargestMidi);
  if (!text) return tl::unexpected(text.error());
  return grooveFromMidi(*text, file.string(), grid);
}

Result<Groove> grooveFromMidi(std::string_view bytes, const std::string& fileName, const Grid& grid) {
  auto read = readNotes(bytes, fileName);
  if (!read) return tl::unexpected(read.error());
  Groove g;
  g.name = shownPath(fs::path(fileName).stem());
  g.grid = grid;
  g.grid.swing = 50;
  g.meter = read->meter;
  const auto step = g.grid.step().value;
  const auto bar = g.meter.barLength().value;
  const auto places = static_cast<std::size_t>((bar + step - 1) / step);
  g.offsetsMs.assign(places, 0.0);
  g.loudness.assign(places, 0.0);
  std::vector<int> count(places, 0);
  g.scatterMs.resize(places);
  for (const auto& n : read->notes) {
    const auto into = n.at.value % bar;
    auto place = (into + step / 2) / step;
    auto late = into - place * step;
    if (place >= static_cast<std::int64_t>(places)) place = 0, late = into - bar;  // early for the next bar's first
    const auto p = static_cast<std::size_t>(place);
    const double lateMs = static_cast<double>(late) / static_cast<double>(kTicksPerQuarter) * 60'000 / read->bpm;
    g.offsetsMs[p] += lateMs;
    g.scatterMs[p].push_back(lateMs);
    g.loudness[p] += n.loud;
    ++count[p];
  }
  for (std::size_t i = 0; i < places; ++i)
    if (count[i] > 0) {
      g.offsetsMs[i] /= count[i];
      g.loudness[i] = std::min(1.0, g.loudness[i] / count[i]);
    }
  for (auto& s : g.scatterMs) s = scatterProfile(std::move(s));
  return g;
}

}  // namespace ochron
