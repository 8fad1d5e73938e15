#include <algorithm>
#include <memory>
#include <optional>

#include "commands.h"
#include "edits/print_edits.h"
#include "files/content_id.h"
#include "files/file_names.h"
#include "files/folder_lock.h"
#include "gate/gate.h"
#include "number_option.h"
#include "project_files.h"
#include "render/print_sound.h"
#include "store/gather.h"
#include "store/project.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

namespace fs = std::filesystem;

struct PrintOptions {
  std::string project;
  std::vector<std::string> what;
  std::string depth = "clip";
  std::string range;
  std::string bits = "float";
  std::optional<double> peak;
  double tail = kTailRange.fallback;
  bool acceptDamaged = false;
  bool list = false;
};

/// Names of tracks or mic sets, "all", or clips by their numbers ("clip 41").
Result<PrintAsk> askOf(const Song& song, const PrintOptions& o) {
  PrintAsk ask;
  const auto depth = std::find(kPrintDepthNames.begin(), kPrintDepthNames.end(), o.depth);
  ask.depth = static_cast<PrintDepth>(depth - kPrintDepthNames.begin());
  const auto add = [&](SetId id) {
    if (std::find(ask.sets.begin(), ask.sets.end(), id) == ask.sets.end()) ask.sets.push_back(id);
  };
  for (const auto& what : o.what) {
    if (what == "all") {
      for (const auto& s : song.sets)
        if (!song.layerOn(s.tracks.front()) && !s.clips->empty()) add(s.id);
      continue;
    }
    if (what.starts_with("clip ")) {
      const auto number = parseNumber(what.substr(5));
      const auto* clip = number ? song.find(ClipId{static_cast<std::uint64_t>(*number)}) : nullptr;
      if (!clip) return fail(ErrorKind::badInput, "--what \"" + what + "\": the song has no such clip.");
      ask.clips.push_back(clip->id);
      continue;
    }
    bool found = false;
    for (const auto& s : song.sets)
      if (s.name == what) add(s.id), found = true;
    for (const auto& t : song.tracks)
      if (t.name == what && !found) add(song.setOf(t.id)->id), found = true;
    if (!found) {
      std::string names;
      for (const auto& s : song.sets) names += (names.empty() ? "" : ", ") + s.name;
      return fail(ErrorKind::badInput, "--what \"" + what + "\": the song has no such track. It has: " + names + ".");
    }
  }
  if (!ask.clips.empty() && (!ask.sets.empty() || ask.depth != PrintDepth::clip || !o.range.empty()))
    return fail(ErrorKind::badInput, "Clips are printed with --depth clip, and by themselves.");
  if (o.tail > 0 && ask.depth != PrintDepth::track)
    return fail(ErrorKind::badInput, "--tail is for effects to ring on, so it goes with --depth track.");
  if (o.peak && ask.depth == PrintDepth::trim)
    return fail(ErrorKind::badInput, "--peak changes a level: with --depth trim recordings stay as they are.");
  if (!o.range.empty()) {
    if (ask.depth != PrintDepth::clip)
      return fail(ErrorKind::badInput, "--range goes with --depth clip: recordings and tracks are printed whole.");
    const auto range = parseBars(o.range, song);
    if (!range) return tl::unexpected(range.error());
    ask.ranges = {*range};
  }
  const auto samples = std::find(kPrintSamplesNames.begin(), kPrintSamplesNames.end(), o.bits);
  ask.manner = {static_cast<PrintSamples>(samples - kPrintSamplesNames.begin()), o.peak, o.tail};
  return ask;
}

std::string samplesText(PrintSamples samples) {
  switch (samples) {
    case PrintSamples::float32: return "32-bit float";
    case PrintSamples::pcm24: return "24-bit, dithered";
    case PrintSamples::pcm16: return "16-bit, dithered";
  }
  return {};
}

std::string rowText(const Song& song, const PrintRow& row, const PrintLevel& level) {
  const double seconds = static_cast<double>(row.range.length().value) / song.rate;
  const double megabytes =
      static_cast<double>(row.range.length().value) * row.channels * bytesOf(formatOf(level.samples)) / 1e6;
  const auto stays = level.samples != row.manner.samples ? " (it would be over full scale)" : "";
  return row.name + ": " + fixed(seconds, 2) + " s, " + (row.channels > 1 ? "stereo" : "mono") + ", " +
         std::to_string(song.rate) + " Hz, " + samplesText(level.samples) + stays + ", " + fixed(megabytes, 1) +
         " MB; becomes audio: " + bakedBy(row.depth) + "; stays: " + adjustableAfter(row.depth) + "; level " +
         (level.gainDb == 0 ? "unchanged"
                            : signedFixed(level.gainDb, 1) + " dB, the clip's gain " + signedFixed(-level.gainDb, 1)) +
         "\n";
}

Result<std::string> runPrint(const PrintOptions& o) {
  if (auto ok = notOpen(o.project); !ok) return tl::unexpected(ok.error());
  auto files = loadProject(o.project, o.acceptDamaged ? Damaged::accept : Damaged::refuse);
  if (!files) return tl::unexpected(files.error());
  const auto before = files->song;
  const auto ask = askOf(before, o);
  if (!ask) return tl::unexpected(ask.error());
  const auto plan = planPrint(before, *ask);
  if (!plan) return tl::unexpected(plan.error());
  const auto& song = plan->song;
  const auto& rows = plan->rows;
  std::string text;
  if (o.list && ask->manner.asHeard()) {
    for (const auto& row : rows) text += rowText(song, row, {});
    return text;
  }
  files->song = song;
  MadeStore made(files->cacheFolder);
  const auto ready = readySong(*files, made, Frames{});
  if (!ready) return tl::unexpected(ready.error());
  if (ask->depth == PrintDepth::track && !ready->missing.empty())
    return fail(ErrorKind::refused, missingEffects(ready->missing) + " Print clips, or take them out of the song.");
  Progress progress;
  Result<std::vector<PrintLevel>> levels = cancelledError();
  withProgress("listening for levels", progress,
               [&] { levels = printLevels(rows, ready->plan, files->pool, progress); });
  if (!levels) return tl::unexpected(levels.error());
  for (std::size_t i = 0; i < rows.size(); ++i) text += rowText(song, rows[i], (*levels)[i]);
  if (o.list) return text;
  const auto targets = printTargets(rows, *levels, files->folder / "media");
  Outputs outputs = outputsOf(song);
  outputs.keepExisting();
  Result<void> written;
  withProgress("printing", progress,
               [&] { written = writePrints(targets, ready->plan, files->pool, outputs, progress); });
  if (!written) return tl::unexpected(written.error());
  if (auto ok = ready->holds(files->pool, made); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  std::vector<PrintedFile> printed;
  for (const auto& [row, file, level] : targets) {
    const auto content = contentId(file, progress);
    if (!content) return tl::unexpected(content.error());
    printed.push_back({row, file.string(), *content, row.range.length(), level.gainDb});
  }
  auto next = applyPrint(song, printed);
  if (next) next = admitted(before, *next, files->pool, Plans::given);
  std::vector<fs::path> fresh;
  fresh.reserve(targets.size());
  for (const auto& t : targets) fresh.push_back(t.file);
  if (!next) {  // the song stays as it was, and nothing lies about
    std::error_code none;
    for (const auto& file : fresh) fs::remove(file, none);
    return tl::unexpected(next.error());
  }
  if (auto ok = saveWithFiles(*next, files->folder, fresh); !ok) return tl::unexpected(ok.error());
  return text + std::to_string(printed.size()) + (printed.size() == 1 ? " file" : " files") + " printed\n";
}

Result<std::string> runUnprint(const PrintOptions& o) {
  if (auto ok = notOpen(o.project); !ok) return tl::unexpected(ok.error());
  auto song = openProject(o.project);
  if (!song) return tl::unexpected(song.error());
  const auto ask = askOf(*song, o);
  if (!ask) return tl::unexpected(ask.error());
  std::vector<PrintId> prints;
  for (auto p = song->prints.rbegin(); p != song->prints.rend(); ++p) {  // the latest first: one may lie on another
    const bool ofClip = std::any_of(ask->clips.begin(), ask->clips.end(),
                                    [&](ClipId c) { return p->take && song->find(c)->take == p->take; });
    if (ofClip || std::find(ask->sets.begin(), ask->sets.end(), p->set) != ask->sets.end()) prints.push_back(p->id);
  }
  if (prints.empty()) return fail(ErrorKind::badInput, o.project + ": nothing of this is printed.");
  Result<Song> next = *song;
  for (const auto id : prints)
    if (next) next = unprint(*next, id);
  if (next) next = admitted(*song, *next, {}, Plans::given);
  if (!next) return tl::unexpected(next.error());
  if (auto ok = saveProject(*next, projectFolder(o.project)); !ok) return tl::unexpected(ok.error());
  return std::to_string(prints.size()) + (prints.size() == 1 ? " print" : " prints") + " taken back\n";
}

Result<std::string> runGather(const std::string& project) {
  if (auto ok = notOpen(project); !ok) return tl::unexpected(ok.error());
  const auto song = openProject(project);
  if (!song) return tl::unexpected(song.error());
  std::vector<fs::path> copied;
  Progress progress;
  Result<Song> next = cancelledError();
  withProgress("copying", progress, [&] { next = gatherRecordings(*song, projectFolder(project), copied, progress); });
  if (!next) return tl::unexpected(next.error());
  if (copied.empty()) return std::string("nothing lies elsewhere\n");
  if (auto ok = saveWithFiles(*next, projectFolder(project), copied); !ok) return tl::unexpected(ok.error());
  std::string text;
  for (const auto& file : copied) text += file.string() + "\n";
  return text;
}

}  // namespace

void addPrint(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<PrintOptions>();
  const auto what = "tracks or mic sets by name, \"clip NUMBER\", or all; several after commas";
  auto* c = app.add_subcommand("print", "Commit tracks or clips of a project to audio; unprint takes it back");
  c->add_option("PROJECT", o->project, "project folder (NAME.ochron)")->required();
  c->add_option("--what", o->what, what)->required()->delimiter(',');
  c->add_option("--depth", o->depth, "trim: recordings cut to what is used; clip: the edits; track: the mixer, too")
      ->check(CLI::IsMember({"trim", "clip", "track"}))
      ->capture_default_str();
  c->add_option("--range", o->range, "bars, for example 5-8: of the tracks only these, as clips (default: all)");
  c->add_option("--bits", o->bits, "16, 24 or float; float all the same where it would be over full scale")
      ->check(CLI::IsMember({"16", "24", "float"}))
      ->capture_default_str();
  c->add_option("--peak", o->peak,
                "dB of full scale that the level is brought to, all mics alike; the clip's gain makes up for it")
      ->check(CLI::Range(kPrintPeakRange.low, kPrintPeakRange.high));
  c->add_option("--tail", o->tail, "seconds for which effects ring on after the last clip, with --depth track")
      ->check(CLI::Range(kTailRange.low, kTailRange.high))
      ->capture_default_str();
  c->add_flag("--list", o->list, "only say what would be done");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged recordings");
  c->callback([o, &chosen] { chosen = [o] { return runPrint(*o); }; });
  auto u = std::make_shared<PrintOptions>();
  auto* back = app.add_subcommand("unprint", "Take prints back: the edits are alive again");
  back->add_option("PROJECT", u->project, "project folder (NAME.ochron)")->required();
  back->add_option("--what", u->what, what)->required()->delimiter(',');
  back->callback([u, &chosen] { chosen = [u] { return runUnprint(*u); }; });
  auto gathered = std::make_shared<std::string>();
  auto* gather =
      app.add_subcommand("gather", "Copy recordings that lie elsewhere into the project, checked by content");
  gather->add_option("PROJECT", *gathered, "project folder (NAME.ochron)")->required();
  gather->callback([gathered, &chosen] { chosen = [gathered] { return runGather(*gathered); }; });
}

}  // namespace ochron::cli
