#include "document/line_watch.h"

#include <algorithm>
#include <set>

#include "document/document.h"
#include "document/wording.h"
#include "edits/pitch_edits.h"
#include "takes/hear_line.h"

namespace ochron {

LineWatch::LineWatch(Document& document) : QObject(&document), doc_(document) {
  connect(&document, &Document::songChanged, this, &LineWatch::look);
  connect(&document, &Document::mediaChanged, this, &LineWatch::look);
}

LineWatch::Place LineWatch::placeOf(TakeId take, const MicSet& set) const {
  Place p{take, set.id, {}};
  for (const auto track : set.tracks)
    if (const auto* mic = doc_.song().micOf(take, track))
      if (const auto* media = doc_.song().find(mic->media)) p.recordings += media->fingerprint + ' ';
  return p;
}

/// Mics that are no kit's may hear a line; in a manner chosen by hand, or once it is known, there is
/// nothing to find out.
bool LineWatch::wanted(const MicSet& set, const Clip& clip) const {
  if (!clip.extras->retuned() || clip.extras->method || set.method) return false;
  const auto& song = doc_.song();
  if (song.isKit(set, clip.take) || !song.lineOf(clip.take, set.id)->track.values.empty()) return false;
  return std::all_of(set.tracks.begin(), set.tracks.end(), [&](TrackId t) {
    const auto* mic = song.micOf(clip.take, t);
    return mic && doc_.pool().contains(mic->media);
  });
}

void LineWatch::look() {
  for (const auto& set : doc_.song().sets) {
    std::set<TakeId> seen;
    for (const auto& clip : *set.clips) {
      if (seen.contains(clip.take) || !wanted(set, clip)) continue;
      seen.insert(clip.take);
      const auto place = placeOf(clip.take, set);
      const auto known = known_.find(place);
      if (known == known_.end()) return listen(place);
      // The song is another one afterwards: the rest is looked at then.
      if (!known->second->notes.empty()) return note(place, *known->second);
    }
  }
}

void LineWatch::listen(const Place& place) {
  const auto slot = QStringLiteral("line %1 %2").arg(place.take.value).arg(place.set.value);
  if (doc_.jobs().runs(slot)) return;
  doc_.jobs().start(
      tr("listening for the pitch"),
      [this, place, song = doc_.version(), pool = doc_.pool()](Progress& progress) -> Jobs::Finish {
        auto line = hearLine(*song, *song->find(place.set), place.take, pool, {}, progress);
        if (progress.cancelled()) return {};
        return [this, place, line = line ? SungLine(std::move(*line)) : SungLine{}] {
          known_[place] = line;
          look();
        };
      },
      slot, Jobs::Scope::edits, Jobs::Kind::refresh);
}

void LineWatch::note(const Place& place, const SungLine& line) {
  const auto next = setLine(doc_.song(), place.take, place.set, line);
  if (!next) return;
  doc_.tell(tr("%1 heard: the line is made note by note, its formants stay.")
                .arg(counted(line.notes.size(), "note", "notes")));
  doc_.learn(*next);
}

}  // namespace ochron
