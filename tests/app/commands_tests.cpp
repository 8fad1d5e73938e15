// What a mouse can press a command does too, and every command has a key or a place in a menu.

#include <QAbstractButton>
#include <QMenu>
#include <QMenuBar>
#include <QPushButton>
#include <QToolButton>
#include <set>

#include "actions/actions.h"
#include "app/window_fixture.h"
#include "document/selection.h"

namespace ochron {
namespace {

/// Shows what is under it: a fold, or a menu.
bool opens(const QAbstractButton& b) {
  const auto* tool = qobject_cast<const QToolButton*>(&b);
  const auto* push = qobject_cast<const QPushButton*>(&b);
  return b.objectName().startsWith("fold ") || b.objectName() == "qt_menubar_ext_button" || (tool && tool->menu()) ||
         (push && push->menu());
}

/// Gives the field beside it another value, as typing there does.
bool fillsAField(const QAbstractButton& b) {
  static const QStringList names{"source half", "source twice", "source 3 for 2", "meter from here", "meter of bar"};
  return names.contains(b.objectName()) || b.objectName().startsWith("candidate ");
}

struct Commands : test::Window {
  /// The commands that menus hold, those under them too.
  std::set<QAction*> inMenus() {
    std::set<QAction*> out;
    for (auto* menu : window->menuBar()->findChildren<QMenu*>())
      for (auto* a : menu->actions()) out.insert(a);
    return out;
  }
};

TEST_F(Commands, HaveAKeyOrAPlaceInAMenu) {
  const auto placed = inMenus();
  for (const auto& id : window->actions().ids()) {
    auto* a = window->actions().action(id);
    EXPECT_TRUE(!a->shortcuts().isEmpty() || placed.contains(a)) << id.toStdString();
  }
}

TEST_F(Commands, AreWhatEveryButtonOfAStepRuns) {
  import();
  std::set<QString> without;
  std::size_t seen = 0;
  for (int step = 1; step <= 9; ++step) {
    run(QStringLiteral("step.%1").arg(step).toUtf8().constData());
    QTest::qWait(0);
    for (auto* b : window->findChildren<QAbstractButton*>()) {
      if (!qobject_cast<QPushButton*>(b) && !qobject_cast<QToolButton*>(b)) continue;
      if (opens(*b) || fillsAField(*b)) continue;
      ++seen;
      const auto id = b->property(kCommand).toString();
      if (!id.isEmpty()) {
        EXPECT_NE(window->actions().action(id), nullptr) << id.toStdString();
      } else {
        without.insert(QStringLiteral("%1 (%2)").arg(b->objectName(), b->accessibleName() + b->text()));
      }
    }
  }
  EXPECT_GT(seen, 200U);
  for (const auto& name : without) ADD_FAILURE() << name.toStdString();
}

TEST_F(Commands, MuteAndSoloTheChosenTrackAsItsButtonsDo) {
  import();
  run("track.next");
  const auto id = doc().selection().track();
  const auto track = [&] { return doc().song().find(id); };
  ASSERT_NE(track(), nullptr);
  run("track.mute");
  EXPECT_TRUE(track()->muted);
  run("track.solo");
  EXPECT_TRUE(track()->solo);
  run("track.mute");
  EXPECT_FALSE(track()->muted);
  doc().undo();
  EXPECT_TRUE(track()->muted);
}

TEST_F(Commands, ThatPressAButtonGoToItsStepAndPressIt) {
  import();
  run("step.1");
  auto* every = find<QToolButton>("every mic");
  const bool was = every->isChecked();
  run("view.everymic");
  EXPECT_EQ(doc().step(), Step::seams);
  EXPECT_NE(every->isChecked(), was);
}

TEST_F(Commands, TakeNoticesAwayOneByOneAndSayWhenThereIsNoneLeft) {
  import();
  doc().warn("Something to know.");
  auto* seen = find<QToolButton>("notice seen");
  ASSERT_TRUE(seen->isVisible());
  int taken = 0;
  for (; seen->isVisible() && taken < 10; ++taken) run("help.noticeseen");
  EXPECT_FALSE(seen->isVisible()) << taken;
  EXPECT_FALSE(status().contains("cannot be done now"));
  run("help.noticeseen");
  EXPECT_TRUE(status().contains("cannot be done now")) << status().toStdString();
}

}  // namespace
}  // namespace ochron
