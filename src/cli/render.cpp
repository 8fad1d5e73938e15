#include <algorithm>
#include <memory>
#include <nlohmann/json.hpp>
#include <optional>

#include "base/numbers.h"
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
  bool sets = false;
  bool sections = false;
  bool clips = false;
  std::vector<std::string> formats;
  std::string bits;
  bool plain = false;
  double quality = kQualityRange.fallback;
  int rate = 0;
  bool mono = false;
  std::string names;
  std::optional<double> loudness;
  double tail = kTailRange.fallback;
  std::string report;
  bool acceptDamaged = false;
};

Result<FileFormat> formatNamed(const std::string& name) {
  const auto found = std::find(kFileFormatNames.begin(), kFileFormatNames.end(), name);
  if (found != kFileFormatNames.end()) return static_cast<FileFormat>(found - kFileFormatNames.begin());
  std::string known;
  for (const auto n : kFileFormatNames) known += (known.empty() ? "" : ", ") + std::string(n);
  return fail(ErrorKind::badInput, "--format " + name + ": this cannot be written. What can: " + known + ".");
}

Result<ExportSettings> settingsOf(const RenderOptions& o) {
  ExportSettings s;
  s.what = o.stems      ? ExportWhat::tracks
           : o.sets     ? ExportWhat::sets
           : o.sections ? ExportWhat::sections
           : o.clips    ? ExportWhat::clips
                        : ExportWhat::mix;
  for (const auto& name : o.formats) {
    const auto format = formatNamed(name);
    if (!format) return tl::unexpected(format.error());
    s.also.push_back(*format);
  }
  if (s.what == ExportWhat::mix) {
    const auto format = formatToWrite(o.out);
    if (!format) return tl::unexpected(format.error());
    s.format = *format;
  } else if (!s.also.empty()) {
    s.format = s.also.front();
  }
  if (!o.bits.empty()) {
    const auto found = std::find(kSampleFormatNames.begin(), kSampleFormatNames.end(), o.bits);
    s.samples = static_cast<SampleFormat>(found - kSampleFormatNames.begin());
    s.dither = !o.plain;
  }
  s.quality = o.quality;
  s.rate = o.rate;
  s.mono = o.mono;
  s.names = o.names;
  s.loudness = o.loudness;
  s.tailSeconds = o.tail;
  return s;
}

nlohmann::ordered_json valueOf(const std::optional<double>& v) { return v ? nlohmann::ordered_json(*v) : nullptr; }

Result<std::string> reportJson(const Song& song, const ExportSettings& s, const ExportReport& report,
                               const std::string& out) {
  nlohmann::ordered_json j{{"files", nlohmann::ordered_json::array()}};
  const auto stems = exportStems(song, s, out);
  if (!stems) return tl::unexpected(stems.error());
  for (const auto& stem : *stems)
    for (const auto& [kind, file] : stem.files) {
      const auto format = formatOf(s, stem, kind, song.rate);
      j["files"].push_back({{"file", file.string()},
                            {"format", kFileFormatNames[static_cast<std::size_t>(kind)]},
                            {"rate", format.rate},
                            {"channels", format.channels},
                            {"start", static_cast<double>(stem.range.start.value) / song.rate},
                            {"seconds", static_cast<double>(playedLength(song, stem.whole()).value) / song.rate}});
    }
  j["clipped_samples"] = report.clippedSamples;
  if (const auto& l = report.loudness)
    j["loudness"] = {{"asked", l->asked},
                     {"before", valueOf(l->before.integrated)},
                     {"true_peak_before", valueOf(l->before.truePeak)},
                     {"gain_db", l->gainDb},
                     {"held_by_true_peak", l->heldByPeak}};
  return j.dump() + "\n";
}

Result<std::string> run(const RenderOptions& o) {
  auto settings = settingsOf(o);
  if (!settings) return tl::unexpected(settings.error());
  const auto files = loadProject(o.project, o.acceptDamaged ? Damaged::accept : Damaged::refuse);
  if (!files) return tl::unexpected(files.error());
  const auto& song = files->song;
  settings->range = {Frames{0}, song.end()};
  if (!o.range.empty()) {
    auto range = parseBars(o.range, song);
    if (!range) return tl::unexpected(range.error());
    settings->range = *range;
  }
  // What cannot be written is said before the sound is made.
  if (const auto stems = exportStems(song, *settings, o.out); !stems) return tl::unexpected(stems.error());
  MadeStore made(files->cacheFolder);
  const auto ready = readySong(*files, made, settings->range.start);
  if (!ready) return tl::unexpected(ready.error());
  Progress progress;
  Result<ExportReport> report = cancelledError();
  auto outputs = outputsOf(song);
  if (o.keepExisting) outputs.keepExisting();
  withProgress("writing", progress,
               [&] { report = exportSong(song, ready->plan, *settings, o.out, outputs, progress); });
  if (!report) return tl::unexpected(report.error());
  if (auto ok = ready->holds(files->pool, made); !ok) return tl::unexpected(ok.error());
  if (!o.report.empty()) {
    const auto json = reportJson(song, *settings, *report, o.out);
    if (!json) return tl::unexpected(json.error());
    if (auto ok = outputs.add(o.report, *json); !ok) return tl::unexpected(ok.error());
  }
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  std::string text;
  for (const auto& f : report->files) text += f.string() + "\n";
  if (report->clippedSamples > 0)
    text += std::to_string(report->clippedSamples) + " samples were beyond full scale and clipped\n";
  if (const auto& l = report->loudness; l && l->before.integrated)
    text += "gain " + signedFixed(l->gainDb, 1) + " dB: " + fixed(*l->before.integrated, 1) + " LUFS became " +
            fixed(*l->before.integrated + l->gainDb, 1) + (l->heldByPeak ? ", held there by the true peak\n" : "\n");
  else if (l)
    text += "the mix is silent, so no loudness was sought\n";
  if (!ready->missing.empty()) text += missingEffects(ready->missing) + "\n";
  if (!report->tempoTold) text += "tempo or chapters could not be put into the tags; the sound is whole\n";
  return text;
}

}  // namespace

void addRender(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<RenderOptions>();
  auto* c = app.add_subcommand("render", "Export a project as the application would");
  c->add_option("PROJECT", o->project, "project folder (NAME.ochron)")->required();
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->add_option("--out", o->out, "file for the mix, or folder for --stems, --sets, --sections and --clips")->required();
  c->add_option("--range", o->range, "bars, for example 5-8 (default: all)");
  auto* stems = c->add_flag("--stems", o->stems, "one file for each track instead of the mix");
  auto* sets = c->add_flag("--sets", o->sets, "one file for each mic set, its mics side by side");
  auto* sections = c->add_flag("--sections", o->sections, "the mix of each section, or from marker to marker");
  stems->excludes(sets)->excludes(sections);
  sets->excludes(sections);
  auto* clips = c->add_flag("--clips", o->clips, "one file for each clip, its set's tracks side by side");
  for (auto* other : {stems, sets, sections}) clips->excludes(other);
  c->add_option("--format", o->formats,
                "wav, flac, aiff, ogg, opus or mp3, several with commas; for the mix besides that of --out")
      ->delimiter(',');
  auto* bits =
      c->add_option("--bits", o->bits, "16, 24, 32 or float (default 24)")
          ->check(CLI::IsMember(std::vector<std::string>(kSampleFormatNames.begin(), kSampleFormatNames.end())));
  c->add_flag("--no-dither", o->plain, "round without the noise that keeps the softest sounds")->needs(bits);
  c->add_option("--quality", o->quality, "of packed formats, 0 to 100 (default 90)")
      ->check(CLI::Range(kQualityRange.low, kQualityRange.high));
  c->add_option("--rate", o->rate, "Hz (default: the song's)")->check(CLI::Range(8'000, 192'000));
  c->add_flag("--mono", o->mono, "the mean of both sides");
  c->add_option(
      "--names", o->names,
      "what files are called: text with {song}, {track}, {set}, {section}, {clip}, {number}, {tempo}, {rate}");
  c->add_option("--loudness", o->loudness,
                "LUFS that the mix is brought to, by one gain for every file; the true peak stays at -1 dB or below")
      ->check(CLI::Range(kLoudnessRange.low, kLoudnessRange.high));
  c->add_option("--tail", o->tail, "seconds for which effects ring on after the end of each file's sound")
      ->check(CLI::Range(kTailRange.low, kTailRange.high))
      ->capture_default_str();
  c->add_option("--report", o->report, "JSON of what was written");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged recordings");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
