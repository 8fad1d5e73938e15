#include "document/clip_desk.h"

#include <algorithm>

#include "document/document.h"
#include "document/transport.h"
#include "edits/clip_edits.h"

namespace ochron {

ClipDesk::ClipDesk(Document& document) : QObject(&document), doc_(document), settings_(readHandSettings()) {
  connect(&document, &Document::songChanged, this, &ClipDesk::prune);
}

void ClipDesk::prune() {
  const auto& song = doc_.song();
  const auto before = chosen_.size();
  if (!chosen_.empty()) {
    ChosenClips there;
    for (const auto& s : song.sets)
      for (const auto& c : *s.clips)
        if (chosen_.contains(c.id)) there.insert(c.id);
    chosen_ = std::move(there);
  }
  std::erase_if(rangeSets_, [&](SetId s) { return !song.find(s); });
  if (span_ && !song.find(*span_)) span_.reset();
  if (marker_ && !song.find(*marker_)) marker_.reset();
  if (point_) {
    const auto* e = envelopeOf(song, point_->envelope);
    if (!e || std::none_of(e->begin(), e->end(), [&](auto& p) { return p.at == point_->at; })) point_.reset();
  }
  if (openBundle_ && !song.find(openBundle_)) openBundle_ = {};
  if (before != chosen_.size()) emit changed();
}

ClipIds ClipDesk::clips() const {
  ClipIds out;
  if (chosen_.empty()) return out;
  for (const auto& s : doc_.song().sets)
    for (const auto& c : *s.clips)
      if (chosen_.contains(c.id)) out.push_back(c.id);
  return out;
}

ClipIds ClipDesk::withBundles(const ClipIds& clips) const {
  ClipIds out = clips;
  std::unordered_set<BundleId> bundles;
  const ChosenClips asked(clips.begin(), clips.end());
  const auto& song = doc_.song();
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (c.bundle && c.bundle != openBundle_ && asked.contains(c.id)) bundles.insert(c.bundle);
  if (bundles.empty()) return out;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (bundles.contains(c.bundle) && !asked.contains(c.id)) out.push_back(c.id);
  return out;
}

void ClipDesk::choose(const ClipIds& clips, bool add) {
  if (!add) chosen_.clear();
  const auto all = withBundles(clips);
  chosen_.insert(all.begin(), all.end());
  if (!clips.empty()) anchor_ = clips.back();
  span_.reset();
  marker_.reset();
  point_.reset();
  doc_.setCurrentHit({});
  if (clips.size() == 1)
    if (const auto* set = doc_.song().setOf(clips.front()); set && set->id == doc_.activeSet())
      doc_.setCurrentSeam(clips.front());  // the loupe shows the joint it begins with
  emit changed();
}

void ClipDesk::toggle(ClipId clip) {
  if (!chosen_.contains(clip)) return choose({clip}, true);
  span_.reset();
  marker_.reset();
  point_.reset();
  for (const auto id : withBundles({clip})) chosen_.erase(id);
  emit changed();
}

void ClipDesk::chooseTo(ClipId clip) {
  const auto& song = doc_.song();
  const auto* from = song.find(anchor_);
  const auto* to = song.find(clip);
  if (!from || !to) return choose({clip});
  const auto order = setsInOrder(song);
  const auto row = [&](ClipId id) { return std::find(order.begin(), order.end(), song.setOf(id)->id); };
  auto a = row(anchor_);
  auto b = row(clip);
  if (b < a) std::swap(a, b);
  const FrameRange range{std::min(from->start, to->start), std::max(from->end(), to->end())};
  const auto anchor = anchor_;
  chooseIn(range, {a, b + 1}, true);
  anchor_ = anchor;
}

void ClipDesk::chooseIn(FrameRange range, const std::vector<SetId>& sets, bool add) {
  ClipIds inside;
  for (const auto& s : doc_.song().sets) {
    if (std::find(sets.begin(), sets.end(), s.id) == sets.end()) continue;
    for (const auto& c : *s.clips)
      if (c.start >= range.start && c.end() <= range.end) inside.push_back(c.id);
  }
  choose(inside, add);
}

void ClipDesk::chooseAll() { chooseIn({Frames{INT64_MIN / 2}, Frames{INT64_MAX / 2}}, setsInOrder(doc_.song())); }

void ClipDesk::chooseOnTrack() {
  chooseIn({Frames{INT64_MIN / 2}, Frames{INT64_MAX / 2}}, empty() ? std::vector{doc_.activeSet()} : targetSets());
}

void ClipDesk::chooseAfter() {
  const auto from = empty() ? doc_.transport().cursor() : extentOf(doc_.song(), clips()).start;
  chooseIn({from, Frames{INT64_MAX / 2}}, empty() ? setsInOrder(doc_.song()) : targetSets());
}

void ClipDesk::chooseLike(bool byColour) {
  const auto& song = doc_.song();
  const auto colourOf = [&](const MicSet& s, const Clip& c) {
    return c.extras->colour.value_or(song.find(s.tracks.front())->colour);
  };
  const auto nameOf = [&](const Clip& c) {
    const auto* take = song.find(c.take);
    return c.extras->name.empty() && take ? take->name : c.extras->name;
  };
  std::vector<int> colours;
  std::vector<std::string> names;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (chosen_.contains(c.id)) {
        colours.push_back(colourOf(s, c));
        names.push_back(nameOf(c));
      }
  ClipIds alike;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (byColour ? std::find(colours.begin(), colours.end(), colourOf(s, c)) != colours.end()
                   : std::find(names.begin(), names.end(), nameOf(c)) != names.end())
        alike.push_back(c.id);
  choose(alike);
}

void ClipDesk::clear() {
  if (!holdsSomething() && rangeSets_.empty()) return;
  chosen_.clear();
  rangeSets_.clear();
  span_.reset();
  marker_.reset();
  point_.reset();
  emit changed();
}

std::vector<SetId> ClipDesk::rangeSets() const { return rangeSets_.empty() ? setsInOrder(doc_.song()) : rangeSets_; }

std::vector<SetId> ClipDesk::targetSets() const {
  if (!doc_.range().empty()) return rangeSets();
  std::vector<SetId> out;
  for (const auto& s : doc_.song().sets)
    if (std::any_of(s.clips->begin(), s.clips->end(), [&](auto& c) { return chosen_.contains(c.id); }))
      out.push_back(s.id);
  if (out.empty() && doc_.activeSet()) out.push_back(doc_.activeSet());
  return out;
}

void ClipDesk::chooseSpan(std::optional<SpanId> span) {
  chosen_.clear();
  marker_.reset();
  point_.reset();
  span_ = span;
  emit changed();
}

void ClipDesk::chooseMarker(std::optional<MarkerId> marker) {
  chosen_.clear();
  span_.reset();
  point_.reset();
  marker_ = marker;
  emit changed();
}

void ClipDesk::choosePoint(std::optional<PointRef> point) {
  if (point == point_) return;
  span_.reset();
  marker_.reset();
  point_ = point;
  emit changed();
}

void ClipDesk::showEnvelope(std::optional<EnvelopeKind> kind) {
  if (kind == shownEnvelope_) return;
  shownEnvelope_ = kind;
  point_.reset();
  emit changed();
}

void ClipDesk::openBundle(BundleId bundle) {
  if (bundle == openBundle_) return;
  openBundle_ = bundle;
  const auto* b = doc_.song().find(bundle);
  doc_.tell(
      b ? tr("\"%1\" is open: its clips are handled one by one. Escape closes it.").arg(QString::fromStdString(b->name))
        : tr("The bundle is closed."));
  clear();
  emit changed();
}

void ClipDesk::setSettings(const HandSettings& settings) {
  if (settings == settings_) return;
  settings_ = settings;
  keepHandSettings(settings);
  emit changed();
}

void ClipDesk::showSilence(bool on) {
  if (on == silenceShown_) return;
  silenceShown_ = on;
  emit changed();
}

const std::vector<std::pair<SetId, FrameRange>>& ClipDesk::silence() const {
  auto& found = foundSilence_;
  const auto sets = targetSets();
  if (found.song == doc_.version() && found.sets == sets && found.settings == settings_.silence) return found.gaps;
  found = {doc_.version(), sets, settings_.silence, {}};
  for (const auto id : sets)
    for (const auto& gap : silentGaps(doc_.song(), id, doc_.pool(), settings_.silence))
      found.gaps.emplace_back(id, gap);
  return found.gaps;
}

}  // namespace ochron
