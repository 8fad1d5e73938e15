// The rail, the step panel and the bench: driven by mouse and keys, at the design size and at the smallest.

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QScrollBar>
#include <QSplitter>
#include <QTableWidget>
#include <QToolButton>

#include "app/window_fixture.h"
#include "document/attention.h"
#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/timing_desk.h"
#include "edits/clip_edits.h"
#include "lanes/lanes_view.h"
#include "panel/bench.h"
#include "panel/controls.h"
#include "panel/fold.h"
#include "steps/clips/curve_box.h"
#include "steps/hits/hit_table_view.h"
#include "steps/timing/timing_graph.h"

namespace ochron {
namespace {

constexpr std::array kNames{"Takes", "Tempo", "Hits", "Timing", "Seams", "Clips", "Kit", "Pitch", "Print"};
constexpr std::array kSteps{Step::takes, Step::tempo, Step::hits,  Step::timing, Step::seams,
                            Step::clips, Step::kit,   Step::pitch, Step::print};

struct Benches : test::Window {
  Bench& bench() { return *window->findChild<Bench*>(); }
  QWidget* stop(std::size_t i) { return find<QWidget>((std::string("step ") + kNames[i]).c_str()); }
};

TEST_F(Benches, EveryStepIsInSightOnTheRailAtEverySizeAndOpensByClickReturnAndKey) {
  import();
  for (const auto& size : {QSize(1280, 800), QSize(1024, 700)}) {
    window->resize(size);
    for (std::size_t i = 0; i < kSteps.size(); ++i) {
      auto* at = stop(i);
      ASSERT_TRUE(at->isVisible());
      const QRect place(at->mapTo(window.get(), QPoint()), at->size());
      EXPECT_TRUE(window->rect().contains(place)) << kNames[i];
      EXPECT_FALSE(at->accessibleName().isEmpty());
      EXPECT_FALSE(at->accessibleDescription().isEmpty()) << kNames[i];
      EXPECT_TRUE(at->toolTip().contains(kNames[i]));
      click(at, {30, 20});
      EXPECT_EQ(doc().step(), kSteps[i]);
    }
  }
  for (std::size_t i = 0; i < kSteps.size(); ++i) {
    QTest::keyClick(&window->lanes(), static_cast<Qt::Key>(Qt::Key_1 + static_cast<int>(i)));
    EXPECT_EQ(doc().step(), kSteps[i]);
    EXPECT_TRUE(stop(i)->accessibleName().contains("open"));
  }
  stop(0)->setFocus();
  QTest::keyClick(stop(0), Qt::Key_Return);
  EXPECT_EQ(doc().step(), Step::takes);
}

TEST_F(Benches, NothingThatIsUsedEveryDayScrollsAtTheDesignSize) {
  import();
  for (const auto step : kSteps) {
    doc().setStep(step);
    QTest::qWait(0);
    for (auto* scroll : window->findChildren<QScrollArea*>())
      if (scroll->isVisible())
        EXPECT_EQ(scroll->verticalScrollBar()->maximum(), 0) << "step " << static_cast<int>(step);
  }
}

TEST_F(Benches, InAnEmptySongEverySliderStandsWhereItsNumberSays) {
  int seen = 0;
  for (const auto step : kSteps) {
    doc().setStep(step);
    for (auto* control : window->findChildren<SettingControl*>()) {
      auto* slider = control->findChild<LineSlider*>();
      auto* number = control->findChild<QDoubleSpinBox*>();
      ASSERT_TRUE(slider && number);
      const double along = (slider->value() - slider->minimum()) / double(slider->maximum() - slider->minimum());
      const double asked = (number->value() - number->minimum()) / (number->maximum() - number->minimum());
      EXPECT_NEAR(along, asked, 0.02) << slider->objectName().toStdString();
      ++seen;
    }
  }
  EXPECT_GT(seen, 10);
}

TEST_F(Benches, ATableWithoutRowsSaysWhatWillStandInItAndIsQuietOnceItHasSome) {
  const auto notes = [&] {
    int shown = 0;
    for (auto* note : window->findChildren<QLabel*>("empty note"))
      if (note->isVisible()) {
        EXPECT_FALSE(note->text().isEmpty());
        ++shown;
      }
    return shown;
  };
  for (const auto step : {Step::takes, Step::hits}) {
    doc().setStep(step);
    EXPECT_EQ(notes(), 1) << "step " << static_cast<int>(step);
  }
  import();
  for (const auto step : {Step::takes, Step::hits}) {
    doc().setStep(step);
    EXPECT_TRUE(until([&] { return notes() == 0; })) << "step " << static_cast<int>(step);
  }
}

TEST_F(Benches, AScrollBarThatWasNeededOnceGoesAgain) {
  import();
  int gone = 0;
  for (const auto step : kSteps) {
    doc().setStep(step);
    QTest::qWait(0);
    for (auto* scroll : window->findChildren<QScrollArea*>()) {
      if (!scroll->isVisible() || !scroll->widget() || scroll->verticalScrollBar()->maximum() > 0) continue;
      const auto labels = scroll->widget()->findChildren<QLabel*>();
      const auto note = std::find_if(labels.begin(), labels.end(),
                                     [](QLabel* l) { return l->isVisible() && l->wordWrap() && !l->text().isEmpty(); });
      if (note == labels.end()) continue;
      const auto before = (*note)->text();
      (*note)->setText(QString("so many words that all else is pushed down ").repeated(60));
      EXPECT_TRUE(until([&] { return scroll->verticalScrollBar()->maximum() > 0; }))
          << "step " << static_cast<int>(step);
      (*note)->setText(before);
      // What was heard meanwhile may have made the page too tall for good.
      const auto tooTall = [&] {
        return scroll->widget()->layout()->heightForWidth(scroll->width()) > scroll->height();
      };
      const bool went = until([&] { return scroll->verticalScrollBar()->maximum() == 0; });
      EXPECT_TRUE(went || tooTall()) << "step " << static_cast<int>(step);
      gone += went ? 1 : 0;
    }
  }
  EXPECT_GE(gone, 4);
}

TEST_F(Benches, NoStepsControlsAreWiderThanTheirPanel) {
  import();
  for (const auto step : kSteps) {
    doc().setStep(step);
    QList<QToolButton*> opened;
    for (auto* fold : window->findChildren<Fold*>())
      if (auto* head = fold->findChild<QToolButton*>(); head->isVisible() && !head->isChecked()) {
        head->click();
        opened << head;
      }
    QTest::qWait(0);
    for (auto* scroll : window->findChildren<QScrollArea*>())
      if (scroll->isVisible() && scroll->widget())
        EXPECT_LE(scroll->widget()->minimumSizeHint().width(), scroll->viewport()->width())
            << "step " << static_cast<int>(step);
    for (auto* head : opened) head->click();
  }
}

TEST_F(Benches, NoNoteOfAPanelPushesItsControlsOutOfSightHoweverLongItGets) {
  import();
  for (const auto step : kSteps) {
    doc().setStep(step);
    QTest::qWait(0);
    for (auto* scroll : window->findChildren<QScrollArea*>()) {
      if (!scroll->isVisible() || !scroll->widget()) continue;
      for (auto* label : scroll->widget()->findChildren<QLabel*>()) {
        if (!label->property("note").toBool() || !label->isVisible() || label->text().size() < 2) continue;
        const auto before = label->text();
        label->setText("much longer than what stands here most of the time, as a long song makes it");
        QTest::qWait(0);
        EXPECT_LE(scroll->widget()->minimumSizeHint().width(), scroll->viewport()->width())
            << "step " << static_cast<int>(step) << ": " << before.toStdString();
        label->setText(before);
      }
    }
  }
}

TEST_F(Benches, EachStepHasABenchOfItsOwnThatIsNeverBlank) {
  import();
  std::set<QWidget*> seen;
  for (const auto step : kSteps) {
    doc().setStep(step);
    ASSERT_TRUE(bench().isVisible());
    auto* shown = bench().currentWidget();
    EXPECT_TRUE(seen.insert(shown).second);
    const auto picture = shown->grab().toImage();
    std::set<QRgb> colours;
    for (int x = 0; x < picture.width(); x += 3)
      for (int y = 0; y < picture.height(); y += 3) colours.insert(picture.pixel(x, y));
    EXPECT_GT(colours.size(), 5u) << "step " << static_cast<int>(step);
  }
}

TEST_F(Benches, NoWordIsCutOffInABenchAtTheSmallestSize) {
  import();
  for (const auto& size : {QSize(1280, 800), QSize(1024, 700)}) {
    window->resize(size);
    for (std::size_t i = 0; i < kSteps.size(); ++i) {
      doc().setStep(kSteps[i]);
      QTest::qWait(0);
      const auto where = [&](const QString& text) {
        return QString("\"%1\" in %2 at %3").arg(text, kNames[i]).arg(size.width()).toStdString();
      };
      for (const auto* label : bench().findChildren<QLabel*>()) {
        if (!label->isVisible() || label->wordWrap()) continue;
        EXPECT_GE(label->width() + 1, label->fontMetrics().horizontalAdvance(label->text())) << where(label->text());
        const QRect place(label->mapTo(&bench(), QPoint()), label->size());
        EXPECT_TRUE(bench().rect().contains(place)) << where(label->text());
      }
      for (const auto* box : bench().findChildren<QComboBox*>()) {
        if (!box->isVisible()) continue;
        constexpr int kArrow = 22;
        EXPECT_GE(box->width(), box->fontMetrics().horizontalAdvance(box->currentText()) + kArrow)
            << where(box->currentText());
      }
      for (const auto* table : bench().findChildren<QTableView*>()) {
        if (!table->isVisible()) continue;
        const auto* header = table->horizontalHeader();
        for (int c = 0; c < header->count(); ++c) {
          const auto text = table->model()->headerData(c, Qt::Horizontal).toString();
          if (!header->isSectionHidden(c))
            EXPECT_GE(header->sectionSize(c), header->fontMetrics().horizontalAdvance(text)) << where(text);
        }
      }
    }
  }
}

TEST_F(Benches, WithoutAChosenSeamTheOneToLookAtFirstIsShown) {
  import();
  auto plan = doc().timingDesk().settings();
  plan.method = TimingMethod::slices;
  doc().timingDesk().setSettings("slices", plan);
  doc().jobs().finishAll();
  doc().selection().chooseHit({});
  ASSERT_EQ(doc().selection().seamClip(), nullptr);
  doc().setStep(Step::seams);
  EXPECT_TRUE(find<QToolButton>("every mic")->isVisible()) << "a seam is drawn";
  plan.on = false;
  doc().timingDesk().setSettings("off", plan);
  doc().jobs().finishAll();
  find<QToolButton>("every mic")->parentWidget()->grab();
  EXPECT_FALSE(find<QToolButton>("every mic")->isVisible()) << "there is none";
}

TEST_F(Benches, WhileNoClipIsChosenItSaysWhatTheHandCanDoWithTheKeysAsTheyAre) {
  import();
  doc().setStep(Step::clips);
  auto* sheet = find<QWidget>("hands sheet");
  EXPECT_TRUE(sheet->isVisible());
  const auto says = [&](const QString& text) {
    const auto labels = sheet->findChildren<QLabel*>();
    return std::any_of(labels.begin(), labels.end(), [&](auto* l) { return l->text() == text; });
  };
  EXPECT_TRUE(says("D"));
  window->actions().setKey("clips.split", QKeySequence("Ctrl+Alt+F9"));
  doc().selection().choose({doc().song().sets[0].clips->front().id});
  EXPECT_FALSE(sheet->isVisible());
  doc().selection().clear();
  EXPECT_TRUE(sheet->isVisible());
  EXPECT_TRUE(says("Ctrl+Alt+F9"));
  EXPECT_FALSE(says("D"));
  window->actions().resetKey("clips.split");
}

TEST_F(Benches, ItsHeightIsRememberedForEachStepAndItFoldsAwayByKey) {
  import();
  doc().setStep(Step::hits);
  auto* rows = qobject_cast<QSplitter*>(bench().parentWidget());
  ASSERT_NE(rows, nullptr);
  const int all = rows->height();
  rows->setSizes({all - 300, 300});
  emit rows->splitterMoved(all - 300, 1);
  const int tall = bench().height();
  EXPECT_GT(tall, 280);
  doc().setStep(Step::timing);
  EXPECT_LT(bench().height(), tall);
  doc().setStep(Step::hits);
  EXPECT_EQ(bench().height(), tall);
  EXPECT_TRUE(run("view.bench"));
  EXPECT_FALSE(bench().isVisible());
  doc().setStep(Step::clips);
  EXPECT_FALSE(bench().isVisible());
  EXPECT_TRUE(run("view.bench"));
  EXPECT_TRUE(bench().isVisible());
}

TEST_F(Benches, TheTakesBenchTellsWhatTheFilesAre) {
  import();
  doc().setStep(Step::takes);
  auto* table = find<QTableWidget>("recordings table");
  ASSERT_EQ(table->rowCount(), 4);
  EXPECT_EQ(table->item(1, 0)->text(), "Snare Top");
  EXPECT_EQ(table->item(1, 1)->text(), "Snare Top.wav");
  EXPECT_EQ(table->item(1, 2)->text(), "48 kHz");
  EXPECT_TRUE(until([&] { return table->item(1, 3)->text() == "24 bit"; }));
  EXPECT_EQ(table->item(1, 4)->text(), "mono");
  EXPECT_TRUE(table->item(1, 7)->text().endsWith("dB"));
  EXPECT_EQ(table->item(1, 8)->text(), "ready");
  table->selectRow(2);
  EXPECT_EQ(doc().selection().track(), doc().song().tracks[2].id);
}

TEST_F(Benches, ThePrintBenchListsNothingWhereNothingCanBeWritten) {
  doc().setStep(Step::print);
  EXPECT_EQ(find<QTableWidget>("export table")->rowCount(), 0);
  import();
  EXPECT_TRUE(until([&] { return find<QTableWidget>("export table")->rowCount() == 1; }));
}

TEST_F(Benches, ThePrintBenchListsWhatWillBeWritten) {
  import();
  doc().setStep(Step::print);
  auto* table = find<QTableWidget>("export table");
  ASSERT_EQ(table->rowCount(), 1);
  find<QComboBox>("export what")->setCurrentIndex(1);
  ASSERT_EQ(table->rowCount(), 4);
  EXPECT_EQ(table->item(0, 0)->text(), "Kick In.wav");
  find<QComboBox>("export format")->setCurrentIndex(1);
  EXPECT_EQ(table->item(3, 0)->text(), "Overhead.flac");
}

TEST_F(Benches, AFadeIsDrawnAndBentOnItsCurveAndTheNumbersAgree) {
  import();
  auto s = doc().timingDesk().settings();
  s.on = false;
  doc().timingDesk().setSettings("off", s);
  doc().setStep(Step::clips);
  const auto clip = doc().song().sets[0].clips->front().id;
  doc().selection().choose({clip});
  auto* curve = find<QWidget>("fade in curve");
  const auto before = doc().song();
  drag(curve, {20, 40}, {60, 25});
  const auto* c = doc().song().find(clip);
  EXPECT_GT(c->fadeIn.length.value, 100);
  EXPECT_NEAR(c->fadeIn.bend, 0.25, 0.01);
  const auto text = find<QLineEdit>("Fade in")->text();
  EXPECT_TRUE(text.endsWith("ms")) << text.toStdString();
  EXPECT_NEAR(text.split(' ').front().toDouble(), msFromFrames(c->fadeIn.length, 48'000), 0.1);
  EXPECT_TRUE(find<QLineEdit>("In bend")->text().startsWith("25"));
  doc().undo();
  EXPECT_EQ(doc().song(), before) << "one drag is one step";
}

TEST_F(Benches, TheJointsCurveMovesTheMeetingPoint) {
  import();
  auto s = doc().timingDesk().settings();
  s.on = false;
  doc().timingDesk().setSettings("off", s);
  doc().setStep(Step::clips);
  const auto set = doc().song().sets[0].id;
  doc().edit("split", splitAt(doc().song(), set, {Frames{200'000}}, Frames{960}));
  const auto later = (*doc().song().find(set)->clips)[1].id;
  doc().selection().choose({later});
  auto* curve = find<QWidget>("joint curve");
  drag(curve, {50, 30}, {80, 30});
  EXPECT_NEAR(doc().song().find(later)->seam.bias, 0.5, 0.02);
  EXPECT_EQ((doc().song().find(later)->seam.before + doc().song().find(later)->seam.after).value, 960);
  EXPECT_TRUE(find<QLineEdit>("Cross bias")->text().startsWith("50"));
}

TEST_F(Benches, AClipIsStretchedByTypingItsPercentAndItsHitsFollow) {
  import();
  auto s = doc().timingDesk().settings();
  s.on = false;
  doc().timingDesk().setSettings("off", s);
  doc().setStep(Step::clips);
  const auto clip = doc().song().sets[0].clips->front();
  const auto hits = *doc().song().hitsOf(clip.take, doc().song().sets[0].id);
  ASSERT_FALSE(hits.empty());
  doc().selection().choose({clip.id});
  auto* field = find<QLineEdit>("Stretch");
  EXPECT_TRUE(field->text().startsWith("100")) << field->text().toStdString();
  field->setFocus();
  field->selectAll();
  QTest::keyClicks(field, "120");
  QTest::keyClick(field, Qt::Key_Return);
  const auto& now = *doc().song().find(clip.id);
  EXPECT_EQ(now.length.value, std::llround(static_cast<double>(clip.length.value) * 1.2));
  EXPECT_NEAR(static_cast<double>(now.toSong(hits.back().at).value), static_cast<double>(hits.back().at.value) * 1.2,
              2);
  doc().jobs().finishAll();
  const auto before = doc().song();
  doc().undo();
  EXPECT_EQ(doc().song().find(clip.id)->length, clip.length);
  doc().redo();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(Benches, ChoosingAnotherSetLeavesTheSongsHitsSeamsAndChecksInSight) {
  import();
  files = {files.back()};
  window->takeIn(files, false);
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().tracks.size(), 5u);
  doc().selection().chooseSet(doc().song().sets[0].id);
  doc().jobs().finishAll();
  const auto hits = stop(2)->accessibleDescription();
  const auto seams = stop(4)->accessibleDescription();
  const auto checks = doc().attention().checks().size();
  doc().selection().chooseTrack(doc().song().tracks[4].id);
  ASSERT_EQ(doc().selection().set(), doc().song().sets[1].id);
  EXPECT_TRUE(stop(2)->accessibleDescription().startsWith(hits.section(' ', 0, 1).section(',', 0, 0)))
      << stop(2)->accessibleDescription().toStdString();
  EXPECT_EQ(stop(4)->accessibleDescription(), seams);
  EXPECT_EQ(doc().attention().checks().size(), checks);
  if (checks > 0) {  // stepping goes through all, into the set that it is about
    run("checks.next");
    EXPECT_EQ(doc().selection().set(), doc().song().sets[0].id);
  }
}

TEST_F(Benches, WhatWasFoundAtOnePlaceIsOneEntry) {
  import();
  std::set<std::pair<SetId, HitId>> places;
  for (const auto& c : doc().attention().checks()) EXPECT_TRUE(places.insert({c.set, c.hit}).second) << c.title;
}

TEST_F(Benches, AfterReturnOrEscapeInAFieldTheKeysAreTheLanesAgain) {
  import();
  doc().setStep(Step::timing);
  auto* field = find<QDoubleSpinBox>("Leave alone within");
  field->setFocus();
  QTest::keyClicks(field, "3");
  QTest::keyClick(field, Qt::Key_Return);
  EXPECT_TRUE(until([&] { return window->lanes().hasFocus(); }));
  const auto now = doc().timingDesk().settings().toleranceMs;
  field->setFocus();
  field->selectAll();
  QTest::keyClicks(field, "9");
  QTest::keyClick(field, Qt::Key_Escape);
  EXPECT_TRUE(until([&] { return window->lanes().hasFocus(); }));
  EXPECT_EQ(doc().timingDesk().settings().toleranceMs, now) << "Escape leaves the value as it was";
}

TEST_F(Benches, TheWindowIsNeverLargerThanTheUsableScreen) {
  const auto free = window->screen()->availableGeometry().size();
  EXPECT_LE(window->minimumWidth(), free.width());
  EXPECT_LE(window->minimumHeight(), free.height());
}

}  // namespace
}  // namespace ochron
