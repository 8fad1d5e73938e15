#include "document/transport.h"

#include <QTimer>
#include <algorithm>
#include <cmath>

#include "base/hop.h"
#include "document/clip_desk.h"
#include "document/document.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/tempo_desk.h"
#include "document/wording.h"

namespace ochron {
namespace {

constexpr double kHearBeforeSeconds = 0.25;
constexpr double kHearAfterSeconds = 0.35;
constexpr float kLift = 10;         // 20 dB
constexpr double kUnheardDb = 0.1;  // is no difference

}  // namespace

Transport::Transport(Document& document) : QObject(&document), doc_(document), sound_(document, player_) {
  connect(&sound_, &SoundDesk::changed, this, &Transport::changed);
  auto* timer = new QTimer(this);
  connect(timer, &QTimer::timeout, this, &Transport::watchSound);
  timer->start(33);
}

Transport::~Transport() {
  if (player_.device()) player_.device()->stop();
}

void Transport::beginSong() {
  cursor_ = doc_.song().tempo.origin();
  player_.engine().stop();
  useSongRate();
}

void Transport::followRate() {
  if (player_.rate() == doc_.song().rate) return;
  const Hop carried(doc_.song().rate, player_.rate());
  const auto at = [&](Frames f) { return Frames{carried.nearest(f.value)}; };
  player_.engine().stop();
  cursor_ = at(cursor_);
  const auto range = doc_.selection().range();
  useSongRate();
  doc_.selection().setRange({at(range.start), at(range.end)});
  doc_.tempoDesk().forget();
  doc_.clipDesk().forget();
}

void Transport::rangeChanged() { player_.engine().setLoop(looping_ ? doc_.selection().range() : FrameRange{}); }

/// The engine runs at the song's rate.
void Transport::useSongRate() {
  if (player_.rate() == doc_.song().rate) return;
  sound_.followRate();
  doc_.sounding().forgetPlan();
  player_.engine().setClick(click_, clickLevelDb_);
  player_.engine().setOriginal(original_);
}

void Transport::watchSound() {
  player_.tick();
  sound_.tick();
}

// Playing -------------------------------------------------------------------------------------------------------------

FrameRange Transport::heardSoon() {
  constexpr std::int64_t kSeconds = 4;
  const auto from = player_.engine().playing() ? player_.engine().position() : cursor_;
  return {from, from + Frames{kSeconds * doc_.song().rate}};
}

void Transport::playStop() {
  if (player_.engine().playing()) {
    player_.engine().stop();
  } else {
    if (looping_ && !doc_.selection().range().empty())
      player_.seek(doc_.selection().range().start);
    else
      player_.seek(cursor_);
    player_.engine().play();
  }
  emit changed();
}

void Transport::playFrom(Frames at) {
  setCursor(at);
  player_.seek(at);
  player_.engine().play();
  emit changed();
}

void Transport::setCursor(Frames at) {
  cursor_ = at;
  if (!player_.engine().playing()) player_.seek(at);
  doc_.sounding().makeNearPlayLine();
  emit changed();
}

void Transport::setLooping(bool on) {
  looping_ = on;
  player_.engine().setLoop(on ? doc_.selection().range() : FrameRange{});
  emit changed();
}

void Transport::setClick(bool on) {
  click_ = on;
  player_.engine().setClick(on, clickLevelDb_);
  emit changed();
}

void Transport::setClickLevelDb(double db) {
  clickLevelDb_ = db;
  player_.engine().setClick(click_, db);
  emit changed();
}

void Transport::setOriginal(bool on) {
  if (on == original_) return;
  original_ = on;
  player_.engine().setOriginal(on);
  if (on && doc_.sounding().matchesLoudness() && std::abs(doc_.sounding().originalGainDb()) >= kUnheardDb)
    doc_.tell(tr("As recorded, %1 dB %2 to be as loud as edited.")
                  .arg(std::abs(doc_.sounding().originalGainDb()), 0, 'f', 1)
                  .arg(doc_.sounding().originalGainDb() > 0 ? tr("louder") : tr("softer")));
  emit changed();
}

// Hearing one place ---------------------------------------------------------------------------------------------------

void Transport::setHearing(const Hearing& hearing) {
  hearing_ = hearing;
  emit changed();
}

void Transport::hear() {
  Frames at = cursor_;
  const auto* seam = doc_.step() == Step::seams || doc_.step() == Step::clips ? doc_.selection().seamClip() : nullptr;
  if (seam)
    at = seam->start;
  else if (const auto* hit = doc_.selection().plannedHit())
    at = original_ ? hit->home : hit->now;
  const auto seconds = [&](double s) { return Frames{std::llround(s * doc_.song().rate)}; };
  player_.audition({{at - seconds(kHearBeforeSeconds), at + seconds(kHearAfterSeconds)},
                    seam != nullptr,
                    hearing_.click,
                    hearing_.lift ? kLift : 1.0F});
  emit changed();
}

}  // namespace ochron
