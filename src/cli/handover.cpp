#include "handover/handover.h"

#include <memory>

#include "commands.h"
#include "feel/timings.h"
#include "files/file_names.h"
#include "project_files.h"
#include "store/project.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

struct HandoverOptions {
  std::string project;
  std::string out;
  bool recordings = false;
  bool acceptDamaged = false;
};

Result<std::string> runHandover(const HandoverOptions& o) {
  const auto files = loadProject(o.project, o.acceptDamaged ? Damaged::accept : Damaged::refuse);
  if (!files) return tl::unexpected(files.error());
  MadeStore made(files->cacheFolder);
  const auto ready = readySong(*files, made, Frames{});
  if (!ready) return tl::unexpected(ready.error());
  Timings timings;
  Progress progress;
  Result<HandoverReport> report = cancelledError();
  withProgress("handing over", progress, [&] {
    report =
        writeHandover(files->song, files->pool, ready->plan, timings.all(files->song), o.out, {o.recordings}, progress);
  });
  if (!report) return tl::unexpected(report.error());
  return (ready->missing.empty() ? std::string() : missingEffects(ready->missing) + "\n") +
         std::to_string(report->files) + " files in " + o.out + "\n" +
         (report->beyondFullScale > 0
              ? std::to_string(report->beyondFullScale) + " samples lie beyond full scale; the files hold them\n"
              : std::string());
}

Result<std::string> runCheck(const std::string& folder) {
  Progress progress;
  Result<std::vector<std::string>> wrong = std::vector<std::string>();
  withProgress("checking", progress, [&] { wrong = checkHandover(folder, progress); });
  if (!wrong) return tl::unexpected(wrong.error());
  if (wrong->empty()) return "whole: every file is as it was handed over\n";
  auto text = folder + ": " + wrong->front();
  if (wrong->size() > 1) text += " And " + std::to_string(wrong->size() - 1) + " more.";
  return fail(ErrorKind::badInput, text);
}

Result<std::string> runSong(const HandoverOptions& o) {
  Progress progress;
  auto song = songOfHandover(o.project, progress);
  if (!song) return tl::unexpected(song.error());
  std::error_code none;
  const auto folder = projectFolder(o.out);
  if (std::filesystem::exists(folder / kSongFile, none))
    return fail(ErrorKind::refused, shownPath(folder) + " is a song already. Choose another name.");
  if (auto ok = saveProject(*song, folder); !ok) return tl::unexpected(ok.error());
  return std::to_string(song->tracks.size()) + " tracks, " + o.out + "\n";
}

}  // namespace

void addHandover(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<HandoverOptions>();
  auto* c = app.add_subcommand("handover", "Write a folder of a project that opens anywhere");
  c->add_option("PROJECT", o->project, "project folder (NAME.ochron)")->required();
  c->add_option("--out", o->out, "folder to write; not there yet, or empty")->required();
  c->add_flag("--recordings", o->recordings, "the untouched recordings, too");
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged recordings");
  c->callback([o, &chosen] { chosen = [o] { return runHandover(*o); }; });
  auto folder = std::make_shared<std::string>();
  auto* check = app.add_subcommand("check-handover", "Check that a hand-over folder is whole and unchanged");
  check->add_option("DIR", *folder, "hand-over folder")->required();
  check->callback([folder, &chosen] { chosen = [folder] { return runCheck(*folder); }; });
  auto s = std::make_shared<HandoverOptions>();
  auto* song = app.add_subcommand("from-handover", "Make a project of a hand-over folder");
  song->add_option("DIR", s->project, "hand-over folder")->required();
  song->add_option("--out", s->out, "project folder to make (NAME.ochron)")->required();
  song->callback([s, &chosen] { chosen = [s] { return runSong(*s); }; });
}

}  // namespace ochron::cli
