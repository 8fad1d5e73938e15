#include "document/pattern_desk.h"

#include <algorithm>

#include "document/kit_desk.h"
#include "document/recording_files.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "handover/cells.h"
#include "store/project.h"

namespace ochron {

PatternDesk::PatternDesk(Document& document) : QObject(&document), doc_(document) {
  connect(&document, &Document::songChanged, this, &PatternDesk::changed);
  document.selection().watch(Selection::kSet, this, [this] { emit changed(); });
}

void PatternDesk::forget() {
  chosen_ = {};
  drawing_ = 0;
  emit changed();
}

std::vector<const Pattern*> PatternDesk::patterns() const {
  std::vector<const Pattern*> out;
  for (const auto& p : doc_.song().patterns)
    if (p.set == doc_.kitDesk().set()) out.push_back(&p);
  return out;
}

const Pattern* PatternDesk::chosen() const {
  const auto all = patterns();
  const auto at = std::find_if(all.begin(), all.end(), [&](const Pattern* p) { return p->id == chosen_; });
  return at != all.end() ? *at : all.empty() ? nullptr : all.back();
}

void PatternDesk::choose(PatternId pattern) {
  chosen_ = pattern;
  emit changed();
}

void PatternDesk::chooseBy(int by) {
  const auto all = patterns();
  const auto at = std::find(all.begin(), all.end(), chosen());
  if (at == all.end()) return;
  const auto to = std::clamp<std::ptrdiff_t>(at - all.begin() + by, 0, std::ssize(all) - 1);
  choose(all[static_cast<std::size_t>(to)]->id);
  doc_.tell(tr("Pattern \"%1\".").arg(QString::fromStdString(chosen()->name)));
}

FrameRange PatternDesk::toKeep() const {
  const auto& song = doc_.song();
  if (const auto range = doc_.selection().range(); !range.empty()) return range;
  FrameRange around{doc_.transport().cursor(), doc_.transport().cursor() + Frames{1}};
  const auto clips = doc_.selection().clips();
  for (std::size_t i = 0; i < clips.size(); ++i) {
    const auto* c = song.find(clips[i]);
    around = i == 0 ? c->range() : FrameRange{std::min(around.start, c->start), std::max(around.end, c->end())};
  }
  const auto& map = song.tempo;
  const auto last = map.barAt(around.end - Frames{1});
  return {map.toFrames(map.barStart(map.barAt(around.start))), map.toFrames(map.barStart(last + 1))};
}

void PatternDesk::keep() {
  const auto count = patterns().size();
  const auto name = tr("Pattern %1").arg(count + 1);
  if (!doc_.edit(tr("Keep a pattern"), keepPattern(doc_.song(), doc_.kitDesk().set(), toKeep(), name.toStdString())))
    return;
  choose(doc_.song().patterns.back().id);
  const auto& kept = doc_.song().patterns.back();
  doc_.tell(
      tr("\"%1\" kept: %2. The lanes stay as they are.").arg(name, counted(kept.strokes->size(), "stroke", "strokes")));
}

void PatternDesk::begin() {
  const auto& song = doc_.song();
  const auto set = doc_.kitDesk().set();
  std::optional<ClipId> clip;
  for (const auto id : doc_.selection().clips())
    if (const auto* of = song.setOf(id); of && of->id == set && !clip) clip = id;
  if (const auto* active = song.find(set); active && !clip)
    for (const auto& c : *active->clips)
      if (c.range().contains(doc_.transport().cursor())) clip = c.id;
  if (!clip) return doc_.tell(tr("Choose a cell first: the pattern begins with it."));
  const auto name = tr("Pattern %1").arg(patterns().size() + 1);
  const auto bar = song.tempo.meters().front().meter.barLength();
  if (!doc_.edit(tr("Begin a pattern"), beginPattern(song, *clip, bar, name.toStdString()))) return;
  choose(doc_.song().patterns.back().id);
  doc_.tell(tr("\"%1\" begins with the cell. Choose further cells: each has a row to strike it on.").arg(name));
}

std::vector<Clip> PatternDesk::slices() const {
  std::vector<Clip> out;
  const auto* p = chosen();
  if (!p) return out;
  for (const auto& s : *p->strokes) {
    const auto known = std::find_if(out.begin(), out.end(), [&](const Clip& c) { return c.id == s.clip.id; });
    if (known == out.end())
      out.push_back(s.clip);
    else if (s.clip.length > known->length)  // one that was cut short where it was struck
      *known = s.clip;
  }
  for (const auto id : doc_.selection().clips()) {
    const auto* clip = doc_.song().find(id);
    const auto* set = clip ? doc_.song().setOf(id) : nullptr;
    if (set && set->id == p->set && std::none_of(out.begin(), out.end(), [&](const Clip& c) { return c.id == id; }))
      out.push_back(*clip);
  }
  return out;
}

void PatternDesk::draw(const Clip& clip, Ticks at, Ticks reach) {
  if (const auto* p = chosen()) change(tr("Draw a stroke"), drawn(*p, clip, at, reach));
}

void PatternDesk::erase(std::size_t stroke) {
  if (const auto* p = chosen()) change(tr("Erase a stroke"), erased(*p, stroke));
}

void PatternDesk::setGain(std::size_t stroke, double gainDb, const QString& gesture) {
  if (const auto* p = chosen()) change(tr("Level of a stroke"), withGain(*p, stroke, gainDb), gesture);
}

void PatternDesk::lengthen(int bars) {
  const auto* p = chosen();
  if (!p) return;
  const auto bar = doc_.song().tempo.meters().front().meter.barLength();
  // To whole bars first.
  const auto whole = p->length.value / bar.value + (bars < 0 && p->length.value % bar.value != 0 ? 1 : 0);
  change(bars > 0 ? tr("Lengthen a pattern") : tr("Shorten a pattern"),
         ofLength(*p, Ticks{(whole + bars) * bar.value}));
}

void PatternDesk::lay(int times) {
  const auto* p = chosen();
  if (!p) return;
  const auto at = doc_.transport().cursor();
  const auto end = patternEnd(doc_.song(), *p, at, times);
  const auto name = QString::fromStdString(p->name);
  if (!doc_.edit(tr("Lay \"%1\"").arg(name), layPattern(doc_.song(), p->id, at, times))) return;
  if (!doc_.transport().player().engine().playing()) doc_.transport().setCursor(end);
  doc_.tell(tr("\"%1\" laid at the play line.").arg(name));
}

void PatternDesk::change(const QString& name, const Result<Pattern>& pattern, const QString& gesture) {
  if (!pattern) return doc_.refuse(pattern.error());
  doc_.edit(name, changePattern(doc_.song(), *pattern), gesture);
}

void PatternDesk::shuffle() {
  if (const auto* p = chosen()) change(tr("Shuffle a pattern"), shuffled(*p, ++drawing_));
}

void PatternDesk::vary() {
  if (const auto* p = chosen())
    change(tr("Vary a pattern"), varied(doc_.song(), *p, doc_.timingDesk().settings().grid, ++drawing_));
}

void PatternDesk::rename(const QString& name) {
  if (const auto* p = chosen())
    doc_.edit(tr("Rename pattern"), renamePattern(doc_.song(), p->id, name.trimmed().toStdString()));
}

void PatternDesk::duplicate() {
  const auto* p = chosen();
  if (p && doc_.edit(tr("Duplicate pattern"), duplicatePattern(doc_.song(), p->id)))
    choose(doc_.song().patterns.back().id);
}

void PatternDesk::remove() {
  if (const auto* p = chosen()) doc_.edit(tr("Remove pattern"), removePattern(doc_.song(), p->id));
}

void PatternDesk::writeMidi(const std::filesystem::path& file) {
  const auto* p = chosen();
  if (!p) return;
  auto outputs = outputsOf(doc_.song());
  auto done = writePattern(doc_.song(), *p, doc_.transport().cursor(), file, outputs);
  if (done) done = outputs.commit();
  if (!done) return doc_.warn(QString::fromStdString(done.error().message));
  doc_.tell(
      tr("%1 written to %2.").arg(counted(p->strokes->size(), "note", "notes"), QString::fromStdString(file.string())));
}

}  // namespace ochron
