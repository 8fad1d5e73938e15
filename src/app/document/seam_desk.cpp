#include "document/seam_desk.h"

#include <algorithm>

#include "document/document.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "document/wording.h"
#include "render/piece_sound.h"

namespace ochron {

SeamDesk::SeamDesk(Document& document) : QObject(&document), doc_(document) {}

void SeamDesk::step(int by) {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return;
  const auto& clips = *set->clips;
  std::vector<std::size_t> seams;
  for (std::size_t i = 1; i < clips.size(); ++i)
    if (isSeam(clips, i)) seams.push_back(i);
  if (seams.empty()) return doc_.tell(tr("There is no seam yet. Turn the timing plan on, or split a clip."));
  const auto* now = doc_.selection().seamClip();
  const auto from = now ? now->start : doc_.transport().cursor();
  std::ptrdiff_t at =
      std::lower_bound(seams.begin(), seams.end(), from, [&](std::size_t i, Frames f) { return clips[i].start < f; }) -
      seams.begin();
  at = now ? at + by : by < 0 ? at - 1 : at;
  const auto& clip = clips[seams[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(at, 0, std::ssize(seams) - 1))]];
  doc_.selection().chooseSeam(clip.id);
  doc_.transport().setCursor(clip.start);
}

std::vector<ClipId> SeamDesk::chosen() const {
  const auto& selection = doc_.selection();
  const auto* set = doc_.song().find(selection.set());
  std::vector<ClipId> out;
  if (!set) return out;
  const auto& clips = *set->clips;
  const auto range = selection.range();
  if (!range.empty())
    for (std::size_t i = 1; i < clips.size(); ++i)
      if (isSeam(clips, i) && range.contains(clips[i].start)) out.push_back(clips[i].id);
  if (out.empty())
    if (const auto* clip = selection.seamClip()) out.push_back(clip->id);
  return out;
}

void SeamDesk::change(const QString& name, const SeamOverride& change, const QString& gesture) {
  const auto seams = chosen();
  if (seams.empty()) return doc_.tell(tr("Click a seam first, or choose a range that holds some."));
  changeThese(seams, name, change, gesture);
}

void SeamDesk::changeThese(const std::vector<ClipId>& seams, const QString& name, const SeamOverride& change,
                           const QString& gesture) {
  doc_.edit(name, changeSeams(doc_.song(), doc_.selection().set(), seams, change), gesture);
}

Frames SeamDesk::place(ClipId seam, Frames to, const QString& gesture) {
  const auto* clip = doc_.song().find(seam);
  if (!clip) return to;
  const auto room = seamRoom(doc_.song(), doc_.selection().set(), seam);
  const auto at = std::clamp(to, room.start, std::max(room.start, room.end));
  SeamOverride change;
  change.leadIn = attackOf(*clip).value_or(clip->start) - at;
  changeThese({seam}, tr("Move seam"), change, gesture);
  return at;
}

std::optional<Frames> SeamDesk::attackOf(const Clip& later) const {
  if (!later.piece || !later.piece->hit) return {};
  for (const auto& h : *doc_.song().hitsOf(later.take, doc_.selection().set()))
    if (h.id == later.piece->hit) return later.toSong(h.at);
  return {};
}

void SeamDesk::release() {
  const auto seams = chosen();
  if (seams.empty()) return doc_.tell(tr("Click a seam first, or choose a range that holds some."));
  doc_.edit(tr("Give %1 back to the plan").arg(counted(seams.size(), "seam", "seams")),
            releaseSeams(doc_.song(), doc_.selection().set(), seams));
}

const std::vector<MicSeam>& SeamDesk::micsAt(ClipId later) {
  const auto song = doc_.version();
  const auto tuned = doc_.sounding().tuned();
  if (found_.song == song && found_.tuned == tuned && found_.later == later) return found_.mics;
  found_ = {song, tuned, later, {}};
  const auto* set = song->setOf(later);
  if (!set) return found_.mics;
  const auto& clips = *set->clips;
  const auto at = std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.id == later; });
  if (at == clips.begin() || at == clips.end()) return found_.mics;
  const auto& pool = tuned ? tuned->pool : doc_.pool();
  SeamGauge gauge(*song, set->id, pool, pieceSound(*song, set->id, pool, doc_.sounding().made().get()));
  found_.mics = gauge.measure(*(at - 1), *at);
  return found_.mics;
}

void SeamDesk::forget() {
  measures_.clear();
  measuredOf_.reset();
}

bool SeamDesk::known() const { return measuredOf_ == doc_.version(); }

void SeamDesk::measure() {
  doc_.jobs().start(
      {},
      [this, song = doc_.version(), pool = doc_.pool(), made = doc_.sounding().made(),
       was = doc_.sounding().tuned()](Progress& progress) -> Jobs::Finish {
        const auto tuned = tunedAtHand(*song, pool, *made, was.get()).pool;
        std::map<ClipId, SeamMeasure> measured;
        for (const auto& set : song->sets) {
          auto one = measureSeams(*song, set.id, tuned, progress, pieceSound(*song, set.id, tuned, made.get()));
          if (!one) return doc_.failed(one.error());
          measured.merge(*one);
        }
        return [this, song, measured = std::make_shared<std::map<ClipId, SeamMeasure>>(std::move(measured))] {
          if (song != doc_.version()) return;
          measures_ = std::move(*measured);
          measuredOf_ = song;
          found_ = {};
          emit this->measured();
        };
      },
      "measure");
}

}  // namespace ochron
