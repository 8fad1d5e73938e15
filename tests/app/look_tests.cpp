// What is looked at: legible on both sheets; what needs a look, filtered; the original as loud as the edited version.

#include <array>
#include <cmath>

#include "app/window_fixture.h"
#include "checks/checks_panel.h"
#include "document/attention.h"
#include "document/hit_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/timing_desk.h"
#include "lanes/lanes_view.h"
#include "render/loudness.h"
#include "theme/theme.h"

namespace ochron {
namespace {

/// Relative luminance (WCAG 2.1).
double luminance(const QColor& c) {
  const auto linear = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
  return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
  const double la = luminance(a);
  const double lb = luminance(b);
  return (std::max(la, lb) + 0.05) / (std::min(la, lb) + 0.05);
}

TEST(Sheets, EveryTextColourStandsOutFromEveryGroundItIsWrittenOn) {
  for (std::size_t kind = 0; kind < kSheetNames.size(); ++kind) {
    Theme::get().setSheet(static_cast<SheetKind>(kind));
    const auto s = Theme::get().sheet();
    using Named = std::vector<std::pair<const char*, QColor>>;
    const auto expect = [&](const Named& texts, const Named& grounds) {
      for (const auto& [text, colour] : texts)
        for (const auto& [ground, under] : grounds)
          EXPECT_GE(contrast(colour, under), 4.5) << text << " on " << ground << ", sheet " << kSheetNames[kind];
    };
    const Named grounds{{"paper", s.paper}, {"panel", s.panel}, {"field", s.field}};
    expect({{"ink", s.ink}, {"note", s.note}}, grounds);
    expect({{"ink", s.ink}, {"note", s.note}}, {{"chrome", s.chrome}});
    expect({{"selection", s.selection}, {"early", s.early}, {"late", s.late}, {"alarm", s.alarm}}, grounds);
    EXPECT_GE(contrast(s.paper, s.ink), 4.5) << "the version that holds";
    for (const auto& ground : {s.field, s.panel})
      for (const auto& border : {s.edge, s.selection})
        EXPECT_GE(contrast(border, ground), 3.0) << "what can be changed has an edge, sheet " << kSheetNames[kind];
  }
  Theme::get().setSheet(SheetKind::light);
}

struct Looks : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
    auto s = doc().timingDesk().settings();
    s.on = true;
    s.largestMoveMs = 0;
    s.method = TimingMethod::stretch;
    s.stretchLimit = kStretchLimitRange.low;
    doc().timingDesk().setSettings("plan", s);
    auto hits = doc().song().find(doc().selection().set())->hits;
    hits.sensitivity = 95;
    doc().hitDesk().setSettings(hits);
    doc().jobs().finishAll();
  }
  ChecksPanel& panel() { return *window->findChild<ChecksPanel*>(); }
};

TEST_F(Looks, OneKindCanBeListedAndIsWhatIsSteppedThrough) {
  const auto all = doc().attention().checks();
  ASSERT_FALSE(all.empty());
  EXPECT_EQ(panel().count(), static_cast<int>(all.size()));
  int sum = 0;
  for (std::size_t i = 0; i < kCheckGroupNames.size(); ++i) {
    const auto group = static_cast<CheckGroup>(i);
    panel().showOnly(group, false);
    const auto here = std::count_if(all.begin(), all.end(), [&](const Check& c) { return groupOf(c.kind) == group; });
    EXPECT_EQ(panel().count(), here);
    sum += panel().count();
    for (int k = 0; k < panel().count(); ++k) {
      run("checks.next");
      ASSERT_TRUE(doc().selection().hit());
      EXPECT_TRUE(std::any_of(all.begin(), all.end(), [&](const Check& c) {
        return c.hit == doc().selection().hit()->hit && groupOf(c.kind) == group;
      }));
    }
  }
  EXPECT_EQ(sum, static_cast<int>(all.size()));
  panel().showOnly({}, true);
  EXPECT_EQ(panel().count(), static_cast<int>(all.size())) << "there is one set";
}

TEST_F(Looks, LanesTakeTheRoomThereIsUntilTheirHeightIsSetByHand) {
  const auto tracks = static_cast<int>(doc().song().tracks.size());
  window->resize(1280, 1600);
  QTest::qWait(0);
  const auto fitting = [&] { return std::clamp(window->lanes().height() / tracks, 34, 72); };
  EXPECT_EQ(window->view().laneHeight(), fitting());
  EXPECT_GT(window->view().laneHeight(), 34);
  window->resize(1280, 800);
  QTest::qWait(0);
  EXPECT_EQ(window->view().laneHeight(), fitting());
  run("view.taller");
  const int byHand = window->view().laneHeight();
  window->resize(1280, 1600);
  QTest::qWait(0);
  EXPECT_EQ(window->view().laneHeight(), byHand);
}

/// Lanes give way a little so that all are whole, but never so far that their heads lose a line.
TEST_F(Looks, LanesThatFitKeepTheLinesOfTheirHeads) {
  for (const int tracks : {5, 12, 24})
    for (int room = 60; room < 1200; room += 7) {
      ViewState view;
      view.fitLanes(room, tracks, false);
      EXPECT_GE(view.laneHeight(), kTwoLineLane) << room << " for " << tracks;
      if (view.laneHeight() < 34) EXPECT_LE(view.laneHeight() * tracks, room) << "lower only where all are whole";
      view.fitLanes(room, tracks, true);
      EXPECT_GE(view.laneHeight(), 19);
      if (view.laneHeight() > 19)
        EXPECT_LE(view.laneHeight() * tracks, room) << "slim ones give way until all are whole";
    }
}

/// What is kept of the lanes between repaints never differs from what would be drawn anew.
TEST_F(Looks, LanesThatWereKeptAreTheLanesAsTheyAre) {
  auto& lanes = window->lanes();
  auto& view = window->view();
  const auto picture = [&] {
    doc().jobs().finishAll();  // seams are measured
    QImage image(lanes.size(), QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::white);
    lanes.render(&image);
    return image;
  };
  const auto same = [&](const char* after) {
    const auto kept = picture();
    const double first = view.firstFrame();
    const double perPixel = view.framesPerPixel();
    view.show(first + 4000, perPixel * 2);
    (void)picture();
    view.show(first, perPixel);
    EXPECT_TRUE(kept == picture()) << after;
  };
  auto plan = doc().timingDesk().settings();
  plan.method = TimingMethod::slices;
  doc().timingDesk().setSettings("slices", plan);
  doc().setStep(Step::clips);
  for (const double seconds : {9.0, 1.0, 0.01}) {
    const auto look = [&] { view.show(40'000, 48'000 * seconds / view.width()); };
    look();
    const auto untouched = picture();
    same("nothing");
    const auto clips = *doc().song().sets[0].clips;
    const auto seen =
        std::find_if(clips.begin(), clips.end(), [&](auto& c) { return c.range().contains(Frames{40'200}); });
    ASSERT_NE(seen, clips.end());
    ASSERT_TRUE(doc().edit("move", moveClips(doc().song(), {seen->id}, Frames{1777}, Overlap::crossfade)));
    EXPECT_FALSE(picture() == untouched);
    same("a clip moved");
    ASSERT_TRUE(doc().edit("fade", changeFades(doc().song(), {seen->id}, FadeEnd::in, [](const Clip&, Fade f) {
                             f.length = Frames{2400};
                             return f;
                           })));
    same("a fade");
    ASSERT_TRUE(doc().edit("mute", changeClips(doc().song(), {seen->id}, [](Clip& c) { c.muted = true; })));
    same("a clip muted");
    ASSERT_TRUE(doc().edit("delete", deleteClips(doc().song(), {seen->id}, true)));
    same("a clip deleted, the rest moved up");
    auto song = doc().song();
    song.tracks[1].muted = !song.tracks[1].muted;
    ASSERT_TRUE(doc().edit("mute a track", song));
    same("a track muted");
    for (int i = 0; i < 5; ++i) doc().undo();
    look();
    EXPECT_TRUE(picture() == untouched) << "all taken back";
  }
}

TEST_F(Looks, TheOriginalIsHeardAsLoudAsTheEditedVersion) {
  EXPECT_NEAR(doc().sounding().originalGainDb(), 0, 0.3) << "slices moved are as loud as before";
  // Every second piece silent: the edited version is softer than what was recorded.
  auto s = doc().timingDesk().settings();
  s.method = TimingMethod::slices;
  doc().timingDesk().setSettings("slices", s);
  doc().jobs().finishAll();
  auto song = doc().song();
  for (auto& set : song.sets) {
    auto clips = *set.clips;
    for (std::size_t i = 1; i < clips.size(); i += 2) clips[i].muted = true;
    set.clips = std::move(clips);
  }
  ASSERT_TRUE(doc().edit("softer", song));
  doc().jobs().finishAll();
  const auto plan = doc().sounding().playPlan();
  Progress progress;
  const FrameRange whole{Frames{}, doc().song().end()};
  const double edited = *loudnessOf(plan->edited, whole, progress);
  const double original = *loudnessOf(plan->original, whole, progress);
  ASSERT_LT(edited, original - 1);
  EXPECT_NEAR(doc().sounding().originalGainDb(), edited - original, 0.11);
  EXPECT_NEAR(plan->originalGain, std::pow(10.0, (edited - original) / 20), 0.02);
  run("transport.match");
  EXPECT_EQ(doc().sounding().playPlan()->originalGain, 1.0F);
  run("transport.match");
  doc().jobs().finishAll();
  EXPECT_NEAR(doc().sounding().playPlan()->originalGain, plan->originalGain, 1e-6);
}

}  // namespace
}  // namespace ochron
