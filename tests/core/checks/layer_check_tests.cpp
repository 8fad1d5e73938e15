// What deserves a look about layers: strokes near the threshold, sounds that weaken the drum.

#include "checks/layer_checks.h"

#include <gtest/gtest.h>

#include "checks/fix.h"
#include "support/layered.h"

namespace ochron {
namespace {

/// A snare whose layer begins right at the strength of one of its strokes.
test::MadeSong borderline() {
  test::Style style;
  style.bars = 8;
  auto made = test::layered(test::songOf(test::perform(style)), DrumClass::snare, std::vector<float>(2000, 0.1F));
  auto layer = made.song.layers.back();
  layer.settings.threshold = strokesOf(made.song, layer).at(3).strength + 0.01;
  made.song = *setLayer(made.song, layer);
  return made;
}

TEST(LayerChecks, AStrokeNearTheThresholdIsListedAndTheOtherWayIsOneCommand) {
  const auto made = borderline();
  const auto stroke = strokesOf(made.song, made.song.layers.back()).at(3);
  ASSERT_FALSE(stroke.heard);
  const auto checks = layerChecksOf(made.song);
  const auto found = std::find_if(checks.begin(), checks.end(), [&](const Check& c) { return c.hit == stroke.hit; });
  ASSERT_NE(found, checks.end());
  EXPECT_EQ(found->kind, CheckKind::ghostOrStroke);
  EXPECT_EQ(groupOf(found->kind), CheckGroup::kit);
  const auto fixed = fixCheck(made.song, made.set, *found, made.pool);
  ASSERT_TRUE(fixed) << fixed.error().message;
  EXPECT_TRUE(strokesOf(*fixed, fixed->layers.back()).at(3).heard);
  for (const auto& c : layerChecksOf(*fixed)) EXPECT_NE(c.hit, stroke.hit) << "it is decided";
  const auto accepted = acceptCheck(made.song, *found);
  ASSERT_TRUE(accepted);
  for (const auto& c : layerChecksOf(*accepted)) EXPECT_NE(c.hit, stroke.hit) << "it is good as it is";
}

TEST(LayerChecks, APolarityThatCancelsIsListedOnceAndTurnedBack) {
  auto made = borderline();
  auto layer = made.song.layers.back();
  layer.settings.threshold = 0;
  auto sounds = *layer.sounds;
  sounds.sounds.front().likeness = -0.8;
  sounds.sounds.front().turned = true;
  layer.sounds = sounds;
  made.song = *setLayer(made.song, layer);
  EXPECT_TRUE(layerChecksOf(made.song).empty()) << "as it was heard it fits";
  layer.turned = false;
  made.song = *setLayer(made.song, layer);
  const auto checks = layerChecksOf(made.song);
  ASSERT_EQ(checks.size(), 1U);
  EXPECT_EQ(checks.front().kind, CheckKind::layerCancels);
  const auto fixed = fixCheck(made.song, made.set, checks.front(), made.pool);
  ASSERT_TRUE(fixed);
  EXPECT_FALSE(fixed->layers.back().turned);
  EXPECT_TRUE(layerChecksOf(*fixed).empty());
}

}  // namespace
}  // namespace ochron
