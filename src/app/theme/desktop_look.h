#pragma once

#include <QDBusConnection>
#include <QDBusMessage>
#include <QObject>
#include <QVariant>
#include <optional>

#include "theme/sheet.h"

namespace ochron {

/// How the desktop wants programs to look, as far as it says: asked for and listened to by the portal of settings (XDG
/// Desktop Portal, org.freedesktop.portal.Settings). Where there is none, nothing is ever said.
class DesktopLook : public QObject {
  Q_OBJECT
 public:
  explicit DesktopLook(const QDBusConnection& bus, QObject* parent = nullptr);

  /// The sheet that comes nearest to it; none until something was said.
  std::optional<SheetKind> sheet() const;
  /// False when it wants things to be still.
  bool motion() const { return motion_; }
  /// How large it wants text, 1 for the usual size.
  double textSize() const { return textSize_; }

  static constexpr const char* kPortal = "org.freedesktop.portal.Desktop";
  static constexpr const char* kPath = "/org/freedesktop/portal/desktop";
  static constexpr const char* kInterface = "org.freedesktop.portal.Settings";

 signals:
  void changed();

 private slots:
  void settingChanged(const QDBusMessage& signal);

 private:
  void ask(const QString& group, const QString& key);
  void take(const QString& group, const QString& key, QVariant value);

  QDBusConnection bus_;
  std::optional<bool> dark_;
  bool contrast_ = false;
  bool motion_ = true;
  double textSize_ = 1;
};

}  // namespace ochron
