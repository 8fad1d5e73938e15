// Effects in the Print step: added by their words, ordered, switched, turned and heard; what breaks is said.

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QListWidget>
#include <QTimer>
#include <QTreeWidget>

#include "app/window_fixture.h"
#include "document/effect_desk.h"
#include "document/selection.h"
#include "document/transport.h"
#include "edits/insert_edits.h"
#include "edits/mark_edits.h"
#include "lanes/song_row.h"
#include "steps/print/effect_picker.h"
#include "support/effects_here.h"

namespace ochron {
namespace {

struct EffectSteps : test::Window {
  void SetUp() override {
    test::findEffectsHere();
    Window::SetUp();
    import();
    run("print.effects");
    QTest::qWait(0);
    doc().jobs().finishAll();
    ASSERT_FALSE(desk().known().empty());
  }
  EffectDesk& desk() { return doc().effectDesk(); }
  QListWidget* list() { return find<QListWidget>("effects"); }
  void press(const char* name) { QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton); }
  /// Adds the first effect that some words find, by keys.
  void add(const QString& words) {
    QTimer::singleShot(0, window.get(), [&] {
      auto* picker = QApplication::activeModalWidget();
      ASSERT_NE(picker, nullptr);
      QTest::keyClicks(picker->findChild<QLineEdit*>("effect words"), words);
      QTest::keyClick(picker->findChild<QLineEdit*>("effect words"), Qt::Key_Return);
    });
    press("effect add");
    doc().jobs().finishAll();
  }
  bool plays(InsertId id) {
    return until([&] { return desk().told(id).state == LiveRacks::State::ready && desk().racks(); });
  }
  const InsertList& inMix() { return *doc().song().inserts; }
};

TEST_F(EffectSteps, OneIsFoundByItsWordsHeardAndTakenOutAgain) {
  const FrameRange some{Frames{}, Frames{96'000}};
  const auto dry = exported(some);
  add("set comp");
  ASSERT_EQ(inMix().size(), 1U) << status().toStdString();
  EXPECT_EQ(inMix().front().name, "Set compressor");
  ASSERT_TRUE(plays(inMix().front().id));
  find<QDoubleSpinBox>("effect control threshold")->setValue(-50);
  find<QDoubleSpinBox>("effect control ratio")->setValue(10);
  EXPECT_EQ(inMix().front().values.at("threshold"), -50);
  EXPECT_NE(exported(some), dry);
  list()->item(0)->setCheckState(Qt::Unchecked);
  EXPECT_FALSE(inMix().front().on);
  EXPECT_EQ(exported(some), dry) << "off is as without";
  list()->setCurrentRow(0);
  QTest::keyClick(list(), Qt::Key_Delete);
  EXPECT_TRUE(inMix().empty());
  for (int i = 0; i < 4; ++i) doc().undo();
  EXPECT_EQ(inMix().size(), 1U);
  doc().undo();
  EXPECT_TRUE(inMix().empty());
}

TEST_F(EffectSteps, TheyAreOrderedByKeysAndPutOnTracksAndWholeSets) {
  auto* where = find<QComboBox>("effect place");
  ASSERT_EQ(where->count(), 1 + 1 + 4) << "the mix, the set, its mics";
  where->setCurrentIndex(1);
  emit where->activated(1);
  add("four-band");
  add("line up");
  const auto set = doc().song().sets[0].id;
  ASSERT_EQ(insertsIn(doc().song(), {{}, set}).size(), 2U);
  list()->setCurrentRow(1);
  QTest::keyClick(list(), Qt::Key_Up, Qt::ControlModifier);
  EXPECT_EQ(insertsIn(doc().song(), {{}, set}).front().name, "Line up");
  ASSERT_TRUE(plays(insertsIn(doc().song(), {{}, set}).front().id));
  EXPECT_EQ(desk().racks()->tracks.size(), 4U) << "each mic has its own";
  EXPECT_TRUE(where->currentText().endsWith("(2)"));
  where->setCurrentIndex(2);
  emit where->activated(2);
  EXPECT_EQ(list()->count(), 0);
}

TEST_F(EffectSteps, ATurnOfAControlIsOneStepAndAPresetSetsThemAll) {
  add("four-band");
  const auto id = inMix().front().id;
  const auto before = doc().song();
  auto* presets = find<QComboBox>("effect presets");
  ASSERT_EQ(presets->count(), 2);
  emit presets->activated(1);
  EXPECT_EQ(findInsert(doc().song(), id)->values.at("low_gain"), -9);
  EXPECT_EQ(find<QDoubleSpinBox>("effect control low_gain")->value(), -9);
  doc().undo();
  EXPECT_EQ(doc().song().inserts, before.inserts);
  EXPECT_EQ(find<QDoubleSpinBox>("effect control low_gain")->value(), 0);
  auto* phase = find<QComboBox>("effect control phase");
  emit phase->activated(1);
  EXPECT_EQ(findInsert(doc().song(), id)->values.at("phase"), 1);
  EXPECT_TRUE(until([&] { return desk().racks() && desk().racks()->latency == Frames{1023}; }))
      << "it is later now, and all tracks with it";
}

TEST_F(EffectSteps, WhatAPresetHoldsBesideControlsIsHeardKeptAndUndone) {
  const FrameRange some{Frames{}, Frames{96'000}};
  add("keeper");
  ASSERT_TRUE(plays(inMix().front().id)) << status().toStdString();
  const auto plain = exported(some);
  auto* presets = find<QComboBox>("effect presets");
  ASSERT_EQ(presets->count(), 2);
  emit presets->activated(1);
  doc().jobs().finishAll();
  ASSERT_TRUE(inMix().front().state->any()) << status().toStdString();
  EXPECT_EQ(inMix().front().values.at("gain"), 2);
  ASSERT_TRUE(plays(inMix().front().id));
  const auto held = exported(some);
  ASSERT_EQ(held.size(), plain.size());
  for (std::size_t i = 0; i < plain.size(); i += 997) ASSERT_NEAR(held[i], 1.5F * plain[i], 1e-6F) << i;
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  EXPECT_TRUE(std::filesystem::exists(scratch / "song.ochron" / "effects" / inMix().front().state->id / "state.ttl"));
  doc().undo();
  EXPECT_FALSE(inMix().front().state->any());
  EXPECT_EQ(exported(some), plain);
  doc().redo();
  EXPECT_EQ(exported(some), held);
}

TEST_F(EffectSteps, OneWhoseStateIsMissingBeginsAsNewByRestartOrByAPreset) {
  add("four-band");
  const auto id = inMix().front().id;
  ASSERT_TRUE(plays(id));
  const auto stopped = [&] { return until([&] { return desk().told(id).state == LiveRacks::State::stopped; }); };
  const auto lose = setInsertState(doc().song(), id, {}, EffectState{"xxh3-0123456789abcdef0123456789abcdef-1", {}});
  ASSERT_TRUE(doc().edit("lose", lose));
  ASSERT_TRUE(stopped());
  EXPECT_NE(desk().told(id).trouble.find("is missing from the song's folder"), std::string::npos);
  ASSERT_TRUE(until([&] { return find<QPushButton>("effect restart")->isVisible(); }));
  press("effect restart");
  EXPECT_FALSE(inMix().front().state->any());
  EXPECT_TRUE(plays(id));
  doc().undo();
  ASSERT_TRUE(inMix().front().state->missing()) << "its name comes back";
  ASSERT_TRUE(stopped());
  ASSERT_GT(find<QComboBox>("effect presets")->count(), 1);
  emit find<QComboBox>("effect presets")->activated(1);
  doc().jobs().finishAll();
  EXPECT_FALSE(inMix().front().state->any());
  EXPECT_TRUE(plays(id));
}

TEST_F(EffectSteps, OneThatBreaksDownIsSaidTheSongPlaysOnAndItIsRestarted) {
  add("faulty");
  ASSERT_EQ(inMix().size(), 1U);
  const auto id = inMix().front().id;
  ASSERT_TRUE(plays(id));
  doc().transport().playStop();
  ASSERT_TRUE(hear(Frames{4000}));
  find<QDoubleSpinBox>("effect control fault")->setValue(1);
  EXPECT_TRUE(until([&] { return desk().told(id).state == LiveRacks::State::stopped; }));
  EXPECT_TRUE(until([&] { return status().contains("broke down"); })) << status().toStdString();
  ASSERT_TRUE(hear(Frames{20'000})) << "the song plays on";
  EXPECT_TRUE(list()->item(0)->text().contains("stopped"));
  find<QDoubleSpinBox>("effect control fault")->setValue(0);
  ASSERT_TRUE(find<QAbstractButton>("effect restart")->isVisible());
  press("effect restart");
  EXPECT_TRUE(plays(id));
}

TEST_F(EffectSteps, OneThatThisMachineDoesNotHaveStaysInTheSongAndIsSaid) {
  const auto next = addInsert(doc().song(), {}, {{}, "urn:none", "Old plate", true, {{"size", 0.5}}});
  ASSERT_TRUE(doc().edit("add", next));
  EXPECT_TRUE(list()->item(0)->text().contains("not on this machine"));
  const auto file = scratch / "out.wav";
  ExportSettings s;
  s.range = {Frames{}, Frames{48'000}};
  doc().printDesk().exportTo(s, file);
  doc().jobs().finishAll();
  EXPECT_TRUE(status().contains("Old plate is not on this machine")) << status().toStdString();
  EXPECT_TRUE(std::filesystem::exists(file));
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  ASSERT_TRUE(doc().files().open(scratch / "song.ochron"));
  ASSERT_EQ(doc().song().inserts->size(), 1U);
  EXPECT_EQ(doc().song().inserts->front().values.at("size"), 0.5);
}

TEST_F(EffectSteps, ControlsAreLaidOutAtEverySize) {
  add("four-band");
  for (const QSize size : {QSize(1024, 700), QSize(1280, 800), QSize(1920, 1080)}) {
    window->resize(size);
    QTest::qWait(0);
    for (const auto* box : window->findChildren<QDoubleSpinBox*>()) {
      if (!box->objectName().startsWith("effect control") || !box->isVisible()) continue;
      const auto* cell = box->parentWidget();
      EXPECT_LE(cell->geometry().right(), cell->parentWidget()->width()) << box->objectName().toStdString();
    }
  }
}

TEST_F(EffectSteps, AControlMovesAlongTheSongByItsButtonPointsAndTurns) {
  window->resize(1280, 800);
  window->show();
  add("four-band");
  const auto id = inMix().front().id;
  ASSERT_TRUE(plays(id));
  const FrameRange some{Frames{}, Frames{96'000}};
  const auto still = exported(some);
  auto* row = window->findChild<SongRow*>();
  EXPECT_FALSE(row->isVisible());
  press("effect along low_gain");
  const EnvelopeRef ref{EnvelopeKind::effectControl, {}, {}, id, "low_gain"};
  ASSERT_NE(envelopeOf(doc().song(), ref), nullptr) << status().toStdString();
  EXPECT_TRUE(row->isVisible()) << "its course stands over the lanes";
  EXPECT_EQ(exported(some), still) << "nothing is heard of that yet";
  // Turned somewhere else, it has a point there.
  doc().transport().setCursor(Frames{48'000});
  find<QDoubleSpinBox>("effect control low_gain")->setValue(-12);
  ASSERT_EQ(envelopeOf(doc().song(), ref)->size(), 2U);
  EXPECT_TRUE(inMix().front().values.empty()) << "its own value is as it was";
  EXPECT_NE(exported(some), still);
  doc().transport().setCursor(Frames{24'000});
  EXPECT_TRUE(until([&] { return std::abs(find<QDoubleSpinBox>("effect control low_gain")->value() + 6) < 0.1; }))
      << "it shows what it is at the play line";
  // A double click puts a point, keys move it and take it out.
  const auto x = window->view().xOf(Frames{70'000});
  QTest::mouseDClick(row, Qt::LeftButton, {}, QPoint(static_cast<int>(x), row->height() / 2));
  ASSERT_EQ(envelopeOf(doc().song(), ref)->size(), 3U);
  ASSERT_TRUE(doc().selection().point());
  const auto value = envelopeOf(doc().song(), ref)->back().value;
  run("this.up");
  EXPECT_GT(envelopeOf(doc().song(), ref)->back().value, value);
  run("edit.delete");
  EXPECT_EQ(envelopeOf(doc().song(), ref)->size(), 2U);
  // Seen or not, by the button and by words; other steps have their own.
  press("effect along low_gain");
  EXPECT_FALSE(row->isVisible());
  run("print.course");
  EXPECT_TRUE(row->isVisible());
  doc().setStep(Step::hits);
  EXPECT_FALSE(row->isVisible());
  doc().setStep(Step::print);
  EXPECT_TRUE(row->isVisible());
  run("print.still");
  EXPECT_TRUE(inMix().front().moved.empty());
  EXPECT_NEAR(inMix().front().values.at("low_gain"), -6, 0.1) << "held at what it was at the play line";
  EXPECT_FALSE(row->isVisible());
  while (!inMix().empty()) doc().undo();
  EXPECT_EQ(exported(some), still);
}

}  // namespace
}  // namespace ochron
