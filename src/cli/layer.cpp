#include <algorithm>
#include <memory>
#include <nlohmann/json.hpp>

#include "commands.h"
#include "edits/layer_edits.h"
#include "files/outputs.h"
#include "kit/line_up.h"
#include "kit/load_sounds.h"
#include "kit/own_sounds.h"
#include "number_option.h"
#include "render/export.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "render/tuned_takes.h"
#include "song/layer_strokes.h"
#include "store/midi_file.h"
#include "store/sfz_file.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

namespace fs = std::filesystem;

struct LayerOptions {
  std::vector<std::string> inputs;
  std::vector<int> guides;
  std::string sound;
  std::string drum;
  std::string lineUp = "each";
  std::string polarity = "auto";
  HitSettings hits;
  LayerSettings layer;
  bool mix = false;
  std::string out;
  std::string report;
  std::string midi;
  bool keepExisting = false;
  bool acceptDamaged = false;
};

constexpr const char* kOwn = "own";

/// The layer with its sounds, all of it listened to; what was said about the file of sounds goes to `note`.
Result<void> addTo(TakeFiles& files, const LayerOptions& o, const fs::path& scratch, std::string& note) {
  const auto drum = static_cast<DrumClass>(std::find(kDrumClassNames.begin(), kDrumClassNames.end(), o.drum) -
                                           kDrumClassNames.begin());
  auto song = addLayer(files.song, files.set, drum, "layer");
  if (!song) return tl::unexpected(song.error());
  files.song = std::move(*song);
  auto layer = files.song.layers.back();
  Progress progress;
  if (o.sound == kOwn) {
    auto heard = linedUp(files.song, layer, files.pool, progress);
    if (!heard) return tl::unexpected(heard.error());
    layer = std::move(*heard);
    auto own = ownSounds(files.song, layer, files.pool);
    if (!own) return tl::unexpected(own.error());
    layer.sounds = std::move(*own);
    song = setLayer(files.song, layer);
  } else {
    const auto read = readSoundSet(o.sound, drum);
    if (!read) return tl::unexpected(read.error());
    if (!read->notUnderstood.empty()) {
      note = "not read in " + o.sound + ":";
      for (const auto& word : read->notUnderstood) note += " " + word;
      note += "\n";
    }
    const auto loaded = loadSounds(*read, files.song.rate, scratch, progress);
    if (!loaded) return tl::unexpected(loaded.error());
    song = setLayerSounds(files.song, layer.id, loaded->set);
    if (!song) return tl::unexpected(song.error());
    for (std::size_t i = 0; i < loaded->media.size(); ++i)
      for (const auto& m : song->media)
        if (m.path == loaded->set.files[i].path) files.pool[m.id] = loaded->media[i];
  }
  if (!song) return tl::unexpected(song.error());
  files.song = std::move(*song);
  layer = files.song.layers.back();
  layer.settings = o.layer;
  layer.lineUp = o.lineUp == "each" ? LineUp::each : LineUp::whole;
  if (o.polarity != "auto") layer.turned = o.polarity == "turned";
  Result<Layer> lined = layer;
  withProgress("lining up", progress, [&] { lined = linedUp(files.song, layer, files.pool, progress); });
  if (!lined) return tl::unexpected(lined.error());
  files.song.layers.back() = std::move(*lined);
  return {};
}

std::string reportJson(const Song& song, const Layer& layer) {
  nlohmann::ordered_json j{{"strokes", nlohmann::ordered_json::array()}};
  for (const auto& s : strokesOf(song, layer)) {
    if (!s.heard) continue;
    const auto& sound = layer.sounds->sounds[s.sound];
    // Where the sound begins against the stroke's attack, less its own attack: how much it was moved to fall in.
    j["strokes"].push_back({{"time", static_cast<double>(s.at.value) / song.rate},
                            {"strength", s.strength},
                            {"sound", sound.name},
                            {"offset", (sound.lag + framesFromMs(layer.settings.offsetMs, song.rate)).value},
                            {"polarity", s.turned ? -1 : 1},
                            {"likeness", sound.likeness},
                            {"gain_db", s.gainDb}});
  }
  return j.dump(1) + "\n";
}

/// The layer's track alone, or all tracks added up: the mics as they are lowered, and the layer.
std::vector<std::vector<float>> sound(const RenderPlan& plan, TrackId layer, bool mix, Frames length) {
  std::size_t wide = 1;
  for (const auto& t : plan.tracks)
    if (mix || t.track == layer) wide = std::max(wide, t.channels.size());
  std::vector<std::vector<float>> out(wide, std::vector<float>(static_cast<std::size_t>(length.value), 0.0F));
  for (const auto& t : plan.tracks) {
    if (!mix && t.track != layer) continue;
    for (std::size_t c = 0; c < wide; ++c) addTrack(t, std::min(c, t.channels.size() - 1), Frames{}, out[c]);
  }
  return out;
}

Result<std::string> run(const LayerOptions& o) {
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  for (const auto& in : o.inputs) outputs.protect(in);
  if (o.sound != kOwn) outputs.protect(o.sound);
  if (auto ok = outputs.allows(o.out); !ok) return tl::unexpected(ok.error());
  const auto format = formatToWrite(o.out);
  if (!format) return tl::unexpected(format.error());
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake(o.inputs, o.guides, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  if (auto ok = findHits(*files, o.hits); !ok) return tl::unexpected(ok.error());
  std::string note;
  if (auto ok = addTo(*files, o, scratch->path(), note); !ok) return tl::unexpected(ok.error());
  const auto& layer = files->song.layers.back();
  const auto strokes = strokesOf(files->song, layer);
  const auto heard = std::count_if(strokes.begin(), strokes.end(), [](const LayerStroke& s) { return s.heard; });
  if (heard == 0)
    return fail(ErrorKind::badInput, "No " + o.drum + " was found in the inputs" +
                                         (strokes.empty() ? "." : " that is as strong as --threshold says.") +
                                         " Name another class, or raise --sensitivity.");
  MadeStore made(scratch->path());
  Progress progress;
  Result<MediaPool> pool = cancelledError();
  withProgress("lowering the drum", progress, [&] { pool = tunedWhole(files->song, files->pool, made, progress); });
  if (!pool) return tl::unexpected(pool.error());
  const auto plan = compilePlan(files->song, *pool, nullptr, &made);
  const auto length = files->song.takes.front().length;
  const auto channels = sound(plan, layer.track, o.mix, length);
  const auto& info = files->infos.front();
  auto writer =
      AudioFileWriter::create(outputs, o.out,
                              {*format, info.samples == SampleFormat::compressed ? SampleFormat::pcm24 : info.samples,
                               files->song.rate, static_cast<int>(channels.size()), length});
  if (!writer) return tl::unexpected(writer.error());
  if (auto ok = writer->writeChannels(std::vector<Samples>(channels.begin(), channels.end())); !ok)
    return tl::unexpected(ok.error());
  if (auto ok = writer->finish(); !ok) return tl::unexpected(ok.error());
  if (!o.report.empty())
    if (auto ok = outputs.add(o.report, reportJson(files->song, layer)); !ok) return tl::unexpected(ok.error());
  if (!o.midi.empty())
    if (auto ok = writeLayerMidi(files->song, layer, o.midi, outputs); !ok) return tl::unexpected(ok.error());
  if (auto ok = stillAsRead(files->pool); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  const auto beyond = writer->clippedSamples();
  return std::to_string(heard) + " strokes, " + std::to_string(layer.sounds->sounds.size()) +
         (layer.sounds->sounds.size() == 1 ? " sound, " : " sounds, ") + o.out + "\n" + note +
         (beyond > 0 ? std::to_string(beyond) + " samples were beyond full scale. Lower it with --gain.\n" : "");
}

}  // namespace

void addLayerCommand(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<LayerOptions>();
  auto* c =
      app.add_subcommand("layer", "Lay a sound on every stroke of a drum, to the sample; the inputs are its mics");
  c->add_option("MIC", o->inputs, "audio files recorded together")->required();
  c->add_option("--sound", o->sound, "a sound file, an SFZ file, or own: of the take's own clean strokes")->required();
  c->add_option("--class", o->drum, "the drum: kick, snare, tom, hat, cymbal or other")
      ->required()
      ->check(CLI::IsMember(std::vector<std::string>(kDrumClassNames.begin(), kDrumClassNames.end())));
  c->add_option("--guides", o->guides, "inputs to listen to, from 0 (default: all)")->delimiter(',');
  addNumbers(*c, o->hits, kHitNumbers);
  addNumbers(*c, o->layer, kLayerNumbers);
  c->add_option("--line-up", o->lineUp, "each: every stroke to the sample; whole: the hits as they stand")
      ->check(CLI::IsMember({"each", "whole"}))
      ->capture_default_str();
  c->add_option("--polarity", o->polarity, "auto: turned where it would cancel; plain or turned: as said")
      ->check(CLI::IsMember({"auto", "plain", "turned"}))
      ->capture_default_str();
  c->add_flag("--mix", o->mix, "write the mics with the layer in, not the layer alone");
  c->add_option("--out", o->out, "file to write")->required();
  c->add_option("--report", o->report, "write every stroke as JSON to this file");
  c->add_option("--midi", o->midi, "write the strokes as notes to this MIDI file");
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged files");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
