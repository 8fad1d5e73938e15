// The user's settings: what is read is in range whatever the file holds.
#include <QCoreApplication>
#include <QSettings>
#include <cmath>
#include <filesystem>
#include <fstream>

#include "document/hand_settings.h"
#include "fuzz/check.h"
#include "fuzz/home.h"

using namespace ochron;
namespace fs = std::filesystem;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const auto home = [] {
    const auto made = fuzzHome("XDG_CONFIG_HOME");
    QCoreApplication::setApplicationName("fuzz");
    QCoreApplication::setOrganizationName("fuzz");
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, QString::fromStdString(made.string()));
    return fs::path(QSettings().fileName().toStdString());
  }();
  fs::create_directories(home.parent_path());
  std::ofstream(home, std::ios::binary).write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  const auto s = readHandSettings();
  OCHRON_HOLDS(kCutFadeRange.accepts(s.cutFadeMs));
  OCHRON_HOLDS(kNudgeMsRange.accepts(s.nudgeMs) && kNudgeSamplesRange.accepts(s.nudgeSamples));
  OCHRON_HOLDS(kSongFadeRange.accepts(s.songFadeSeconds));
  OCHRON_HOLDS(kSilenceLevelRange.accepts(s.silence.levelDb) && kSilenceLengthRange.accepts(s.silence.lengthMs));
  return 0;
}
