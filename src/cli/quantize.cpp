#include <algorithm>
#include <cmath>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>

#include "commands.h"
#include "edits/plan_edits.h"
#include "edits/tempo_edits.h"
#include "feel/groove.h"
#include "feel/plan_timing.h"
#include "files/file_names.h"
#include "files/outputs.h"
#include "number_option.h"
#include "render/export.h"
#include "render/made_store.h"
#include "render/render_plan.h"
#include "seams/apply_plan.h"
#include "store/groove_file.h"
#include "store/midi_in.h"
#include "take_files.h"
#include "takes/hear_tempo.h"

namespace ochron::cli {
namespace {

namespace fs = std::filesystem;

struct QuantizeOptions {
  bool keepExisting = false;
  std::vector<std::string> inputs;
  std::vector<int> guides;
  std::string tempo;
  std::string tempoMap;
  std::string meter;  // empty: as heard, else 4/4
  std::string grid = "1/16";
  double start = 0;
  HitSettings hits;
  TimingSettings timing;
  std::string method = "slice";
  std::string groove;
  std::vector<std::string> classes;
  std::vector<std::string> classGrids;
  std::string takeGroove;
  std::string out;
  std::string report;
  bool acceptDamaged = false;
};

/// "hat=1/16" or "hat=1/16:62", the number being the swing.
Result<GridRule> parseClassGrid(const std::string& text) {
  const auto wrong = [&](const std::string& why) {
    return fail(ErrorKind::badInput, "--class-grid " + text + ": " + why + ". Write it like hat=1/16 or hat=1/16:62.");
  };
  const auto equals = text.find('=');
  if (equals == std::string::npos) return wrong("there is no \"=\"");
  GridRule rule;
  const auto drum = std::find(kDrumClassNames.begin(), kDrumClassNames.end(), text.substr(0, equals));
  if (drum == kDrumClassNames.end()) return wrong("\"" + text.substr(0, equals) + "\" is no drum class");
  rule.drum = static_cast<DrumClass>(drum - kDrumClassNames.begin());
  const auto colon = text.find(':', equals);
  auto grid = parseGrid(text.substr(equals + 1, colon == std::string::npos ? colon : colon - equals - 1));
  if (!grid) return wrong("the grid is none");
  rule.grid = *grid;
  if (colon != std::string::npos) {
    const auto swing = parseNumber(text.substr(colon + 1));
    if (!swing || !kSwingRange.accepts(*swing)) return wrong("swing goes from 50 to 75");
    rule.grid.swing = *swing;
  }
  return rule;
}

constexpr const char* kHeard = "auto";

/// That of a MIDI file, the tempo that was typed, or with "auto" the one that is heard in the take.
Result<TempoMap> mapFor(const QuantizeOptions& o, const TakeFiles& files, std::optional<Meter> meter) {
  const auto rate = files.song.rate;
  if (!o.tempoMap.empty()) {
    auto read = readMapMidi(o.tempoMap, rate, Frames{std::llround(o.start * rate)});
    if (!read) return tl::unexpected(read.error());
    return read->map;
  }
  if (o.tempo != kHeard) {
    const double bpm = parseNumber(o.tempo).value();  // its option's check let it pass
    return TempoMap::steady(rate, bpm, meter.value_or(Meter{}), Frames{std::llround(o.start * rate)});
  }
  Progress progress;
  Result<HeardTempo> heard = cancelledError();
  withProgress("listening for the tempo", progress, [&] {
    heard = hearTempo(mixOf(files.song, *files.song.find(files.set), files.take, files.pool), rate, {}, progress);
  });
  if (!heard) return tl::unexpected(heard.error());
  return tempoMapOf(*heard, rate, meter);
}

Result<void> plan(const QuantizeOptions& o, TakeFiles& files) {
  std::optional<Meter> meter;
  if (!o.meter.empty()) {
    const auto typed = parseMeter(o.meter);
    if (!typed) return tl::unexpected(typed.error());
    meter = *typed;
  }
  auto grid = parseGrid(o.grid);
  if (!grid) return tl::unexpected(grid.error());
  auto map = mapFor(o, files, meter);
  if (!map) return tl::unexpected(map.error());
  TimingPlan timing;
  timing.settings = o.timing;
  timing.settings.on = true;
  timing.settings.grid = *grid;
  timing.settings.grid.swing = o.timing.grid.swing;
  for (const auto& text : o.classGrids) {
    auto rule = parseClassGrid(text);
    if (!rule) return tl::unexpected(rule.error());
    timing.settings.gridRules.push_back(*rule);
  }
  for (const auto& name : o.classes) {
    const auto drum = std::find(kDrumClassNames.begin(), kDrumClassNames.end(), name);
    timing.settings.classes.push_back(static_cast<DrumClass>(drum - kDrumClassNames.begin()));
  }
  auto song = setTempoMap(files.song, *map);
  if (song) song = setTimingPlan(*song, files.set, timing);
  if (!song) return tl::unexpected(song.error());
  files.song = *song;
  return {};
}

nlohmann::ordered_json statsJson(const TimingStats& s) {
  return {{"hits", s.count},
          {"mean_before_ms", s.meanBeforeMs},
          {"spread_before_ms", s.spreadBeforeMs},
          {"mean_after_ms", s.meanAfterMs},
          {"spread_after_ms", s.spreadAfterMs}};
}

std::string reportJson(const TakeFiles& files, const TimingResult& timing) {
  const double rate = files.song.rate;
  nlohmann::ordered_json j{{"moves", nlohmann::ordered_json::array()}, {"seams", nlohmann::ordered_json::array()}};
  for (const auto& h : timing.hits)
    j["moves"].push_back(
        {{"from", static_cast<double>(h.home.value) / rate}, {"to", static_cast<double>(h.to().value) / rate}});
  const auto& clips = *files.song.find(files.set)->clips;
  for (std::size_t i = 1; i < clips.size(); ++i) {
    const auto& seam = clips[i].seam;
    const auto fade = seam.before + seam.after + clips[i].fadeIn.length;
    j["seams"].push_back({{"time", static_cast<double>(clips[i].start.value) / rate},
                          {"fade_ms", msFromFrames(fade, rate)},
                          {"fill", kSeamFillNames[static_cast<std::size_t>(seam.fill)]}});
  }
  j["feel"] = statsJson(timing.stats());
  auto& drums = j["feel"]["classes"] = nlohmann::ordered_json::object();
  for (std::size_t d = 0; d < kDrumClassNames.size(); ++d)
    if (const auto s = timing.statsOf(static_cast<DrumClass>(d)); s.count > 0)
      drums[std::string(kDrumClassNames[d])] = statsJson(s);
  auto& pocket = j["feel"]["pocket_ms"] = nlohmann::ordered_json::array();
  for (const auto& p : timing.pocketProfile())
    pocket.push_back({{"quarters", static_cast<double>(p.inBar.value) / static_cast<double>(kTicksPerQuarter)},
                      {"ms", p.meanMs},
                      {"hits", p.count}});
  return j.dump(1) + "\n";
}

fs::path outputFor(const QuantizeOptions& o, std::size_t input) {
  return fs::path(o.out) / fs::path(o.inputs[input]).filename();
}

/// Of the names alone, before anything is read.
Result<void> checkNames(const QuantizeOptions& o) {
  std::set<std::string> names;
  for (const auto& input : o.inputs) {
    if (!names.insert(fs::path(input).filename().string()).second)
      return fail(ErrorKind::badInput,
                  input + ": two inputs have this file name, and both would become one output. Rename one of them.");
    if (auto ok = formatToWrite(input); !ok) return tl::unexpected(ok.error());
  }
  return {};
}

/// Of what the files turned out to hold.
Result<void> checkInputs(const QuantizeOptions& o, const TakeFiles& files) {
  for (std::size_t i = 0; i < o.inputs.size(); ++i) {
    const auto& info = files.infos[i];
    if (info.channels > 2)
      return fail(ErrorKind::badInput, o.inputs[i] + ": it has " + std::to_string(info.channels) +
                                           " channels. Split it into files of one or two channels first.");
    // What packs with losses is written again only where the name says so.
    if (info.format != formatForName(o.inputs[i]) && (isPacked(info.format) || info.format == FileFormat::other))
      return fail(ErrorKind::badInput, o.inputs[i] + ": whatever its name says, this is " + info.formatName +
                                           ". Name it as what it is, or convert it to WAV or FLAC first.");
  }
  return {};
}

/// Every file the call writes, as some of `outputs`.
Result<void> writeAll(const QuantizeOptions& o, const TakeFiles& files, const TimingResult& timing,
                      const std::optional<Groove>& taken, const RenderPlan& render, Outputs& outputs) {
  for (std::size_t i = 0; i < o.inputs.size(); ++i) {
    const auto& info = files.infos[i];
    Progress progress;
    const WriteFormat format{info.format, info.samples, info.rate, info.channels};
    Result<std::int64_t> clipped = cancelledError();
    withProgress("writing", progress, [&] {
      clipped = exportTrack(render.tracks[i], format, {Frames{0}, info.length}, {}, outputFor(o, i),
                            {info.timeReference, {}}, outputs, progress);
    });
    if (!clipped) return tl::unexpected(clipped.error());
  }
  if (!o.report.empty())
    if (auto ok = outputs.add(o.report, reportJson(files, timing)); !ok) return ok;
  if (taken) return writeGroove(*taken, o.takeGroove, outputs);
  return {};
}

std::string summary(const QuantizeOptions& o, const TimingStats& s) {
  return std::to_string(s.count) + " hits, mean " + signedFixed(s.meanBeforeMs, 1) + " -> " +
         signedFixed(s.meanAfterMs, 1) + " ms, spread " + fixed(s.spreadBeforeMs, 1) + " -> " +
         fixed(s.spreadAfterMs, 1) + " ms, " + std::to_string(o.inputs.size()) + " files in " + o.out + "\n";
}

Result<std::string> run(QuantizeOptions o) {
  if (auto ok = checkNames(o); !ok) return tl::unexpected(ok.error());
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  for (const auto& input : o.inputs) outputs.protect(input);
  if (!o.tempoMap.empty()) outputs.protect(o.tempoMap);
  if (!o.groove.empty()) {
    outputs.protect(o.groove);
    auto grid = parseGrid(o.grid);
    if (!grid) return tl::unexpected(grid.error());
    auto groove = readGrooveFile(o.groove, *grid);
    if (!groove) return tl::unexpected(groove.error());
    o.timing.groove = *groove;
  }
  if (o.timing.givenScatter > 0) {
    const auto knows = [](const Groove& g) {
      return std::any_of(g.scatterMs.begin(), g.scatterMs.end(), [](auto& place) { return !place.empty(); });
    };
    if (!o.timing.groove)
      return fail(ErrorKind::badInput, "--give-scatter needs a player to take it from. Name a groove with --groove.");
    if (!knows(*o.timing.groove))
      return fail(ErrorKind::badInput, shownPath(o.groove) +
                                           " tells no scatter: it was played once or kept without it. Take a groove "
                                           "from a performance of several bars.");
  }
  if (o.method == "stretch") o.timing.method = TimingMethod::stretch;
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake(o.inputs, o.guides, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  if (auto ok = checkInputs(o, *files); !ok) return tl::unexpected(ok.error());
  if (auto ok = plan(o, *files); !ok) return tl::unexpected(ok.error());
  if (auto ok = findHits(*files, o.hits); !ok) return tl::unexpected(ok.error());
  const auto timing = planTiming(files->song, files->set);
  std::optional<Groove> taken;
  if (!o.takeGroove.empty()) {
    auto groove = takeGroove(files->song, files->set, shownPath(fs::path(o.takeGroove).stem()));
    if (!groove) return tl::unexpected(groove.error());
    taken = std::move(*groove);
  }
  auto song = applyTimingPlan(files->song, files->set, timing, files->pool);
  if (!song) return tl::unexpected(song.error());
  files->song = *song;
  Progress stretching;
  MadeStore made(scratch->path());
  Result<void> stretched;
  withProgress("stretching", stretching,
               [&] { stretched = makeMissing(files->song, files->pool, made, Frames{}, stretching); });
  if (!stretched) return tl::unexpected(stretched.error());
  const auto render = compilePlan(files->song, files->pool, nullptr, &made);
  if (auto ok = writeAll(o, *files, timing, taken, render, outputs); !ok) return tl::unexpected(ok.error());
  if (auto ok = stillAsRead(files->pool); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  return summary(o, timing.stats());
}

}  // namespace

void addQuantize(CLI::App& app, Command& chosen) {
  constexpr SettingRange kStartRange{"start", "s", -86'400, 86'400, 0.001, 0};
  auto o = std::make_shared<QuantizeOptions>();
  auto* c = app.add_subcommand("quantize", "Lock a take to the grid; the inputs are its mics and move as one");
  c->add_option("INPUT", o->inputs, "audio files recorded together")->required();
  auto* tempo = c->add_option_group("tempo", "one of")->require_option(1);
  tempo
      ->add_option("--tempo", o->tempo,
                   "quarter notes a minute, or auto: as it is heard, with bar 1 and where it wanders bar by bar")
      ->check(inRange(kBpmRange) | CLI::IsMember({kHeard}));
  auto* map =
      tempo->add_option("--tempo-map", o->tempoMap, "tempos and meters of this MIDI file, which begins at --start");
  c->add_option("--meter", o->meter, "for example 4/4 or 7/8; else as heard, or 4/4; a tempo map has its own")
      ->excludes(map);
  c->add_option("--grid", o->grid, "1/1 to 1/64; t: triplets, d: dotted")->required();
  auto& t = o->timing;
  addNumbers(*c, t, kTimingNumbers);
  addNumber(*c, "--swing", t.grid.swing, kSwingRange, "second line of each pair at this percent of the pair");
  addNumber(*c, "--start", o->start, kStartRange, "where bar 1 begins in the file, seconds");
  c->add_option("--guides", o->guides, "inputs to listen to, from 0 (default: all)")->delimiter(',');
  addNumbers(*c, o->hits, kHitNumbers);
  c->add_option("--classes", o->classes, "only hits of these classes are moved (kick,snare,...; default: all)")
      ->delimiter(',')
      ->check(CLI::IsMember(std::vector<std::string>(kDrumClassNames.begin(), kDrumClassNames.end())));
  c->add_option("--class-grid", o->classGrids, "another grid for one class: hat=1/16 or, with swing, hat=1/16:62");
  c->add_option("--groove", o->groove, "put hits where this groove (JSON or MIDI) has them instead of on the lines");
  c->add_option("--take-groove", o->takeGroove, "write this performance's own groove to this file (.json or .mid)");
  c->add_option("--method", o->method, "slice: nothing is stretched; stretch: sustains are, between hits")
      ->check(CLI::IsMember({"slice", "stretch"}))
      ->capture_default_str();
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged files");
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_option("--out", o->out, "folder for the outputs")->required();
  c->add_option("--report", o->report, "write moves, seams and feel as JSON to this file");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
