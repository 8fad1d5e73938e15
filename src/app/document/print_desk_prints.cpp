// Committing to audio: printed, printed anew, compared, taken back.

#include <algorithm>
#include <cmath>

#include "base/numbers.h"
#include "document/document.h"
#include "document/print_desk.h"
#include "document/song_files.h"
#include "document/sounding.h"
#include "document/wording.h"
#include "render/print_sound.h"
#include "render/whole_sound.h"
#include "song/print_source.h"
#include "store/project.h"

namespace ochron {

void PrintDesk::commit(const PrintAsk& ask) {
  if (!allAtHand(tr("print"))) return;
  const auto name = ask.depth == PrintDepth::trim   ? tr("Trim recordings")
                    : ask.depth == PrintDepth::clip ? tr("Print clips")
                                                    : tr("Print tracks");
  print(name, doc_.version(), ask);
}

void PrintDesk::print(const QString& name, const std::shared_ptr<const Song>& base, const PrintAsk& ask) {
  const auto rows = printRows(*base, ask);
  if (!rows) return doc_.warn(QString::fromStdString(rows.error().message));
  if (doc_.files().folder().empty())
    return doc_.warn(tr("Save the song first: what is printed is kept in its folder."));
  doc_.jobs().start(
      tr("printing %1").arg(counted(rows->size(), "file", "files")),
      [this, name, rows = *rows, ask, base, song = doc_.version(), pool = doc_.recordings().pool(),
       made = doc_.sounding().made(), folder = doc_.files().folder() / "media",
       cache = doc_.files().cacheFolder()](Progress& progress) -> Jobs::Finish {
        const auto whole = wholeSound(*base, pool, *made, Frames{}, progress);
        if (!whole) return doc_.failed(whole.error());
        if (ask.depth == PrintDepth::track && !whole->missing.empty())
          return doc_.failed(
              {ErrorKind::refused, missingEffects(whole->missing) + " Print clips, or take them out of the song.", {}});
        const auto targets = printTargets(rows, folder);
        auto outputs = outputsOf(*base);
        outputs.keepExisting();
        if (auto ok = writePrints(targets, whole->plan, pool, outputs, progress); !ok) return doc_.failed(ok.error());
        if (auto ok = whole->holds(pool, *made); !ok) return doc_.failed(ok.error());
        if (auto ok = outputs.commit(); !ok) return doc_.failed(ok.error());
        std::vector<PrintedFile> files;
        std::vector<Recordings::Read> reads;
        for (const auto& [row, file] : targets) {
          auto read = doc_.recordings().read(file, cache, base->rate, Damaged::refuse, progress);
          if (!read) return doc_.failed(read.error());
          files.push_back({row, read->found.path, read->found.fingerprint, row.range.length()});
          reads.push_back(std::move(*read));
        }
        return [this, name, files = std::move(files), reads = std::move(reads), base, song] {
          if (doc_.version() != song)
            return doc_.warn(tr("The song was changed while it was printed, so it stays as it is. Print again."));
          const auto next = applyPrint(*base, files);
          if (next)
            for (const auto& m : next->media)
              for (const auto& read : reads)
                if (m.path == read.found.path) doc_.recordings().put(m.id, read);
          if (!doc_.edit(name, next)) return;
          emit doc_.mediaChanged();
          doc_.tell(tr("%1 printed. What it was made of is kept: it can be taken back at any time.")
                        .arg(counted(files.size(), "file", "files")));
        };
      },
      QStringLiteral("print"), Jobs::Scope::edits);
}

void PrintDesk::takeBack(SetId set) {
  const auto prints = printsOf(doc_.song(), set);
  if (prints.empty()) return doc_.tell(tr("Nothing of this is printed."));
  if (doc_.edit(tr("Take a print back"), unprint(doc_.song(), prints.back())))
    doc_.tell(tr("The edits are alive again. The printed files stay in the song's folder."));
}

const Print* PrintDesk::latestOf(SetId set) const {
  const auto& prints = doc_.song().prints;
  const auto found = std::find_if(prints.rbegin(), prints.rend(),
                                  [&](const Print& p) { return p.set == set && p.depth != PrintDepth::trim; });
  return found == prints.rend() ? nullptr : &*found;
}

void PrintDesk::printAnew(SetId set) {
  if (!allAtHand(tr("print"))) return;
  const auto* print = latestOf(set);
  if (!print) return doc_.tell(tr("Nothing of this is printed."));
  const auto* active = doc_.song().find(set);
  const auto before = *active->clips;
  auto alive = unprint(doc_.song(), print->id);
  if (!alive) return doc_.warn(QString::fromStdString(alive.error().message));
  PrintAsk ask{print->depth, {}, {}};
  if (print->depth == PrintDepth::track) ask.sets = {set};
  // The clips that came back.
  for (const auto& c : *alive->find(set)->clips)
    if (std::none_of(before.begin(), before.end(), [&](const Clip& b) { return b.id == c.id; }))
      ask.clips.push_back(c.id);
  if (ask.clips.empty()) return doc_.tell(tr("The print is not heard any more. Take it back, or leave it."));
  if (print->depth == PrintDepth::track) ask.clips.clear();
  this->print(tr("Print anew"), std::make_shared<const Song>(*std::move(alive)), ask);
}

void PrintDesk::compare(SetId set) {
  if (!allAtHand(tr("comparison"))) return;
  const auto* print = latestOf(set);
  if (!print) return doc_.tell(tr("Nothing of this is printed."));
  auto alive = asPrinted(doc_.song(), print->id);
  if (!alive) return doc_.warn(QString::fromStdString(alive.error().message));
  const auto rows = printRows(*alive, {print->depth, {set}, {}});
  if (!rows) return doc_.warn(QString::fromStdString(rows.error().message));
  const auto* take = doc_.song().find(print->take);
  std::vector<PrintedRow> printed;
  for (const auto& row : *rows)
    for (const auto& mic : take->mics)
      if (mic.track == row.track) printed.push_back({row, mic.media});
  doc_.jobs().start(
      tr("comparing the print"),
      [this, printed, why = outOfDate(doc_.song(), *print), song = std::make_shared<const Song>(*std::move(alive)),
       pool = doc_.recordings().pool(), made = doc_.sounding().made()](Progress& progress) -> Jobs::Finish {
        const auto whole = wholeSound(*song, pool, *made, Frames{}, progress);
        if (!whole) return doc_.failed(whole.error());
        const auto off = differenceFrom(printed, whole->plan, pool, progress);
        if (!off) return doc_.failed(off.error());
        return [this, off = *off, why, rate = song->rate] {
          if (off.peak == 0) return doc_.tell(tr("The print is what it was made of, to the bit."));
          const auto level = QString::number(20 * std::log10(off.peak), 'f', 1);
          const auto text = tr("The print differs from what it was made of by %1 dB of full scale at most, at %2 s.")
                                .arg(level)
                                .arg(static_cast<double>(off.at.value) / rate, 0, 'f', 2);
          doc_.tell(why.empty() ? text : tr("%1 Since it was made, %2.").arg(text, QString::fromStdString(why)));
        };
      });
}

}  // namespace ochron
