#include "document/cells_desk.h"

#include <algorithm>
#include <cmath>

#include "document/clip_desk.h"
#include "document/kit_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/sound_reads.h"
#include "document/sounding.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/cell_edits.h"
#include "files/file_names.h"
#include "kit/stroke_level.h"
#include "render/cell_sound.h"
#include "song/clip.h"
#include "store/sfz_file.h"
#include "time/grid.h"

namespace ochron {
namespace {

constexpr int kOfferedChokes = 4;
constexpr double kMostSeconds = 8;  // of a cell's sound
const QString kBankSlot = QStringLiteral("cells");

}  // namespace

CellsDesk::CellsDesk(Document& document) : QObject(&document), doc_(document) {
  connect(&document, &Document::songChanged, this, &CellsDesk::changed);
  document.selection().watch(Selection::kSet, this, [this] {
    page_ = 0;
    emit changed();
  });
}

void CellsDesk::forget() {
  page_ = 0;
  struckLast_ = -1;
  recording_ = false;
  counted_.reset();
  struck_.clear();
  bankOf_ = bankWanted_ = {};
  emit changed();
}

const ClipList& CellsDesk::clips() const {
  static const ClipList none;
  const auto* set = doc_.song().find(doc_.kitDesk().set());
  return set ? *set->clips : none;
}

int CellsDesk::pages() const { return std::max<int>(1, static_cast<int>((clips().size() + kCells - 1) / kCells)); }

std::vector<const Clip*> CellsDesk::cells() const {
  std::vector<const Clip*> out;
  const auto& all = clips();
  const auto first = static_cast<std::size_t>(std::min(page_, pages() - 1)) * kCells;
  for (auto i = first; i < std::min(all.size(), first + kCells); ++i) out.push_back(&all[i]);
  return out;
}

void CellsDesk::turnTo(int page) {
  page_ = std::clamp(page, 0, pages() - 1);
  emit changed();
}

void CellsDesk::reveal(ClipId clip) {
  const auto& all = clips();
  const auto at = std::find_if(all.begin(), all.end(), [&](const Clip& c) { return c.id == clip; });
  if (at != all.end()) turnTo(static_cast<int>(at - all.begin()) / kCells);
}

CellsDesk::BankOf CellsDesk::bankNow() const {
  BankOf out{doc_.sounding().playPlan(), {}, &doc_.transport().player().engine()};
  for (const auto* c : cells()) out.clips.push_back(c->id);
  return out;
}

/// The sounds of the cells, on any thread.
std::function<std::shared_ptr<LiveBank>()> CellsDesk::bankMaker(const std::shared_ptr<const PlayPlan>& plan) const {
  const auto leftOut = allBut(plan->edited, doc_.kitDesk().set());
  const Frames most{static_cast<std::int64_t>(kMostSeconds * plan->edited.rate)};
  std::vector<std::pair<FrameRange, int>> wanted;
  for (const auto* c : cells())
    wanted.emplace_back(c->muted ? FrameRange{} : FrameRange{c->start, c->start + std::min(c->length, most)},
                        c->extras->choke);
  return [plan, leftOut, wanted] {
    auto bank = std::make_shared<LiveBank>();
    for (const auto& [range, choke] : wanted) {
      LiveSound sound;
      if (!range.empty()) {
        auto sides = cellSound(plan->edited, range, leftOut);
        sound.channels = {std::move(sides[0]), std::move(sides[1])};
      }
      sound.choke = choke;
      bank->sounds.push_back(std::move(sound));
    }
    return bank;
  };
}

void CellsDesk::refreshBank() {
  const auto now = bankNow();
  if (!now.plan || now == bankOf_ || (now == bankWanted_ && doc_.jobs().runs(kBankSlot))) return;
  bankWanted_ = now;
  doc_.jobs().start(
      {},
      [this, now, make = bankMaker(now.plan)](Progress&) -> Jobs::Finish {
        return [this, now, bank = make()] {
          if (now.clips == bankNow().clips) give(now, bank);
        };
      },
      kBankSlot, Jobs::Scope::song, Jobs::Kind::follow);
}

void CellsDesk::give(const BankOf& of, const std::shared_ptr<LiveBank>& bank) {
  doc_.transport().player().engine().setBank(bank);
  bankOf_ = of;
  bankOf_.engine = &doc_.transport().player().engine();
}

bool CellsDesk::strike(int cell, double strength) {
  const auto all = cells();
  if (cell < 0 || cell >= std::ssize(all)) return false;
  // An edit's sound may come a moment late; that of other cells may not.
  if (const auto now = bankNow(); now.plan && (now.clips != bankOf_.clips || now.engine != bankOf_.engine))
    give(now, bankMaker(now.plan)());
  refreshBank();
  auto& engine = doc_.transport().player().engine();
  engine.strike(cell, strength);
  wasStruck(cell, strength, engine.playing() ? std::optional(engine.position()) : std::nullopt);
  return true;
}

void CellsDesk::wasStruck(int cell, double strength, std::optional<Frames> at) {
  const auto all = cells();
  if (cell < 0 || cell >= std::ssize(all)) return;
  struckLast_ = cell;
  constexpr double kEarlyMs = 80;  // the first stroke may come before its beat
  const bool meant = !counted_ || !at || *at >= counted_->from - framesFromMs(kEarlyMs, doc_.song().rate);
  if (recording_ && at && meant) {
    if (counted_) at = std::max(*at, counted_->from);
    constexpr double kFull = 0.8;  // a stroke of this strength plays the clip as loud as it is
    struck_.push_back(
        {all[static_cast<std::size_t>(cell)]->id, *at, 20 * std::log10(std::clamp(strength / kFull, 0.05, 2.0))});
  }
  emit struck(cell);
}

void CellsDesk::choke() {
  const auto ids = doc_.selection().clips();
  if (ids.empty()) return doc_.tell(tr("Choose a cell first."));
  const int next = (doc_.song().find(ids.front())->extras->choke + 1) % (kOfferedChokes + 1);
  doc_.clipDesk().change(next == 0 ? tr("Out of the choke group") : tr("Into choke group %1").arg(next),
                         [next](Clip& c) { changeExtras(c, [next](ClipExtras& e) { e.choke = next; }); });
  doc_.tell(next == 0 ? tr("These cells silence no others.")
                      : tr("Choke group %1: its cells silence each other when they are struck.").arg(next));
}

void CellsDesk::giveSound(const std::filesystem::path& file) {
  const auto cells = doc_.selection().clips();
  if (cells.empty()) return doc_.tell(tr("Choose a cell first."));
  doc_.jobs().start(
      tr("reading %1").arg(QString::fromStdString(shownPath(file.filename()))),
      [this, file, cells, rate = doc_.song().rate,
       cache = doc_.files().cacheFolder()](Progress& progress) -> Jobs::Finish {
        const auto read = readSoundSet(file, {});
        if (!read) return doc_.failed(read.error());
        auto loaded = loadSounds(*read, rate, cache, progress);
        if (!loaded) return doc_.failed(loaded.error());
        if (loaded->set.sounds.empty())
          return doc_.failed({ErrorKind::badInput, shownPath(file) + ": it holds no sound. Choose another file.", {}});
        const auto first = loaded->set.sounds.front().file;
        const auto& media = *loaded->media[first];
        std::vector<float> room;
        const Frames attack{attackIn(media.channel(0).in(room), rate)};
        return [this, cells, first, attack, rate, loaded = std::move(*loaded)] {
          if (doc_.song().rate != rate)
            return doc_.warn(tr("The song runs at another rate now than when this was read. Choose it again."));
          const auto& incoming = loaded.set.files[first];
          const auto next = ochron::giveSound(doc_.song(), cells, incoming, attack);
          if (next)
            for (const auto& [id, found] : readsOf(*next, loaded)) doc_.recordings().put(id, found);
          const auto name = QString::fromStdString(incoming.name);
          if (!doc_.edit(tr("Sound %1 in %2").arg(name, counted(cells.size(), "cell", "cells")), next)) return;
          emit doc_.mediaChanged();
          doc_.tell(tr("%1 plays in %2. Gain, pan and fades are the cell's.")
                        .arg(name, counted(cells.size(), "cell", "cells")));
        };
      },
      QStringLiteral("cell sound"), Jobs::Scope::edits);
}

void CellsDesk::giveRecordingBack() {
  if (doc_.edit(tr("Cells as recorded"), ochron::giveRecordingBack(doc_.song(), doc_.selection().clips())))
    doc_.tell(tr("These cells play what was recorded again."));
}

void CellsDesk::setToGrid(bool on) {
  toGrid_ = on;
  emit changed();
}

void CellsDesk::setCountsIn(bool on) {
  countsIn_ = on;
  emit changed();
}

void CellsDesk::countIn() {
  auto& transport = doc_.transport();
  const auto& map = doc_.song().tempo;
  const auto at = transport.cursor();
  counted_ = Counted{at, transport.click()};
  transport.setClick(true);
  transport.playFrom(map.toFrames(map.toTicks(at) - map.meterOfBar(map.barAt(at)).barLength()));
  doc_.tell(tr("One bar is counted in. What is struck from the play line on is laid when recording ends."));
}

/// The song stands where the recording began, and the click is as it was.
void CellsDesk::endCount() {
  const auto counted = std::exchange(counted_, {});
  if (!counted) return;
  auto& transport = doc_.transport();
  if (transport.player().engine().playing()) transport.playStop();
  transport.setClick(counted->clicked);
  transport.setCursor(counted->from);
}

void CellsDesk::record(bool on) {
  if (on == recording_) return;
  recording_ = on;
  if (on) {
    struck_.clear();
    recordedSet_ = doc_.kitDesk().set();
    if (countsIn_ && !doc_.transport().player().engine().playing())
      countIn();
    else
      doc_.tell(tr("What is struck while the song plays is laid on the lanes when recording ends."));
    emit changed();
    return;
  }
  endCount();
  auto struck = std::exchange(struck_, {});
  emit changed();
  if (struck.empty()) return doc_.tell(tr("Nothing was struck while the song played."));
  const auto& song = doc_.song();
  if (toGrid_) {
    const auto& grid = doc_.timingDesk().settings().grid;
    for (auto& s : struck) s.at = nearestLine(song.tempo, grid, song.tempo.toTicks(s.at)).frame;
  }
  const auto count = struck.size();
  const auto* last = song.find(struck.back().clip);
  const auto until = struck.back().at + (last ? last->length : Frames{song.rate});
  if (doc_.edit(tr("Lay what was struck"), layStruck(song, recordedSet_, std::move(struck), until)))
    doc_.tell(tr("%1 laid on the lanes.").arg(counted(count, "stroke", "strokes")));
}

}  // namespace ochron
