// What the desktop asks for: a portal of our own on a bus of our own.

#include "theme/desktop_look.h"

#include <QAbstractButton>
#include <QDBusMessage>
#include <QDBusVariant>
#include <QDBusVirtualObject>
#include <QProcess>
#include <QSignalSpy>
#include <QtTest>
#include <map>

#include "app/window_fixture.h"
#include "theme/kept_look.h"
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
  EXPECT_EQ(look.textSize(), 1.0);
  say("org.gnome.desktop.interface", "text-scaling-factor", 1.25);
  ASSERT_TRUE(QTest::qWaitFor([&] { return look.textSize() == 1.25; }));
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

TEST_F(SheetChoice, IsKeptForTheNextStart) {
  ASSERT_TRUE(run("view.night"));
  ASSERT_TRUE(run("view.textlarger"));
  const double larger = Theme::get().textSize();
  EXPECT_GT(larger, 1.0);
  Theme::get().setSheet(SheetKind::light);
  Theme::get().setTextSize(1);
  useKeptLook();
  EXPECT_EQ(Theme::get().kind(), SheetKind::night);
  EXPECT_EQ(Theme::get().textSize(), larger);
  ASSERT_TRUE(run("view.desktopsheet"));
  ASSERT_TRUE(run("view.desktoptext"));
  useKeptLook();
  EXPECT_TRUE(Theme::get().followsDesktop());
  EXPECT_EQ(Theme::get().textSize(), 1.0);
}

TEST_F(SheetChoice, TextIsAsLargeAsTheDesktopWantsItUntilTheUserChooses) {
  auto& theme = Theme::get();
  theme.followDesktopText();
  theme.setDesktopTextSize(1.25);
  EXPECT_EQ(theme.font(12).pixelSize(), 15);
  ASSERT_TRUE(run("view.textsmaller"));
  EXPECT_EQ(theme.textSize(), 1.125);
  theme.setDesktopTextSize(1.5);
  EXPECT_EQ(theme.textSize(), 1.125) << "the user's own choice stays";
  ASSERT_TRUE(run("view.desktoptext"));
  EXPECT_EQ(theme.textSize(), 1.5);
  theme.setDesktopTextSize(40);
  EXPECT_EQ(theme.textSize(), kMostText);
}

TEST_F(SheetChoice, NoButtonOfAStepIsCutByTheLargestText) {
  import();
  Theme::get().setTextSize(kMostText);
  for (int step = 1; step <= 9; ++step) {
    ASSERT_TRUE(run(qPrintable(QStringLiteral("step.%1").arg(step))));
    QCoreApplication::processEvents();
    for (const auto* b : window->findChildren<QAbstractButton*>()) {
      if (!b->isVisible() || b->text().isEmpty()) continue;
      const auto words = b->fontMetrics().size(Qt::TextShowMnemonic, b->text()).width();
      EXPECT_LE(words, b->width()) << "step " << step << ": " << b->text().toStdString();
    }
  }
}

}  // namespace
}  // namespace ochron
