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

const std::vector<PrintLevel>* PrintDesk::levelsFor(const PrintAsk& ask, const PrintPlan& plan) {
  if (levelled_ && levelled_->song == doc_.version() && levelled_->ask == ask)
    return levelled_->levels ? &*levelled_->levels : nullptr;
  levelled_ = Levelled{doc_.version(), ask, {}};
  if (ask.manner.asHeard()) return &levelled_->levels.emplace(plan.rows.size());
  if (!doc_.recordings().complete()) return levelled_.reset(), nullptr;
  doc_.jobs().start(
      tr("listening for levels"),
      [this, version = doc_.version(), ask, base = std::make_shared<const Song>(plan.song), rows = plan.rows,
       pool = doc_.recordings().pool(), made = doc_.sounding().made()](Progress& progress) -> Jobs::Finish {
        const auto whole = wholeSound(*base, pool, *made, Frames{}, progress);
        if (!whole) return doc_.failed(whole.error());
        auto levels = printLevels(rows, whole->plan, pool, progress);
        if (!levels) return doc_.failed(levels.error());
        return [this, version, ask, levels = std::move(*levels)] {
          levelled_ = Levelled{version, ask, levels};
          emit levelled();
        };
      },
      QStringLiteral("print levels"), Jobs::Scope::song, Jobs::Kind::follow);
  return nullptr;
}

void PrintDesk::commit(const PrintAsk& ask) {
  if (!allAtHand(tr("print"))) return;
  const auto name = ask.depth == PrintDepth::trim   ? tr("Trim recordings")
                    : ask.depth == PrintDepth::clip ? tr("Print clips")
                                                    : tr("Print tracks");
  print(name, doc_.version(), ask);
}

void PrintDesk::print(const QString& name, const std::shared_ptr<const Song>& base, const PrintAsk& ask) {
  auto plan = planPrint(*base, ask);
  if (!plan) return doc_.warn(QString::fromStdString(plan.error().message));
  if (doc_.files().folder().empty())
    return doc_.warn(tr("Save the song first: what is printed is kept in its folder."));
  doc_.jobs().start(
      tr("printing %1").arg(counted(plan->rows.size(), "file", "files")),
      [this, name, rows = plan->rows, ask, base = std::make_shared<const Song>(std::move(plan->song)),
       song = doc_.version(), pool = doc_.recordings().pool(), made = doc_.sounding().made(),
       folder = doc_.files().folder() / "media",
       cache = doc_.files().cacheFolder()](Progress& progress) -> Jobs::Finish {
        const auto whole = wholeSound(*base, pool, *made, Frames{}, progress);
        if (!whole) return doc_.failed(whole.error());
        if (ask.depth == PrintDepth::track && !whole->missing.empty())
          return doc_.failed(
              {ErrorKind::refused, missingEffects(whole->missing) + " Print clips, or take them out of the song.", {}});
        const auto levels = printLevels(rows, whole->plan, pool, progress);
        if (!levels) return doc_.failed(levels.error());
        const auto targets = printTargets(rows, *levels, folder);
        auto outputs = outputsOf(*base);
        outputs.keepExisting();
        if (auto ok = writePrints(targets, whole->plan, pool, outputs, progress); !ok) return doc_.failed(ok.error());
        if (auto ok = whole->holds(pool, *made); !ok) return doc_.failed(ok.error());
        if (auto ok = outputs.commit(); !ok) return doc_.failed(ok.error());
        std::vector<PrintedFile> files;
        std::vector<Recordings::Read> reads;
        for (const auto& [row, file, level] : targets) {
          auto read = doc_.recordings().read(file, cache, base->rate, Damaged::refuse, progress);
          if (!read) return doc_.failed(read.error());
          files.push_back({row, read->found.path, read->found.fingerprint, row.range.length(), level.gainDb});
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
  PrintAsk ask{print->depth, {set}, {}, {}, print->manner};
  bool heard = false;
  for (const auto& c : *doc_.song().find(set)->clips) {
    if (c.take != print->take) continue;
    heard = true;
    if (print->depth == PrintDepth::clip) ask.ranges.push_back(c.range());
  }
  if (!heard) return doc_.tell(tr("The print is not heard any more. Take it back, or leave it."));
  auto alive = unprint(doc_.song(), print->id);
  if (!alive) return doc_.warn(QString::fromStdString(alive.error().message));
  this->print(tr("Print anew"), std::make_shared<const Song>(*std::move(alive)), ask);
}

void PrintDesk::compare(SetId set) {
  if (!allAtHand(tr("comparison"))) return;
  const auto* print = latestOf(set);
  if (!print) return doc_.tell(tr("Nothing of this is printed."));
  auto alive = asPrinted(doc_.song(), print->id);
  if (!alive) return doc_.warn(QString::fromStdString(alive.error().message));
  const auto plan = planPrint(*alive, {print->depth, {set}, {}, {}, print->manner});
  if (!plan) return doc_.warn(QString::fromStdString(plan.error().message));
  const auto* take = doc_.song().find(print->take);
  std::vector<PrintedRow> printed;
  for (const auto& row : plan->rows)
    for (const auto& mic : take->mics)
      if (mic.track == row.track) printed.push_back({row, mic.media, print->levelDb});
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
