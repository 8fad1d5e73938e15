#include <memory>
#include <nlohmann/json.hpp>

#include "analysis/tempo/tempo.h"
#include "commands.h"
#include "number_option.h"
#include "take_files.h"
#include "takes/hear_tempo.h"
#include "time/grid.h"

namespace ochron::cli {
namespace {

struct TempoOptions {
  std::string input;
  TempoSearch search;
  double beats = 0;
  bool json = false;
  bool acceptDamaged = false;
};

Result<std::string> run(const TempoOptions& o) {
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake({o.input}, {}, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  const auto mono = mixOf(files->song, *files->song.find(files->set), files->take, files->pool);
  auto search = o.search;
  if (o.beats > 0) search.beats = o.beats;
  Progress progress;
  Result<HeardTempo> heard = cancelledError();
  withProgress("listening", progress, [&] { heard = hearTempo(mono, files->song.rate, search, progress); });
  if (!heard) {
    auto e = heard.error();
    e.message = o.input + ": " + e.message;
    return tl::unexpected(e);
  }
  if (!o.json)
    return fixed(heard->bpm, 3) + " BPM, " + steadyText(*heard) + ", " + fixed(100 * heard->confidence, 0) +
           " % sure, " + std::to_string(heard->beats.size()) + " beats, " + std::to_string(heard->downbeats.size()) +
           " bars of " + metersText(*heard) + " (" + fixed(100 * heard->barConfidence, 0) + " % sure)\n";
  nlohmann::ordered_json j{{"bpm", heard->bpm},
                           {"confidence", heard->confidence},
                           {"steady", steadyText(*heard)},
                           {"beats", heard->beats},
                           {"downbeats", heard->downbeats},
                           {"meters", nlohmann::ordered_json::array()},
                           {"candidates", nlohmann::ordered_json::array()}};
  for (const auto& m : heard->meters()) j["meters"].push_back({{"bar", m.bar + 1}, {"meter", toText(m.meter)}});
  for (const auto& c : heard->candidates) j["candidates"].push_back({{"bpm", c.bpm}, {"score", c.score}});
  return j.dump() + "\n";
}

}  // namespace

void addTempo(CLI::App& app, Command& chosen) {
  constexpr SettingRange kBeatsRange{"beats", "", 0, 4096, 1, 0};
  auto o = std::make_shared<TempoOptions>();
  auto* c = app.add_subcommand("tempo", "Listen for the tempo, the beats and the bars of a recording");
  c->add_option("INPUT", o->input, "audio file")->required();
  addNumber(*c, "--min", o->search.slowest, kSlowestRange, "no tempo below this, BPM");
  addNumber(*c, "--max", o->search.fastest, kFastestRange, "no tempo above this, BPM");
  addNumber(*c, "--beats", o->beats, kBeatsRange, "the whole file is so many beats; 0: not known");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of a damaged file");
  c->add_flag("--json", o->json, "print one JSON document");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
