#include "document/pin_desk.h"
#include "document/round_desk.h"
#include "main_window.h"

namespace ochron {

/// Commands about pins: places of the recording tied to the song by hand.
void MainWindow::buildPinActions() {
  auto& a = *actions_;
  auto& desk = doc_.pinDesk();
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto hasPins = [this, &desk] { return desk.shown() && !doc_.selection().pins().empty(); };
  a.add(
      "pins.add", tr("Pin the sound at the play line"), "Shift+P", [&desk] { desk.addAtPlayLine(); }, hasTracks);
  a.add(
      "pins.remove", tr("Remove the chosen pins"), {}, [&desk] { desk.remove(); }, hasPins);
  a.add(
      "pins.removeall", tr("Remove all pins of the mic set or range"), {}, [&desk] { desk.removeAll(); }, hasTracks);
  auto& round = doc_.roundDesk();
  a.add(
      "stretch.round", tr("Hear the next way of stretching"), "Alt+G", [&round] { round.next(); }, hasTracks);
  a.add(
      "stretch.keep", tr("Keep the way of stretching that is heard"), "Alt+Shift+G", [&round] { round.keep(); },
      [&round] { return round.going(); });
  a.add(
      "timing.exception", tr("Another grid for a drum or a range\u2026"), {},
      [this] { pressIn(Step::timing, "add grid rule"); }, hasTracks);
  connect(&round, &RoundDesk::changed, this, [this] { actions_->refresh(); });
}

}  // namespace ochron
