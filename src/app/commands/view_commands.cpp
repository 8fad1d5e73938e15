#include <QMenuBar>
#include <QMessageBox>
#include <QSettings>
#include <algorithm>
#include <array>

#include "document/selection.h"
#include "document/transport.h"
#include "guide/manual.h"
#include "head/status_line.h"
#include "keys/key_sheet.h"
#include "keys/regions.h"
#include "main_window.h"
#include "panel/bench.h"
#include "theme/kept_look.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr const char* kGlideKey = "view/glide";
constexpr int kGlideMs = 120;

}  // namespace

/// Commands of what is seen, and of help.
void MainWindow::buildViewActions() {
  auto& a = *actions_;
  a.add("view.everymic", tr("Joints in every mic, or in the worst"), {}, [this] { pressIn(Step::seams, "every mic"); });
  a.add("help.noticedo", tr("Do what the notice offers"), {}, [this] { press("notice command"); });
  a.add("help.noticeseen", tr("Take the notice away"), {}, [this] { press("notice seen"); });
  a.add("edit.cancel", tr("Cancel what is being done"), {}, [this] { press("cancel job"); });
  a.add("view.all", tr("Whole song"), "Ctrl+0", [this] { view_.showAll(); });
  a.add("view.motion", tr("Glide when zooming and jumping, or not"), {}, [this] {
    const bool on = !view_.glides();
    view_.setGlide(on ? kGlideMs : 0);
    QSettings().setValue(kGlideKey, on);
    doc_.tell(on ? tr("Zooming and jumping glide.") : tr("Zooming and jumping are at once."));
  });
  a.add("help.tour", tr("Show me around"), {}, [this] { showAround(); });
  const auto zoom = [this](double factor) {
    const double x =
        std::clamp<double>(view_.xOf(doc_.transport().cursor()), kGutterWidth, kGutterWidth + view_.width());
    view_.zoomInto(x, factor);
  };
  a.add("view.closer", tr("Closer"), "+ =", [zoom] { zoom(0.6); });
  a.add("view.wider", tr("Wider"), "-", [zoom] { zoom(1 / 0.6); });
  a.add(
      "view.range", tr("Zoom to the range"), "Z",
      [this] {
        const auto r = doc_.selection().range();
        view_.show(static_cast<double>(r.start.value), static_cast<double>(r.length().value) / view_.width());
      },
      [this] { return !doc_.selection().range().empty(); });
  a.add("view.taller", tr("Taller lanes"),
        "Ctrl++ Ctrl+=", [this] { view_.setLaneHeight(view_.laneHeight() * 5 / 4); });
  a.add("view.lower", tr("Lower lanes"), "Ctrl+-", [this] { view_.setLaneHeight(view_.laneHeight() * 4 / 5); });
  a.add("view.left", tr("Scroll left"), "PgUp", [this] { view_.scrollBy(-view_.width() * 0.8); });
  a.add("view.right", tr("Scroll right"), "PgDown", [this] { view_.scrollBy(view_.width() * 0.8); });
  a.add("view.table", tr("Hit table or timing graph"), "T",
        [this] { doc_.setStep(doc_.step() == Step::hits ? Step::timing : Step::hits); });
  a.add("view.bench", tr("Bench under the lanes"), "Ctrl+T", [this] { bench_->fold(!bench_->folded()); });
  a.add("view.nextpart", tr("Keys to the next part of the window"), "F6", [this] { regions_->step(1); });
  a.add("view.previouspart", tr("Keys to the part of the window before"), "Shift+F6", [this] { regions_->step(-1); });
  a.add("view.menus", tr("Keys to the menus"), "F10",
        [this] { menuBar()->setActiveAction(menuBar()->actions().constFirst()); });
  const auto sheet = [](SheetKind kind) {
    return [kind] {
      Theme::get().setSheet(Theme::get().kind() == kind ? SheetKind::light : kind);
      keepLook();
    };
  };
  a.add("view.night", tr("Night sheet, or not"), "Ctrl+Shift+N", sheet(SheetKind::night));
  a.add("view.contrast", tr("High contrast, or not"), {}, sheet(SheetKind::contrast));
  a.add(
      "view.desktopsheet", tr("The sheet that the desktop asks for"), {},
      [] {
        Theme::get().followDesktop();
        keepLook();
      },
      [] { return !Theme::get().followsDesktop(); });
  const auto text = [this](double by) {
    return [this, by] {
      Theme::get().setTextSize(Theme::get().textSize() + by);
      keepLook();
      doc_.tell(tr("Text at %1 % of its usual size").arg(std::lround(Theme::get().textSize() * 100)));
    };
  };
  constexpr double kTextStep = 0.125;
  a.add("view.textlarger", tr("Larger text"), {}, text(kTextStep), [] { return Theme::get().textSize() < kMostText; });
  a.add("view.textsmaller", tr("Smaller text"), {}, text(-kTextStep), [] { return Theme::get().textSize() > 1; });
  a.add(
      "view.desktoptext", tr("Text as the desktop has it"), {},
      [] {
        Theme::get().followDesktopText();
        keepLook();
      },
      [] { return !Theme::get().followsDesktopText(); });
  const std::array<std::pair<Step, QString>, 9> steps{{{Step::takes, tr("Takes")},
                                                       {Step::tempo, tr("Tempo")},
                                                       {Step::hits, tr("Hits")},
                                                       {Step::timing, tr("Timing")},
                                                       {Step::seams, tr("Seams")},
                                                       {Step::clips, tr("Clips")},
                                                       {Step::kit, tr("Kit")},
                                                       {Step::pitch, tr("Pitch")},
                                                       {Step::print, tr("Print")}}};
  for (std::size_t i = 0; i < steps.size(); ++i)
    a.add(QStringLiteral("step.%1").arg(i + 1), tr("Step %1: %2").arg(i + 1).arg(steps[i].second),
          QString::number(i + 1), [this, step = steps[i].first] { doc_.setStep(step); });
  a.add("help.said", tr("What was said last"), "Shift+F3", [this] { status_->showLast(); });
  a.add("help.guide", tr("User guide"), "F1", [this] { showGuide(); });
  a.add("help.keys", tr("Keys"), "Shift+F1", [this] { showKeys(); });
  a.add("help.about", tr("About Orthochron"), {}, [this] {
    QMessageBox::about(
        this, tr("About Orthochron"),
        tr("<b>Orthochron %1</b><br>Puts performances on the song's grid and keeps their feel.<br><br>GPL-3.0-or-later")
            .arg(OCHRON_VERSION));
  });
}

void MainWindow::showGuide() {
  static constexpr std::array kPages{"takes", "tempo", "hits", "timing", "seams", "clips", "kit", "pitch", "print"};
  if (!manual_) manual_ = new Manual(this);
  manual_->open(QStringLiteral("user/%1.md").arg(kPages.at(static_cast<std::size_t>(doc_.step()))));
  manual_->show();
  manual_->raise();
  manual_->activateWindow();
}

void MainWindow::showKeys() { KeySheet(*actions_, this).exec(); }

void MainWindow::findCommand() {
  actions_->refresh();
  CommandFinder finder(*actions_, this);
  if (finder.exec() != QDialog::Accepted) return;
  if (!actions_->trigger(finder.command()))
    doc_.tell(tr("\"%1\" has nothing to work on now.").arg(actions_->action(finder.command())->text()));
}

void MainWindow::useMotion(bool wanted) {
  view_.setGlide(QSettings().value(kGlideKey, wanted).toBool() ? kGlideMs : 0);
}

}  // namespace ochron
