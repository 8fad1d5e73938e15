// What the desktop asks for: a portal of our own on a bus of our own.

#include "theme/desktop_look.h"

#include <QDBusMessage>
#include <QDBusVariant>
#include <QDBusVirtualObject>
#include <QProcess>
#include <QSignalSpy>
#include <QtTest>
#include <map>

#include "app/window_fixture.h"
#include "theme/theme.h"

namespace ochron {
namespace {

/// Answers as the portal of settings does: a variant in a variant.
class Portal : public QDBusVirtualObject {
 public:
  QString introspect(const QString&) const override { return {}; }
  bool handleMessage(const QDBusMessage& message, const QDBusConnection& connection) override {
    const auto args = message.arguments();
    const auto found = values.find(args.value(0).toString() + '/' + args.value(1).toString());
    if (message.member() != "Read" || found == values.end())
      return connection.send(message.createErrorReply("org.freedesktop.portal.Error.NotFound", "no such setting"));
    return connection.send(
        message.createReply(QVariant::fromValue(QDBusVariant(QVariant::fromValue(QDBusVariant(found->second))))));
  }
  std::map<QString, QVariant> values;
};

/// A bus of our own with such a portal on it.
struct Desktop : ::testing::Test {
  static constexpr const char* kOurs = "desktop look test";
  static constexpr const char* kPortals = "desktop look test portal";
  void SetUp() override {
    daemon.start("dbus-daemon", {"--session", "--nofork", "--print-address=1"});
    if (!daemon.waitForStarted()) GTEST_SKIP() << "no dbus-daemon on this machine";
    ASSERT_TRUE(daemon.waitForReadyRead());
    const auto address = QString::fromUtf8(daemon.readLine()).trimmed();
    bus = QDBusConnection::connectToBus(address, kOurs);
    served = QDBusConnection::connectToBus(address, kPortals);
    ASSERT_TRUE(served.isConnected());
    ASSERT_TRUE(served.registerVirtualObject(DesktopLook::kPath, &portal));
    ASSERT_TRUE(served.registerService(DesktopLook::kPortal));
  }
  void TearDown() override {
    for (const char* name : {kOurs, kPortals}) QDBusConnection::disconnectFromBus(name);
    daemon.kill();
    daemon.waitForFinished();
  }
  void say(const QString& group, const QString& key, const QVariant& value) {
    auto signal = QDBusMessage::createSignal(DesktopLook::kPath, DesktopLook::kInterface, "SettingChanged");
    signal << group << key << QVariant::fromValue(QDBusVariant(value));
    ASSERT_TRUE(served.send(signal));
  }
  QProcess daemon;
  Portal portal;
  QDBusConnection bus{kOurs};
  QDBusConnection served{kPortals};
};

TEST_F(Desktop, ThatIsDarkIsFollowedAndItsChangesAre) {
  portal.values = {{"org.freedesktop.appearance/color-scheme", 1U}};
  DesktopLook look(bus);
  ASSERT_TRUE(QTest::qWaitFor([&] { return look.sheet().has_value(); }));
  EXPECT_EQ(*look.sheet(), SheetKind::night);
  EXPECT_TRUE(look.motion());
  say("org.freedesktop.appearance", "color-scheme", 2U);
  ASSERT_TRUE(QTest::qWaitFor([&] { return look.sheet() == SheetKind::light; }));
  say("org.freedesktop.appearance", "contrast", 1U);
  ASSERT_TRUE(QTest::qWaitFor([&] { return look.sheet() == SheetKind::contrast; }));
  say("org.gnome.desktop.interface", "enable-animations", false);
  ASSERT_TRUE(QTest::qWaitFor([&] { return !look.motion(); }));
  say("org.kde.kdeglobals.General", "color-scheme", 1U);
  say("org.freedesktop.appearance", "contrast", 0U);
  ASSERT_TRUE(QTest::qWaitFor([&] { return look.sheet() == SheetKind::light; })) << "what others say is theirs";
}

TEST_F(Desktop, ThatSaysNothingChangesNothing) {
  DesktopLook look(bus);
  QSignalSpy changes(&look, &DesktopLook::changed);
  QTest::qWait(100);
  EXPECT_EQ(changes.count(), 0);
  EXPECT_FALSE(look.sheet());
  const DesktopLook without(QDBusConnection("no such connection"));
  EXPECT_FALSE(without.sheet());
  EXPECT_TRUE(without.motion());
}

struct SheetChoice : test::Window {
  void TearDown() override {
    Theme::get().setDesktopSheet({});
    Theme::get().setSheet(SheetKind::light);
    Window::TearDown();
  }
};

TEST_F(SheetChoice, IsTheDesktopsUntilTheUserChoosesAndAgainWhenAsked) {
  auto& theme = Theme::get();
  theme.followDesktop();
  theme.setDesktopSheet(SheetKind::night);
  EXPECT_EQ(theme.kind(), SheetKind::night);
  ASSERT_TRUE(run("view.contrast"));
  EXPECT_EQ(theme.kind(), SheetKind::contrast);
  theme.setDesktopSheet(SheetKind::light);
  EXPECT_EQ(theme.kind(), SheetKind::contrast) << "the user's own choice stays";
  ASSERT_TRUE(run("view.desktopsheet"));
  EXPECT_EQ(theme.kind(), SheetKind::light);
  theme.setDesktopSheet(SheetKind::night);
  EXPECT_EQ(theme.kind(), SheetKind::night);
  theme.setDesktopSheet({});
  EXPECT_EQ(theme.kind(), SheetKind::light) << "a desktop that does not say";
}

}  // namespace
}  // namespace ochron
