// Runs one act of the application's document without a window, for tests that end it in the middle.
//   hold FOLDER            takes the folder's lock in a process that stays; prints its number
//   let go NUMBER          ends that process
//   edit FOLDER NAME       opens the song, adds a marker of this name, autosaves
//   save FOLDER NAME       as edit, then saves
//   unsaved RECORDING NAME a new song from a recording with a marker of this name, autosaved and left as a crash would
//   recover                moves what crashed runs left to the kept copies and opens the first
//   export FOLDER FILE     exports the mix
#include <signal.h>
#include <unistd.h>

#include <QCoreApplication>
#include <cstdio>
#include <cstdlib>
#include <string>

#include "document/document.h"
#include "document/last_copy.h"
#include "document/print_desk.h"
#include "document/song_files.h"
#include "document/takes_desk.h"
#include "edits/mark_edits.h"
#include "files/signal_watch.h"

namespace {

using namespace ochron;
namespace fs = std::filesystem;

int hold(const fs::path& project) {
  const auto child = ::fork();
  if (child == 0) {
    static auto lock = FolderLock::takeOver(project);
    ::fclose(stdout);
    ::close(0), ::close(1), ::close(2);
    ::setsid();
    for (;;) ::pause();
  }
  for (int i = 0; i < 500; ++i) {
    const auto holder = FolderLock::holderOf(project);
    if (holder && holder->process.number == child) return std::printf("%d", child), 0;
    ::usleep(10'000);
  }
  return 3;
}

bool addMarkerOf(Document& doc, const std::string& name) {
  const bool ok = doc.edit("marker", addMarker(doc.song(), Ticks{0}, Ticks{}, name));
  doc.jobs().finishAll();
  return ok;
}

/// Ends as a crash would: nothing is tidied up.
[[noreturn]] void crash(int status) {
  std::fflush(stdout);
  ::_exit(status);
}

}  // namespace

int main(int argc, char** argv) {
  QCoreApplication app(argc, argv);
  QCoreApplication::setApplicationName("orthochron-tests");
  QCoreApplication::setOrganizationName("orthochron-tests");
  const std::string what = argc > 1 ? argv[1] : "";
  const auto arg = [&](int i) { return std::string(argc > i ? argv[i] : ""); };
  if (what == "hold") return hold(arg(2));
  if (what == "let go") return ::kill(std::atoi(arg(2).c_str()), SIGKILL) == 0 ? 0 : 3;
  std::optional<SignalWatch> watch;  // before any other thread
  if (what == "end") watch.emplace(LastCopy::write);
  Document doc;
  QObject::connect(&doc, &Document::warned,
                   [](const QString& sentence) { std::fprintf(stderr, "%s\n", qPrintable(sentence)); });
  if (what == "edit" || what == "save") {
    if (!doc.files().open(arg(2))) return 3;
    doc.jobs().finishAll();
    if (!addMarkerOf(doc, arg(3))) return 3;
    const bool ok = what == "edit" || doc.files().save(arg(2));
    crash(ok ? 0 : 4);
  }
  if (what == "end") {  // told to end while the thread that keeps is busy with something else
    if (!doc.files().open(arg(2))) return 3;
    doc.jobs().finishAll();
    doc.jobs().start(
        {},
        [](Progress&) -> Jobs::Finish {
          ::sleep(30);
          return {};
        },
        "busy", Jobs::Scope::files, Jobs::Kind::keep);
    if (!doc.edit("marker", addMarker(doc.song(), Ticks{0}, Ticks{}, arg(3)))) return 3;
    ::kill(::getpid(), SIGTERM);
    for (;;) ::pause();
  }
  if (what == "unsaved") {
    doc.takesDesk().importFiles({{arg(2), "Voice", MicRole::none, false}}, "take", doc.song().rate);
    doc.jobs().finishAll();
    crash(addMarkerOf(doc, arg(3)) ? 0 : 3);
  }
  if (what == "recover") {
    std::optional<KeptCopies::Copy> first;
    for (const auto& folder : doc.files().keeper().abandoned())
      if (auto copy = doc.files().keepAside(folder); copy && !first) first = copy;
    const auto kept = doc.files().keeper().kept().list();
    for (const auto& copy : kept)
      if (!copy.damaged && !first) first = copy;
    const bool ok = first && doc.files().openKept(*first);
    doc.jobs().finishAll();
    for (const auto& m : doc.song().markers) std::printf("%s\n", m.name.c_str());
    crash(ok ? 0 : 4);
  }
  if (what == "export") {
    if (!doc.files().open(arg(2))) return 3;
    doc.jobs().finishAll();
    ExportSettings s;
    s.range = {Frames{0}, doc.song().end()};
    doc.printDesk().exportTo(s, arg(3));
    doc.jobs().finishAll();
    crash(fs::exists(arg(3)) ? 0 : 4);
  }
  return 2;
}
