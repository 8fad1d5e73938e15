#include <memory>

#include "commands.h"
#include "files/file_names.h"
#include "files/outputs.h"
#include "store/midi_file.h"
#include "take_files.h"
#include "takes/hear_tempo.h"

namespace ochron::cli {
namespace {

struct MapOptions {
  bool keepExisting = false;
  std::vector<std::string> inputs;
  std::string out;
  bool acceptDamaged = false;
};

Result<std::string> run(const MapOptions& o) {
  if (endingOf(o.out) != ".mid" && endingOf(o.out) != ".midi")
    return fail(ErrorKind::badInput, o.out + ": a tempo map is written as a MIDI file. Give it the ending .mid.");
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  for (const auto& in : o.inputs) outputs.protect(in);
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake(o.inputs, {}, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  const auto& set = *files->song.find(files->set);
  Progress progress;
  Result<HeardTempo> heard = cancelledError();
  withProgress("listening", progress, [&] {
    heard = hearTempo(mixOf(files->song, set, files->take, files->pool), files->song.rate, {}, progress);
  });
  if (!heard) return tl::unexpected(heard.error());
  auto map = tempoMapOf(*heard, files->song.rate);
  if (!map) return tl::unexpected(map.error());
  if (auto ok = writeTempoMidi(*map, o.out, outputs); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  return std::to_string(map->tempos().size()) + (map->tempos().size() == 1 ? " tempo, " : " tempi, ") +
         std::to_string(heard->downbeats.size()) + " bars of " + metersText(*heard) + "\n";
}

}  // namespace

void addMap(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<MapOptions>();
  auto* c = app.add_subcommand("map", "Write the tempo map that a performance was heard to have as a MIDI file");
  c->add_option("INPUT", o->inputs, "audio files recorded together")->required();
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_option("--out", o->out, "file to write (.mid)")->required();
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged files");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
