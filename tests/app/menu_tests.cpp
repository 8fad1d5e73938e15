// Menus by key.

#include <QMenu>
#include <QMenuBar>
#include <QtTest>
#include <set>

#include "actions/key_set.h"
#include "app/window_fixture.h"

namespace ochron {
namespace {

using Menus = test::Window;

TEST_F(Menus, AreReachedByAltAndALetterThatNoCommandHas) {
  std::set<QString> letters;
  for (const auto* menu : window->menuBar()->actions()) {
    const auto key = QKeySequence::mnemonic(menu->text());
    ASSERT_FALSE(key.isEmpty()) << menu->text().toStdString();
    EXPECT_TRUE(letters.insert(key.toString()).second) << key.toString().toStdString();
    for (const auto which : {ReadyKeys::shipped, ReadyKeys::leftHand}) {
      window->actions().useKeys(readyKeys(which));
      EXPECT_EQ(window->actions().holderOf(key, {}), "") << key.toString().toStdString();
    }
  }
  window->actions().useKeys({});
}

TEST_F(Menus, OpenByF10AndTypingGoesToTheEntry) {
  import();
  QTest::keyClick(window.get(), Qt::Key_F10);
  ASSERT_TRUE(until([] { return QApplication::activePopupWidget() != nullptr; }));
  auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
  ASSERT_TRUE(menu);
  QTest::keyClicks(menu, "sav");
  ASSERT_TRUE(menu->activeAction());
  EXPECT_EQ(menu->activeAction()->text(), window->actions().action("song.save")->text());
  QTest::keyClick(menu, Qt::Key_Escape);
  EXPECT_TRUE(until([] { return QApplication::activePopupWidget() == nullptr; }));
}

}  // namespace
}  // namespace ochron
