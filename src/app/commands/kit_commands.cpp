#include <QCoreApplication>
#include <QDir>
#include <QFileDialog>
#include <QInputDialog>
#include <algorithm>

#include "document/cells_desk.h"
#include "document/kit_desk.h"
#include "document/print_desk.h"
#include "document/recording_files.h"
#include "document/selection.h"
#include "document/transport.h"
#include "entry/save_name.h"
#include "main_window.h"

namespace ochron {
namespace {

/// The folder of the kit that comes with the program: where it was installed, or in its source tree; empty: not there.
QString shippedKit() {
  const QDir home(QCoreApplication::applicationDirPath());
  for (const char* place : {"../share/orthochron/demo/kit", "../../../demo/kit"})
    if (home.exists(place)) return QDir::cleanPath(home.filePath(place));
  return {};
}

}  // namespace

/// Commands of the kit step: layers and their strokes.
void MainWindow::buildKitActions() {
  auto& a = *actions_;
  auto& desk = doc_.kitDesk();
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto hasLayer = [&desk] { return desk.layer() != nullptr; };
  const auto hasStroke = [&desk] { return desk.stroke() != nullptr; };
  const auto choose = [this](const QString& title) {
    return QFileDialog::getOpenFileName(
        this, title, shippedKit(), tr("Sounds and instruments (%1);;All files (*)").arg(soundPatterns().join(' ')));
  };
  a.add(
      "kit.add", tr("Lay a sound on the drum\u2026"), "Alt+L",
      [choose, &desk] {
        if (const auto file = choose(tr("A sound for every stroke")); !file.isEmpty()) desk.add(file.toStdString());
      },
      hasTracks);
  a.add(
      "kit.own", tr("Lay the drum's own clean strokes on it"), {}, [&desk] { desk.addOwn(); }, hasTracks);
  a.add(
      "kit.swap", tr("Other sound for the layer\u2026"), {},
      [choose, &desk] {
        if (const auto file = choose(tr("Another sound")); !file.isEmpty()) desk.swap(file.toStdString());
      },
      hasLayer);
  a.add(
      "kit.next", tr("Next sound of the folder"), "Alt+.", [&desk] { desk.swapBy(1); }, hasLayer);
  a.add(
      "kit.previous", tr("Sound of the folder before"), "Alt+,", [&desk] { desk.swapBy(-1); }, hasLayer);
  a.add(
      "kit.onoff", tr("Layer heard or not"), "Alt+O",
      [&desk] { desk.change(tr("Switch the layer on or off"), [](Layer& l) { l.on = !l.on; }); }, hasLayer);
  a.add(
      "kit.sent", tr("Layer sent as MIDI or not"), {},
      [&desk] { desk.change(tr("Send the layer as MIDI, or not"), [](Layer& l) { l.midi = !l.midi; }); }, hasLayer);
  a.add(
      "kit.nextlayer", tr("Next layer"), {},
      [&desk] {
        const auto all = desk.layers();
        const auto at = std::find(all.begin(), all.end(), desk.layer());
        if (at != all.end()) desk.choose(at + 1 == all.end() ? all.front()->id : (*(at + 1))->id);
      },
      hasLayer);
  a.add(
      "kit.duplicate", tr("Duplicate the layer"), {}, [&desk] { desk.duplicate(); }, hasLayer);
  a.add(
      "kit.rename", tr("Rename the layer\u2026"), {},
      [this, &desk] {
        const auto now = QString::fromStdString(desk.layer()->name);
        bool ok = false;
        const auto name = QInputDialog::getText(this, tr("Rename the layer"), tr("Name"), QLineEdit::Normal, now, &ok);
        if (ok) desk.change(tr("Rename layer"), [&](Layer& l) { l.name = name.toStdString(); });
      },
      hasLayer);
  a.add(
      "kit.remove", tr("Remove the layer"), {}, [&desk] { desk.remove(); }, hasLayer);
  const auto step = [this, &desk](int by) {
    desk.step(by);
    view_.reveal(doc_.transport().cursor());
  };
  a.add(
      "kit.nextstroke", tr("Next stroke of the layer"), "Alt+PgDown", [step] { step(1); }, hasLayer);
  a.add(
      "kit.previousstroke", tr("Stroke of the layer before"), "Alt+PgUp", [step] { step(-1); }, hasLayer);
  a.add(
      "kit.strokeoff", tr("Stroke with the sound or without"), "Alt+X",
      [&desk] {
        const auto* s = desk.stroke();
        desk.wish(tr("Switch a stroke on or off"), s->hit, [now = s->heard](StrokeWish& w) { w.heard = !now; });
      },
      hasStroke);
  a.add(
      "kit.strokesound", tr("Another sound for the stroke"), "Alt+Shift+E",
      [&desk] {
        const auto* s = desk.stroke();
        const auto count = desk.layer()->sounds->sounds.size();
        desk.wish(tr("Another sound for a stroke"), s->hit,
                  [now = s->sound, count](StrokeWish& w) { w.sound = (now + 1) % count; });
      },
      hasStroke);
  for (const int way : {1, -1})
    a.add(
        way > 0 ? "kit.strokelouder" : "kit.strokesofter",
        way > 0 ? tr("Stroke 1 dB louder") : tr("Stroke 1 dB softer"), QString(), [&desk, way] { desk.louder(way); },
        hasStroke);
  a.add(
      "kit.strokerelease", tr("Give the stroke back to the layer"), {},
      [&desk] { desk.wish(tr("Give a stroke back"), desk.stroke()->hit, [](StrokeWish& w) { w = {}; }); }, hasStroke);
  const auto hasClips = [this] { return doc_.selection().hasClips(); };
  a.add(
      "kit.cellsound", tr("A sound of their own for the cells\u2026"), {},
      [choose, this] {
        const auto file = choose(tr("A sound for the chosen cells"));
        if (!file.isEmpty()) doc_.cellsDesk().giveSound(file.toStdString());
      },
      hasClips);
  a.add(
      "kit.cellback", tr("Cells as recorded"), {}, [this] { doc_.cellsDesk().giveRecordingBack(); }, hasClips);
  auto& cells = doc_.cellsDesk();
  a.add(
      "kit.record", tr("Record what is struck, and lay it"), {}, [&cells] { cells.record(!cells.recording()); },
      hasTracks);
  a.add(
      "kit.togrid", tr("What is struck goes to the grid, or stays where it was struck"), {},
      [this, &cells] {
        cells.setToGrid(!cells.toGrid());
        doc_.tell(cells.toGrid() ? tr("What is struck is laid on the grid.")
                                 : tr("What is struck is laid as it was struck."));
      },
      hasTracks);
  a.add(
      "kit.cellsbefore", tr("The sixteen slices before"), {}, [this] { pressIn(Step::kit, "cells before"); },
      hasTracks);
  a.add(
      "kit.cellsnext", tr("The next sixteen slices"), {}, [this] { pressIn(Step::kit, "next cells"); }, hasTracks);
  a.add(
      "kit.countin", tr("Recordings of cells are counted in, or not"), {},
      [this, &cells] {
        cells.setCountsIn(!cells.countsIn());
        doc_.tell(cells.countsIn() ? tr("Recordings are counted in.") : tr("Recordings are not counted in."));
      },
      hasTracks);
  a.add(
      "kit.choke", tr("Cells to the next choke group, or out of it"), {}, [this] { doc_.cellsDesk().choke(); },
      hasClips);
  a.add(
      "kit.writecells", tr("Write the cells as files\u2026"), {},
      [this] {
        const auto folder = QFileDialog::getExistingDirectory(this, tr("Write the cells"));
        if (!folder.isEmpty()) doc_.printDesk().writeCells(doc_.kitDesk().set(), folder.toStdString());
      },
      hasTracks);
  a.add(
      "kit.print", tr("Print the layer as a track"), {}, [&desk] { desk.printAsTrack(); }, hasLayer);
  a.add(
      "kit.midi", tr("Write the layer's notes as MIDI\u2026"), {},
      [this, &desk] {
        const auto file = askWhereToSave(this, tr("Write the layer's notes"),
                                         QString::fromStdString(desk.layer()->name) + ".mid", tr("MIDI (*.mid)"));
        if (!file.isEmpty()) desk.writeMidi(file.toStdString());
      },
      hasLayer);
}

}  // namespace ochron
