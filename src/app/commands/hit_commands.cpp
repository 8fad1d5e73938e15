#include <QFileDialog>
#include <QInputDialog>
#include <algorithm>

#include "checks/checks_panel.h"
#include "document/hit_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/hit_edits.h"
#include "edits/plan_edits.h"
#include "entry/save_name.h"
#include "lanes/lanes_view.h"
#include "main_window.h"

namespace ochron {

/// Commands about hits, the plan, seams and grooves of the active set.
void MainWindow::buildHitActions() {
  auto& a = *actions_;
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto hasHit = [this] { return doc_.selection().plannedHit() != nullptr; };
  const auto hasHits = [this] { return !doc_.timingDesk().planned().hits.empty(); };
  const auto hasRange = [this] { return !doc_.selection().range().empty() && !doc_.song().tracks.empty(); };

  a.add(
      "hits.find", tr("Find hits"), "F", [this] { doc_.hitDesk().find(doc_.selection().set()); }, hasTracks);
  a.add(
      "hits.next", tr("Next hit"), "Right", [this] { doc_.hitDesk().step(1); }, hasHits);
  a.add(
      "hits.previous", tr("Previous hit"), "Left", [this] { doc_.hitDesk().step(-1); }, hasHits);
  a.add(
      "hits.hear", tr("Hear this place"), "H",
      [this] {
        if (doc_.transport().player().engine().playing())
          doc_.transport().playStop();
        else
          doc_.transport().hear();
      },
      hasTracks);
  a.add("hits.hearclick", tr("Hear places with the click"), "Shift+H", [this] {
    auto h = doc_.transport().hearing();
    h.click = !h.click;
    doc_.transport().setHearing(h);
    doc_.tell(h.click ? tr("Places are heard with the click.") : tr("Places are heard without the click."));
  });
  a.add("hits.hearlift", tr("Raise quiet sound by 20 dB when hearing a place"), "Ctrl+H", [this] {
    auto h = doc_.transport().hearing();
    h.lift = !h.lift;
    doc_.transport().setHearing(h);
    doc_.tell(h.lift ? tr("Quiet sound is raised by 20 dB when a place is heard.")
                     : tr("Places are heard as loud as they are."));
  });
  a.add("hits.hearstep", tr("Hear each hit while stepping"), {}, [this] {
    auto h = doc_.transport().hearing();
    h.whileStepping = !h.whileStepping;
    doc_.transport().setHearing(h);
  });
  a.add(
      "hits.remove", tr("Remove hit"), {}, [this] { doc_.hitDesk().remove(); }, hasHit);
  a.add(
      "hits.add", tr("Add hit at the play line"), "A",
      [this] {
        const auto* set = doc_.song().find(doc_.selection().set());
        for (const auto& c : *set->clips)
          if (c.range().contains(doc_.transport().cursor())) {
            doc_.edit(tr("Add hit"),
                      addHit(doc_.song(), c.take, set->id, c.toTake(doc_.transport().cursor()), DrumClass::other));
            return;
          }
        doc_.tell(tr("The play line is not over a recording of this set."));
      },
      hasTracks);
  a.add(
      "hits.lead", tr("Next stroke leads the hit"), "Alt+B",
      [this] {
        const auto* h = doc_.selection().plannedHit();
        doc_.edit(tr("Change the leading stroke"), leadHit(doc_.song(), h->take, doc_.selection().set(), h->hit.id, 1));
      },
      [this] { return doc_.selection().plannedHit() && doc_.selection().plannedHit()->hit.strokes.size() > 1; });
  a.add(
      "hits.alike", tr("Name what sounds alike like this hit"), "Alt+N", [this] { doc_.hitDesk().nameAlike(); },
      hasHit);
  const auto nudge = [this](int by) {
    const auto* h = doc_.selection().plannedHit();
    doc_.edit(tr("Move onset"),
              moveHit(doc_.song(), h->take, doc_.selection().set(), h->hit.id, h->hit.at + Frames{by}), "nudge");
  };
  a.add(
      "hits.later", tr("Onset one sample later"), "Alt+Right", [nudge] { nudge(1); }, hasHit);
  a.add(
      "hits.earlier", tr("Onset one sample earlier"), "Alt+Left", [nudge] { nudge(-1); }, hasHit);
  a.add(
      "hits.restore", tr("Put the onset back where it was found"), "B",
      [this] {
        const auto ref = *doc_.selection().hit();
        doc_.edit(tr("Put onset back"), restoreHit(doc_.song(), ref.take, doc_.selection().set(), ref.hit));
      },
      hasHit);
  a.add(
      "hits.write", tr("Write hits as table or MIDI\u2026"), {},
      [this] {
        const auto file =
            askWhereToSave(this, tr("Write hits"), "hits.mid", tr("MIDI (*.mid);;Table (*.csv);;JSON (*.json)"));
        if (!file.isEmpty()) doc_.hitDesk().write(file.toStdString());
      },
      hasHits);
  a.add("checks.next", tr("Next thing to look at"), "N", [this] { checks_->step(1); });
  a.add("checks.previous", tr("Previous thing to look at"), "Shift+N", [this] { checks_->step(-1); });
  a.add("checks.filter", tr("Choose what is looked at"), "Ctrl+Alt+N", [this] { checks_->chooseFilter(); });
  a.add("checks.accept", tr("This is good as it is"), "Y", [this] { checks_->accept(); });
  a.add("checks.fix", tr("Fix this"), "Shift+Y", [this] { checks_->fix(); });

  const auto change = [this](const QString& name, auto&& edit) {
    const auto& all = doc_.song().find(doc_.selection().set())->plan->overrides;
    const auto found = all.find(doc_.selection().hit()->hit);
    auto o = found == all.end() ? HitOverride{} : found->second;
    edit(o);
    doc_.timingDesk().overrideHit(name, doc_.selection().hit()->hit, o);
  };
  a.add(
      "timing.toggle", tr("Timing plan on or off"), "P",
      [this] { doc_.timingDesk().turn(!doc_.timingDesk().settings().on); }, hasTracks);
  a.add(
      "timing.freeze", tr("Leave this hit where it was played, or not"), "K",
      [change] {
        change(tr("Leave hit alone, or not"), [](HitOverride& o) { o.frozen = !o.frozen, o.target.reset(); });
      },
      hasHit);
  a.add(
      "timing.join", tr("Join this hit to the one before"), "J",
      [change] { change(tr("Join hits"), [](HitOverride& o) { o.joined = true; }); }, hasHit);
  a.add(
      "timing.separate", tr("Separate this hit from the one before"), "Shift+J",
      [change] { change(tr("Separate hits"), [](HitOverride& o) { o.joined = false; }); }, hasHit);
  a.add(
      "timing.release", tr("Give this hit back to the plan"), "Shift+K",
      [this] { doc_.timingDesk().overrideHit(tr("Give hit back to the plan"), doc_.selection().hit()->hit, {}); },
      hasHit);
  a.add(
      "timing.leavealone", tr("Take the range out of the plan"), "X",
      [this] { doc_.timingDesk().leaveRangeAlone(true); }, hasRange);
  a.add(
      "timing.putback", tr("Put the range back into the plan"), "Shift+X",
      [this] { doc_.timingDesk().leaveRangeAlone(false); }, hasRange);
  a.add(
      "lock.range", tr("Lock the range"), "Ctrl+L", [this] { doc_.timingDesk().lockRange(true); }, hasRange);
  a.add(
      "lock.unlockrange", tr("Unlock the range"), "Ctrl+Shift+L", [this] { doc_.timingDesk().lockRange(false); },
      hasRange);
  a.add(
      "lock.set", tr("Lock or unlock the mic set"), {},
      [this] { doc_.timingDesk().lockSet(!doc_.song().find(doc_.selection().set())->locked); }, hasTracks);

  a.add(
      "seams.next", tr("Next seam"), "S", [this] { doc_.seamDesk().step(1); }, hasTracks);
  a.add(
      "seams.previous", tr("Previous seam"), "Shift+S", [this] { doc_.seamDesk().step(-1); }, hasTracks);
  a.add(
      "seams.release", tr("Give seams back to the plan"), {}, [this] { doc_.seamDesk().release(); }, hasTracks);

  a.add(
      "groove.take", tr("Take this performance's groove\u2026"), {},
      [this] {
        bool ok = false;
        const auto name = QInputDialog::getText(this, tr("Take a groove"), tr("Its name:"), QLineEdit::Normal,
                                                tr("Groove %1").arg(doc_.song().grooves.size() + 1), &ok);
        if (ok && !name.isEmpty()) doc_.timingDesk().takeGroove(name);
      },
      hasHits);
  a.add(
      "groove.read", tr("Bring in a groove\u2026"), {},
      [this] {
        const auto file =
            QFileDialog::getOpenFileName(this, tr("Bring in a groove"), {}, tr("Grooves (*.json *.mid *.midi)"));
        if (!file.isEmpty()) doc_.timingDesk().readGroove(file.toStdString());
      },
      hasTracks);
  const auto hasGroove = [this] { return doc_.timingDesk().settings().groove.has_value(); };
  a.add(
      "groove.write", tr("Write this groove\u2026"), {},
      [this] {
        const auto file = askWhereToSave(this, tr("Write the groove"),
                                         QString::fromStdString(doc_.timingDesk().settings().groove->name) + ".json",
                                         tr("Groove (*.json);;MIDI (*.mid)"));
        if (!file.isEmpty()) doc_.timingDesk().writeGroove(file.toStdString());
      },
      hasGroove);
  a.add(
      "groove.library", tr("Keep this groove in my library"), {}, [this] { doc_.timingDesk().keepGrooveInLibrary(); },
      hasGroove);
  a.add(
      "groove.redraw", tr("Draw the given scatter anew"), {},
      [this] {
        auto s = doc_.timingDesk().settings();
        s.scatterDraw = s.scatterDraw < kScatterDrawRange.high ? s.scatterDraw + 1 : kScatterDrawRange.low;
        doc_.timingDesk().setSettings(tr("Draw the scatter anew"), s);
      },
      [this] { return doc_.timingDesk().settings().groove && doc_.timingDesk().settings().givenScatter > 0; });
  a.add(
      "groove.drop", tr("Remove this groove from the song"), {},
      [this] {
        const auto name = doc_.timingDesk().settings().groove->name;
        doc_.timingDesk().useGroove({});
        doc_.edit(tr("Remove a groove"), dropGroove(doc_.song(), name));
      },
      hasGroove);
}

}  // namespace ochron
