#include <cmath>
#include <memory>

#include "commands.h"
#include "edits/pitch_edits.h"
#include "number_option.h"
#include "render/made_store.h"
#include "render/tuned_takes.h"
#include "store/melody_file.h"
#include "store/scala_file.h"
#include "take_files.h"
#include "takes/hear_line.h"
#include "tune/correction.h"
#include "tune/melody.h"

namespace ochron::cli {
namespace {

constexpr SettingRange kTuneStrengthRange{"strength", "%", 0, 100, 1, 100};

struct TuneOptions {
  bool keepExisting = false;
  std::string input;
  std::string out;
  std::string scale = "chromatic";
  std::string scaleFile;
  std::string tonic = "C";
  std::string melody;
  std::string vibrato;
  double strength = kTuneStrengthRange.fallback;
  double reference = kReferencePitchRange.fallback;
  TuneSettings settings;
  PitchSettings hearing;
  bool acceptDamaged = false;
  bool oneLine = false;
};

Result<Scale> scaleOf(const TuneOptions& o) {
  if (o.scaleFile.empty()) return parseScale(o.scale);
  const auto& names = tonicNames();
  const auto tonic = std::find(names.begin(), names.end(), o.tonic);
  return loadScala(o.scaleFile, static_cast<int>(tonic - names.begin()));
}

/// One for each note; none without a melody. What the melody has no note for is left as it was sung.
std::vector<NoteWish> wishesOf(const TuneOptions& o, const std::vector<SungNote>& melody, const SungLine& line) {
  if (melody.empty()) return {};
  const auto pitches = pitchesOf(melody, line.notes);
  std::vector<NoteWish> out;
  for (std::size_t i = 0; i < pitches.size(); ++i) {
    NoteWish wish;
    wish.asSung = !pitches[i];
    if (pitches[i]) wish.target = towards(*pitches[i], partsOf(line.track, line.notes[i]).centre, o.settings);
    out.push_back(wish);
  }
  return out;
}

Result<std::string> run(TuneOptions o) {
  auto scale = scaleOf(o);
  if (!scale) return tl::unexpected(scale.error());
  std::vector<SungNote> melody;
  if (!o.melody.empty()) {
    auto read = loadMelody(o.melody);
    if (!read) return tl::unexpected(read.error());
    melody = std::move(*read);
  }
  o.settings.on = true;
  o.settings.scale = *scale;
  o.settings.scale.reference = o.reference;
  o.settings.keepCentre = 100 - o.strength * (1 - o.settings.keepCentre / 100);
  if (!o.vibrato.empty()) o.settings.keepVibrato = o.vibrato == "keep" ? 100 : 0;
  if (o.hearing.lowest >= o.hearing.highest)
    return fail(ErrorKind::badInput, "The lowest pitch must be below the highest.");
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  outputs.protect(o.input);
  if (!o.melody.empty()) outputs.protect(o.melody);
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  auto files = loadTake({o.input}, {}, o.acceptDamaged ? Damaged::accept : Damaged::refuse, scratch->path());
  if (!files) return tl::unexpected(files.error());
  if (auto ok = atMostStereo({o.input}, *files); !ok) return tl::unexpected(ok.error());
  if (auto found = findHits(*files, files->song.find(files->set)->hits); !found) return tl::unexpected(found.error());
  const auto& set = *files->song.find(files->set);
  Progress progress;
  Result<HeardLine> heard = cancelledError();
  withProgress("listening", progress,
               [&] { heard = hearLine(files->song, set, files->take, files->pool, o.hearing, progress, o.oneLine); });
  if (!heard) {
    auto e = heard.error();
    if (e.kind == ErrorKind::badInput) e.message += " If it is one line, say so with --one-line.";
    return tl::unexpected(e);
  }
  const auto wishes = wishesOf(o, melody, *heard);
  const auto notes = tuned(heard->track, heard->notes, o.settings, wishes);
  auto song = setLine(files->song, files->take, files->set, *heard);
  if (song) song = setTuning(*song, files->set, o.settings);
  std::vector<std::pair<NoteName, NoteWish>> named;
  for (std::size_t i = 0; i < wishes.size(); ++i) named.emplace_back(nameOf(files->take, heard->notes[i]), wishes[i]);
  if (song) song = setNoteWishes(*song, files->set, named);
  if (!song) return tl::unexpected(song.error());
  MadeStore made;
  Result<MediaPool> pool = cancelledError();
  withProgress("tuning", progress, [&] { pool = tunedWhole(*song, files->pool, made, progress); });
  if (!pool) return tl::unexpected(pool.error());
  const auto& media = *pool->at(song->takes.front().mics.front().media);
  Sounds sounds(1);
  for (int c = 0; c < media.channels(); ++c) sounds[0].push_back(media.channel(c).copy());
  if (auto ok = writeSounds({o.input}, o.out, *files, sounds, outputs); !ok) return tl::unexpected(ok.error());
  std::size_t moved = 0;
  for (const auto& n : notes) moved += std::abs(n.after - n.parts.centre) > 0.05 ? 1 : 0;
  return std::to_string(moved) + " of " + std::to_string(notes.size()) + " notes moved to " +
         (melody.empty() ? o.settings.scale.name : "the melody") + " (" + lineText(heard->how) + "), " + o.out + "\n";
}

}  // namespace

void addTune(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<TuneOptions>();
  auto* c = app.add_subcommand("tune", "Correct the pitch of a single line and keep the singer in it");
  c->add_option("INPUT", o->input, "audio file")->required();
  auto* scale =
      c->add_option("--scale", o->scale, "chromatic, or a tonic and a kind: \"C major\"")->capture_default_str();
  auto* file = c->add_option("--scale-file", o->scaleFile, "a Scala file")->excludes(scale);
  c->add_option("--tonic", o->tonic, "of the scale file")
      ->check(CLI::IsMember(tonicNames()))
      ->needs(file)
      ->capture_default_str();
  c->add_option("--melody", o->melody, "notes to go to, instead of a scale: MIDI, CSV or JAMS")
      ->excludes(scale)
      ->excludes(file);
  addNumber(*c, "--reference", o->reference, kReferencePitchRange, "pitch of A4, Hz");
  addNumber(*c, "--strength", o->strength, kTuneStrengthRange, "how far notes go to their pitch, %");
  addNumbers(*c, o->settings, kTuneNumbers);
  c->add_option("--vibrato", o->vibrato, "keep, or straighten: short for --keep-vibrato 100 or 0")
      ->check(CLI::IsMember({"keep", "straighten"}));
  c->add_flag("--one-line", o->oneLine, "take it as a single line, whatever it sounds like");
  addNumber(*c, "--lowest", o->hearing.lowest, kLowestPitchRange, "no pitch below this, Hz");
  addNumber(*c, "--highest", o->hearing.highest, kHighestPitchRange, "no pitch above this, Hz");
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_option("--out", o->out, "file to write")->required();
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of a damaged file");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
