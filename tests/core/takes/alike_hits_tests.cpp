// Hits that sound alike on the mic that hears them best.
#include "takes/alike_hits.h"

#include <gtest/gtest.h>

#include "edits/hit_edits.h"
#include "support/made_mic.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

struct Alike : ::testing::Test {
  void SetUp() override {
    test::Take mic(20);
    std::vector<Hit> hits;
    for (int i = 0; i < 30; ++i) {
      const std::int64_t at = 12'000 + i * 30'000;
      Hit h;
      h.at = Frames{at}, h.strength = 0.8, h.confidence = 0.9;
      h.drum = i % 3 == 0 ? DrumClass::tom : DrumClass::snare;  // every second tom is taken for a snare
      i % 3 == 2 ? mic.snare(at) : mic.tom(at);
      hits.push_back(h);
    }
    TempoMap map;
    m = test::songOf(map, {mic.samples}, {});
    for (auto& h : hits) h.heardBy = {{m.song.tracks[0].id, 0.5}};
    m.song = *setDetectedHits(m.song, m.take, m.set, hits);
  }
  const HitList& hits() const { return *m.song.hitsOf(m.take, m.set); }
  test::MadeSong m;
};

TEST_F(Alike, AreThoseOfTheSameSoundThatWereTakenForAnotherDrum) {
  const auto alike = hitsAlike(m.song, m.take, m.set, hits()[0].id, m.pool);
  ASSERT_TRUE(alike.has_value());
  std::vector<HitId> wrong;
  for (std::size_t i = 1; i < hits().size(); i += 3) wrong.push_back(hits()[i].id);
  EXPECT_EQ(*alike, wrong);
}

TEST_F(Alike, WhatTheUserNamedIsLeftAlone) {
  m.song = *setHitClass(m.song, m.take, m.set, {hits()[1].id}, DrumClass::snare);
  const auto alike = hitsAlike(m.song, m.take, m.set, hits()[0].id, m.pool);
  ASSERT_TRUE(alike.has_value());
  EXPECT_EQ(std::count(alike->begin(), alike->end(), hits()[1].id), 0);
}

TEST_F(Alike, SaysWhatIsMissing) {
  EXPECT_FALSE(hitsAlike(m.song, m.take, m.set, HitId{999'999}, m.pool));
  const auto none = hitsAlike(m.song, m.take, m.set, hits()[0].id, {});
  ASSERT_FALSE(none);
  EXPECT_NE(none.error().message.find("not at hand"), std::string::npos);
}

}  // namespace
}  // namespace ochron
