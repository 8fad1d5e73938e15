#include <QInputDialog>
#include <cmath>

#include "document/clip_desk.h"
#include "document/pin_desk.h"
#include "document/pitch_desk.h"
#include "document/transport.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "lanes/lanes_view.h"
#include "main_window.h"

namespace ochron {

/// Commands about spans, markers, envelopes of the song, and going from place to place.
void MainWindow::buildMarkActions() {
  auto& a = *actions_;
  auto& desk = doc_.clipDesk();
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto add = [&](const char* id, const QString& text, const char* key, const std::function<void()>& run,
                       const std::function<bool()>& enabled) { a.add(id, text, key, run, enabled); };
  add(
      "spans.add", tr("Silence the range"), "Shift+M", [&desk] { desk.addSpan(); }, hasTracks);
  add(
      "markers.add", tr("Marker at the play line"), "W", [&desk] { desk.addMarker(false); }, hasTracks);
  add(
      "markers.section", tr("Section over the range"), "Shift+W", [&desk] { desk.addMarker(true); }, hasTracks);
  add(
      "song.fadein", tr("Fade the song in"), "", [&desk] { desk.fadeSong(true, false); }, hasTracks);
  add(
      "song.fadeout", tr("Fade the song out"), "", [&desk] { desk.fadeSong(false, true); }, hasTracks);
  add(
      "song.fadeboth", tr("Fade the song in and out"), "", [&desk] { desk.fadeSong(true, true); }, hasTracks);
  add(
      "envelope.copy", tr("Copy the range of the envelope"), "Ctrl+Alt+C", [&desk] { desk.copyEnvelope(); },
      [&desk] { return desk.shownEnvelope().has_value(); });
  add(
      "envelope.paste", tr("Paste into the envelope"), "Ctrl+Alt+V", [&desk] { desk.pasteEnvelope(); },
      [&desk] { return desk.shownEnvelope().has_value() && desk.canPasteEnvelope(); });

  a.add("envelope.none", tr("Show no envelope"), {}, [&desk] { desk.showEnvelope({}); });
  for (std::size_t i = 0; i < kEnvelopeKindNames.size(); ++i) {
    const auto name = QString::fromUtf8(kEnvelopeKindNames[i].data());
    a.add("envelope." + QString(name).remove(' '), tr("Show the envelope: %1").arg(name), {}, [this, &desk, i] {
      doc_.setStep(Step::clips);
      desk.showEnvelope(static_cast<EnvelopeKind>(i));
    });
  }

  struct Way {
    ClipDesk::Stop stop;
    const char* id;
    QString name;
    QString next;
    QString previous;
  };
  const std::vector<Way> ways{{ClipDesk::Stop::bar, "bar", tr("bar"), "Ctrl+Right", "Ctrl+Left"},
                              {ClipDesk::Stop::edge, "edge", tr("clip edge"), "Down", "Up"},
                              {ClipDesk::Stop::marker, "marker", tr("marker"), "Ctrl+Down", "Ctrl+Up"},
                              {ClipDesk::Stop::hit, "hit", tr("hit"), {}, {}}};
  for (const auto& way : ways)
    for (const int by : {1, -1}) {
      const bool next = by > 0;
      const QString key = next ? way.next : way.previous;
      const QString prefix = way.stop == ClipDesk::Stop::bar ? "transport." : "jump.";
      const QString id = prefix + (next ? "next" : "previous") + way.id;
      const auto go = [this, &desk, stop = way.stop, by](bool extend) {
        desk.jump(stop, by, extend);
        view_.reveal(doc_.transport().cursor());
      };
      if (way.stop != ClipDesk::Stop::hit)  // stepping through hits is a command of its own
        a.add(
            id, (next ? tr("Next %1") : tr("Previous %1")).arg(way.name), key, [go] { go(false); }, hasTracks);
      const QString extendKey = way.stop == ClipDesk::Stop::hit
                                    ? (next ? "Shift+Right" : "Shift+Left")
                                    : QString(key).replace(key.lastIndexOf('+') + 1, 0, "Shift+");
      a.add(
          id + ".extend", (next ? tr("Range to the next %1") : tr("Range to the previous %1")).arg(way.name), extendKey,
          [go] { go(true); }, hasTracks);
    }
}

}  // namespace ochron
