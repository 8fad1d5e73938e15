#include <algorithm>
#include <charconv>
#include <memory>

#include "commands.h"
#include "project_files.h"
#include "render/export.h"
#include "render/made_store.h"
#include "store/project.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

struct RenderOptions {
  bool keepExisting = false;
  std::string project;
  std::string out;
  std::string range;
  bool stems = false;
  bool acceptDamaged = false;
};

/// "5-8": bars 5 to 8, both whole, counted from 1; "5": that bar. Bars after the song's end are refused.
Result<FrameRange> parseBars(const std::string& text, const Song& song) {
  int first = 0;
  int last = 0;
  const auto* end = text.data() + text.size();
  auto a = std::from_chars(text.data(), end, first);
  last = first;
  if (a.ec == std::errc{} && a.ptr != end && *a.ptr == '-') a = std::from_chars(a.ptr + 1, end, last);
  if (a.ec != std::errc{} || a.ptr != end || first < 1 || last < first)
    return fail(ErrorKind::badInput, "\"" + text + "\" is not a range of bars: write for example 5-8.");
  const auto& map = song.tempo;
  const int bars = map.barAt(song.end() - Frames{1}) + 1;
  if (last > bars)
    return fail(ErrorKind::badInput,
                "--range " + text + ": the song has " + std::to_string(bars) + " bars. Choose a range inside it.");
  return FrameRange{map.toFrames(map.barStart(first - 1)), map.toFrames(map.barStart(last))};
}

Result<std::string> run(const RenderOptions& o) {
  const auto files = loadProject(o.project, o.acceptDamaged ? Damaged::accept : Damaged::refuse);
  if (!files) return tl::unexpected(files.error());
  const auto& song = files->song;
  ExportSettings settings;
  settings.what = o.stems ? ExportWhat::tracks : ExportWhat::mix;
  settings.format = o.stems ? FileFormat::wav : formatForName(o.out);
  if (settings.format == FileFormat::other || settings.format == FileFormat::mp3)
    return fail(ErrorKind::badInput,
                o.out + ": this format cannot be written. Give the file the ending .wav, .flac, .aiff or .ogg.");
  settings.range = {Frames{0}, song.end()};
  if (!o.range.empty()) {
    auto range = parseBars(o.range, song);
    if (!range) return tl::unexpected(range.error());
    settings.range = *range;
  }
  MadeStore made(files->cacheFolder);
  const auto ready = readySong(*files, made, settings.range.start);
  if (!ready) return tl::unexpected(ready.error());
  Progress progress;
  Result<ExportReport> report = cancelledError();
  auto outputs = outputsOf(song);
  if (o.keepExisting) outputs.keepExisting();
  withProgress("writing", progress,
               [&] { report = exportSong(song, ready->plan, settings, o.out, outputs, progress); });
  if (!report) return tl::unexpected(report.error());
  if (auto ok = stillAsRead(files->pool); !ok) return tl::unexpected(ok.error());
  if (auto ok = made.stillAsKept(); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  std::string text;
  for (const auto& f : report->files) text += f.string() + "\n";
  if (report->clippedSamples > 0)
    text += std::to_string(report->clippedSamples) + " samples were beyond full scale and clipped\n";
  if (!report->tempoTold) text += "the tempo could not be put into the tags; the sound is whole\n";
  return text;
}

}  // namespace

void addRender(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<RenderOptions>();
  auto* c = app.add_subcommand("render", "Export a project as the application would");
  c->add_option("PROJECT", o->project, "project folder (NAME.ochron)")->required();
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_option("--out", o->out, "file for the mix, or folder for --stems")->required();
  c->add_option("--range", o->range, "bars, for example 5-8 (default: all)");
  c->add_flag("--stems", o->stems, "one file for each track instead of the mix");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged recordings");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
