#include <QInputDialog>

#include "document/pattern_desk.h"
#include "entry/save_name.h"
#include "main_window.h"
#include "steps/kit/kit_bench.h"

namespace ochron {

/// In the kit's bench, and the cells in its place; none: the other of the two.
void MainWindow::showPattern(std::optional<bool> on) {
  doc_.setStep(Step::kit);
  if (auto* bench = findChild<KitBench*>()) bench->showPattern(on.value_or(!bench->showsPattern()));
}

/// Commands of patterns, of the kit step.
void MainWindow::buildPatternActions() {
  auto& a = *actions_;
  auto& desk = doc_.patternDesk();
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto hasPattern = [&desk] { return desk.chosen() != nullptr; };
  a.add(
      "patterns.keep", tr("Keep the range as a pattern"), "Alt+Shift+K", [&desk] { desk.keep(); }, hasTracks);
  a.add(
      "patterns.begin", tr("Draw a pattern with the chosen cell"), "Alt+Shift+P",
      [&desk, this] {
        desk.begin();
        if (desk.chosen()) showPattern(true);
      },
      hasTracks);
  a.add(
      "patterns.show", tr("Show the pattern, or the cells"), "Alt+Shift+Y", [this] { showPattern({}); }, hasPattern);
  a.add(
      "patterns.longer", tr("Pattern one bar longer"), {}, [&desk] { desk.lengthen(1); }, hasPattern);
  a.add(
      "patterns.shorter", tr("Pattern one bar shorter"), {}, [&desk] { desk.lengthen(-1); }, hasPattern);
  a.add(
      "patterns.lay", tr("Lay the pattern at the play line"), "Alt+Y", [&desk] { desk.lay(); }, hasPattern);
  a.add(
      "patterns.layoften", tr("Lay the pattern several times\u2026"), {},
      [this, &desk] {
        constexpr int kMost = 1'000;
        bool ok = false;
        const int times = QInputDialog::getInt(this, tr("Lay the pattern"), tr("How many times, one after the other"),
                                               4, 1, kMost, 1, &ok);
        if (ok) desk.lay(times);
      },
      hasPattern);
  a.add(
      "patterns.next", tr("Next pattern"), {}, [&desk] { desk.chooseBy(1); }, hasPattern);
  a.add(
      "patterns.previous", tr("Pattern before"), {}, [&desk] { desk.chooseBy(-1); }, hasPattern);
  a.add(
      "patterns.vary", tr("Vary the pattern as its player would"), {}, [&desk] { desk.vary(); }, hasPattern);
  a.add(
      "patterns.shuffle", tr("Shuffle the pattern's slices"), {}, [&desk] { desk.shuffle(); }, hasPattern);
  a.add(
      "patterns.rename", tr("Rename the pattern\u2026"), {},
      [this, &desk] {
        bool ok = false;
        const auto name = QInputDialog::getText(this, tr("Rename the pattern"), tr("Name"), QLineEdit::Normal,
                                                QString::fromStdString(desk.chosen()->name), &ok);
        if (ok) desk.rename(name);
      },
      hasPattern);
  a.add(
      "patterns.duplicate", tr("Duplicate the pattern"), {}, [&desk] { desk.duplicate(); }, hasPattern);
  a.add(
      "patterns.midi", tr("Write the pattern as MIDI\u2026"), {},
      [this, &desk] {
        const auto file = askWhereToSave(this, tr("Write the pattern"),
                                         QString::fromStdString(desk.chosen()->name) + ".mid", tr("MIDI (*.mid)"));
        if (!file.isEmpty()) desk.writeMidi(file.toStdString());
      },
      hasPattern);
  a.add(
      "patterns.remove", tr("Remove the pattern"), {}, [&desk] { desk.remove(); }, hasPattern);
}

}  // namespace ochron
