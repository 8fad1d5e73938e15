#include "document/print_desk.h"

#include <QStringList>
#include <algorithm>
#include <map>
#include <set>

#include "document/document.h"
#include "document/song_files.h"
#include "document/sounding.h"
#include "document/timing_desk.h"
#include "document/wording.h"
#include "edits/media_edits.h"
#include "edits/speed_edits.h"
#include "feel/timings.h"
#include "files/file_names.h"
#include "handover/cells.h"
#include "handover/handover.h"
#include "play/click.h"
#include "render/made_store.h"
#include "render/whole_sound.h"
#include "store/gather.h"
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

QString PrintDesk::wordsFor(const ExportLoudness& l) {
  if (!l.before.integrated) return tr("The mix is silent, so no loudness was sought.");
  const auto text = tr("%1 dB for %2 LUFS (%3 before)")
                        .arg(l.gainDb, 0, 'f', 1)
                        .arg(*l.before.integrated + l.gainDb, 0, 'f', 1)
                        .arg(*l.before.integrated, 0, 'f', 1);
  return l.heldByPeak ? tr("%1: at %2 LUFS its true peak would pass %3 dB.")
                            .arg(text)
                            .arg(l.asked, 0, 'f', 1)
                            .arg(kTruePeakCeiling, 0, 'f', 0)
                      : text + QStringLiteral(".");
}

PrintDesk::PrintDesk(Document& document) : QObject(&document), doc_(document) {
  connect(&doc_, &Document::songChanged, this, [this] {
    if (used_.empty() || used_.back().media != doc_.song().media) used_.push_back(doc_.song());
  });
}

void PrintDesk::archive(const fs::path& file, ArchivePacking packing) {
  doc_.jobs().start(
      tr("archiving"),
      [this, file, packing, song = doc_.version()](Progress& progress) -> Jobs::Finish {
        Outputs outputs;
        if (auto ok = writeArchive(*song, file, outputs, progress, packing); !ok) return doc_.failed(ok.error());
        if (auto ok = outputs.commit(); !ok) return doc_.failed(ok.error());
        return [this, file] {
          doc_.tell(tr("The song and all its recordings are in %1.").arg(QString::fromStdString(shownPath(file))));
        };
      },
      {}, Jobs::Scope::files);
}

void PrintDesk::openArchive(const fs::path& file, const fs::path& folder) {
  doc_.jobs().start(
      tr("unpacking"),
      [this, file, folder](Progress& progress) -> Jobs::Finish {
        const auto song = unpackArchive(file, folder, progress);
        if (!song) return doc_.failed(song.error());
        return [this, folder] { emit unpacked(QString::fromStdString(folder.string())); };
      },
      {}, Jobs::Scope::files);
}

void PrintDesk::clean() {
  const auto folder = doc_.files().folder();
  if (folder.empty()) return doc_.tell(tr("The song is not saved yet, so nothing lies in its folder."));
  auto songs = used_;
  songs.push_back(doc_.song());
  if (const auto saved = openProject(folder)) songs.push_back(*saved);
  const auto files = unusedFiles(folder, songs);
  if (files.empty())
    return doc_.tell(tr("Nothing lies in the song's media folder that the song, its prints or undo do not use."));
  QStringList names;
  constexpr std::size_t kListed = 12;
  for (std::size_t i = 0; i < std::min(kListed, files.size()); ++i)
    names << QString::fromStdString(shownPath(files[i].filename()));
  if (files.size() > kListed) names << tr("and %1 more").arg(files.size() - kListed);
  if (!doc_.ask(tr("Set these files aside?"),
                tr("%1 that nothing uses would be moved to \"set aside\" in the song's folder. None is deleted.\n%2")
                    .arg(counted(files.size(), "file", "files"), names.join("\n")),
                tr("Set them aside")))
    return;
  if (auto ok = setAsideUnused(folder, files); !ok) return doc_.warn(QString::fromStdString(ok.error().message));
  doc_.tell(tr("%1 set aside.").arg(counted(files.size(), "file", "files")));
}

void PrintDesk::forget() {
  measured_.reset();
  levelled_.reset();
  used_ = {doc_.song()};
  emit measured();
}

void PrintDesk::measure(FrameRange range, bool mono) {
  if (range.empty()) return doc_.tell(tr("There is nothing to measure yet."));
  if (!allAtHand(tr("measure"))) return;
  doc_.jobs().start(
      tr("measuring loudness"),
      [this, song = doc_.version(), range, mono, pool = doc_.recordings().pool(),
       made = doc_.sounding().made()](Progress& progress) -> Jobs::Finish {
        const auto whole = wholeSound(*song, pool, *made, range.start, progress);
        if (!whole) return doc_.failed(whole.error());
        auto report = measureMix(*song, whole->plan, range, mono, progress);
        if (!report) return doc_.failed(report.error());
        return [this, song, range, report = std::move(*report)] {
          measured_ = Measured{song, range, report};
          emit measured();
        };
      },
      QStringLiteral("loudness"));
}

Result<std::vector<fs::path>> PrintDesk::filesOf(const Song& song, const ExportSettings& s, const fs::path& target) {
  const auto stems = exportStems(song, s, target);
  if (!stems) return tl::unexpected(stems.error());
  std::vector<fs::path> out;
  for (const auto& stem : *stems)
    for (const auto& f : stem.files) out.push_back(f.file);
  if (s.click) out.push_back(besideOf(s, target, "click", extensionOf(s.format)));
  if (s.midi) out.push_back(besideOf(s, target, "map", ".mid"));
  return out;
}

bool PrintDesk::mayWrite(const std::vector<fs::path>& files, const fs::path& named) const {
  const auto writes = outputsOf(doc_.song());
  for (const auto& file : files)
    if (const auto ok = writes.allows(file); !ok) return doc_.warn(QString::fromStdString(ok.error().message)), false;
  auto there = Outputs::existing(files);
  std::erase(there, named);  // the dialog has asked about it
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

bool PrintDesk::allAtHand(const QString& what) {
  if (!doc_.recordings().complete())
    return doc_.warn(tr("The recordings are still being read, so the %1 would have holes. Try again when they are in.")
                         .arg(what)),
           false;
  for (const auto& m : doc_.song().media)
    if (!doc_.recordings().pool().contains(m.id))
      return doc_.warn(tr("The %1 would have holes: %2 is not at hand.").arg(what, QString::fromStdString(m.path)),
                       tr("Look\u2026"), "song.recordings"),
             false;
  doc_.timingDesk().hearJointsNow();
  return true;
}

void PrintDesk::exportTo(const ExportSettings& settings, const fs::path& target) {
  if (!allAtHand(tr("export"))) return;
  if (settings.range.empty())
    return doc_.tell(
        tr("No range is chosen, so there is nothing to export. Drag over the ruler, or export the whole song."));
  const auto files = filesOf(doc_.song(), settings, target);
  if (!files) return doc_.warn(QString::fromStdString(files.error().message));
  if (!mayWrite(*files, settings.what == ExportWhat::mix ? target : fs::path())) return;
  const auto song = doc_.version();
  const auto pool = doc_.recordings().pool();
  doc_.jobs().start(
      tr("exporting"),
      [this, song, pool, made = doc_.sounding().made(), settings, target](Progress& progress) -> Jobs::Finish {
        const auto whole = wholeSound(*song, pool, *made, settings.range.start, progress);
        if (!whole) return doc_.failed(whole.error());
        auto outputs = outputsOf(*song);
        auto report = exportSong(*song, whole->plan, settings, target, outputs, progress);
        if (!report) return doc_.failed(report.error());
        if (auto ok = exportBeside(*song, pool, settings, target, outputs, *report, progress); !ok)
          return doc_.failed(ok.error());
        if (const auto asRead = whole->holds(pool, *made); !asRead) return changedMeanwhile(asRead.error());
        if (auto ok = outputs.commit(); !ok) return doc_.failed(ok.error());
        QString text =
            tr("Exported %1 to %2.")
                .arg(counted(report->files.size(), "file", "files"), QString::fromStdString(target.string()));
        if (report->clippedSamples > 0)
          text += tr(" %1 samples were beyond full scale and clipped.").arg(report->clippedSamples);
        if (!whole->missing.empty()) text += " " + QString::fromStdString(missingEffects(whole->missing));
        if (report->loudness) text += QStringLiteral(" ") + wordsFor(*report->loudness);
        if (!report->tempoTold) text += tr(" The tempo could not be put into the tags; the sound is whole.");
        return [this, text] { doc_.tell(text); };
      },
      {}, Jobs::Scope::files);
}

Jobs::Finish PrintDesk::changedMeanwhile(const Error& error) {
  return [this, text = QString::fromStdString(error.message)] {
    doc_.recordings().noticeChanges();
    doc_.warn(text);
  };
}

void PrintDesk::writeCells(SetId set, const fs::path& folder) {
  if (!allAtHand(tr("cells"))) return;
  const auto files = cellFiles(doc_.song(), set, folder);
  if (files.empty()) return doc_.tell(tr("This mic set plays nothing that could be written."));
  if (!mayWrite(files)) return;
  doc_.jobs().start(
      tr("writing cells"),
      [this, song = doc_.version(), pool = doc_.recordings().pool(), made = doc_.sounding().made(), set,
       folder](Progress& progress) -> Jobs::Finish {
        const auto dry = drySound(*song, pool, *made, Frames{}, progress);
        if (!dry) return doc_.failed(dry.error());
        auto outputs = outputsOf(*song);
        const auto written = ochron::writeCells(*song, dry->plan, set, folder, outputs, progress);
        if (!written) return doc_.failed(written.error());
        if (const auto asRead = dry->holds(pool, *made); !asRead) return changedMeanwhile(asRead.error());
        if (auto ok = outputs.commit(); !ok) return doc_.failed(ok.error());
        return [this, n = *written, folder] {
          doc_.tell(tr("%1, an instrument and their order written to %2.")
                        .arg(counted(n, "cell", "cells"), QString::fromStdString(shownPath(folder))));
        };
      },
      {}, Jobs::Scope::files);
}

void PrintDesk::gather() {
  const auto folder = doc_.files().folder();
  if (folder.empty()) return doc_.warn(tr("Save the song first: recordings are gathered in its folder."));
  if (lyingElsewhere(doc_.song(), folder).empty()) return doc_.tell(tr("All recordings lie in the song's folder."));
  doc_.jobs().start(
      tr("gathering recordings"),
      [this, folder, song = doc_.version()](Progress& progress) -> Jobs::Finish {
        std::vector<fs::path> copied;
        auto next = gatherRecordings(*song, folder, copied, progress);
        if (!next) return doc_.failed(next.error());
        return [this, next = std::move(*next), count = copied.size()] {
          Result<Song> here = doc_.song();
          for (const auto& m : next.media)
            if (const auto* now = doc_.song().find(m.id); here && now && now->path != m.path)
              here = relinkMedia(*here, m.id, m.path);
          if (doc_.edit(tr("Gather recordings"), here))
            doc_.tell(tr("%1 copied into the song's folder.").arg(counted(count, "recording", "recordings")));
        };
      },
      QStringLiteral("print"), Jobs::Scope::edits);
}

void PrintDesk::handOver(const fs::path& folder, bool recordings) {
  if (!allAtHand(tr("hand-over"))) return;
  doc_.jobs().start(
      tr("handing over"),
      [this, folder, recordings, song = doc_.version(), pool = doc_.recordings().pool(),
       made = doc_.sounding().made()](Progress& progress) -> Jobs::Finish {
        const auto whole = wholeSound(*song, pool, *made, Frames{}, progress);
        if (!whole) return doc_.failed(whole.error());
        Timings timings;
        const auto report = writeHandover(*song, pool, whole->plan, timings.all(*song), folder, {recordings}, progress);
        if (!report) return doc_.failed(report.error());
        return [this, report = *report, folder] {
          doc_.tell(tr("Handed over: %1 in %2.")
                        .arg(counted(report.files, "file", "files"), QString::fromStdString(shownPath(folder))));
        };
      },
      {}, Jobs::Scope::files);
}

}  // namespace ochron
