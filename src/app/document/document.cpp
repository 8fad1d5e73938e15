#include "document/document.h"

#include "document/attention.h"
#include "document/cells_desk.h"
#include "document/clip_desk.h"
#include "document/effect_desk.h"
#include "document/hit_desk.h"
#include "document/key_desk.h"
#include "document/kit_desk.h"
#include "document/line_watch.h"
#include "document/note_out_desk.h"
#include "document/pattern_desk.h"
#include "document/pin_desk.h"
#include "document/pitch_desk.h"
#include "document/print_desk.h"
#include "document/print_trial.h"
#include "document/round_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/sounding.h"
#include "document/takes_desk.h"
#include "document/tempo_desk.h"
#include "document/this_desk.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/locks.h"
#include "gate/gate.h"

namespace ochron {

Document::Document(QObject* parent)
    : QObject(parent),
      song_(std::make_shared<const Song>()),
      files_(new SongFiles(*this)),
      selection_(new Selection(*this)),
      transport_(new Transport(*this)),
      sounding_(new Sounding(*this)),
      takesDesk_(new TakesDesk(*this)),
      tempoDesk_(new TempoDesk(*this)),
      hitDesk_(new HitDesk(*this)),
      timingDesk_(new TimingDesk(*this)),
      pinDesk_(new PinDesk(*this)),
      seamDesk_(new SeamDesk(*this)),
      clipDesk_(new ClipDesk(*this)),
      kitDesk_(new KitDesk(*this)),
      cellsDesk_(new CellsDesk(*this)),
      patternDesk_(new PatternDesk(*this)),
      noteOutDesk_(new NoteOutDesk(*this)),
      pitchDesk_(new PitchDesk(*this)),
      lineWatch_(new LineWatch(*this)),
      keyDesk_(new KeyDesk(*this)),
      roundDesk_(new RoundDesk(*this)),
      printDesk_(new PrintDesk(*this)),
      printTrial_(new PrintTrial(*this)),
      effectDesk_(new EffectDesk(*this)),
      thisDesk_(new ThisDesk(*this)),
      attention_(new Attention(*this)) {
  connect(transport_, &Transport::changed, this, &Document::transportChanged);
  connect(sounding_, &Sounding::changed, this, &Document::transportChanged);
  connect(&recordings_, &Recordings::changed, this, &Document::recordingsChanged);
  connect(&recordings_, &Recordings::found, this, [this](const QStringList& sentences) {
    for (const auto& s : sentences) warn(s, tr("Look\u2026"), "song.recordings");
  });
}

Document::~Document() { jobs_.cancelAll(); }

void Document::warn(const QString& sentence, const QString& button, const QString& command) {
  tell(sentence);
  emit warned(sentence, button, command);
}

Jobs::Finish Document::failed(const Error& error) {
  if (error.kind == ErrorKind::cancelled) return {};
  return [this, text = QString::fromStdString(error.message)] { warn(text); };
}

void Document::offer(const QString& sentence, const QString& button, const QString& command) {
  tell(sentence);
  emit offered(sentence, button, command);
}

// The song ------------------------------------------------------------------------------------------------------------

bool Document::edit(const QString& name, const Result<Song>& next, const QString& gesture) {
  if (!next) {
    refuse(next.error());
    return false;
  }
  if (takenBack_ != 0 && !gesture.isEmpty()) return false;
  if (previewing_ && gesture.isEmpty()) {
    refuse(tr("Let go of what you drag first."));
    return false;
  }
  if (files_->opening()) {
    refuse(tr("Another song is being opened."));
    return false;
  }
  if (*next == *song_) return true;
  const bool held = history_.inGesture() && !gesture.isEmpty();
  auto admits = admitted(*song_, *next, pool(), held ? Plans::dragged : Plans::quick, timingDesk_->timings());
  if (!admits) {
    refuse(admits.error());
    return false;
  }
  auto song = std::make_shared<const Song>(std::move(*admits));
  if (held) {
    preview(name, std::move(song), gesture);
    return true;
  }
  history_.record(name.toStdString(), song_, song, gesture.toStdString());
  replaceSong(std::move(song));
  return true;
}

void Document::learn(Song song) {
  if (againstLocks(*song_, song)) return;
  const bool modified = files_->modified();
  auto known = std::make_shared<const Song>(std::move(song));
  history_.learned(song_, known);
  song_ = std::move(known);
  if (!modified) files_->takeAsSaved();
  afterChange();
  if (modified) files_->autosave();
}

void Document::preview(const QString& name, std::shared_ptr<const Song> song, const QString& gesture) {
  history_.record(name.toStdString(), song_, song, gesture.toStdString());
  previewing_ = true;
  song_ = std::move(song);
  pitchDesk_->songChanged();
  if (transport_->player().engine().playing()) sounding_->compileShown();
  emit songPreviewed();
}

Grip Document::takeHold() {
  if (history_.inGesture()) endGesture();
  jobs_.holdResults(true);
  heldFrom_ = song_;
  takenBack_ = 0;
  held_ = history_.beginGesture();
  return {*this, held_};
}

bool Document::takeBack() {
  if (!history_.inGesture()) return false;
  takenBack_ = held_;
  cancelGesture();
  emit gestureOver();
  return true;
}

void Document::letGo(std::uint64_t gesture) {
  if (gesture == takenBack_) takenBack_ = 0;
  if (history_.isOpen(gesture)) endGesture();
}

Grip::Grip(Document& document, std::uint64_t gesture) : document_(&document), gesture_(gesture) {}

Grip& Grip::operator=(Grip&& o) noexcept {
  if (this == &o) return *this;
  release();
  document_ = std::exchange(o.document_, nullptr);
  gesture_ = o.gesture_;
  return *this;
}

void Grip::release() {
  if (auto* document = std::exchange(document_, nullptr).data()) document->letGo(gesture_);
}

void Document::endGesture() {
  if (previewing_) settle();
  history_.endGesture();
  if (std::exchange(previewing_, false)) {
    if (auto before = history_.dropIdleStep(song_)) song_ = std::move(before);  // dragged there and back
    afterChange();
    files_->autosave();
  }
  jobs_.holdResults(false);
}

/// What was dragged goes through the whole gate, once it is let go.
void Document::settle() {
  auto settled = admitted(*heldFrom_, *song_, pool(), Plans::quick, timingDesk_->timings());
  if (!settled) {
    refuse(settled.error());
    if (auto before = history_.takeBackGesture()) song_ = std::move(before);
  } else if (*settled != *song_) {
    song_ = std::make_shared<const Song>(std::move(*settled));
  }
}

void Document::cancelGesture() {
  previewing_ = false;
  if (auto before = history_.takeBackGesture()) replaceSong(std::move(before));
  jobs_.holdResults(false);
}

void Document::undo() {
  const bool dragged = previewing_;
  if (dragged)
    cancelGesture();  // what is under way goes first
  else
    endGesture();
  emit gestureOver();
  if (dragged) return;
  const auto name = undoName();
  auto song = history_.undo(song_);
  if (!song) return;
  tell(tr("Undone: %1").arg(name));
  replaceSong(std::move(song));
}

void Document::redo() {
  endGesture();
  emit gestureOver();
  const auto name = redoName();
  auto song = history_.redo(song_);
  if (!song) return;
  tell(tr("Done again: %1").arg(name));
  replaceSong(std::move(song));
}

void Document::replaceSong(std::shared_ptr<const Song> song) {
  song_ = std::move(song);
  afterChange();
  files_->autosave();
}

void Document::recordingsChanged() {
  hear();
  emit mediaChanged();
}

/// What is heard follows the song; what is only known by listening does so behind it.
void Document::hear() {
  sounding_->compile();
  if (timingDesk_->hearJoints())
    seamDesk_->forget();  // they are measured where they will be
  else
    seamDesk_->measure();
}

void Document::afterChange() {
  transport_->followRate();
  attention_->songChanged();
  pitchDesk_->songChanged();
  selection_->songChanged();
  recordings_.follow(song_, files_->cacheFolder());
  sounding_->keepIn(files_->cacheFolder());
  if (recordings_.complete()) {
    hear();
  } else {
    seamDesk_->forget();
  }
  emit songChanged();
}

void Document::leaveSong() {
  cancelGesture();
  roundDesk_->end();
  emit gestureOver();
  jobs_.beginSong();
  jobs_.emptySlot("autosave");
}

void Document::beginSong(std::shared_ptr<const Song> song) {
  recordings_.clear();
  history_.clear();
  sounding_->beginSong();
  song_ = std::move(song);
  for (auto* part : findChildren<QObject*>(Qt::FindDirectChildrenOnly))
    if (auto* memory = dynamic_cast<SongMemory*>(part)) memory->forget();
  pitchDesk_->songChanged();
  transport_->beginSong();
}

void Document::songBegun() {
  afterChange();
  emit selection_->changed(Selection::Parts(0x7F));
}

void Document::named(Song song) {
  song_ = std::make_shared<const Song>(std::move(song));
  recordings_.follow(song_, files_->cacheFolder());
  if (recordings_.complete()) hear();  // what was worked out for the song as it was called before is dropped
}

void Document::setStep(Step step) {
  if (step == step_) return;
  step_ = step;
  emit stepChanged();
}

}  // namespace ochron
