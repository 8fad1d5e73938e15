#include <memory>

#include "commands.h"
#include "project_files.h"
#include "store/archive.h"
#include "store/project.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

struct ArchiveOptions {
  std::string project;
  std::string out;
  bool keepExisting = false;
  bool list = false;
  bool flac = false;
};

Result<std::string> runArchive(const ArchiveOptions& o) {
  const auto song = openProject(o.project);
  if (!song) return tl::unexpected(song.error());
  Outputs outputs;
  if (o.keepExisting) outputs.keepExisting();
  Progress progress;
  Result<void> written;
  withProgress("archiving", progress, [&] {
    written = writeArchive(*song, o.out, outputs, progress, o.flac ? ArchivePacking::flac : ArchivePacking::none);
  });
  if (!written) return tl::unexpected(written.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  return o.out + "\n";
}

Result<std::string> runFrom(const ArchiveOptions& o) {
  Progress progress;
  Result<Song> song = cancelledError();
  withProgress("unpacking", progress, [&] { song = unpackArchive(o.project, o.out, progress); });
  if (!song) return tl::unexpected(song.error());
  return o.out + "\n";
}

Result<std::string> runClean(const ArchiveOptions& o) {
  const auto song = openProject(o.project);
  if (!song) return tl::unexpected(song.error());
  if (!o.list)
    if (auto ok = notOpen(o.project); !ok) return tl::unexpected(ok.error());
  std::vector<Song> songs{*song};
  const auto folder = projectFolder(o.project);
  const auto autosave = findAutosave(folder);
  if (autosave.state == Autosave::State::damaged) return fail(ErrorKind::refused, autosave.why);
  if (autosave.song) songs.push_back(*autosave.song);
  const auto files = unusedFiles(folder, songs);
  std::string text;
  for (const auto& f : files) text += f.string() + "\n";
  if (files.empty()) return std::string("nothing lies in media/ that the song does not use\n");
  if (o.list) return text;
  if (auto ok = setAsideUnused(folder, files); !ok) return tl::unexpected(ok.error());
  return text + std::to_string(files.size()) + (files.size() == 1 ? " file" : " files") + " moved to \"set aside\"\n";
}

}  // namespace

void addArchive(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<ArchiveOptions>();
  auto* c = app.add_subcommand("archive", "Put a project with all its recordings into one ZIP file");
  c->add_option("PROJECT", o->project, "project folder (NAME.ochron)")->required();
  c->add_option("--out", o->out, "file to write (.zip)")->required();
  c->add_flag("--flac", o->flac, "recordings of 16 and 24 bit as FLAC, which holds them to the bit");
  c->add_flag("--keep-existing", o->keepExisting, "refuse to replace a file that is there already");
  c->callback([o, &chosen] { chosen = [o] { return runArchive(*o); }; });
  auto* from = app.add_subcommand("from-archive", "Unpack such a file into a project folder");
  from->add_option("FILE", o->project, "archive (.zip)")->required();
  from->add_option("--out", o->out, "project folder, not there yet or empty")->required();
  from->callback([o, &chosen] { chosen = [o] { return runFrom(*o); }; });
  auto* clean = app.add_subcommand("clean", "Move recordings that a project does not use aside; nothing is deleted");
  clean->add_option("PROJECT", o->project, "project folder (NAME.ochron)")->required();
  clean->add_flag("--list", o->list, "only say which");
  clean->callback([o, &chosen] { chosen = [o] { return runClean(*o); }; });
}

}  // namespace ochron::cli
