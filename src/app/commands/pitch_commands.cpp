#include <QFileDialog>

#include "document/clip_desk.h"
#include "document/key_desk.h"
#include "document/pitch_desk.h"
#include "document/selection.h"
#include "document/transport.h"
#include "main_window.h"

namespace ochron {

/// Commands of the pitch step: notes of the active set's line.
void MainWindow::buildPitchActions() {
  auto& a = *actions_;
  auto& desk = doc_.pitchDesk();
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto hasNotes = [&desk] { return !desk.notes().empty(); };
  const auto chosen = [&desk] { return !desk.chosen().empty(); };
  a.add(
      "pitch.hear", tr("Listen for the pitch"), {}, [this, &desk] { desk.hear(doc_.selection().set()); }, hasTracks);
  a.add(
      "pitch.hearanyway", tr("Take it as one line and hear its pitch"), {},
      [this, &desk] { desk.hear(doc_.selection().set(), true); }, hasTracks);
  a.add(
      "pitch.up", tr("Notes one step of the scale up"), "Ctrl+Alt+Up", [&desk] { desk.moveBySteps(1); }, chosen);
  a.add(
      "pitch.down", tr("Notes one step of the scale down"), "Ctrl+Alt+Down", [&desk] { desk.moveBySteps(-1); }, chosen);
  a.add(
      "pitch.bitup", tr("Notes up by 5 cents"), "Ctrl+Alt+Shift+Up", [&desk] { desk.moveBy(5); }, chosen);
  a.add(
      "pitch.bitdown", tr("Notes down by 5 cents"), "Ctrl+Alt+Shift+Down", [&desk] { desk.moveBy(-5); }, chosen);
  a.add(
      "pitch.assung", tr("Notes as sung"), "Alt+U", [&desk] { desk.asSung(); }, chosen);
  a.add(
      "pitch.split", tr("Split the note at the play line"), "Alt+Shift+N", [&desk] { desk.split(); }, hasNotes);
  a.add(
      "pitch.join", tr("Join the chosen notes"), "Alt+J", [&desk] { desk.join(); },
      [&desk] { return desk.chosen().size() > 1; });
  a.add(
      "pitch.silence", tr("Silence the chosen notes, or bring them back"), "Alt+Shift+M", [&desk] { desk.silence(); },
      chosen);
  for (const int way : {-1, 1})
    a.add(
        way > 0 ? "pitch.longer" : "pitch.shorter", way > 0 ? tr("Notes longer") : tr("Notes shorter"), {},
        [this, &desk, way] {
          desk.moveInTime(NotePart::end, framesFromMs(doc_.clipDesk().settings().nudgeMs, doc_.song().rate) * way,
                          PinReach::neighbours);
        },
        chosen);
  a.add(
      "pitch.reference", tr("Take A4 from the take"), {}, [&desk] { desk.measureReference(); }, hasNotes);
  a.add(
      "pitch.melody", tr("Pitches from a file\u2026"), {},
      [this, &desk] {
        const auto file =
            QFileDialog::getOpenFileName(this, tr("Take pitches from a melody"), {},
                                         tr("Melodies (*.mid *.midi *.csv *.jams *.json);;All files (*)"));
        if (!file.isEmpty()) desk.followMelody(file.toStdString());
      },
      hasNotes);
  a.add(
      "pitch.tohits", tr("Notes to hits"), {}, [&desk] { desk.notesToHits(); }, hasNotes);
  const auto octave = [this](int by) {
    return [this, by] {
      auto& keys = doc_.keyDesk();
      keys.tryKey((keys.trying() ? keys.semitones() : 0) + by, keys.cents());
    };
  };
  a.add("pitch.octavedown", tr("Try the key an octave lower"), {}, octave(-12), hasTracks);
  a.add("pitch.octaveup", tr("Try the key an octave higher"), {}, octave(12), hasTracks);
  a.add(
      "pitch.asrecorded", tr("Hear the key as recorded"), {}, [this] { doc_.keyDesk().asRecorded(); },
      [this] { return doc_.keyDesk().trying(); });
  a.add(
      "pitch.keepkey", tr("Keep the key that is tried"), {}, [this] { doc_.keyDesk().keep(); },
      [this] { return doc_.keyDesk().trying(); });
  a.add(
      "pitch.giveback", tr("Give notes back to the plan"), "Alt+Shift+S", [&desk] { desk.giveBack(); }, chosen);
}

}  // namespace ochron
