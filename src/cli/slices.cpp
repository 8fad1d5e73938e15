#include "kit/slices.h"

#include <algorithm>
#include <memory>

#include "commands.h"
#include "files/file_names.h"
#include "files/outputs.h"
#include "number_option.h"
#include "store/midi_file.h"
#include "store/sfz_file.h"
#include "take_files.h"
#include "takes/hear_tempo.h"
#include "time/grid.h"

namespace ochron::cli {
namespace {

namespace fs = std::filesystem;

struct SlicesOptions {
  std::string input;
  std::string out;
  std::string by = "hits";
  std::string grid = "1/16";
  std::string tempo = "auto";
  std::string name = "{input}-{n}-{class}";
  double start = 0;
  HitSettings hits;
  bool sfz = false;
  bool midi = false;
  bool keepExisting = false;
  bool acceptDamaged = false;
};

Result<TempoMap> mapOf(const SlicesOptions& o, const TakeFiles& files) {
  const auto rate = files.song.rate;
  if (const auto bpm = parseNumber(o.tempo))
    return TempoMap::steady(rate, *bpm, Meter{}, Frames{std::llround(o.start * rate)});
  Progress progress;
  Result<HeardTempo> heard = cancelledError();
  withProgress("listening for the tempo", progress, [&] {
    heard = hearTempo(mixOf(files.song, *files.song.find(files.set), files.take, files.pool), rate, {}, progress);
  });
  if (!heard) {
    auto e = heard.error();
    e.message = o.input + ": " + e.message + " Give its tempo with --tempo.";
    return tl::unexpected(e);
  }
  return tempoMapOf(*heard, rate);
}

std::string nameOf(const SlicesOptions& o, const Slice& slice, std::size_t n, std::size_t count, double bpm) {
  const fs::path input(o.input);
  return sliceName(o.name, {input.stem().string(), n, count, slice.drum, bpm}) + input.extension().string();
}

Result<void> writeSlice(const SlicesOptions& o, const TakeFiles& files, const Slice& slice, const std::string& name,
                        Outputs& outputs) {
  const auto& info = files.infos.front();
  const auto& media = *files.pool.at(files.song.takes.front().mics.front().media);
  const auto target = fs::path(o.out) / name;
  auto writer = AudioFileWriter::create(
      outputs, target,
      {formatForName(target), info.samples == SampleFormat::compressed ? SampleFormat::pcm24 : info.samples,
       files.song.rate, media.channels(), slice.range.length()});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<Samples> channels;
  for (int c = 0; c < media.channels(); ++c)
    channels.push_back(media.channel(c).subspan(static_cast<std::size_t>(slice.range.start.value),
                                                static_cast<std::size_t>(slice.range.length().value)));
  if (auto ok = writer->writeChannels(channels); !ok) return ok;
  return writer->finish();
}

Result<void> writeInstrument(const SlicesOptions& o, const std::vector<std::string>& names, Outputs& outputs) {
  std::vector<SfzSound> sounds;
  for (std::size_t i = 0; i < names.size(); ++i) {
    if (keyOfSlice(i, names.size()) >= kSliceKeys) break;
    sounds.push_back({names[i], keyOfSlice(i, names.size())});
  }
  return outputs.add(fs::path(o.out) / (fs::path(o.input).stem().string() + ".sfz"), sfzText(sounds));
}

Result<void> writePattern(const SlicesOptions& o, const TempoMap& map, const std::vector<Slice>& slices,
                          Outputs& outputs) {
  const auto first = map.barStart(map.barAt(slices.front().range.start));
  std::vector<PatternNote> notes;
  for (std::size_t i = 0; i < slices.size() && keyOfSlice(i, slices.size()) < kSliceKeys; ++i) {
    const auto at = map.toTicks(slices[i].range.start);
    notes.push_back({at - first, map.toTicks(slices[i].range.end) - at, keyOfSlice(i, slices.size()),
                     slices[i].strength > 0 ? slices[i].strength : 1});
  }
  return writePatternMidi(map, first, notes, fs::path(o.input).stem().string(),
                          fs::path(o.out) / (fs::path(o.input).stem().string() + ".mid"), outputs);
}

Result<std::string> run(const SlicesOptions& o) {
  const auto grid = parseGrid(o.grid);
  if (!grid) return tl::unexpected(grid.error());
  const auto format = formatToWrite(o.input);
  if (!format) return tl::unexpected(format.error());
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  outputs.protect(o.input);
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake({o.input}, {}, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  if (auto ok = findHits(*files, o.hits); !ok) return tl::unexpected(ok.error());
  const FrameRange whole{Frames{}, files->song.takes.front().length};
  auto map = TempoMap::steady(files->song.rate, 120);
  const bool tempoNeeded = o.by == "grid" || o.midi || o.name.find("{bpm}") != std::string::npos;
  if (tempoNeeded) map = mapOf(o, *files);
  if (!map) return tl::unexpected(map.error());
  std::vector<Slice> slices;
  if (o.by == "hits") {
    slices = slicesAtHits(files->song, files->take, files->set, whole);
  } else {
    std::vector<Frames> places;
    const auto from = map->toTicks(whole.start);
    for (const auto& line : gridLines(*map, *grid, from, map->toTicks(whole.end))) places.push_back(line.frame);
    if (places.empty() || places.front() > whole.start) places.insert(places.begin(), whole.start);
    slices = slicesAt(files->song, files->take, files->set, whole, places);
  }
  if (slices.empty())
    return fail(ErrorKind::badInput, o.input + ": no hits were found to cut at. Cut at the grid: --by grid.");
  std::vector<std::string> names;
  for (std::size_t i = 0; i < slices.size(); ++i) {
    names.push_back(nameOf(o, slices[i], i, slices.size(), map->bpmAt(map->toTicks(slices[i].range.start))));
    if (std::find(names.begin(), names.end() - 1, names.back()) != names.end() - 1)
      return fail(ErrorKind::badInput, "--name gives two slices the name " + names.back() + ". Put {n} into it.");
    if (auto ok = writeSlice(o, *files, slices[i], names.back(), outputs); !ok) return tl::unexpected(ok.error());
  }
  if (o.sfz)
    if (auto ok = writeInstrument(o, names, outputs); !ok) return tl::unexpected(ok.error());
  if (o.midi)
    if (auto ok = writePattern(o, *map, slices, outputs); !ok) return tl::unexpected(ok.error());
  if (auto ok = stillAsRead(files->pool); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  const bool keyless = (o.sfz || o.midi) && static_cast<int>(slices.size()) > kSliceKeys;
  return std::to_string(slices.size()) + (slices.size() == 1 ? " slice, " : " slices, ") + o.out + "\n" +
         (keyless ? "A keyboard has 128 keys: instrument and pattern hold the first 128 slices.\n" : "");
}

}  // namespace

void addSlices(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<SlicesOptions>();
  auto* c = app.add_subcommand("slices", "Write the pieces between hits as files, with an instrument and a pattern");
  c->add_option("INPUT", o->input, "audio file")->required();
  c->add_option("--out", o->out, "folder for the slices")->required();
  c->add_flag("--sfz", o->sfz, "write an SFZ instrument of them beside them");
  c->add_flag("--midi", o->midi, "write the pattern that plays them as recorded as a MIDI file");
  c->add_option("--by", o->by, "cut at the hits or at the grid")
      ->check(CLI::IsMember({"hits", "grid"}))
      ->capture_default_str();
  c->add_option("--grid", o->grid, "the grid, with --by grid: 1/16, 1/8t ...")->capture_default_str();
  c->add_option("--tempo", o->tempo, "BPM, or auto: as heard")
      ->check([](const std::string& text) {
        const auto bpm = parseNumber(text);
        return text == "auto" || (bpm && kBpmRange.accepts(*bpm)) ? std::string()
                                                                  : "\"" + text + "\" is neither auto nor a tempo";
      })
      ->capture_default_str();
  addNumber(*c, "--start", o->start, {"start", "s", -3600, 360'000, 0.001, 0}, "where bar 1 begins, seconds");
  c->add_option("--name", o->name, "names of the files, of {input}, {n}, {class}, {bpm} and {key}")
      ->capture_default_str();
  addNumbers(*c, o->hits, kHitNumbers);
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged files");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
