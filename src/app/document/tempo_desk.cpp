#include "document/tempo_desk.h"

#include <QStringList>
#include <algorithm>
#include <cmath>

#include "document/document.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/follow_edits.h"
#include "edits/locks.h"
#include "edits/mark_edits.h"
#include "edits/pieces.h"
#include "edits/tempo_edits.h"
#include "store/midi_in.h"
#include "takes/hear_tempo.h"

namespace ochron {

TempoDesk::TempoDesk(Document& document) : QObject(&document), doc_(document) {}

void TempoDesk::forget() {
  heardIn_.clear();
  last_.reset();
  bar_.reset();
  emit changed();
}

// What was heard ------------------------------------------------------------------------------------------------------

void TempoDesk::setSearch(const TempoSearch& search) {
  search_ = search;
  emit changed();
}

const std::optional<TempoDesk::Heard>& TempoDesk::heard() const {
  const auto found = heardIn_.find(doc_.selection().set());
  return found == heardIn_.end() ? last_ : found->second;
}

const TempoDesk::Heard* TempoDesk::heardIn(SetId set) const {
  const auto found = heardIn_.find(set);
  return found == heardIn_.end() || !found->second ? nullptr : &*found->second;
}

void TempoDesk::hear(SetId set, Listen what) {
  const auto* s = doc_.song().find(set);
  if (!s || s->clips->empty()) return doc_.tell(tr("Import recordings first."));
  if (search_.slowest >= search_.fastest) return doc_.warn(tr("The slowest tempo must be below the fastest."));
  listen(set, what, true);
}

void TempoDesk::hearAll() {
  if (search_.slowest >= search_.fastest) return doc_.warn(tr("The slowest tempo must be below the fastest."));
  for (const auto& set : doc_.song().sets)
    if (!set.clips->empty()) listen(set.id, Listen::alone, false);
}

void TempoDesk::listen(SetId set, Listen what, bool offered) {
  const auto take = doc_.song().find(set)->clips->front().take;
  const auto name = QString::fromStdString(doc_.song().find(set)->name);
  doc_.jobs().start(
      offered ? tr("listening for the tempo") : tr("listening for the tempo of \"%1\"").arg(name),
      [this, song = doc_.version(), pool = doc_.pool(), take, set, name, offered, what,
       search = search_](Progress& progress) -> Jobs::Finish {
        const auto& mics = *song->find(set);
        const auto found =
            hearTempo(what == Listen::together ? bandOf(*song, mics, take, pool) : mixOf(*song, mics, take, pool),
                      song->rate, search, progress);
        if (!found) {
          if (found.error().kind == ErrorKind::cancelled) return {};
          return [this, name, text = QString::fromStdString(found.error().message)] { doc_.tell(name + ": " + text); };
        }
        return [this, found = *found, set, take, offered] {
          const auto* now = doc_.song().find(set);
          if (!now || now->clips->empty() || now->clips->front().take != take) return;
          last_ = Heard{found, set, take, now->clips->front().toSong(Frames{})};
          heardIn_[set] = last_;
          emit changed();
          if (offered) offer(*last_);
        };
      },
      offered ? QStringLiteral("tempo") : QStringLiteral("tempo %1").arg(set.value));
}

void TempoDesk::offer(const Heard& heard) {
  const auto& found = heard.tempo;
  QString others;
  for (std::size_t i = 1; i < std::min<std::size_t>(3, found.candidates.size()); ++i)
    others += (others.isEmpty() ? tr(", or ") : tr(" or ")) + QString::number(found.candidates[i].bpm, 'f', 1);
  const double first = found.downbeats.empty() ? 0 : found.downbeats.front();
  const auto at = shiftOf(heard) + Frames{std::llround(first * doc_.song().rate)};
  const auto bars = found.barConfidence < kTempoSure
                        ? tr("bar 1 perhaps at")
                        : tr("%1, bar 1 at").arg(QString::fromStdString(metersText(found)));
  doc_.offer(tr("Heard %1 BPM%2, %3 % sure%5; %6 %4 s.")
                 .arg(found.bpm, 0, 'f', 2)
                 .arg(", " + QString::fromStdString(steadyText(found)))
                 .arg(100 * found.confidence, 0, 'f', 0)
                 .arg(static_cast<double>(at.value) / doc_.song().rate, 0, 'f', 3)
                 .arg(others, bars),
             tr("Use it for the song"), "take.usetempo");
}

/// Where the take lies now: its clip may have been moved since it was heard.
Frames TempoDesk::shiftOf(const Heard& heard) const {
  const auto* set = doc_.song().find(heard.set);
  if (!set) return heard.shift;
  for (const auto& c : withoutPlan(*set->clips))
    if (c.take == heard.take && !c.reversed) return c.toSong(Frames{});
  return heard.shift;
}

Frames TempoDesk::heardFrame(double seconds) const {
  return shiftOf(*heard()) + Frames{std::llround(seconds * doc_.song().rate)};
}

void TempoDesk::use() {
  if (!heard()) return doc_.tell(tr("No tempo was heard yet: press \"Listen\" in the Tempo step."));
  auto map = tempoMapOf(heard()->tempo, doc_.song().rate);
  if (map) map = TempoMap::make(map->rate(), map->origin() + shiftOf(*heard()), map->tempos(), map->meters());
  auto song = map ? setTempoMap(doc_.song(), *map) : tl::unexpected(map.error());
  if (song) song = withTempoDoubt(*song, doubt());
  doc_.edit(tr("Use the tempo heard"), song);
}

TempoDoubt TempoDesk::doubt() const {
  const auto& found = heard()->tempo;
  TempoDoubt out{found.confidence, found.barConfidence, 0, {}};
  if (found.candidates.size() > 1) out.otherBpm = found.candidates[1].bpm * found.quartersABeat();
  if (found.otherBar) out.otherBar = heardFrame(*found.otherBar);
  return out;
}

void TempoDesk::useOne(double bpm) {
  const auto& now = doc_.song().tempo;
  const bool known = heard() && !heard()->tempo.downbeats.empty();
  const auto origin = known ? heardFrame(heard()->tempo.downbeats.front()) : now.origin();
  setMap(tr("Use %1 BPM").arg(bpm, 0, 'f', 2),
         TempoMap::make(now.rate(), origin, {{Ticks{}, bpm, false}}, now.meters()));
}

// Anchors -------------------------------------------------------------------------------------------------------------

void TempoDesk::anchorDownbeats() {
  if (!heard() || heard()->tempo.downbeats.size() < 2)
    return doc_.tell(tr("No downbeats were heard yet: press \"Listen\" first."));
  const auto& found = heard()->tempo;
  // The bars of the song are those that were heard: its meters first, then a bar for each downbeat.
  const auto& now = doc_.song().tempo;
  auto map = TempoMap::make(now.rate(), heardFrame(heard()->tempo.downbeats.front()),
                            {{Ticks{}, found.bpm * found.quartersABeat(), false}}, found.meters());
  Result<Song> song = map ? setTempoMap(doc_.song(), *map) : tl::unexpected(map.error());
  if (song) {
    TempoAnchors anchors;
    for (std::size_t i = 0; i < heard()->tempo.downbeats.size(); ++i)
      anchors.push_back({map->barStart(static_cast<int>(i)), heardFrame(heard()->tempo.downbeats[i])});
    song = setAnchors(*song, anchors);
  }
  doc_.edit(tr("Anchor the downbeats found"), song);
}

void TempoDesk::tie(Ticks at, Frames frame, const QString& gesture) {
  doc_.edit(tr("Tie a bar line"), setAnchor(doc_.song(), at, frame), gesture);
}

void TempoDesk::shift(Ticks at, Frames frame, const QString& gesture) {
  doc_.edit(tr("Move all bars"), shiftBars(doc_.song(), at, frame), gesture);
}

void TempoDesk::remove(const std::vector<Ticks>& at) {
  doc_.edit(at.size() == 1 ? tr("Remove an anchor") : tr("Remove anchors"), removeAnchors(doc_.song(), at));
}

void TempoDesk::setSettings(const AnchorSettings& settings, const QString& gesture) {
  doc_.edit(tr("Change how the map follows its anchors"), setAnchorSettings(doc_.song(), settings), gesture);
}

bool TempoDesk::anchored(Ticks at) const {
  const auto& a = *doc_.song().anchors;
  return std::any_of(a.begin(), a.end(), [&](const TempoAnchor& x) { return x.at == at; });
}

std::optional<Frames> TempoDesk::attackNear(Frames at, Frames reach) const {
  std::optional<Frames> best;
  const auto consider = [&](Frames f) {
    const auto away = std::abs((f - at).value);
    if (away <= reach.value && (!best || away < std::abs((*best - at).value))) best = f;
  };
  for (const auto& p : doc_.timingDesk().planned().hits)
    consider(doc_.transport().original() || !doc_.timingDesk().settings().on ? p.home : p.now);
  if (!best && heard())
    for (const double beat : heard()->tempo.beats) consider(heardFrame(beat));
  return best;
}

// The bar that is looked at -------------------------------------------------------------------------------------------

void TempoDesk::setBar(std::optional<int> bar) {
  if (bar == bar_) return;
  bar_ = bar;
  emit changed();
}

void TempoDesk::stepBar(int by) {
  const auto& map = doc_.song().tempo;
  const int now = bar_.value_or(map.barAt(doc_.transport().cursor()) - (by > 0 ? 1 : 0));
  const int last = map.barAt(doc_.song().end()) + 1;
  setBar(std::clamp(now + by, 0, std::max(0, last)));
  doc_.transport().setCursor(map.toFrames(map.barStart(*bar_)));
}

void TempoDesk::tieBar() {
  const auto& map = doc_.song().tempo;
  const int bar = bar_.value_or(map.barAt(doc_.transport().cursor()));
  const auto at = map.barStart(bar);
  const auto line = map.toFrames(at);
  const auto beat = map.toFrames(at + map.meterOfBar(bar).beatLength()) - line;
  const auto attack = attackNear(line, beat / 2);
  if (!attack) {
    setBar(bar);
    return doc_.tell(
        tr("No attack lies within half a beat of bar %1. Drag its line, or find hits first.").arg(bar + 1));
  }
  tie(at, *attack);
  setBar(bar);
  stepBar(1);
}

void TempoDesk::tieAtPlayLine() {
  const auto& engine = doc_.transport().player().engine();
  const auto place = engine.playing() ? engine.position() : doc_.transport().cursor();
  const auto& map = doc_.song().tempo;
  const auto now = map.toTicks(place);
  const int bar = map.barAt(now);
  const auto before = map.barStart(bar);
  const auto after = map.barStart(bar + 1);
  const bool first = now - before <= after - now;
  constexpr double kTapReachMs = 60;
  const auto attack = attackNear(place, framesFromMs(kTapReachMs, doc_.song().rate));
  tie(first ? before : after, attack.value_or(place));
  setBar(first ? bar : bar + 1);
}

// Recordings that follow ----------------------------------------------------------------------------------------------

void TempoDesk::steady(double amount) {
  QStringList left;
  for (const auto& set : doc_.song().sets)
    if (!lockedIn(set).empty()) left << QString::fromStdString(set.name);
  if (doc_.edit(tr("Make it steady"), makeSteady(doc_.song(), amount)) && !left.isEmpty())
    doc_.tell(tr("Left as they were, because something in them is locked: %1.").arg(left.join(", ")));
}

std::optional<ClipId> TempoDesk::clipToFit() const {
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set || set->clips->empty()) return {};
  for (const auto& c : *set->clips)
    if (c.range().contains(doc_.transport().cursor())) return c.id;
  return set->clips->front().id;
}

void TempoDesk::fit(const SourceTempo& source, FitManner manner) {
  const auto clip = clipToFit();
  if (!clip) return doc_.tell(tr("Import recordings first."));
  doc_.edit(tr("Fit the take to the song"), fitClip(doc_.song(), *clip, source, manner));
}

std::optional<SourceTempo> TempoDesk::sourceOf(SetId id) const {
  const auto* set = doc_.song().find(id);
  if (!set || set->clips->empty()) return {};
  const auto* take = doc_.song().find(set->clips->front().take);
  if (take && take->tempo) return take->tempo;
  const auto* heard = heardIn(id);
  if (!heard || !heard->tempo.steady) return {};
  const double first = heard->tempo.downbeats.empty() ? 0 : heard->tempo.downbeats.front();
  return SourceTempo{heard->tempo.bpm * heard->tempo.quartersABeat(), Frames{std::llround(first * doc_.song().rate)}};
}

void TempoDesk::setSource(SetId id, const SourceTempo& source) {
  const auto* set = doc_.song().find(id);
  if (!set || set->clips->empty()) return;
  doc_.edit(tr("Settle a take's tempo"), setSourceTempo(doc_.song(), set->clips->front().take, source), "take tempo");
}

bool TempoDesk::isSure(SetId id) const {
  const auto* set = doc_.song().find(id);
  if (!set || set->clips->empty()) return false;
  const auto* heard = heardIn(id);
  return doc_.song().find(set->clips->front().take)->tempo ||
         (heard && heard->tempo.steady && heard->tempo.confidence >= kTempoSure);
}

void TempoDesk::fitAll() {
  std::vector<FitOne> all;
  QStringList left;
  for (const auto& set : doc_.song().sets) {
    if (isSure(set.id) && !set.locked)
      all.push_back({set.id, *sourceOf(set.id)});
    else
      left << QString::fromStdString(set.name);
  }
  if (all.empty()) return doc_.tell(tr("No take's tempo is sure yet: listen to them, or settle one by hand."));
  const bool done =
      doc_.edit(tr("Fit %1 to the song").arg(counted(all.size(), "take", "takes")), fitSets(doc_.song(), all));
  if (done && !left.isEmpty())
    doc_.tell(tr("%1 fitted; left as they were: %2. Settle their tempo to fit them, too.")
                  .arg(counted(all.size(), "take", "takes"), left.join(", ")));
}

void TempoDesk::setRecordingFollows(bool on) {
  if (on == recordingFollows_) return;
  recordingFollows_ = on;
  emit changed();
}

void TempoDesk::fitToRange() {
  const auto clip = clipToFit();
  if (!clip) return doc_.tell(tr("Import recordings first."));
  doc_.edit(tr("Fit the take to the range"), fitClipTo(doc_.song(), *clip, doc_.selection().range()));
}

void TempoDesk::readMap(const std::filesystem::path& file) {
  const auto& song = doc_.song();
  const auto read = readMapMidi(file, song.rate, song.tempo.origin());
  if (!read) return doc_.warn(QString::fromStdString(read.error().message));
  auto next = setTempoMap(song, read->map);
  for (const auto& m : read->markers) {
    const auto there = [&](const Marker& known) { return known.at == m.at && known.name == m.name; };
    if (next && std::none_of(next->markers.begin(), next->markers.end(), there))
      next = addMarker(*next, m.at, Ticks{}, m.name);
  }
  if (doc_.edit(tr("Take a tempo map"), next))
    doc_.tell(tr("The tempo map of %1: %2, %3.")
                  .arg(QString::fromStdString(file.filename().string()),
                       counted(read->map.tempos().size(), "tempo", "tempos"),
                       counted(read->markers.size(), "marker", "markers")));
}

void TempoDesk::setMap(const QString& name, const Result<TempoMap>& map, const QString& gesture) {
  doc_.edit(name, map ? setTempoMap(doc_.song(), *map) : tl::unexpected(map.error()), gesture);
}

}  // namespace ochron
