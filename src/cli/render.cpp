#include <algorithm>
#include <charconv>
#include <memory>

#include "commands.h"
#include "files/content_id.h"
#include "render/export.h"
#include "render/made_store.h"
#include "render/tuned_takes.h"
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

tl::unexpected<Error> replaced(const Media& m) {
  return fail(ErrorKind::badInput, m.path +
                                       " is not the recording that the song was made with: its content has "
                                       "changed. Put the old one back, or open the song in Orthochron and take "
                                       "the new one.");
}

Result<std::string> run(const RenderOptions& o) {
  auto song = openProject(o.project);
  if (!song) return tl::unexpected(song.error());
  const DecodeSettings decoding{cacheFolderOf(o.project), song->rate,
                                o.acceptDamaged ? Damaged::accept : Damaged::refuse};
  ContentIndex index(userCacheFolder() / "recordings.index");
  MediaPool pool;
  for (const auto& m : song->media) {
    Progress progress;
    Result<std::shared_ptr<const DecodedMedia>> media = cancelledError();
    withProgress("reading", progress, [&] {
      const auto content = index.of(m.path, progress);
      media = content ? decodeMedia(m.path, *content, decoding, progress) : tl::unexpected(content.error());
      if (const auto now = media ? index.of(m.path, progress) : content; now && content && *now != *content)
        media =
            fail(ErrorKind::ioFailed, m.path + " was changed while it was read. Try again when nothing writes to it.");
      if (media && isContentId(m.fingerprint) && *content != m.fingerprint) media = replaced(m);
    });
    if (!media) return tl::unexpected(media.error());
    pool[m.id] = *media;
  }
  index.keep();
  ExportSettings settings;
  settings.what = o.stems ? ExportWhat::tracks : ExportWhat::mix;
  settings.format = o.stems ? FileFormat::wav : formatForName(o.out);
  if (settings.format == FileFormat::other || settings.format == FileFormat::mp3)
    return fail(ErrorKind::badInput,
                o.out + ": this format cannot be written. Give the file the ending .wav, .flac, .aiff or .ogg.");
  settings.range = {Frames{0}, song->end()};
  if (!o.range.empty()) {
    auto range = parseBars(o.range, *song);
    if (!range) return tl::unexpected(range.error());
    settings.range = *range;
  }
  Progress progress;
  MadeStore made(decoding.cacheFolder);
  Result<MediaPool> tuned = cancelledError();
  withProgress("tuning", progress, [&] { tuned = tunedWhole(*song, pool, made, progress); });
  if (!tuned) return tl::unexpected(tuned.error());
  Result<void> stretched;
  withProgress("stretching", progress,
               [&] { stretched = makeMissing(*song, *tuned, made, settings.range.start, progress); });
  if (!stretched) return tl::unexpected(stretched.error());
  const auto plan = compilePlan(*song, *tuned, nullptr, &made);
  Result<ExportReport> report = cancelledError();
  auto outputs = outputsOf(*song);
  if (o.keepExisting) outputs.keepExisting();
  withProgress("writing", progress, [&] { report = exportSong(*song, plan, settings, o.out, outputs, progress); });
  if (!report) return tl::unexpected(report.error());
  if (auto ok = stillAsRead(pool); !ok) return tl::unexpected(ok.error());
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
