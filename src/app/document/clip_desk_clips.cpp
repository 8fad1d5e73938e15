#include <algorithm>
#include <cmath>

#include "document/clip_desk.h"
#include "document/document.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "time/grid.h"

namespace ochron {

bool ClipDesk::edit(const QString& name, const Result<Song>& next, const QString& gesture) {
  return doc_.edit(name, next, gesture);
}

bool ClipDesk::put(const QString& name, const Result<Placed>& placed) {
  if (!placed) return doc_.edit(name, tl::unexpected(placed.error()));
  if (!doc_.edit(name, placed->song)) return false;
  chosen().choose(placed->clips);
  return true;
}

Frames ClipDesk::cutFade() const { return framesFromMs(settings_.cutFadeMs, doc_.song().rate); }

FrameRange ClipDesk::cutRange() const {
  if (!chosen().range().empty()) return chosen().range();
  if (chosen().hasClips()) return extentOf(doc_.song(), chosen().clips());
  return {Frames{INT64_MIN / 4}, doc_.song().end() + Frames{1}};
}

void ClipDesk::splitSets(const QString& name,
                         const std::function<std::vector<Frames>(const MicSet&, FrameRange)>& places) {
  Result<Song> next = doc_.song();
  std::optional<Error> refused;
  std::size_t before = 0;
  std::size_t after = 0;
  bool any = false;
  const auto range = cutRange();
  for (const auto id : chosen().targetSets()) {
    const auto* set = next->find(id);
    before += set->clips->size();
    auto cut = ochron::splitAt(*next, id, places(*set, range), cutFade());
    if (cut)
      next = std::move(cut), any = true;
    else
      refused = cut.error();
    after += next->find(id)->clips->size();
  }
  if (!any && refused) return (void)edit(name, tl::unexpected(*refused));
  if (edit(name, next)) doc_.tell(tr("%1.").arg(counted(after - before, "cut", "cuts")));
}

void ClipDesk::splitAtPlayLine() {
  splitSets(tr("Split at the play line"), [this](auto&, auto) { return std::vector{doc_.transport().cursor()}; });
}

void ClipDesk::splitAtPlace(Frames at, SetId set) {
  edit(tr("Split at the pointer"), ochron::splitAt(doc_.song(), set, {at}, cutFade()));
}

void ClipDesk::splitAtRangeEnds() {
  if (chosen().range().empty()) return doc_.tell(tr("Drag over the lanes or the ruler to choose a range first."));
  splitSets(tr("Split at the range's ends"), [](auto&, FrameRange range) {
    return std::vector{range.start, range.end};
  });
}

void ClipDesk::splitAtGrid() {
  splitSets(tr("Split at every grid line"), [this](const MicSet& set, FrameRange range) {
    std::vector<Frames> out;
    if (set.clips->empty()) return out;
    const auto& map = doc_.song().tempo;
    const auto from = std::max(range.start, set.clips->front().start);
    const auto to = std::min(range.end, set.clips->back().end());
    for (const auto& line : gridLines(map, doc_.timingDesk().settings().grid, map.toTicks(from), map.toTicks(to)))
      out.push_back(line.frame);
    return out;
  });
}

void ClipDesk::splitAtHits() {
  splitSets(tr("Split at every hit"), [this](const MicSet& set, FrameRange range) {
    std::vector<Frames> out;
    const auto& song = doc_.song();
    const auto lead = framesFromMs(set.plan->settings.leadInMs, song.rate);
    for (const auto& c : *set.clips)
      for (const auto& h : activeHits(*song.hitsIn(set, c), set.hits, song.rate))
        if (c.played().contains(h.at))
          if (const auto at = c.toSong(h.at) + (c.reversed ? lead : -lead);
              range.contains(at) && c.range().contains(at))
            out.push_back(at);
    return out;
  });
}

void ClipDesk::splitAtSilence(bool removeSilence) {
  const auto range = cutRange();
  const auto gaps = silence();  // a copy: it changes with the song
  Result<Song> next = doc_.song();
  std::size_t count = 0;
  for (const auto id : chosen().targetSets()) {
    std::vector<Frames> places;
    std::vector<FrameRange> mine;
    for (const auto& [set, gap] : gaps)
      if (set == id && gap.start >= range.start && gap.end <= range.end) {
        places.push_back(gap.start);
        places.push_back(gap.end);
        mine.push_back(gap);
      }
    if (mine.empty()) continue;
    if (auto cut = ochron::splitAt(*next, id, places, Frames{0})) next = std::move(cut);
    if (removeSilence)
      for (const auto& gap : mine) {
        next = deleteRange(*next, {id}, gap, false);
        if (!next) return (void)edit({}, next);
      }
    count += mine.size();
  }
  if (count == 0)
    return doc_.tell(tr("Nothing here is that quiet for that long. Raise the level or shorten the length."));
  if (edit(removeSilence ? tr("Remove silence") : tr("Split at silence"), next))
    doc_.tell(tr("%1.").arg(counted(count, "silent gap", "silent gaps")));
}

/// The chosen clips, or those under the play line.
ClipIds ClipDesk::clipsInHand() const {
  auto ids = chosen().clips();
  if (ids.empty())
    for (const auto id : chosen().targetSets())
      for (const auto& c : *doc_.song().find(id)->clips)
        if (c.range().contains(doc_.transport().cursor())) ids.push_back(c.id);
  return ids;
}

void ClipDesk::trimToPlayLine(bool start) {
  const auto at = doc_.transport().cursor();
  auto ids = clipsInHand();
  if (ids.empty()) return doc_.tell(tr("Choose a clip, or put the play line inside one."));
  const bool gaps = settings_.closeGaps;
  edit(start ? tr("Trim the start to the play line") : tr("Trim the end to the play line"),
       start ? trimStarts(
                   doc_.song(), ids, [at](const Clip& c) { return at - c.start; }, gaps)
             : trimEnds(
                   doc_.song(), ids, [at](const Clip& c) { return at - c.end(); }, gaps));
}

void ClipDesk::nudge(Frames by) {
  if (edit(tr("Nudge %1").arg(counted(chosen().clipCount(), "clip", "clips")),
           moveClips(doc_.song(), chosen().clips(), by, Overlap::cover), "nudge clips"))
    doc_.tell(tr("%1 moved by %2 ms (%3 samples).")
                  .arg(counted(chosen().clipCount(), "clip", "clips"))
                  .arg(msFromFrames(by, doc_.song().rate), 0, 'f', 2)
                  .arg(by.value));
}

void ClipDesk::slip(Frames by) {
  edit(tr("Slip %1").arg(counted(chosen().clipCount(), "clip", "clips")), slipClips(doc_.song(), chosen().clips(), by),
       "slip clips");
}

void ClipDesk::remove() {
  if (chosen().hasClips())
    edit(tr("Delete %1").arg(counted(chosen().clipCount(), "clip", "clips")),
         deleteClips(doc_.song(), chosen().clips(), settings_.closeGaps));
  else if (!chosen().range().empty())
    edit(tr("Delete the range"), deleteRange(doc_.song(), chosen().rangeSets(), chosen().range(), settings_.closeGaps));
}

bool ClipDesk::copy() {
  auto copied = chosen().hasClips() ? copyClips(doc_.song(), chosen().clips())
                                    : copyRange(doc_.song(), chosen().rangeSets(), chosen().range());
  if (!copied) {
    doc_.refuse(copied.error());
    return false;
  }
  copied_ = std::move(*copied);
  std::size_t count = 0;
  for (const auto& part : copied_.parts) count += part.clips.size();
  doc_.tell(tr("%1 copied.").arg(counted(count, "clip", "clips")));
  emit changed();
  return true;
}

void ClipDesk::cut() {
  if (copy()) remove();
}

void ClipDesk::paste() {
  // One set's clips go to the active track when they fit there, else to where they came from.
  const auto* from = doc_.song().find(copied_.parts.front().set);
  const auto* active = doc_.song().find(chosen().set());
  const bool elsewhere = copied_.parts.size() == 1 && from && active && active->tracks.size() == from->tracks.size();
  const auto to = elsewhere ? std::optional(chosen().set()) : std::nullopt;
  if (put(tr("Paste"), pasteClips(doc_.song(), copied_, doc_.transport().cursor(), settings_.overlap, to)))
    doc_.transport().setCursor(doc_.transport().cursor() + copied_.length);
}

void ClipDesk::duplicate(int times) {
  put(tr("Duplicate %1").arg(counted(chosen().clipCount(), "clip", "clips")),
      duplicateClips(doc_.song(), chosen().clips(), times));
}

void ClipDesk::repeatToRange() {
  if (chosen().range().empty()) return doc_.tell(tr("Choose a range first: copies go on until its end."));
  put(tr("Repeat up to the range's end"), repeatClips(doc_.song(), chosen().clips(), chosen().range().end));
}

void ClipDesk::reverse() { edit(tr("Reverse"), reverseClips(doc_.song(), chosen().clips())); }

void ClipDesk::toggleMute() {
  bool all = true;
  for (const auto id : chosen().clips()) all = all && doc_.song().find(id)->muted;
  edit(all ? tr("Unmute clips") : tr("Mute clips"),
       changeClips(doc_.song(), chosen().clips(), [all](Clip& c) { c.muted = !all; }));
}

void ClipDesk::align(bool toPlayLine) {
  const auto& song = doc_.song();
  std::vector<std::pair<ClipId, Frames>> moves;
  for (const auto id : chosen().clips()) {
    const auto anchor = anchorOf(song, *song.setOf(id), *song.find(id));
    const auto to = toPlayLine
                        ? doc_.transport().cursor()
                        : nearestLine(song.tempo, doc_.timingDesk().settings().grid, song.tempo.toTicks(anchor)).frame;
    moves.emplace_back(id, to - anchor);
  }
  if (toPlayLine && moves.size() > 1) {  // they go together: the first one's point comes to the play line
    const auto by = moves.front().second;
    for (auto& m : moves) m.second = by;
  }
  edit(toPlayLine ? tr("Align to the play line") : tr("Align to the grid"),
       moves.empty() ? Result<Song>(fail(ErrorKind::refused, "No clip is chosen. Click one, or drag over some."))
                     : moveEach(song, moves, Overlap::cover));
}

void ClipDesk::setSyncHere() {
  const auto at = doc_.transport().cursor();
  bool any = false;
  auto next = changeClips(doc_.song(), chosen().clips(), [&](Clip& c) {
    if (!c.range().contains(at)) return;
    any = true;
    changeExtras(c, [&](ClipExtras& e) { e.sync = c.toTake(at); });
  });
  if (next && !any) return doc_.tell(tr("The play line is not inside a chosen clip."));
  edit(tr("Set the sync point"), next);
}

void ClipDesk::swap() {
  const auto ids = chosen().clips();
  if (ids.size() != 2) return doc_.tell(tr("Choose exactly two clips to swap."));
  edit(tr("Swap two clips"), swapClips(doc_.song(), ids[0], ids[1]));
}

void ClipDesk::closeGaps() { edit(tr("Close gaps"), closeGapsBefore(doc_.song(), chosen().clips())); }

void ClipDesk::bundle() {
  edit(tr("Bundle %1").arg(counted(chosen().clipCount(), "clip", "clips")),
       bundleClips(doc_.song(), chosen().clips(), tr("Bundle %1").arg(doc_.song().bundles.size() + 1).toStdString()));
}

void ClipDesk::unbundle() {
  Result<Song> next = doc_.song();
  bool any = false;
  for (const auto& b : doc_.song().bundles) {
    const auto ids = clipsOf(doc_.song(), b.id);
    if (next && std::any_of(ids.begin(), ids.end(), [&](ClipId id) { return chosen().isChosen(id); })) {
      next = ochron::unbundle(*next, b.id);
      any = true;
    }
  }
  if (!any) return doc_.tell(tr("None of the chosen clips is in a bundle."));
  edit(tr("Take the bundle apart"), next);
}

void ClipDesk::change(const QString& name, const std::function<void(Clip&)>& change, const QString& gesture) {
  edit(name, changeClips(doc_.song(), chosen().clips(), change), gesture);
}

void ClipDesk::fadeToPlayLine(FadeEnd end) {
  const auto at = doc_.transport().cursor();
  auto ids = clipsInHand();
  std::erase_if(ids, [&](ClipId id) { return !doc_.song().find(id)->range().contains(at); });
  if (ids.empty()) return doc_.tell(tr("Put the play line inside a clip: the fade reaches there."));
  edit(end == FadeEnd::in ? tr("Fade in to the play line") : tr("Fade out from the play line"),
       changeFades(doc_.song(), ids, end, [&](const Clip& c, Fade fade) {
         fade.length = end == FadeEnd::in ? at - c.start : c.end() - at;
         return fade;
       }));
}

void ClipDesk::removeFades() {
  edit(tr("Remove fades and crossfades"), ochron::removeFades(doc_.song(), chosen().clips()));
}

void ClipDesk::crossfade() {
  CrossfadeChange change;
  const auto length = std::max(cutFade(), Frames{std::llround(0.01 * doc_.song().rate)});
  change.before = length / 2;
  change.after = length - length / 2;
  change.law = CrossfadeLaw::matched;
  edit(tr("Crossfade the chosen seams"), changeCrossfades(doc_.song(), chosen().clips(), change));
}

void ClipDesk::tape(FadeEnd end) {
  const auto name = end == FadeEnd::out ? tr("Tape stop") : tr("Tape start");
  if (!chosen().range().empty())
    return (void)edit(name, tapeFade(doc_.song(), chosen().rangeSets(), chosen().range(), end));
  edit(name, changeFades(doc_.song(), chosen().clips(), end, [&](const Clip& c, Fade fade) {
         fade.kind = FadeKind::tape;
         if (fade.length.value == 0) fade.length = std::min(c.length, Frames{doc_.song().rate});
         return fade;
       }));
}

}  // namespace ochron
