#include "document/clip_desk.h"

#include "document/document.h"
#include "document/selection.h"

namespace ochron {

ClipDesk::ClipDesk(Document& document) : QObject(&document), doc_(document), settings_(readHandSettings()) {}

Selection& ClipDesk::chosen() const { return doc_.selection(); }

void ClipDesk::showEnvelope(std::optional<EnvelopeKind> kind) {
  if (kind == shownEnvelope_) return;
  shownEnvelope_ = kind;
  chosen().choosePoint({});
  emit changed();
}

void ClipDesk::openBundle(BundleId bundle) {
  if (bundle == chosen().openBundle()) return;
  const auto* b = doc_.song().find(bundle);
  doc_.tell(
      b ? tr("\"%1\" is open: its clips are handled one by one. Escape closes it.").arg(QString::fromStdString(b->name))
        : tr("The bundle is closed."));
  chosen().openBundle(bundle);
}

void ClipDesk::setSettings(const HandSettings& settings) {
  if (settings == settings_) return;
  settings_ = settings;
  keepHandSettings(settings);
  emit changed();
}

void ClipDesk::showSilence(bool on) {
  if (on == silenceShown_) return;
  silenceShown_ = on;
  emit changed();
}

const std::vector<std::pair<SetId, FrameRange>>& ClipDesk::silence() const {
  auto& found = foundSilence_;
  const auto sets = chosen().targetSets();
  if (found.song == doc_.version() && found.sets == sets && found.settings == settings_.silence) return found.gaps;
  found = {doc_.version(), sets, settings_.silence, {}};
  for (const auto id : sets)
    for (const auto& gap : silentGaps(doc_.song(), id, doc_.pool(), settings_.silence))
      found.gaps.emplace_back(id, gap);
  return found.gaps;
}

}  // namespace ochron
