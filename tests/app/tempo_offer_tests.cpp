// From files of an unknown tempo to the tempo of the song: offered in one line, taken over by one press, nothing
// unasked.

#include <QPushButton>

#include "app/window_fixture.h"
#include "document/tempo_desk.h"
#include "head/notice_bar.h"

namespace ochron {
namespace {

struct TempoOffer : test::Window {
  NoticeBar& notices() { return *window->findChild<NoticeBar*>(); }
};

TEST_F(TempoOffer, AfterAnImportIntoAnEmptySongWhatWasHeardIsOfferedAndNothingIsApplied) {
  const auto before = doc().song().tempo;
  window->takeIn(files, false);
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().tempoDesk().heard());
  EXPECT_TRUE(notices().isVisible());
  EXPECT_EQ(doc().song().tempo, before);
}

TEST_F(TempoOffer, OnePressTakesItOverAsOneStep) {
  window->takeIn(files, false);
  doc().jobs().finishAll();
  ASSERT_TRUE(doc().tempoDesk().heard());
  const auto before = doc().song();
  QPushButton* use = nullptr;
  for (auto* b : notices().findChildren<QPushButton*>())
    if (b->isVisible() && b->text().contains("Use")) use = b;
  ASSERT_NE(use, nullptr);
  QTest::mouseClick(use, Qt::LeftButton);
  const auto& map = doc().song().tempo;
  EXPECT_NEAR(map.bpmAt(Ticks{0}) / performance.map.bpmAt(Ticks{0}), 1, 0.01);
  // Bar 1 stands on a beat of the performance.
  const auto ticks = static_cast<double>(performance.map.toTicks(map.origin()).value) / kTicksPerQuarter;
  EXPECT_NEAR(ticks, std::round(ticks), 0.05);
  EXPECT_FALSE(notices().isVisible());
  doc().undo();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(TempoOffer, ALaterImportIsNotListenedToUnasked) {
  import();
  const auto heard = doc().song().tempo;
  notices().dismiss();
  window->takeIn({files.front()}, false);
  doc().jobs().finishAll();
  EXPECT_FALSE(notices().isVisible());
  EXPECT_EQ(doc().song().tempo, heard);
  EXPECT_TRUE(run("take.heartempo"));
  doc().jobs().finishAll();
  EXPECT_TRUE(notices().isVisible());
}

}  // namespace
}  // namespace ochron
