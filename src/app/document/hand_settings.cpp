#include "document/hand_settings.h"

#include <QSettings>

namespace ochron {
namespace {

/// Runs `io(key, value)` on every value, so that reading and writing name them once.
template <class S, class Numbers, class Flags>
void each(S& s, Numbers&& number, Flags&& flag) {
  const auto numbers = [&](auto& of, const auto& all) {
    for (const auto& n : all)
      number(QString::fromUtf8(n.key.data(), static_cast<qsizetype>(n.key.size())), of.*n.field, n.range);
  };
  numbers(s, kHandNumbers);
  numbers(s.snap, kSnapNumbers);
  numbers(s.silence, kSilenceNumbers);
  flag("close gaps", s.closeGaps);
  flag("snap", s.snap.on);
  flag("snap to grid", s.snap.grid);
  flag("snap to hits", s.snap.hits);
  flag("snap to edges", s.snap.edges);
  flag("snap to markers", s.snap.markers);
  flag("snap to play line", s.snap.playLine);
  flag("snap relative", s.snap.relative);
}

}  // namespace

HandSettings readHandSettings() {
  QSettings kept;
  kept.beginGroup("hands");
  HandSettings s;
  each(
      s,
      [&](const QString& key, double& v, const SettingRange& range) { v = range.clamp(kept.value(key, v).toDouble()); },
      [&](const char* key, bool& v) { v = kept.value(key, v).toBool(); });
  s.overlap = kept.value("overlaps crossfade", true).toBool() ? Overlap::crossfade : Overlap::cover;
  return s;
}

void keepHandSettings(const HandSettings& s) {
  QSettings kept;
  kept.beginGroup("hands");
  each(
      s, [&](const QString& key, double v, const SettingRange&) { kept.setValue(key, v); },
      [&](const char* key, bool v) { kept.setValue(key, v); });
  kept.setValue("overlaps crossfade", s.overlap == Overlap::crossfade);
}

}  // namespace ochron
