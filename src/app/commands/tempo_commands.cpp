#include <QFileDialog>

#include "document/selection.h"
#include "document/tempo_desk.h"
#include "document/transport.h"
#include "main_window.h"

namespace ochron {

/// Commands of the tempo step: what was heard, bars tied to the recording, recordings that follow.
void MainWindow::buildTempoActions() {
  auto& a = *actions_;
  auto& desk = doc_.tempoDesk();
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto heard = [&desk] { return desk.heard().has_value(); };
  const auto hasAnchors = [this] { return !doc_.song().anchors->empty(); };
  a.add(
      "take.heartempo", tr("Listen for the tempo"), {}, [this, &desk] { desk.hear(doc_.selection().set()); },
      hasTracks);
  a.add(
      "take.hearalone", tr("Listen to the chosen track alone"), {},
      [this, &desk] { desk.hear(doc_.selection().set(), TempoDesk::Listen::alone); }, hasTracks);
  a.add(
      "take.usetempo", tr("Use the tempo heard"), {}, [&desk] { desk.use(); }, heard);
  a.add(
      "tempo.anchor", tr("Anchor the downbeats found"), {}, [&desk] { desk.anchorDownbeats(); }, heard);
  const auto show = [this, &desk](int by) {
    const auto& map = doc_.song().tempo;
    const auto before = desk.bar() ? view_.xOf(map.toFrames(map.barStart(*desk.bar()))) : -1;
    desk.stepBar(by);
    const auto now = map.toFrames(map.barStart(*desk.bar()));
    // The line stays where it was on the screen, so that the eye need not follow.
    if (before >= kGutterWidth && before < kGutterWidth + view_.width())
      view_.scrollBy(view_.xOf(now) - before);
    else
      view_.reveal(now);
  };
  a.add(
      "tempo.nextbar", tr("Look at the next bar line"), "I", [show] { show(1); }, hasTracks);
  a.add(
      "tempo.previousbar", tr("Look at the bar line before"), "Shift+I", [show] { show(-1); }, hasTracks);
  a.add(
      "tempo.tie", tr("Tie this bar line to its attack and go on"), "Q",
      [this, &desk] {
        desk.tieBar();
        if (desk.bar()) view_.reveal(doc_.song().tempo.toFrames(doc_.song().tempo.barStart(*desk.bar())));
      },
      hasTracks);
  a.add(
      "tempo.tap", tr("Tie the nearest bar line to the play line"), "Shift+Q", [&desk] { desk.tieAtPlayLine(); },
      hasTracks);
  a.add(
      "tempo.remove", tr("Remove this bar's anchor"), "Ctrl+Shift+Q",
      [this, &desk] { desk.remove({doc_.song().tempo.barStart(*desk.bar())}); },
      [this, &desk] { return desk.bar() && desk.anchored(doc_.song().tempo.barStart(*desk.bar())); });
  const auto inMode = [this, &desk](bool recordingFollows, const char* button) {
    doc_.setStep(Step::tempo);
    desk.setRecordingFollows(recordingFollows);
    press(button);
  };
  a.add(
      "tempo.steady", tr("Make the tempo steady"), {}, [inMode] { inMode(false, "make steady"); }, hasAnchors);
  a.add(
      "tempo.fit", tr("Fit the take to the song"), {}, [inMode] { inMode(true, "fit take"); }, hasTracks);
  a.add(
      "tempo.removeall", tr("Remove all anchors"), {},
      [this, &desk] {
        std::vector<Ticks> all;
        for (const auto& x : *doc_.song().anchors) all.push_back(x.at);
        desk.remove(all);
      },
      hasAnchors);
  a.add("tempo.follows", tr("Song follows recording, or recording follows song"), {},
        [&desk] { desk.setRecordingFollows(!desk.recordingFollows()); });
  a.add(
      "tempo.hearall", tr("Listen to all takes"), {}, [&desk] { desk.hearAll(); }, hasTracks);
  a.add(
      "tempo.fitall", tr("Fit all takes to the song"), {}, [&desk] { desk.fitAll(); }, hasTracks);
  a.add("tempo.readmap", tr("Take the tempo map of a MIDI file\u2026"), {}, [this, &desk] {
    const auto file = QFileDialog::getOpenFileName(this, tr("Take a tempo map"), {}, tr("MIDI (*.mid *.midi)"));
    if (!file.isEmpty()) desk.readMap(file.toStdString());
  });
  a.add(
      "tempo.fitrange", tr("Fit the take to the range"), {}, [&desk] { desk.fitToRange(); },
      [this] { return !doc_.selection().range().empty() && !doc_.song().tracks.empty(); });
}

}  // namespace ochron
