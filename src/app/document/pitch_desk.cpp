#include "document/pitch_desk.h"

#include <algorithm>
#include <cmath>

#include "document/document.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/hit_edits.h"
#include "media/midi_reader.h"
#include "store/melody_file.h"
#include "takes/hear_line.h"
#include "tune/melody.h"
#include "tune/reference.h"

namespace ochron {

PitchDesk::PitchDesk(Document& document) : QObject(&document), doc_(document) {
  doc_.selection().watch(Selection::kSet, this, [this] { songChanged(); });
}

void PitchDesk::songChanged() {
  notes_.reset();
  emit changed();
}

const std::vector<PitchDesk::Note>& PitchDesk::notes() const {
  if (notes_) return *notes_;
  notes_.emplace();
  const auto* set = doc_.song().find(doc_.selection().set());
  if (!set) return *notes_;
  std::map<TakeId, std::vector<TunedNote>> ofTake;
  for (const auto& clip : *set->clips) {
    const auto& line = *doc_.song().lineOf(clip.take, set->id);
    if (line.notes.empty() || clip.reversed) continue;
    const auto wishes = wishesFor(*set->pitch, clip.take, line.notes);
    auto& all = ofTake[clip.take];
    if (all.empty()) all = tuned(line.track, line.notes, set->pitch->settings, wishes);
    for (std::size_t i = 0; i < all.size(); ++i)
      if (const auto range = playedOf(clip, all[i].note, doc_.song().rate); !range.empty())
        notes_->push_back({clip.take, nameOf(clip.take, all[i].note), all[i], wishes[i], range.start, range.end});
  }
  return *notes_;
}

bool PitchDesk::heard() const {
  const auto* set = doc_.song().find(doc_.selection().set());
  return set && std::any_of(set->clips->begin(), set->clips->end(),
                            [&](const Clip& c) { return !doc_.song().lineOf(c.take, set->id)->track.values.empty(); });
}

void PitchDesk::hear(SetId set, bool anything) {
  const auto* s = doc_.song().find(set);
  if (!s || s->clips->empty()) return doc_.tell(tr("Import recordings first."));
  std::set<TakeId> takes;
  for (const auto& c : *s->clips) takes.insert(c.take);
  for (const auto take : takes)
    doc_.jobs().start(
        tr("listening for the pitch"),
        [this, song = doc_.version(), pool = doc_.pool(), take, set, anything](Progress& progress) -> Jobs::Finish {
          auto line = hearLine(*song, *song->find(set), take, pool, {}, progress, anything);
          if (!line) {
            if (line.error().kind == ErrorKind::cancelled) return {};
            return [this, text = QString::fromStdString(line.error().message)] {
              doc_.warn(text, tr("Take it as one line"), "pitch.hearanyway");
            };
          }
          return [this, line = std::move(*line), take, set] {
            if (!doc_.song().find(take) || !doc_.song().find(set)) return;
            if (doc_.edit(tr("Listen for the pitch"), setLine(doc_.song(), take, set, line)))
              doc_.tell(
                  tr("%1 heard: %2.")
                      .arg(counted(line.notes.size(), "note", "notes"), QString::fromStdString(lineText(line.how))));
          };
        },
        QStringLiteral("line %1 %2").arg(take.value).arg(set.value), Jobs::Scope::edits);
}

const TuneSettings& PitchDesk::settings() const {
  static const TuneSettings none;
  const auto* set = doc_.song().find(doc_.selection().set());
  return set ? set->pitch->settings : none;
}

bool PitchDesk::setSettings(const QString& name, const TuneSettings& settings, const QString& gesture) {
  return doc_.edit(name, setTuning(doc_.song(), doc_.selection().set(), settings), gesture);
}

// Choosing ------------------------------------------------------------------------------------------------------------

std::vector<PitchDesk::Note> PitchDesk::chosen() const {
  std::vector<Note> out;
  for (const auto& n : notes())
    if (doc_.selection().isChosen(n.name)) out.push_back(n);
  return out;
}

bool PitchDesk::anyChosen() const {
  return std::ranges::any_of(notes(), [this](const Note& n) { return doc_.selection().isChosen(n.name); });
}

// Moving --------------------------------------------------------------------------------------------------------------

bool PitchDesk::wish(const QString& name, const std::vector<std::pair<NoteName, NoteWish>>& wishes,
                     const QString& gesture) {
  if (wishes.empty()) return doc_.tell(tr("Choose notes first: click one, or drag over some.")), false;
  return doc_.edit(name, setNoteWishes(doc_.song(), doc_.selection().set(), wishes), gesture);
}

void PitchDesk::moveTo(const std::vector<std::pair<NoteName, double>>& targets, const QString& gesture) {
  wishAt(tr("Move notes"), targets, gesture);
}

bool PitchDesk::wishAt(const QString& name, const std::vector<std::pair<NoteName, double>>& targets,
                       const QString& gesture) {
  std::vector<std::pair<NoteName, NoteWish>> wishes;
  for (const auto& [note, cents] : targets) {
    NoteWish w;
    for (const auto& n : notes())
      if (n.name == note) w = n.wish;
    w.target = cents;
    w.asSung = false;
    wishes.push_back({note, w});
  }
  return wish(name, wishes, gesture);
}

QString PitchDesk::heardName(double cents) const {
  auto scale = heardScale();
  scale.reference = settings().scale.reference;
  return pitchName(cents, scale);
}

void PitchDesk::followMelody(const std::filesystem::path& file) {
  const auto melody = loadMelody(file);
  if (!melody) return doc_.warn(QString::fromStdString(melody.error().message));
  const auto& song = doc_.song();
  const auto zero = isMidiFile(file) ? song.tempo.toFrames(Ticks{0}) : Frames{};
  const auto seconds = [&](Frames f) { return static_cast<double>((f - zero).value) / song.rate; };
  auto meant = chosen();
  if (meant.empty()) meant = notes();
  std::vector<SungNote> line;
  for (const auto& n : meant)
    line.push_back({seconds(n.start), seconds(n.end), std::exp2(n.tuned.parts.centre / 1200)});
  const auto pitches = pitchesOf(*melody, line);
  std::vector<std::pair<NoteName, double>> targets;
  for (std::size_t i = 0; i < meant.size(); ++i)
    if (pitches[i]) targets.emplace_back(meant[i].name, *pitches[i] - settings().transpose);
  const auto name = QString::fromStdString(file.filename().string());
  if (targets.empty())
    return doc_.warn(
        tr("No note sounds together with one of %1. A MIDI file begins at bar 1, a table at the song's beginning.")
            .arg(name));
  if (wishAt(tr("Take pitches from %1").arg(name), targets, {}))
    doc_.tell(tr("%1 of %2 notes go to the pitches of %3").arg(targets.size()).arg(meant.size()).arg(name));
}

void PitchDesk::moveBy(double cents, const QString& gesture) {
  std::vector<std::pair<NoteName, double>> targets;
  for (const auto& n : chosen()) targets.emplace_back(n.name, n.tuned.after - settings().transpose + cents);
  moveTo(targets, gesture);
}

void PitchDesk::moveBySteps(int steps) {
  const auto& scale = settings().scale;
  std::vector<std::pair<NoteName, double>> targets;
  for (const auto& n : chosen()) {
    double at = scale.nearest(n.tuned.after - settings().transpose);
    for (int i = 0; i < std::abs(steps); ++i) {
      // The next pitch of the scale lies within an octave of its own.
      const int way = steps > 0 ? 1 : -1;
      for (int by = 1; by <= scale.octave + 1; ++by)
        if (const double next = scale.nearest(at + way * by); std::abs(next - at) > 0.5) {
          at = next;
          break;
        }
    }
    targets.emplace_back(n.name, at);
  }
  moveTo(targets);
}

void PitchDesk::asSung() {
  std::vector<std::pair<NoteName, NoteWish>> wishes;
  for (const auto& n : chosen()) {
    NoteWish w;
    w.asSung = true;
    wishes.push_back({n.name, w});
  }
  wish(tr("As sung"), wishes);
}

void PitchDesk::setOwn(std::size_t number, std::optional<double> value, const QString& gesture) {
  std::vector<std::pair<NoteName, NoteWish>> wishes;
  for (const auto& n : chosen()) {
    auto w = n.wish;
    w.own.at(number) = value;
    w.asSung = false;
    wishes.push_back({n.name, w});
  }
  wish(tr("Change %1 of notes").arg(QString::fromUtf8(kTuneNumbers.at(number).range.name)), wishes, gesture);
}

std::vector<NoteName> PitchDesk::namesOfChosen() const {
  std::vector<NoteName> out;
  for (const auto& n : chosen()) out.push_back(n.name);
  return out;
}

void PitchDesk::moveInTime(NotePart part, Frames by, PinReach reach) {
  const auto names = namesOfChosen();
  if (names.empty()) return doc_.tell(tr("Choose notes first: click one, or drag over some."));
  const auto name = part == NotePart::whole ? tr("Move notes in time") : tr("Change the length of notes");
  doc_.edit(name, moveNotes(doc_.song(), doc_.selection().set(), names, part, by, reach), "note time");
}

void PitchDesk::split() {
  const auto set = doc_.selection().set();
  for (const auto& n : notes()) {
    if (doc_.transport().cursor() <= n.start || doc_.transport().cursor() >= n.end) continue;
    const auto* s = doc_.song().find(set);
    for (const auto& clip : *s->clips) {
      if (clip.take != n.take || !clip.range().contains(doc_.transport().cursor())) continue;
      const double at = static_cast<double>(clip.toTake(doc_.transport().cursor()).value) / doc_.song().rate;
      if (doc_.edit(tr("Split a note"), splitNote(doc_.song(), set, n.name, at)))
        doc_.tell(tr("Two notes now. Both keep to this when the line is listened to again."));
      return;
    }
  }
  doc_.tell(tr("Put the play line inside a note to split it there."));
}

void PitchDesk::join() {
  const auto names = namesOfChosen();
  if (!doc_.edit(tr("Join notes"), joinNotes(doc_.song(), doc_.selection().set(), names))) return;
  doc_.selection().chooseNotes({*std::min_element(names.begin(), names.end())});
}

void PitchDesk::silence() {
  const auto names = namesOfChosen();
  if (names.empty()) return doc_.tell(tr("Choose notes first: click one, or drag over some."));
  const auto before = doc_.song().spans.size();
  if (!doc_.edit(tr("Silence notes"), silenceNotes(doc_.song(), doc_.selection().set(), names))) return;
  doc_.tell(doc_.song().spans.size() > before ? tr("Silent now; the same key brings them back.") : tr("Heard again."));
}

void PitchDesk::measureReference() {
  std::vector<SungNote> all;
  for (const auto& n : notes()) {
    all.push_back(n.tuned.note);
    all.back().hertz = std::exp2(n.tuned.parts.centre / 1200);
  }
  const auto a4 = referenceOf(all);
  if (!a4) return doc_.tell(tr("These notes agree on no reference pitch: A4 stays as it is."));
  auto s = settings();
  s.scale.reference = *a4;
  if (setSettings(tr("Take A4 from the take"), s)) doc_.tell(tr("A4 = %1 Hz, as it was sung.").arg(*a4, 0, 'f', 1));
}

void PitchDesk::notesToHits() {
  constexpr double kNearMs = 30;
  const auto set = doc_.selection().set();
  const auto near = framesFromMs(kNearMs, doc_.song().rate);
  Result<Song> song = doc_.song();
  std::size_t added = 0;
  for (const auto& n : notes()) {
    if (!song) break;
    const Frames at{std::llround(n.tuned.note.start * doc_.song().rate)};
    const auto& now = *song->find(set);
    const auto hits = activeHits(*song->hitsOf(n.take, set), now.hits, song->rate);
    const auto close = [&](const Hit& h) { return std::abs((h.at - at).value) <= near.value; };
    if (std::any_of(hits.begin(), hits.end(), close)) continue;
    song = addHit(*song, n.take, set, at, DrumClass::other);
    ++added;
  }
  if (added == 0 && song) return doc_.tell(tr("Every note begins on a hit already."));
  if (doc_.edit(tr("Notes to hits"), song)) doc_.tell(tr("%1 added.").arg(counted(added, "hit", "hits")));
}

void PitchDesk::giveBack() {
  std::vector<std::pair<NoteName, NoteWish>> wishes;
  for (const auto& n : chosen()) wishes.push_back({n.name, {}});
  wish(tr("Give notes back to the plan"), wishes);
}

PitchDesk::Stats PitchDesk::stats() const {
  Stats s;
  const auto& all = notes();
  s.count = all.size();
  if (all.empty()) return s;
  double before = 0;
  double after = 0;
  for (const auto& n : all) {
    const double b = off(n.tuned.parts.centre);
    const double a = off(n.tuned.after - settings().transpose);
    s.meanBefore += b;
    s.meanAfter += a;
    before += b * b;
    after += a * a;
  }
  const auto count = static_cast<double>(all.size());
  s.meanBefore /= count;
  s.meanAfter /= count;
  s.spreadBefore = std::sqrt(std::max(0.0, before / count - s.meanBefore * s.meanBefore));
  s.spreadAfter = std::sqrt(std::max(0.0, after / count - s.meanAfter * s.meanAfter));
  return s;
}

}  // namespace ochron
