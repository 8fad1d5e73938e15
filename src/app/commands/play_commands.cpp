#include <QSettings>
#include <algorithm>

#include "document/selection.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "head/output_sheet.h"
#include "main_window.h"

namespace ochron {
namespace {

constexpr const char* kMatchKey = "hearing/match loudness";

}  // namespace

/// Commands of playing.
void MainWindow::buildPlayActions() {
  auto& a = *actions_;
  a.add("transport.device", tr("Use the sound device"), {}, [this] { doc_.transport().sound().again(); });
  a.add("transport.output", tr("Sound device\u2026"), {}, [this] { OutputSheet(doc_, this).exec(); });
  a.add("transport.play", tr("Play or stop"), "Space", [this] { doc_.transport().playStop(); });
  a.add("transport.loop", tr("Loop the range"), "L", [this] {
    if (doc_.selection().range().empty()) doc_.tell(tr("Drag over the ruler or the lanes to choose what is repeated."));
    doc_.transport().setLooping(!doc_.transport().looping());
  });
  a.add("transport.click", tr("Click"), "C", [this] { doc_.transport().setClick(!doc_.transport().click()); });
  a.add("transport.clicklouder", tr("Click louder"), "Shift+C",
        [this] { doc_.transport().setClickLevelDb(std::min(0.0, doc_.transport().clickLevelDb() + 3)); });
  a.add("transport.clicksofter", tr("Click softer"), "Ctrl+Shift+C",
        [this] { doc_.transport().setClickLevelDb(std::max(-36.0, doc_.transport().clickLevelDb() - 3)); });
  a.add("transport.compare", tr("Original or edited"), "O",
        [this] { doc_.transport().setOriginal(!doc_.transport().original()); });
  const auto match = [this](bool on) {
    doc_.sounding().matchLoudness(on);
    QSettings().setValue(kMatchKey, on);
    doc_.tell(on ? tr("The original is heard as loud as the edited version.")
                 : tr("The original is heard as loud as it was recorded."));
  };
  a.add("transport.match", tr("Original as loud as edited, or as recorded"), {},
        [this, match] { match(!doc_.sounding().matchesLoudness()); });
  doc_.sounding().matchLoudness(QSettings().value(kMatchKey, true).toBool());
  a.add("transport.start", tr("Go to the beginning"), "Home",
        [this] { doc_.transport().setCursor(doc_.song().tempo.origin()), view_.reveal(doc_.transport().cursor()); });
  a.add("transport.end", tr("Go to the end"), "End",
        [this] { doc_.transport().setCursor(doc_.song().end()), view_.reveal(doc_.transport().cursor()); });
}

}  // namespace ochron
