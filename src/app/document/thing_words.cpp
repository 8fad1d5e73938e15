#include "document/thing_words.h"

#include <QCoreApplication>
#include <cmath>

#include "document/wording.h"

namespace ochron {
namespace {

QString words(const char* text) { return QCoreApplication::translate("ThingWords", text); }

QString sharpWords(double cents) {
  const auto off = std::lround(cents);
  if (off == 0) return words("in tune");
  return (off > 0 ? words("%1 sharp") : words("%1 flat"))
      .arg(counted(static_cast<std::size_t>(std::abs(off)), "cent", "cents"));
}

}  // namespace

QString placeWords(const Song& song, Frames at) {
  const auto m = song.tempo.position(song.tempo.toTicks(at));
  return words("bar %1 beat %2").arg(m.bar + 1).arg(m.beat + 1);
}

QString lateWords(double ms) {
  if (std::abs(ms) < 0.05) return words("on the line");
  return (ms > 0 ? words("%1 ms late") : words("%1 ms early")).arg(std::abs(ms), 0, 'f', 1);
}

QString hitWords(const Song& song, const PlannedHit& h) {
  auto out = words("%1, %2").arg(drumName(h.hit.drum), placeWords(song, h.home));
  if (!h.line) return out;
  out += QStringLiteral(", ") + lateWords(h.beforeMs);
  if (h.now != h.home) out += words(", goes to %1").arg(lateWords(h.afterMs));
  if (h.locked) out += words(", locked");
  return out;
}

QString clipWords(const Song& song, const Clip& c, std::size_t number) {
  auto out = words("clip %1, %2 to %3")
                 .arg(number + 1)
                 .arg(placeWords(song, c.start), placeWords(song, c.start + c.length - Frames{1}));
  if (!c.extras->name.empty()) out.prepend(QString::fromStdString(c.extras->name) + ' ');
  if (c.muted) out += words(", muted");
  if (c.reversed) out += words(", reversed");
  return out;
}

QString seamWords(const Song& song, const Clip& later, const SeamMeasure* measure) {
  auto out = words("seam, %1, %2 ms long")
                 .arg(placeWords(song, later.start))
                 .arg(msFromFrames(later.seam.before + later.seam.after, song.rate), 0, 'f', 1);
  if (!measure) return out + words(", level not measured yet");
  if (std::abs(measure->levelDb) <= kSeamLevelBarDb) return out + words(", level holds");
  return out + words(", level changes by %1 dB").arg(measure->levelDb, 0, 'f', 1);
}

QString noteWords(const Song& song, const PitchDesk::Note& note, const PitchDesk& desk) {
  const auto& scale = desk.settings().scale;
  const double sung = note.tuned.parts.centre;
  auto out = words("%1, %2, %3")
                 .arg(pitchName(scale.nearest(sung), scale), placeWords(song, note.start), sharpWords(desk.off(sung)));
  const double after = note.tuned.after;
  if (desk.settings().on && std::abs(after - sung) >= 0.5)
    out += words(", goes to %1, %2")
               .arg(pitchName(desk.heardScale().nearest(after), desk.heardScale()),
                    sharpWords(after - desk.heardScale().nearest(after)));
  return out;
}

}  // namespace ochron
