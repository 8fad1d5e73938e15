#include <cmath>

#include "document/clip_desk.h"
#include "document/this_desk.h"
#include "document/transport.h"
#include "main_window.h"

namespace ochron {

/// Commands that say only "this", alike in every step.
void MainWindow::buildThisActions() {
  auto& a = *actions_;
  auto& clips = doc_.clipDesk();
  auto& these = doc_.thisDesk();
  const auto canCopy = [&these] { return these.canCopy(); };
  const auto canNudge = [&these] { return these.canNudge(); };
  const auto canRaise = [&these] { return these.canRaise(); };
  const auto canChangeSet = [&these] { return these.canChangeSet(); };
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  a.add(
      "edit.cut", tr("Cut"), "Ctrl+X", [&clips] { clips.cut(); }, canCopy);
  a.add(
      "edit.copy", tr("Copy"), "Ctrl+C", [&clips] { clips.copy(); }, canCopy);
  a.add(
      "edit.paste", tr("Paste at the play line"), "Ctrl+V", [&clips] { clips.paste(); },
      [&clips] { return clips.canPaste(); });
  a.add(
      "edit.delete", tr("Delete"), "Delete", [&these] { these.remove(); }, [&these] { return these.canRemove(); });

  a.add(
      "this.all", tr("Choose all"), "Ctrl+A", [&these] { these.chooseAll(); }, hasTracks);
  const auto step = [this, &these](int by, bool extend) {
    these.step(by, extend);
    view_.reveal(doc_.transport().cursor());
  };
  a.add(
      "this.next", tr("Next of what is worked on"), ".", [step] { step(1, false); }, hasTracks);
  a.add(
      "this.previous", tr("The one before"), ",", [step] { step(-1, false); }, hasTracks);
  a.add(
      "this.andnext", tr("The next one, too"), ">", [step] { step(1, true); }, hasTracks);
  a.add(
      "this.andprevious", tr("The one before, too"), "<", [step] { step(-1, true); }, hasTracks);
  for (const bool last : {false, true})
    a.add(
        last ? "this.last" : "this.first", last ? tr("The last one") : tr("The first one"),
        last ? "Ctrl+End" : "Ctrl+Home",
        [this, &these, last] {
          these.stepToEnd(last);
          view_.reveal(doc_.transport().cursor());
        },
        hasTracks);

  for (const int way : {-1, 1}) {
    const bool on = way > 0;
    const QString where = on ? tr("later") : tr("earlier");
    const QString arrow = on ? "Right" : "Left";
    const auto id = [on](const char* name) { return QString(name) + (on ? "later" : "earlier"); };
    a.add(
        id("this.grid"), tr("Nudge one grid step %1").arg(where),
        QString(on ? "Ctrl+." : "Ctrl+,") + " Ctrl+Alt+" + arrow, [&these, way] { these.nudgeByGrid(way); }, canNudge);
    a.add(
        id("this.ms"), tr("Nudge %1").arg(where), "Shift+Alt+" + arrow,
        [this, &clips, &these, way] { these.nudge(framesFromMs(clips.settings().nudgeMs, doc_.song().rate) * way); },
        canNudge);
    a.add(
        id("this.fine"), tr("Nudge finely %1").arg(where), "Ctrl+Shift+Alt+" + arrow,
        [&clips, &these, way] { these.nudge(Frames{std::llround(clips.settings().nudgeSamples)} * way); }, canNudge);
    a.add(
        on ? "this.up" : "this.down", on ? tr("Higher or louder") : tr("Lower or softer"), on ? "Alt+Up" : "Alt+Down",
        [&these, way] { these.raise(way); }, canRaise);
    a.add(
        on ? "this.setbelow" : "this.setabove", on ? tr("Clips to the set below") : tr("Clips to the set above"),
        on ? "Alt+Shift+Down" : "Alt+Shift+Up", [&these, way] { these.changeSet(way); }, canChangeSet);
  }
}

}  // namespace ochron
