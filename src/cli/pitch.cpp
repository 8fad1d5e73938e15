#include <cmath>
#include <memory>
#include <nlohmann/json.hpp>

#include "commands.h"
#include "files/file_names.h"
#include "files/outputs.h"
#include "number_option.h"
#include "reports/line_table.h"
#include "store/midi_file.h"
#include "take_files.h"
#include "takes/hear_line.h"

namespace ochron::cli {
namespace {

struct PitchOptions {
  bool keepExisting = false;
  std::string input;
  PitchSettings settings;
  std::string out;
  bool bends = false;
  bool json = false;
  bool acceptDamaged = false;
};

/// As MIDI, CSV, JAMS, by the file's ending.
Result<void> write(const PitchOptions& o, const SungLine& line, double seconds) {
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  outputs.protect(o.input);
  const std::filesystem::path file(o.out);
  const auto title = std::filesystem::path(o.input).stem().string();
  const auto ending = endingOf(file);
  Result<void> done;
  if (isMidiName(file))
    done = writeLineMidi(line, title, o.bends, file, outputs);
  else if (ending == ".csv")
    done = outputs.add(file, notesToCsv(line));
  else if (ending == ".jams")
    done = outputs.add(file, lineToJams(line, title, seconds));
  else
    return fail(ErrorKind::badInput, o.out + ": give the file the ending .mid, .csv or .jams.");
  return done ? outputs.commit() : done;
}

Result<std::string> run(const PitchOptions& o) {
  if (o.settings.lowest >= o.settings.highest)
    return fail(ErrorKind::badInput, "The lowest pitch must be below the highest.");
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake({o.input}, {}, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  if (auto found = findHits(*files, files->song.find(files->set)->hits); !found) return tl::unexpected(found.error());
  Progress progress;
  Result<HeardLine> heard = cancelledError();
  withProgress("listening", progress, [&] {
    heard = hearLine(files->song, *files->song.find(files->set), files->take, files->pool, o.settings, progress, true);
  });
  if (!heard) return tl::unexpected(heard.error());
  const auto& notes = heard->notes;
  const auto& track = heard->track;
  nlohmann::ordered_json j{{"hop", PitchTrack::kHop},
                           {"one_line", heard->how.share},
                           {"f0", nlohmann::ordered_json::array()},
                           {"notes", nlohmann::ordered_json::array()}};
  std::string table;
  for (std::size_t t = 0; t < track.values.size(); ++t)
    j["f0"].push_back({PitchTrack::secondsAt(t), track.values[t].hertz, track.values[t].voiced});
  for (const auto& n : notes) {
    const double midi = 69 + 12 * std::log2(n.hertz / 440);
    const double nearest = std::round(midi);
    j["notes"].push_back({{"start", n.start},
                          {"end", n.end},
                          {"hz", n.hertz},
                          {"midi", static_cast<int>(nearest)},
                          {"cents", 100 * (midi - nearest)}});
    table += fixed(n.start, 3) + "  " + fixed(n.end, 3) + "  " + fixed(n.hertz, 2) + " Hz  " + fixed(nearest, 0) +
             "  " + signedFixed(100 * (midi - nearest), 1) + "\n";
  }
  if (!o.out.empty())
    if (auto ok = write(o, *heard, static_cast<double>(files->song.takes.front().length.value) / files->song.rate); !ok)
      return tl::unexpected(ok.error());
  return o.json ? j.dump() + "\n" : "start  end  pitch  note  cents\n" + table;
}

}  // namespace

void addPitch(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<PitchOptions>();
  auto* c = app.add_subcommand("pitch", "Listen for the pitch and the notes of a single line");
  c->add_option("INPUT", o->input, "audio file")->required();
  addNumber(*c, "--lowest", o->settings.lowest, kLowestPitchRange, "no pitch below this, Hz");
  addNumber(*c, "--highest", o->settings.highest, kHighestPitchRange, "no pitch above this, Hz");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of a damaged file");
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_option("--out", o->out, "write the notes: .mid, .csv or .jams");
  c->add_flag("--bends", o->bends, "MIDI with pitch bend");
  c->add_flag("--json", o->json, "print one JSON document");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
