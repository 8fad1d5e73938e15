#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>

#include "commands.h"
#include "feel/groove.h"
#include "feel/plan.h"
#include "render/export.h"
#include "render/plan.h"
#include "seams/apply_plan.h"
#include "song/edits.h"
#include "store/groove_file.h"
#include "store/midi_file.h"
#include "store/project.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

namespace fs = std::filesystem;

struct Options {
  std::vector<std::string> inputs;
  std::vector<int> guides;
  double bpm = 120;
  std::string meter = "4/4";
  std::string grid = "1/16";
  double start = 0;
  double sensitivity = kSensitivityRange.fallback;
  TimingSettings timing;
  std::string method = "slice";
  std::string groove;
  std::vector<std::string> classes;
  std::vector<std::string> classGrids;
  std::string takeGroove;
  std::string out;
  std::string report;
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
    char* end = nullptr;
    rule.grid.swing = std::strtod(text.c_str() + colon + 1, &end);
    if (*end != 0 || !kSwingRange.accepts(rule.grid.swing)) return wrong("swing goes from 50 to 75");
  }
  return rule;
}

Result<void> plan(const Options& o, TakeFiles& files) {
  auto meter = parseMeter(o.meter);
  if (!meter) return tl::unexpected(meter.error());
  auto grid = parseGrid(o.grid);
  if (!grid) return tl::unexpected(grid.error());
  auto map = TempoMap::steady(files.song.rate, o.bpm, *meter, Frames{std::llround(o.start * files.song.rate)});
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
                          {"fade_ms", static_cast<double>(fade.value) * 1000 / rate},
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

Result<void> checkOutputs(const Options& o) {
  std::set<std::string> names;
  for (const auto& input : o.inputs) {
    const auto target = fs::path(o.out) / fs::path(input).filename();
    if (!names.insert(target.filename().string()).second)
      return fail(ErrorKind::badInput,
                  input + ": two inputs have this file name, and both would become one output. Rename one of them.");
    std::error_code ec;
    if (fs::equivalent(target, input, ec))
      return fail(ErrorKind::badInput,
                  input + ": the output would overwrite the recording. Choose another folder with --out.");
    if (formatForName(input) == FileFormat::mp3 || formatForName(input) == FileFormat::other)
      return fail(ErrorKind::badInput,
                  input + ": this format can be read but not written. Convert it to WAV or FLAC first.");
  }
  return {};
}

Result<std::string> run(Options o) {
  if (auto ok = checkOutputs(o); !ok) return tl::unexpected(ok.error());
  if (!o.groove.empty()) {
    const bool midi = fs::path(o.groove).extension() == ".mid" || fs::path(o.groove).extension() == ".midi";
    auto grid = parseGrid(o.grid);
    if (!grid) return tl::unexpected(grid.error());
    auto groove = midi ? readGrooveMidi(o.groove, *grid) : readGrooveFile(o.groove);
    if (!groove) return tl::unexpected(groove.error());
    o.timing.groove = *groove;
  }
  if (o.method == "stretch") o.timing.method = TimingMethod::stretch;
  const ScratchFolder scratch;
  auto files = loadTake(o.inputs, o.guides, scratch.path());
  if (!files) return tl::unexpected(files.error());
  for (std::size_t i = 0; i < o.inputs.size(); ++i)
    if (files->infos[i].channels > 2)
      return fail(ErrorKind::badInput, o.inputs[i] + ": it has " + std::to_string(files->infos[i].channels) +
                                           " channels. Split it into files of one or two channels first.");
  if (auto ok = plan(o, *files); !ok) return tl::unexpected(ok.error());
  if (auto ok = findHits(*files, o.sensitivity); !ok) return tl::unexpected(ok.error());
  const auto timing = planTiming(files->song, files->set);
  std::optional<Groove> taken;
  if (!o.takeGroove.empty()) {
    auto groove = takeGroove(files->song, files->set, fs::path(o.takeGroove).stem().string());
    if (!groove) return tl::unexpected(groove.error());
    taken = std::move(*groove);
  }
  auto song = applyTimingPlan(files->song, files->set, timing, files->pool);
  if (!song) return tl::unexpected(song.error());
  files->song = *song;
  Progress stretching;
  Result<StretchedSounds> stretched = StretchedSounds{};
  withProgress("stretching", stretching,
               [&] { stretched = renderStretched(files->song, files->pool, {}, stretching); });
  if (!stretched) return tl::unexpected(stretched.error());
  const auto render = compilePlan(files->song, files->pool, nullptr, *stretched);
  std::vector<fs::path> written;
  const auto takeBack = [&] {
    std::error_code ec;
    for (const auto& w : written) fs::remove(w, ec);
  };
  for (std::size_t i = 0; i < o.inputs.size(); ++i) {
    const auto& info = files->infos[i];
    const auto target = fs::path(o.out) / fs::path(o.inputs[i]).filename();
    Progress progress;
    auto format = WriteFormat{info.format, info.samples, info.rate, info.channels};
    Result<std::int64_t> clipped = cancelledError();
    withProgress("writing", progress, [&] {
      clipped =
          exportTrack(render.tracks[i], format, {Frames{0}, info.length}, {}, target, info.timeReference, progress);
    });
    if (!clipped) return takeBack(), tl::unexpected(clipped.error());
    written.push_back(target);
  }
  if (!o.report.empty())
    if (auto ok = writeAtomically(o.report, reportJson(*files, timing)); !ok)
      return takeBack(), tl::unexpected(ok.error());
  if (taken) {
    const bool midi = fs::path(o.takeGroove).extension() == ".mid";
    const auto ok = midi ? writeGrooveMidi(*taken, o.takeGroove) : writeGroove(*taken, o.takeGroove);
    if (!ok) return takeBack(), tl::unexpected(ok.error());
  }
  const auto s = timing.stats();
  char line[200];
  std::snprintf(line, sizeof line, "%d hits, mean %+.1f -> %+.1f ms, spread %.1f -> %.1f ms, %zu files in %s\n",
                s.count, s.meanBeforeMs, s.meanAfterMs, s.spreadBeforeMs, s.spreadAfterMs, written.size(),
                o.out.c_str());
  return std::string(line);
}

}  // namespace

void addQuantize(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<Options>();
  auto* c = app.add_subcommand("quantize", "Lock a take to the grid; the inputs are its mics and move as one");
  const auto percent = [&](const char* name, double& to, const char* text) {
    c->add_option(name, to, text)->check(CLI::Range(0.0, 100.0))->capture_default_str();
  };
  c->add_option("INPUT", o->inputs, "audio files recorded together")->required();
  c->add_option("--tempo", o->bpm, "quarter notes a minute")
      ->required()
      ->check(CLI::Range(kBpmRange.low, kBpmRange.high));
  c->add_option("--meter", o->meter, "for example 4/4 or 7/8")->capture_default_str();
  c->add_option("--grid", o->grid, "1/1 to 1/64; t: triplets, d: dotted")->required();
  percent("--strength", o->timing.strength, "how far hits go to their place, percent");
  c->add_option("--swing", o->timing.grid.swing, "second line of each pair at this percent of the pair")
      ->check(CLI::Range(kSwingRange.low, kSwingRange.high))
      ->capture_default_str();
  percent("--keep-drift", o->timing.keepDrift, "slow wandering that stays, percent");
  percent("--keep-pocket", o->timing.keepPocket, "repeating placement that stays, percent");
  percent("--keep-scatter", o->timing.keepScatter, "hit by hit deviation that stays, percent");
  c->add_option("--start", o->start, "where bar 1 begins in the file, seconds")
      ->check(CLI::Range(-86'400.0, 86'400.0))
      ->capture_default_str();
  c->add_option("--guides", o->guides, "inputs to listen to, from 0 (default: all)")->delimiter(',');
  c->add_option("--sensitivity", o->sensitivity, "how much counts as a hit, 0 to 100")
      ->check(CLI::Range(0.0, 100.0))
      ->capture_default_str();
  c->add_option("--tolerance", o->timing.toleranceMs, "leave alone what is within so many ms")
      ->check(CLI::Range(kToleranceRange.low, kToleranceRange.high))
      ->capture_default_str();
  c->add_option("--classes", o->classes, "only hits of these classes are moved (kick,snare,...; default: all)")
      ->delimiter(',')
      ->check(CLI::IsMember(std::vector<std::string>(kDrumClassNames.begin(), kDrumClassNames.end())));
  c->add_option("--class-grid", o->classGrids, "another grid for one class: hat=1/16 or, with swing, hat=1/16:62");
  c->add_option("--groove", o->groove, "put hits where this groove (JSON or MIDI) has them instead of on the lines");
  percent("--groove-amount", o->timing.grooveAmount, "how much of the groove, percent");
  c->add_option("--take-groove", o->takeGroove, "write this performance's own groove to this file (.json or .mid)");
  c->add_option("--method", o->method, "slice: nothing is stretched; stretch: sustains are, between hits")
      ->check(CLI::IsMember({"slice", "stretch"}))
      ->capture_default_str();
  c->add_option("--out", o->out, "folder for the outputs")->required();
  c->add_option("--report", o->report, "write moves, seams and feel as JSON to this file");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
