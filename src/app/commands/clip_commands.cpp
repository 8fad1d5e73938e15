#include <QInputDialog>
#include <cmath>

#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/this_desk.h"
#include "document/transport.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "lanes/lanes_view.h"
#include "main_window.h"

namespace ochron {

/// Commands about clips: choosing, cutting, placing, fading.
void MainWindow::buildClipActions() {
  auto& a = *actions_;
  auto& desk = doc_.clipDesk();
  auto& chosen = doc_.selection();
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto hasClips = [&chosen] { return chosen.hasClips(); };
  auto& these = doc_.thisDesk();
  const auto hasEither = [&these] { return these.canCopy(); };
  const auto add = [&](const char* id, const QString& text, const char* key, const std::function<void()>& run,
                       const std::function<bool()>& enabled) { a.add(id, text, key, run, enabled); };

  add(
      "clips.ontrack", tr("Choose all on this track"), "Ctrl+Shift+A", [&chosen] { chosen.chooseOnTrack(); },
      hasTracks);
  add(
      "clips.after", tr("Choose all after here"), "Ctrl+Alt+A",
      [this, &chosen] { chosen.chooseAfter(doc_.transport().cursor()); }, hasTracks);
  add(
      "clips.likename", tr("Choose all of this name"), "", [&chosen] { chosen.chooseLike(false); }, hasClips);
  add(
      "clips.likecolour", tr("Choose all of this colour"), "", [&chosen] { chosen.chooseLike(true); }, hasClips);

  add(
      "clips.split", tr("Split at the play line"), "D", [&desk] { desk.splitAtPlayLine(); }, hasTracks);
  add(
      "clips.splithere", tr("Split at the pointer"), "Shift+D",
      [this, &desk] {
        if (const auto at = lanes_->pointed())
          desk.splitAtPlace(at->first, at->second);
        else
          doc_.tell(tr("Put the pointer over a clip first."));
      },
      hasTracks);
  add(
      "clips.splitrange", tr("Split at the range's ends"), "Alt+D", [&desk] { desk.splitAtRangeEnds(); }, hasTracks);
  add(
      "clips.splitgrid", tr("Split at every grid line"), "", [&desk] { desk.splitAtGrid(); }, hasTracks);
  add(
      "clips.splithits", tr("Split at every hit"), "", [&desk] { desk.splitAtHits(); }, hasTracks);
  add(
      "clips.splitsilence", tr("Split at silent gaps"), "", [&desk] { desk.splitAtSilence(false); }, hasTracks);
  add(
      "clips.removesilence", tr("Remove silent gaps"), "", [&desk] { desk.splitAtSilence(true); }, hasTracks);
  add(
      "clips.trimstart", tr("Trim the start to the play line"), "[", [&desk] { desk.trimToPlayLine(true); }, hasTracks);
  add(
      "clips.trimend", tr("Trim the end to the play line"), "]", [&desk] { desk.trimToPlayLine(false); }, hasTracks);

  for (const int way : {-1, 1}) {
    const bool on = way > 0;
    a.add(
        on ? "clips.sliplater" : "clips.slipearlier", tr("Slip the sound %1").arg(on ? tr("later") : tr("earlier")), {},
        [this, &desk, way] { desk.slip(framesFromMs(desk.settings().nudgeMs, doc_.song().rate) * way); }, hasClips);
  }

  add(
      "clips.duplicate", tr("Duplicate"), "Ctrl+D", [&desk] { desk.duplicate(1); }, hasClips);
  add(
      "clips.duplicatetimes", tr("Duplicate several times\u2026"), "",
      [this, &desk] {
        bool ok = false;
        const int n = QInputDialog::getInt(this, tr("Duplicate"), tr("How many copies:"), 4, 1, 1000, 1, &ok);
        if (ok) desk.duplicate(n);
      },
      hasClips);
  add(
      "clips.repeat", tr("Repeat up to the range's end"), "Ctrl+R", [&desk] { desk.repeatToRange(); }, hasClips);
  add(
      "clips.reverse", tr("Play backwards, or forwards again"), "R", [&desk] { desk.reverse(); }, hasClips);
  add(
      "clips.mute", tr("Mute clips, or not"), "M", [&desk] { desk.toggleMute(); }, hasClips);
  add(
      "clips.swap", tr("Swap two clips"), "", [&desk] { desk.swap(); }, hasClips);
  add(
      "clips.aligngrid", tr("Align to the grid"), "E", [&desk] { desk.align(false); }, hasClips);
  add(
      "clips.alignline", tr("Align to the play line"), "Shift+E", [&desk] { desk.align(true); }, hasClips);
  add(
      "clips.sync", tr("Sync point at the play line"), "", [&desk] { desk.setSyncHere(); }, hasClips);
  add(
      "clips.closegaps", tr("Close the gap before"), "", [&desk] { desk.closeGaps(); }, hasClips);
  a.add("clips.gapsmode", tr("Deleting and trimming closes gaps, or not"), "V", [this, &desk] {
    auto s = desk.settings();
    s.closeGaps = !s.closeGaps;
    desk.setSettings(s);
    doc_.tell(s.closeGaps ? tr("What follows moves along when clips are deleted or trimmed.")
                          : tr("Gaps stay open when clips are deleted or trimmed."));
  });
  a.add("clips.snap", tr("Snap on or off"), "U", [this, &desk] {
    auto s = desk.settings();
    s.snap.on = !s.snap.on;
    desk.setSettings(s);
    doc_.tell(s.snap.on ? tr("Drags snap.") : tr("Drags are free."));
  });

  add(
      "clips.fadein", tr("Fade in to the play line"), "Ctrl+[", [&desk] { desk.fadeToPlayLine(FadeEnd::in); },
      hasTracks);
  add(
      "clips.fadeout", tr("Fade out from the play line"), "Ctrl+]", [&desk] { desk.fadeToPlayLine(FadeEnd::out); },
      hasTracks);
  add(
      "clips.crossfade", tr("Crossfade the chosen seams"), "G", [&desk] { desk.crossfade(); }, hasClips);
  add(
      "clips.nofades", tr("Remove fades and crossfades"), "Shift+G", [&desk] { desk.removeFades(); }, hasClips);
  add(
      "clips.tapestart", tr("Tape start"), "", [&desk] { desk.tape(FadeEnd::in); }, hasEither);
  add(
      "clips.tapestop", tr("Tape stop"), "", [&desk] { desk.tape(FadeEnd::out); }, hasEither);
  add(
      "clips.bundle", tr("Bundle"), "Ctrl+B", [&desk] { desk.bundle(); }, hasClips);
  add(
      "clips.unbundle", tr("Take the bundle apart"), "Ctrl+Shift+B", [&desk] { desk.unbundle(); }, hasClips);
  add(
      "clips.openbundle", tr("Open the bundle"), "Shift+B",
      [this, &desk] {
        const auto* c = doc_.song().find(doc_.selection().clips().front());
        if (c->bundle)
          desk.openBundle(c->bundle);
        else
          doc_.tell(tr("The chosen clip is in no bundle."));
      },
      hasClips);
}

}  // namespace ochron
