#pragma once

#include <QCoreApplication>
#include <QString>
#include <cmath>

#include "song/scale.h"
#include "terms/drum_class.h"
#include "terms/stretch_method.h"

namespace ochron {

/// "1 hit", "212 hits".
inline QString counted(std::size_t n, const char* one, const char* many) {
  return QString::number(n) + ' ' + QString::fromUtf8(n == 1 ? one : many);
}

/// "44.1 kHz".
inline QString rateText(int hertz) { return QCoreApplication::translate("Rate", "%1 kHz").arg(hertz / 1000.0); }

/// "+3.2", "-0.4" with a true minus, "0.0".
inline QString signedMs(double ms) {
  const auto sign = ms < -0.05 ? QStringLiteral("\u2212") : ms > 0.05 ? QStringLiteral("+") : QString();
  return sign + QString::number(std::abs(ms), 'f', 1);
}

/// A note's name as it is written in scores: "E\u266d4 +12" for "Eb4 +12", with a true minus.
inline QString asInScores(QString name) {
  if (name.size() > 1 && name[1] == 'b') name[1] = QChar(0x266d);
  if (name.size() > 1 && name[1] == '#') name[1] = QChar(0x266f);
  return name.replace(QStringLiteral(" -"), QStringLiteral(" \u2212"));
}
inline QString pitchName(double cents, const Scale& scale) {
  return asInScores(QString::fromStdString(noteName(cents, scale)));
}

/// "snare".
inline QString drumName(DrumClass drum) {
  return QString::fromUtf8(kDrumClassNames[static_cast<std::size_t>(drum)].data());
}

/// What a way of stretching is for, short enough for a list.
inline QString methodName(StretchMethod method) {
  switch (method) {
    case StretchMethod::drums: return QCoreApplication::translate("Stretch", "drums, plucked");
    case StretchMethod::single: return QCoreApplication::translate("Stretch", "single notes");
    case StretchMethod::chords: return QCoreApplication::translate("Stretch", "chords, mixes");
    case StretchMethod::tape: return QCoreApplication::translate("Stretch", "tape");
  }
  return {};
}

/// When to use it, and what it costs.
inline QString methodHelp(StretchMethod method) {
  switch (method) {
    case StretchMethod::drums:
      return QCoreApplication::translate(
          "Stretch",
          "Attacks stay the recording, only what rings on between them is stretched. For "
          "kits, percussion, strummed parts; held chords can flutter");
    case StretchMethod::single:
      return QCoreApplication::translate("Stretch",
                                         "Bass, leads, voice: smooth through every note, attacks as recorded; best "
                                         "once step 7 has listened to it, else slow to make");
    case StretchMethod::chords:
      return QCoreApplication::translate(
          "Stretch", "Keys, strings, whole mixes: smooth, all mics in step, attacks as recorded; slow to make");
    case StretchMethod::tape:
      return QCoreApplication::translate("Stretch",
                                         "Faster or slower as a tape: nothing is lost, and pitch goes along");
  }
  return {};
}

}  // namespace ochron
