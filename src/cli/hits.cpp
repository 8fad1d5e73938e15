#include <memory>
#include <nlohmann/json.hpp>

#include "commands.h"
#include "files/outputs.h"
#include "number_option.h"
#include "reports/hit_table.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

struct HitsOptions {
  std::vector<std::string> inputs;
  std::vector<int> guides;
  HitSettings hits;
  std::string out;
  bool keepExisting = false;
  bool json = false;
  bool acceptDamaged = false;
};

std::string padded(const std::string& text, std::size_t width) {
  return std::string(text.size() < width ? width - text.size() : 0, ' ') + text;
}

Result<std::string> run(const HitsOptions& o) {
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake(o.inputs, o.guides, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  if (auto ok = findHits(*files, o.hits); !ok) return tl::unexpected(ok.error());
  const auto& song = files->song;
  const auto hits = activeHits(*song.hitsOf(files->take, files->set), song.find(files->set)->hits, song.rate);
  if (!o.out.empty()) {
    Outputs outputs;
    if (o.keepExisting) outputs.keepExisting();
    for (const auto& input : o.inputs) outputs.protect(input);
    auto done = writeHits(song, planTiming(song, files->set), song.find(files->set)->name, o.out, outputs);
    if (done) done = outputs.commit();
    if (!done) return tl::unexpected(done.error());
  }
  nlohmann::ordered_json j{{"rate", song.rate}, {"hits", nlohmann::ordered_json::array()}};
  std::string table;
  for (const auto& h : hits) {
    const double time = static_cast<double>(h.at.value) / song.rate;
    std::vector<int> tracks;
    for (const auto& heard : h.heardBy)
      for (std::size_t i = 0; i < song.tracks.size(); ++i)
        if (song.tracks[i].id == heard.track) tracks.push_back(static_cast<int>(i));
    auto strokes = nlohmann::ordered_json::array();
    std::string drums;
    for (const auto& s : strokesOf(h)) {
      const auto name = kDrumClassNames[static_cast<std::size_t>(s.drum)];
      strokes.push_back(
          {{"class", name}, {"time", static_cast<double>(s.at.value) / song.rate}, {"strength", s.strength}});
      drums += (drums.empty() ? "" : "+") + std::string(name);
    }
    const auto drum = kDrumClassNames[static_cast<std::size_t>(h.drum)];
    if (o.json) {
      j["hits"].push_back({{"time", time},
                           {"frame", h.at.value},
                           {"strength", h.strength},
                           {"confidence", h.confidence},
                           {"class", drum},
                           {"tracks", tracks},
                           {"strokes", strokes}});
    } else {
      table += padded(fixed(time, 6), 12) + "  " + padded(std::to_string(h.at.value), 10) + "  " +
               padded(fixed(h.strength, 3), 5) + "  " + padded(fixed(h.confidence, 3), 5) + "  " + drums + "\n";
    }
  }
  return o.json ? j.dump() + "\n" : "        time       frame  stren  confi  class\n" + table;
}

}  // namespace

void addHits(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<HitsOptions>();
  auto* c = app.add_subcommand("hits", "Find the hits of a take; the inputs are its mics");
  c->add_option("INPUT", o->inputs, "audio files recorded together")->required();
  c->add_option("--guides", o->guides, "inputs to listen to, from 0 (default: all)")->delimiter(',');
  addNumbers(*c, o->hits, kHitNumbers);
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged files");
  c->add_option("--out", o->out,
                "write them as a table (.csv, .json) or as notes (.mid), too; bars are those of 120 BPM");
  c->add_flag("--keep-existing", o->keepExisting, "never replace a file");
  c->add_flag("--json", o->json, "print one JSON document");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
