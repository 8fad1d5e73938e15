#include "document/key_desk.h"

#include <algorithm>

#include "analysis/tempo/pitch_classes.h"
#include "document/cells_desk.h"
#include "document/clip_desk.h"
#include "document/document.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/pitch_edits.h"
#include "takes/hear_tempo.h"

namespace ochron {
namespace {

constexpr int kMiddleC = 60;

}  // namespace

KeyDesk::KeyDesk(Document& document) : QObject(&document), doc_(document) {
  document.selection().watch(Selection::kWhere, this, [this] { follow(); });
  connect(&document, &Document::songChanged, this, &KeyDesk::follow);
  constexpr int kOftenMs = 8;  // what keys strike is heard before
  listening_.setInterval(kOftenMs);
  listening_.setTimerType(Qt::PreciseTimer);
  connect(&listening_, &QTimer::timeout, this, &KeyDesk::takeKeys);
}

// Keyboards -----------------------------------------------------------------------------------------------------------

void KeyDesk::useKeyboard(std::unique_ptr<MidiInput> keyboard) {
  keyboard_ = std::move(keyboard);
  if (keyboard_) keyboard_->playInto(doc_.transport().player().keys());
  keyboard_ ? listening_.start() : listening_.stop();
  emit changed();
}

void KeyDesk::chooseKeyboard(const QString& name) {
  if (name.isEmpty()) return useKeyboard(nullptr);
  if (keyboard_ && keyboard_->name() == name.toStdString()) return;
  if (name == SimulatedKeyboard::kName) {
    useKeyboard(std::make_unique<SimulatedKeyboard>());
    return doc_.tell(tr("The computer's keys z to m play the simulated keyboard; v is middle C."));
  }
  auto opened = RtMidiInput::open(name.toStdString());
  if (!opened) {
    doc_.warn(QString::fromStdString(opened.error().message));
    return useKeyboard(nullptr);
  }
  useKeyboard(std::move(*opened));
  doc_.tell(tr("Keys of \"%1\" are tried, middle C as recorded.").arg(name));
}

bool KeyDesk::playSimulated(int semitones) {
  auto* simulated = dynamic_cast<SimulatedKeyboard*>(keyboard_.get());
  return simulated && simulated->press(kMiddleC + semitones);
}

/// Of several keys pressed at once the last one is tried.
void KeyDesk::takeKeys() {
  auto& player = doc_.transport().player();
  auto& keys = *player.keys();
  auto& cells = doc_.cellsDesk();
  const bool onCells = doc_.step() == Step::kit;
  if (!player.device()) keys.meetWithoutSound();
  std::optional<KeyPress> last;
  for (KeyStream::Heard heard; keys.next(heard);) {
    last = heard.key;
    const int cell = heard.key.key - CellsDesk::kFirstKey;
    const double strength = heard.key.velocity / 127.0;
    if (heard.struck)
      cells.wasStruck(cell, strength, heard.playing ? std::optional(heard.at) : std::nullopt);
    else if (onCells)
      cells.strike(cell, strength);
  }
  // Straight from the keyboard once the engine has the sounds of the page that is open.
  if (onCells && !cells.ready()) cells.refreshBank();
  keys.strikeFrom(onCells && cells.ready() ? CellsDesk::kFirstKey : KeyStream::kNoKeys);
  if (onCells || !last) return;
  constexpr int kOctave = 12;
  int semitones = last->key - kMiddleC;
  while (100.0 * semitones + cents_ > GrainShift::kMostCents) semitones -= kOctave;
  while (100.0 * semitones + cents_ < -GrainShift::kMostCents) semitones += kOctave;
  if (semitones == 0 && cents_ == 0) return asRecorded();
  tryKey(semitones, cents_);
}

/// Another set is active, or the tracks are others: what is tried goes along.
void KeyDesk::follow() {
  if (set_ != doc_.selection().set()) {
    set_ = doc_.selection().set();
    emit changed();
  }
  if (fits_ && (listened_ != set_ || takes_ != doc_.song().takes.size())) fits_.reset();
  if (trying_) send();
}

void KeyDesk::send() {
  TrackMask tracks;
  if (trying_)
    for (std::size_t i = 0; i < std::min(tracks.size(), doc_.song().tracks.size()); ++i) {
      const auto* set = doc_.song().setOf(doc_.song().tracks[i].id);
      tracks[i] = set && set->id == set_;
    }
  doc_.transport().player().engine().tryKey(tracks, 100.0 * semitones_ + cents_);
}

void KeyDesk::tryKey(int semitones, double cents) {
  set_ = doc_.selection().set();
  if (!set_) return doc_.tell(tr("Import recordings first."));
  constexpr double kMost = GrainShift::kMostCents;
  if (std::abs(100.0 * semitones + cents) > kMost) return doc_.tell(tr("Two octaves up or down at most."));
  semitones_ = semitones;
  cents_ = cents;
  trying_ = true;
  send();
  if (doc_.transport().original()) doc_.transport().setOriginal(false);
  const auto name = QString::fromStdString(doc_.song().find(set_)->name);
  doc_.tell(tr("\"%1\" is tried %2%3 semitones%4. Return keeps it, 0 is as recorded.")
                .arg(name, semitones > 0   ? QStringLiteral("+")
                           : semitones < 0 ? QStringLiteral("\u2212")
                                           : QString())
                .arg(std::abs(semitones))
                .arg(cents == 0 ? QString() : tr(" and %1 cents").arg(cents, 0, 'f', 0)));
  emit changed();
}

void KeyDesk::asRecorded() {
  if (!trying_) return;
  trying_ = false;
  send();
  doc_.tell(tr("As recorded."));
  emit changed();
}

void KeyDesk::keep() {
  const double cents = 100.0 * semitones_ + cents_;
  if (!trying_ || cents == 0) return asRecorded();
  ClipIds chosen;
  for (const auto id : doc_.selection().clips())
    if (const auto* set = doc_.song().setOf(id); set && set->id == set_) chosen.push_back(id);
  const auto next =
      chosen.empty() ? transposeSet(doc_.song(), set_, cents) : transposeClips(doc_.song(), chosen, cents);
  trying_ = false;
  send();
  emit changed();
  if (!doc_.edit(tr("Transpose by %1 semitones").arg(cents / 100, 0, 'g', 4), next)) return;
  doc_.tell(tr("Kept, for %1. It is heard at full quality as soon as it is made.")
                .arg(chosen.empty() ? tr("the whole track") : counted(chosen.size(), "clip", "clips")));
}

void KeyDesk::hearFits() {
  const auto set = doc_.selection().set();
  if (!set || (listened_ == set && takes_ == doc_.song().takes.size())) return;
  listened_ = set;
  takes_ = doc_.song().takes.size();
  doc_.jobs().start(
      tr("listening for the key"),
      [this, song = doc_.version(), pool = doc_.pool(), set](Progress& progress) -> Jobs::Finish {
        const auto classesOf = [&](const MicSet& s) {
          return s.clips->empty() ? PitchClasses{}
                                  : pitchClassesOf(mixOf(*song, s, s.clips->front().take, pool), song->rate);
        };
        PitchClasses others{};
        for (const auto& s : song->sets) {
          if (progress.cancelled()) return [this] { listened_ = {}; };
          const bool drums = std::any_of(s.tracks.begin(), s.tracks.end(),
                                         [&](TrackId t) { return song->find(t)->role != MicRole::none; });
          if (s.id == set || drums) continue;
          const auto here = classesOf(s);
          for (std::size_t i = 0; i < 12; ++i) others[i] += here[i];
        }
        const auto own = classesOf(*song->find(set));
        std::array<double, 12> fits{};
        for (int n = 0; n < 12; ++n) fits[static_cast<std::size_t>(n)] = keyFit(own, n, others);
        return [this, set, fits] {
          if (listened_ != set) return;
          fits_ = fits;
          emit changed();
        };
      },
      QStringLiteral("key fits"));
}

void KeyDesk::forget() {
  trying_ = false;
  semitones_ = 0;
  cents_ = 0;
  fits_.reset();
  listened_ = {};
  send();
  emit changed();
}

}  // namespace ochron
