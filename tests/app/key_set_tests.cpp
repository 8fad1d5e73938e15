// Sets of keys: shipped, ready, own; as files.

#include <QComboBox>
#include <QLabel>
#include <QSettings>
#include <QTableWidget>
#include <fstream>

#include "app/window_fixture.h"
#include "keys/key_sheet.h"

namespace ochron {
namespace {

struct KeySets : test::Driven {
  KeySets() {
    QSettings().clear();
    show();
  }
  Actions& actions() { return window->actions(); }
  QString keyOf(const char* id) { return actions().action(id)->shortcut().toString(); }
  static void use(KeySheet& sheet, int which) {
    auto* box = sheet.findChild<QComboBox*>("key sets");
    box->setCurrentIndex(which);
    emit box->activated(which);
  }
  QString fileOf(const char* text) {
    const auto file = scratch / "keys.json";
    std::ofstream(file) << text;
    return QString::fromStdString(file.string());
  }
};

TEST_F(KeySets, NoKeyOfAReadySetIsThatOfTwoCommands) {
  for (const auto which : {ReadyKeys::shipped, ReadyKeys::leftHand}) {
    const auto& set = readyKeys(which);
    for (const auto& id : set.keys()) ASSERT_TRUE(actions().action(id)) << id.toStdString();
    EXPECT_EQ(actions().useKeys(set), 0);
    EXPECT_EQ(actions().keys(), set);
    for (const auto& id : actions().ids())
      for (const auto& key : actions().action(id)->shortcuts())
        EXPECT_EQ(actions().holderOf(key, id), "") << key.toString().toStdString() << " of " << id.toStdString();
  }
}

TEST_F(KeySets, TheLeftHandsKeysWorkAndAreKept) {
  KeySheet sheet(actions(), window.get());
  use(sheet, 1);
  EXPECT_EQ(keyOf("this.next"), "F");
  EXPECT_EQ(keyOf("hits.find"), ".");
  MainWindow another;
  EXPECT_EQ(another.actions().action("this.next")->shortcut().toString(), "F") << "the next start";
  use(sheet, 0);
  EXPECT_EQ(keyOf("this.next"), ".");
  EXPECT_TRUE(actions().keys().isEmpty());
}

TEST_F(KeySets, WhatIsPutBackHasAllOfItsKeysAgain) {
  for (const auto& id : actions().ids()) {
    const auto shipped = actions().action(id)->shortcuts();
    actions().setKey(id, QKeySequence("Ctrl+Alt+Shift+F12"));
    actions().resetKey(id);
    EXPECT_EQ(actions().action(id)->shortcuts(), shipped) << id.toStdString();
  }
  EXPECT_EQ(actions().action("view.closer")->shortcuts().size(), 2) << "with and without Shift";
}

TEST_F(KeySets, OwnKeysComeBackAfterAReadySetWasTried) {
  actions().setKey("clips.mute", QKeySequence("Ctrl+Shift+M"));
  KeySheet sheet(actions(), window.get());
  auto* box = sheet.findChild<QComboBox*>("key sets");
  EXPECT_EQ(box->currentIndex(), 2);
  const auto own = actions().keys();
  use(sheet, 1);
  EXPECT_EQ(keyOf("clips.mute"), "R");
  use(sheet, 2);
  EXPECT_EQ(actions().keys(), own);
}

TEST_F(KeySets, AFileGivesTheSameKeysBack) {
  actions().setKey("clips.mute", QKeySequence("Ctrl+Shift+M"));
  actions().setKey("hits.find", {});
  const auto own = actions().keys();
  const auto back = keysFromText(keysAsText(own).toUtf8(), "keys.json");
  ASSERT_TRUE(back);
  EXPECT_EQ(*back, own);
  actions().useKeys({});
  KeySheet sheet(actions(), window.get());
  sheet.readKeys(fileOf(qPrintable(keysAsText(own))));
  EXPECT_EQ(actions().keys(), own);
}

TEST_F(KeySets, WhatIsNoSetOfKeysIsSaidAndChangesNothing) {
  actions().setKey("clips.mute", QKeySequence("Ctrl+Shift+M"));
  const auto before = actions().keys();
  KeySheet sheet(actions(), window.get());
  auto* said = sheet.findChild<QLabel*>("key conflict");
  for (const char* text : {"", "{}", "[1]", "{\"orthochron keys\":1}", "{\"orthochron keys\":9,\"keys\":{}}",
                           "{\"orthochron keys\":1,\"keys\":{\"clips.mute\":\"Banana\"}}",
                           "{\"orthochron keys\":1,\"keys\":{\"clips.mute\":3}}",
                           "{\"orthochron keys\":1,\"keys\":{\"clips.mute\":\"F\",\"hits.find\":\"F\"}}"}) {
    sheet.readKeys(fileOf(text));
    EXPECT_TRUE(said->text().contains("keys.json")) << text << ": " << said->text().toStdString();
    EXPECT_EQ(actions().keys(), before) << text;
  }
  sheet.readKeys("/nowhere/keys.json");
  EXPECT_TRUE(said->text().contains("/nowhere/keys.json")) << said->text().toStdString();
}

TEST_F(KeySets, CommandsThatAreNotHereAreCounted) {
  KeySheet sheet(actions(), window.get());
  sheet.readKeys(fileOf("{\"orthochron keys\":1,\"keys\":{\"clips.mute\":\"F12\",\"clips.fold\":\"F11\"}}"));
  EXPECT_EQ(keyOf("clips.mute"), "F12");
  EXPECT_TRUE(sheet.findChild<QLabel*>("key conflict")->text().contains("1 of them"));
}

}  // namespace
}  // namespace ochron
