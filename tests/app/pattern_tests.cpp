// Patterns of the Kit step: kept from the lanes, laid, varied, taken back, written.

#include <QAbstractButton>
#include <QToolButton>
#include <fstream>
#include <set>

#include "app/window_fixture.h"
#include "document/kit_desk.h"
#include "document/pattern_desk.h"
#include "steps/kit/pattern_card.h"
#include "steps/kit/pattern_grid.h"

namespace ochron {
namespace {

/// The drums cut at their hits, the Kit step open.
struct PatternSteps : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
    doc().setStep(Step::clips);
    ASSERT_TRUE(run("clips.splithits"));
    doc().jobs().finishAll();
    run("step.7");
    QTest::qWait(0);
    find<QToolButton>("fold kit patterns")->setChecked(true);
    QTest::qWait(0);
  }
  PatternDesk& desk() { return doc().patternDesk(); }
  void press(const char* name) { QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton); }
  Frames bar(int n) { return doc().song().tempo.toFrames(doc().song().tempo.barStart(n)); }
  const ClipList& clips() { return *doc().song().find(doc().kitDesk().set())->clips; }
  std::vector<Clip> clipsFrom(Frames from, Frames to) {
    std::vector<Clip> out;
    for (const auto& c : clips())
      if (c.start >= from && c.start < to) out.push_back(c);
    return out;
  }
};

TEST_F(PatternSteps, ABarIsKeptByItsButtonLaidBehindTheSongAndTakenBack) {
  doc().transport().setCursor(bar(1));
  const auto before = clips();
  press("keep pattern");
  ASSERT_NE(desk().chosen(), nullptr);
  const auto pattern = *desk().chosen();
  EXPECT_EQ(clips(), before) << "the lanes stay as they are";
  EXPECT_EQ(pattern.name, "Pattern 1");
  ASSERT_GT(pattern.strokes->size(), 2U);
  QTest::qWait(0);
  const auto at = bar(40);
  doc().transport().setCursor(at);
  press("lay pattern");
  EXPECT_EQ(doc().transport().cursor(), bar(41)) << "pressed again, it goes on";
  const auto laid = clipsFrom(at, bar(41));
  ASSERT_EQ(laid.size(), pattern.strokes->size());
  for (std::size_t i = 0; i < laid.size(); ++i) {
    EXPECT_EQ(laid[i].source, (*pattern.strokes)[i].clip.source);
    EXPECT_EQ(doc().song().find(laid[i].bundle)->name, "Pattern 1");
  }
  EXPECT_TRUE(run("edit.undo"));
  EXPECT_TRUE(clipsFrom(at, bar(41)).empty());
}

TEST_F(PatternSteps, ARangeIsKeptVariedByItsButtonAndLaidSeveralTimesByKey) {
  doc().selection().setRange({bar(0), bar(2)});
  ASSERT_TRUE(run("patterns.keep"));
  const auto kept = *desk().chosen();
  EXPECT_EQ(kept.length, doc().song().tempo.barStart(2));
  QTest::qWait(0);
  press("vary pattern");
  EXPECT_NE(desk().chosen()->strokes, kept.strokes);
  EXPECT_EQ(desk().chosen()->strokes->size(), kept.strokes->size());
  const auto once = desk().chosen()->strokes;
  press("vary pattern");
  EXPECT_NE(desk().chosen()->strokes, once) << "another one each time";
  ASSERT_TRUE(run("patterns.duplicate"));
  EXPECT_EQ(desk().patterns().size(), 2U);
  EXPECT_TRUE(run("patterns.previous"));
  EXPECT_EQ(desk().chosen()->id, kept.id);
  doc().transport().setCursor(bar(40));
  desk().lay(3);
  EXPECT_EQ(doc().transport().cursor(), bar(46));
  std::set<BundleId> bundles;
  for (const auto& c : clipsFrom(bar(40), bar(46))) bundles.insert(c.bundle);
  EXPECT_EQ(bundles.size(), 3U) << "each time one, which the timing plan may cut further";
  EXPECT_FALSE(bundles.contains(BundleId{}));
}

TEST_F(PatternSteps, ABarIsDrawnByMouseAndKeysAndLaid) {
  doc().selection().choose({clips()[0].id});
  press("draw pattern");
  ASSERT_NE(desk().chosen(), nullptr) << status().toStdString();
  QTest::qWait(0);
  auto* grid = window->findChild<PatternGrid*>();
  ASSERT_TRUE(grid->isVisible()) << "drawing opens it";
  const auto strokes = [&] { return *desk().chosen()->strokes; };
  ASSERT_EQ(strokes().size(), 1U);
  doc().selection().choose({clips()[1].id});
  QTest::qWait(0);
  ASSERT_EQ(desk().slices().size(), 2U) << "a chosen cell has a row";
  const auto step = doc().timingDesk().settings().grid.step();
  const auto click = [&](int row, int column) {
    QTest::mouseClick(grid, Qt::LeftButton, {}, grid->boxOf(row, column).center().toPoint());
    QTest::qWait(0);
  };
  click(1, 4);
  click(0, 8);
  ASSERT_EQ(strokes().size(), 3U);
  EXPECT_EQ(strokes()[1].at, Ticks{4 * step.value});
  EXPECT_EQ(strokes()[1].clip.id, clips()[1].id);
  EXPECT_EQ(strokes()[2].clip.id, clips()[0].id);
  click(0, 4);
  ASSERT_EQ(strokes().size(), 3U) << "one slice at a time";
  EXPECT_EQ(strokes()[1].clip.id, clips()[0].id);
  // Dragged louder in one step, which Escape takes back while it is held.
  const auto from = grid->boxOf(0, 4).center();
  const double before = strokes()[1].clip.gainDb;
  drag(grid, from, from - QPointF(0, 24), {}, false);
  EXPECT_GT(strokes()[1].clip.gainDb, before + 3);
  EXPECT_TRUE(run("edit.norange"));
  EXPECT_EQ(strokes()[1].clip.gainDb, before);
  QTest::mouseRelease(grid, Qt::LeftButton, {}, from.toPoint());
  drag(grid, from, from - QPointF(0, 24));
  EXPECT_GT(strokes()[1].clip.gainDb, before + 3);
  EXPECT_TRUE(run("edit.undo"));
  EXPECT_EQ(strokes()[1].clip.gainDb, before);
  // By keys: to the second row and two lines on, struck, softer, erased.
  grid->setFocus();
  QTest::qWait(0);
  QTest::keyClick(grid, Qt::Key_Down);
  QTest::keyClick(grid, Qt::Key_Right);
  QTest::keyClick(grid, Qt::Key_Right);
  QTest::keyClick(grid, Qt::Key_Return);
  QTest::qWait(0);
  ASSERT_EQ(strokes().size(), 4U);
  EXPECT_EQ(strokes()[2].at, Ticks{6 * step.value});
  QTest::keyClick(grid, Qt::Key_Minus);
  QTest::qWait(0);
  EXPECT_EQ(strokes()[2].clip.gainDb, clips()[1].gainDb - 1);
  EXPECT_TRUE(status().contains("struck at")) << status().toStdString();
  QTest::keyClick(grid, Qt::Key_Return);
  QTest::qWait(0);
  ASSERT_EQ(strokes().size(), 3U);
  ASSERT_TRUE(run("patterns.longer"));
  EXPECT_EQ(desk().chosen()->length, doc().song().tempo.barStart(2));
  ASSERT_TRUE(run("patterns.shorter"));
  EXPECT_TRUE(run("patterns.shorter"));
  EXPECT_EQ(desk().chosen()->length, doc().song().tempo.barStart(1)) << "a bar is the least";
  // What is read to those who do not see it is pressed as it is clicked.
  const auto items = grid->readItems();
  const auto at = std::find_if(items.begin(), items.end(), [](auto& i) { return i.name.contains("line 5: struck"); });
  ASSERT_NE(at, items.end());
  doc().transport().setCursor(bar(40));
  desk().lay(1);
  const auto laid = clipsFrom(bar(40), bar(41));
  ASSERT_EQ(laid.size(), 3U);
  EXPECT_EQ(laid[1].start - laid[0].start,
            doc().song().tempo.toFrames(Ticks{4 * step.value}) - doc().song().tempo.origin());
  ASSERT_TRUE(run("patterns.show"));
  EXPECT_FALSE(grid->isVisible());
}

TEST_F(PatternSteps, CardsAreChosenByKeyAndPaintAtEverySize) {
  ASSERT_TRUE(run("patterns.keep"));
  ASSERT_TRUE(run("patterns.duplicate"));
  QTest::qWait(0);
  const auto cards = window->findChildren<PatternCard*>();
  ASSERT_EQ(cards.size(), 2);
  EXPECT_EQ(desk().chosen()->id, cards[1]->pattern());
  QTest::keyClick(cards[0], Qt::Key_Return);
  EXPECT_EQ(desk().chosen()->id, cards[0]->pattern());
  EXPECT_FALSE(cards[0]->accessibleName().isEmpty());
  EXPECT_TRUE(cards[0]->accessibleDescription().contains("1 bar"));
  for (const auto& size : {QSize(1280, 800), QSize(1024, 700)}) {
    window->resize(size);
    QTest::qWait(0);
    EXPECT_FALSE(cards[0]->grab().isNull());
  }
}

TEST_F(PatternSteps, OutlastSavingAndAreWrittenAsMidiWithAKeyForEachSlice) {
  doc().transport().setCursor(bar(1));
  ASSERT_TRUE(run("patterns.keep"));
  const auto kept = *desk().chosen();
  ASSERT_TRUE(doc().files().save(scratch / "patterns.ochron"));
  ASSERT_TRUE(doc().files().open(scratch / "patterns.ochron"));
  ASSERT_EQ(doc().song().patterns.size(), 1U);
  EXPECT_EQ(doc().song().patterns[0], kept);
  doc().transport().setCursor(bar(1));
  desk().writeMidi(scratch / "pattern.mid");
  std::ifstream in(scratch / "pattern.mid", std::ios::binary);
  ASSERT_TRUE(in);
  const std::string bytes((std::istreambuf_iterator<char>(in)), {});
  std::set<int> keys;
  std::size_t notes = 0;
  for (std::size_t i = 0; i + 2 < bytes.size(); ++i)
    if ((static_cast<unsigned char>(bytes[i]) & 0xF0) == 0x90 && static_cast<signed char>(bytes[i + 1]) >= 36 &&
        static_cast<signed char>(bytes[i + 2]) > 0) {
      keys.insert(bytes[i + 1]);
      ++notes;
    }
  EXPECT_EQ(notes, kept.strokes->size());
  EXPECT_EQ(keys.size(), kept.strokes->size()) << "no slice of one bar is played twice";
}

}  // namespace
}  // namespace ochron
