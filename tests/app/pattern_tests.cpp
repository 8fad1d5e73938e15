// Patterns of the Kit step: kept from the lanes, laid, varied, taken back, written.

#include <QAbstractButton>
#include <QToolButton>
#include <fstream>
#include <set>

#include "app/window_fixture.h"
#include "document/kit_desk.h"
#include "document/pattern_desk.h"
#include "steps/kit/pattern_card.h"

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
