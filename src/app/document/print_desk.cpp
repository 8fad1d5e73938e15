#include "document/print_desk.h"

#include <QStringList>
#include <algorithm>
#include <map>

#include "document/document.h"
#include "document/sounding.h"
#include "document/wording.h"
#include "edits/speed_edits.h"
#include "feel/timings.h"
#include "files/file_names.h"
#include "play/click.h"
#include "render/made_store.h"
#include "render/tuned_takes.h"
#include "store/midi_file.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

/// A file that goes with an export: "click", "map".
fs::path besideOf(const ExportSettings& s, const fs::path& target, const std::string& word, const std::string& ending) {
  const bool mix = s.what == ExportWhat::mix;
  auto name = mix ? target.stem().string() + " " + word : fileNameFor(word);
  return (mix ? target.parent_path() : target) / (name + ending);
}

/// The click and the MIDI file that go with an export.
Result<void> exportBeside(const Song& song, const MediaPool& pool, const ExportSettings& s, const fs::path& target,
                          Outputs& outputs, ExportReport& report, Progress& progress) {
  const auto beside = [&](const std::string& word, const std::string& ending) {
    return besideOf(s, target, word, ending);
  };
  if (s.click) {
    const auto file = beside("click", extensionOf(s.format));
    if (auto ok = exportClick(song, s, file, outputs, progress); !ok) return ok;
    report.files.push_back(file);
  }
  if (!s.midi) return {};
  Timings timings;
  const auto& timing = timings.all(song);
  const auto file = beside("map", ".mid");
  const auto tempo = song.speedManner.exported ? playedTempo(song) : song.tempo;
  if (auto ok = writeSongMidi(song, timing, pool, tempo, s.range.start, file, outputs); !ok) return ok;
  report.files.push_back(file);
  return {};
}

}  // namespace

PrintDesk::PrintDesk(Document& document) : QObject(&document), doc_(document) {}

std::vector<fs::path> PrintDesk::filesOf(const Song& song, const ExportSettings& s, const fs::path& target) {
  std::vector<fs::path> out;
  if (s.what == ExportWhat::mix)
    out.push_back(target);
  else
    for (const auto& [track, file] : trackFiles(song, s, target)) out.push_back(file);
  if (s.click) out.push_back(besideOf(s, target, "click", extensionOf(s.format)));
  if (s.midi) out.push_back(besideOf(s, target, "map", ".mid"));
  return out;
}

bool PrintDesk::mayReplace(const ExportSettings& s, const fs::path& target) const {
  auto there = Outputs::existing(filesOf(doc_.song(), s, target));
  // The dialog that named the mix has asked about it.
  if (s.what == ExportWhat::mix) std::erase(there, target);
  if (there.empty()) return true;
  constexpr std::size_t kListed = 12;
  QStringList names;
  for (std::size_t i = 0; i < std::min(kListed, there.size()); ++i)
    names << QString::fromStdString(shownPath(there[i].filename()));
  if (there.size() > kListed) names << tr("and %1 more").arg(there.size() - kListed);
  return doc_.ask(tr("Replace these files?"),
                  tr("%1 in %2 would be replaced:\n%3")
                      .arg(counted(there.size(), "file", "files"),
                           QString::fromStdString(shownPath(there.front().parent_path())), names.join("\n")),
                  tr("Replace them"));
}

void PrintDesk::exportTo(const ExportSettings& settings, const fs::path& target) {
  if (!doc_.recordings().complete())
    return doc_.warn(
        tr("The recordings are still being read, so the export would have holes. Export again when they are in."));
  for (const auto& m : doc_.song().media)
    if (!doc_.recordings().pool().contains(m.id))
      return doc_.warn(tr("The export would have holes: %1 is not at hand.").arg(QString::fromStdString(m.path)),
                       tr("Look\u2026"), "song.recordings");
  if (settings.range.empty())
    return doc_.tell(
        tr("No range is chosen, so there is nothing to export. Drag over the ruler, or export the whole song."));
  const auto writes = outputsOf(doc_.song());
  for (const auto& file : filesOf(doc_.song(), settings, target))
    if (const auto ok = writes.allows(file); !ok) return doc_.warn(QString::fromStdString(ok.error().message));
  if (!mayReplace(settings, target)) return;
  const auto song = doc_.version();
  const auto pool = doc_.recordings().pool();
  doc_.jobs().start(
      tr("exporting"),
      [this, song, pool, made = doc_.sounding().made(), settings, target](Progress& progress) -> Jobs::Finish {
        const auto failed = [this](const Error& e) -> Jobs::Finish {
          if (e.kind == ErrorKind::cancelled) return {};
          return [this, text = QString::fromStdString(e.message)] { doc_.warn(text); };
        };
        const auto tuned = tunedWhole(*song, pool, *made, progress);
        if (!tuned) return failed(tuned.error());
        if (auto ok = makeMissing(*song, *tuned, *made, settings.range.start, progress); !ok) return failed(ok.error());
        auto outputs = outputsOf(*song);
        auto report =
            exportSong(*song, compilePlan(*song, *tuned, nullptr, made.get()), settings, target, outputs, progress);
        if (!report) return failed(report.error());
        if (auto ok = exportBeside(*song, pool, settings, target, outputs, *report, progress); !ok)
          return failed(ok.error());
        auto asRead = stillAsRead(pool);
        if (asRead) asRead = made->stillAsKept();
        if (!asRead)
          return [this, text = QString::fromStdString(asRead.error().message)] {
            doc_.recordings().noticeChanges();
            doc_.warn(text);
          };
        if (auto ok = outputs.commit(); !ok) return failed(ok.error());
        QString text =
            tr("Exported %1 to %2.")
                .arg(counted(report->files.size(), "file", "files"), QString::fromStdString(target.string()));
        if (report->clippedSamples > 0)
          text += tr(" %1 samples were beyond full scale and clipped.").arg(report->clippedSamples);
        if (!report->tempoTold) text += tr(" The tempo could not be put into the tags; the sound is whole.");
        return [this, text] { doc_.tell(text); };
      },
      {}, Jobs::Scope::files);
}

}  // namespace ochron
