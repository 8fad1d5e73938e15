#include "keeping/damaged_settings.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QFile>
#include <QSettings>

namespace ochron {

std::optional<QString> keepDamagedSettings() {
  const QSettings settings;
  (void)settings.allKeys();  // sections are read when they are asked for
  if (settings.status() != QSettings::FormatError) return {};
  const auto aside = settings.fileName() + QDateTime::currentDateTime().toString(" '(damaged,' yyyy-MM-dd hh.mm.ss)");
  const auto say = [](const char* text) { return QCoreApplication::translate("Settings", text); };
  if (!QFile::copy(settings.fileName(), aside))
    return say("Your settings and keys are damaged, and could not be copied aside to %1.").arg(aside);
  return say("Your settings and keys are damaged; what can be read of them is used. They were kept as %1.").arg(aside);
}

}  // namespace ochron
