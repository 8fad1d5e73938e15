#include "theme/desktop_look.h"

#include <QDBusPendingCallWatcher>
#include <QDBusPendingReply>
#include <QDBusVariant>
#include <array>
#include <utility>

namespace ochron {
namespace {

const QString kAppearance = QStringLiteral("org.freedesktop.appearance");
const QString kScheme = QStringLiteral("color-scheme");   // 0: no wish, 1: dark, 2: light
const QString kContrast = QStringLiteral("contrast");     // 1: higher
const QString kStill = QStringLiteral("reduced-motion");  // 1: reduced
const QString kInterfaceGroup = QStringLiteral("org.gnome.desktop.interface");
const QString kAnimations = QStringLiteral("enable-animations");
const QString kTextScale = QStringLiteral("text-scaling-factor");

}  // namespace

DesktopLook::DesktopLook(const QDBusConnection& bus, QObject* parent) : QObject(parent), bus_(bus) {
  if (!bus_.isConnected()) return;
  bus_.connect(kPortal, kPath, kInterface, "SettingChanged", this, SLOT(settingChanged(QDBusMessage)));
  const std::array asked{std::pair{kAppearance, kScheme}, std::pair{kAppearance, kContrast},
                         std::pair{kAppearance, kStill}, std::pair{kInterfaceGroup, kAnimations},
                         std::pair{kInterfaceGroup, kTextScale}};
  for (const auto& [group, key] : asked) ask(group, key);
}

void DesktopLook::ask(const QString& group, const QString& key) {
  auto call = QDBusMessage::createMethodCall(kPortal, kPath, kInterface, "Read");
  call << group << key;
  auto* watcher = new QDBusPendingCallWatcher(bus_.asyncCall(call), this);
  connect(watcher, &QDBusPendingCallWatcher::finished, this, [this, group, key, watcher] {
    const QDBusPendingReply<QVariant> reply = *watcher;
    if (reply.isValid()) take(group, key, reply.value());  // a portal that does not know a key has no wish
    watcher->deleteLater();
  });
}

void DesktopLook::settingChanged(const QDBusMessage& signal) {
  const auto said = signal.arguments();
  if (said.size() == 3) take(said[0].toString(), said[1].toString(), said[2]);
}

void DesktopLook::take(const QString& group, const QString& key, QVariant value) {
  // Read answers a variant in a variant.
  while (value.userType() == qMetaTypeId<QDBusVariant>()) value = value.value<QDBusVariant>().variant();
  if (group == kAppearance && key == kScheme) {
    dark_ = value.toUInt() == 1;
  } else if (group == kAppearance && key == kContrast) {
    contrast_ = value.toUInt() == 1;
  } else if (group == kAppearance && key == kStill) {
    motion_ = value.toUInt() != 1;
  } else if (group == kInterfaceGroup && key == kAnimations) {
    motion_ = value.toBool();
  } else if (group == kInterfaceGroup && key == kTextScale) {
    textSize_ = value.toDouble();
  } else {
    return;
  }
  emit changed();
}

std::optional<SheetKind> DesktopLook::sheet() const {
  if (contrast_) return SheetKind::contrast;
  if (!dark_) return {};
  return *dark_ ? SheetKind::night : SheetKind::light;
}

}  // namespace ochron
