// A first look around: each card beside the real thing, everything usable meanwhile, left at once. And motion.

#include <QAbstractButton>
#include <QLineEdit>

#include "app/window_fixture.h"
#include "document/timing_desk.h"
#include "guide/tour.h"
#include "lanes/lanes_view.h"

namespace ochron {
namespace {

struct LookAround : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
    run("help.tour");
    ASSERT_TRUE(tour());
  }
  Tour* tour() { return window->findChild<Tour*>("tour"); }
  void press(const char* name) { QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton); }
};

TEST_F(LookAround, EveryCardIsInTheWindowAndCoversNothingItSpeaksOf) {
  ASSERT_EQ(tour()->count(), 5);
  for (const QSize size : {QSize(1280, 800), QSize(1024, 700)}) {
    window->resize(size);
    tour()->go(0);
    for (int i = 0; i < 5; ++i) {
      QTest::qWait(0);
      EXPECT_EQ(tour()->at(), i);
      EXPECT_TRUE(window->rect().contains(tour()->geometry())) << i;
      if (i + 1 < 5) press("tour next");
    }
  }
}

TEST_F(LookAround, TheWindowIsUsedMeanwhile) {
  const auto hits = doc().timingDesk().planned().hits.size();
  ASSERT_GT(hits, 0U);
  run("step.3");
  EXPECT_EQ(doc().step(), Step::hits);
  press("tour next");
  press("tour next");
  EXPECT_EQ(doc().step(), Step::timing) << "a card brings its own step into sight";
  press("tour back");
  EXPECT_EQ(tour()->at(), 1);
}

TEST_F(LookAround, EscapeSkipAndTheLastCardLeave) {
  QTest::keyClick(tour(), Qt::Key_Escape);
  QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  EXPECT_FALSE(tour());
  run("help.tour");
  press("tour skip");
  QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  EXPECT_FALSE(tour());
  run("help.tour");
  for (int i = 0; i < 5; ++i) press("tour next");
  QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  EXPECT_FALSE(tour());
}

TEST(Motion, AJumpGlidesAndEndsWhereItWouldHaveBeenAtOnce) {
  ViewState at;
  ViewState glides;
  for (auto* v : {&at, &glides}) {
    v->setWidth(800);
    v->setSongEnd(Frames{48'000 * 120});
    v->show(0, 1'000);
  }
  glides.setGlide(60);
  std::vector<double> seen;
  QObject::connect(&glides, &ViewState::changed, [&] { seen.push_back(glides.framesPerPixel()); });
  for (auto* v : {&at, &glides}) v->zoomInto(400, 0.25);
  EXPECT_EQ(at.framesPerPixel(), 250);
  ASSERT_TRUE(QTest::qWaitFor([&] { return glides.framesPerPixel() == 250; }, 2'000));
  EXPECT_NEAR(glides.firstFrame(), at.firstFrame(), 1e-6);
  EXPECT_TRUE(std::any_of(seen.begin(), seen.end(), [](double p) { return p > 260 && p < 990; })) << "on the way";
}

TEST(Motion, KeysPressedQuicklyAddUpAndAScrollEndsIt) {
  ViewState view;
  view.setWidth(800);
  view.setSongEnd(Frames{48'000 * 120});
  view.show(0, 1'000);
  view.setGlide(60);
  view.zoomInto(400, 0.5);
  view.zoomInto(400, 0.5);
  ASSERT_TRUE(QTest::qWaitFor([&] { return std::abs(view.framesPerPixel() - 250) < 1e-9; }, 2'000));
  view.zoomInto(400, 0.5);
  view.show(48'000, 400);
  QTest::qWait(120);
  EXPECT_EQ(view.framesPerPixel(), 400);
}

}  // namespace
}  // namespace ochron
