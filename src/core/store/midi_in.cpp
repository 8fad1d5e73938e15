#include "store/midi_in.h"

#include <algorithm>

#include "base/numbers.h"
#include "feel/given_feel.h"
#include "files/atomic_file.h"
#include "files/file_names.h"
#include "media/midi_reader.h"

namespace ochron {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t kLargestMapFile = std::size_t{16} << 20;

double loudness(int velocity) { return velocity / 127.0 * velocity / 127.0; }

std::string noGroove(const std::string& name) { return name + " cannot be read as a groove"; }

Result<Groove> grooveOf(const Result<MidiFile>& read, const std::string& fileName, const Grid& grid) {
  if (!read) return tl::unexpected(read.error());
  const auto& file = *read;
  if (file.notes.empty())
    return fail(ErrorKind::badInput, noGroove(fileName) + ": it holds no note. Choose another file.");
  Groove g;
  g.name = shownPath(fs::path(fileName).stem());
  g.grid = grid;
  g.grid.swing = 50;
  if (!file.meters.empty()) g.meter = {file.meters.front().beats, file.meters.front().unit};
  const double bpm = file.tempos.empty() ? kBpmRange.fallback : file.tempos.front().bpm;
  const auto step = g.grid.step().value;
  const auto bar = g.meter.barLength().value;
  const auto places = static_cast<std::size_t>((bar + step - 1) / step);
  g.offsetsMs.assign(places, 0.0);
  g.loudness.assign(places, 0.0);
  std::vector<int> count(places, 0);
  g.scatterMs.resize(places);
  for (const auto& n : file.notes) {
    const auto into = n.at * kTicksPerQuarter / file.division % bar;
    auto place = (into + step / 2) / step;
    auto late = into - place * step;
    if (place >= static_cast<std::int64_t>(places)) place = 0, late = into - bar;  // early for the next bar's first
    const auto p = static_cast<std::size_t>(place);
    const double lateMs = static_cast<double>(late) / static_cast<double>(kTicksPerQuarter) * 60'000 / bpm;
    g.offsetsMs[p] += lateMs;
    g.scatterMs[p].push_back(lateMs);
    g.loudness[p] += loudness(n.velocity);
    ++count[p];
  }
  average(g, count);
  return g;
}

}  // namespace

Result<Groove> readGrooveMidi(const fs::path& file, const Grid& grid) {
  return grooveOf(readMidiFile(file, noGroove(file.string())), file.string(), grid);
}

Result<Groove> grooveFromMidi(std::string_view bytes, const std::string& fileName, const Grid& grid) {
  return grooveOf(readMidi(bytes, noGroove(fileName)), fileName, grid);
}

namespace {

/// Meters by bars. Where one begins inside a bar, what was there of that bar is a bar of its own.
std::vector<MeterEvent> metersOf(const MidiFile& file) {
  std::vector<MeterEvent> out{{0, Meter{}}};
  Ticks line{0};  // where the bar begins that is looked at
  int bar = 0;
  const auto change = [&](Meter m) {
    if (out.back().bar == bar)
      out.back().meter = m;
    else if (out.back().meter != m)
      out.push_back({bar, m});
  };
  for (const auto& c : file.meters) {
    const Ticks at{c.at * kTicksPerQuarter / file.division};
    const auto whole = (at - line).value / out.back().meter.barLength().value;
    bar += static_cast<int>(whole);
    line += out.back().meter.barLength() * whole;
    if (const auto rest = at - line; rest.value > 0) {
      constexpr int kUnit = 16;
      constexpr int kMostBeats = 64;
      const auto step = Meter{1, kUnit}.barLength().value;
      change({static_cast<int>(std::clamp<std::int64_t>((rest.value + step / 2) / step, 1, kMostBeats)), kUnit});
      ++bar;
      line = at;
    }
    change({c.beats, c.unit});
  }
  return out;
}

}  // namespace

Result<MidiMap> mapFromMidi(std::string_view bytes, const std::string& fileName, int rate, Frames origin) {
  const auto head = fileName + " cannot be read as a tempo map";
  const auto read = readMidi(bytes, head);
  if (!read) return tl::unexpected(read.error());
  std::vector<TempoEvent> tempos;
  for (const auto& t : read->tempos) {
    const Ticks at{t.at * kTicksPerQuarter / read->division};
    if (!tempos.empty() && tempos.back().at == at) tempos.pop_back();  // the last one said holds
    tempos.push_back({at, t.bpm, false});
  }
  if (tempos.empty())
    return fail(ErrorKind::badInput, head + ": it says no tempo. Choose another file, or listen for the tempo.");
  for (const auto& t : tempos)
    if (!kBpmRange.accepts(t.bpm))
      return fail(ErrorKind::badInput, head + ": a tempo of " + fixed(t.bpm, 1) + " BPM is outside 10 to 999.");
  auto map = TempoMap::make(rate, origin, std::move(tempos), metersOf(*read));
  if (!map) return fail(ErrorKind::badInput, head + ": " + map.error().message);
  MidiMap out{*map, {}};
  for (const auto& m : read->markers) out.markers.push_back({Ticks{m.at * kTicksPerQuarter / read->division}, m.text});
  return out;
}

Result<MidiMap> readMapMidi(const fs::path& file, int rate, Frames origin) {
  const auto text = readWholeFile(file, kLargestMapFile);
  if (!text) return tl::unexpected(text.error());
  return mapFromMidi(*text, file.string(), rate, origin);
}

}  // namespace ochron
