// Detection on a take of a song: which mics are listened to, and what is said when it can not be done.
#include "takes/detect_hits.h"

#include <gtest/gtest.h>

#include <algorithm>

#include "edits/track_edits.h"
#include "support/made_mic.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

/// A kick's and a snare's mic with toms between, and an overhead that tells them apart.
struct Detect : ::testing::Test {
  void SetUp() override {
    test::Take kick(24), snare(24), overhead(24);
    for (int i = 0; i < 44; ++i) {
      const std::int64_t at = 12'000 + i * 25'000;
      if (i % 2) {
        snare.hit(at, 190, 70, 0.6, 0.8);
        overhead.hit(at + 144, 190, 70, 0.6, 0.16);
        snares.emplace_back(at);
      } else {
        snare.hit(at + 96, 185, 80, 0.6, 0.3);
        overhead.hit(at + 120, 185, 80, 0.6, 0.5);
      }
      if (i % 4 == 0) kick.kick(at + 6'000), overhead.kick(at + 6'150, 0.2), kicks.emplace_back(at + 6'000);
    }
    m = test::songOf(TempoMap{}, {kick.samples, snare.samples, overhead.samples}, {});
    const MicRole roles[] = {MicRole::kick, MicRole::snare, MicRole::overhead};
    for (std::size_t i = 0; i < 3; ++i) m.song.tracks[i].role = roles[i];
    m.song = *setGuides(m.song, m.set, {m.song.tracks[0].id, m.song.tracks[1].id});
  }
  HitList counting() {
    Progress progress;
    const auto all = detectHits(m.song, m.take, m.set, m.pool, progress);
    EXPECT_TRUE(all.has_value());
    return activeHits(*all, {}, m.song.rate);
  }
  std::size_t named(const HitList& hits, DrumClass drum) {
    return static_cast<std::size_t>(std::count_if(hits.begin(), hits.end(), [&](auto& h) { return h.drum == drum; }));
  }
  test::MadeSong m;
  std::vector<Frames> kicks, snares;
};

TEST_F(Detect, AMicThatIsNoGuideHelpsToTellBleed) {
  const auto hits = counting();
  EXPECT_EQ(named(hits, DrumClass::kick), kicks.size());
  EXPECT_EQ(named(hits, DrumClass::snare), snares.size());
  EXPECT_EQ(hits.size(), kicks.size() + snares.size());
}

TEST_F(Detect, WithoutItsRecordingTheGuidesDecideAlone) {
  m.pool.erase(m.song.find(m.take)->mics[2].media);
  const auto hits = counting();
  EXPECT_EQ(named(hits, DrumClass::kick), kicks.size());
  EXPECT_GT(named(hits, DrumClass::snare), snares.size()) << "toms are taken for snares now";
}

TEST_F(Detect, WithoutAnyGuideEveryMicIsOne) {
  m.song = *setGuides(m.song, m.set, {});
  const auto hits = counting();
  bool overheadAsked = false;
  for (const auto& h : hits)
    for (const auto& g : h.heardBy) overheadAsked = overheadAsked || g.track == m.song.tracks[2].id;
  EXPECT_TRUE(overheadAsked);
  EXPECT_GT(hits.size(), kicks.size() + snares.size()) << "the overhead hears the toms";
}

TEST_F(Detect, ARecordingThatBeginsLaterInTheTakeIsListenedToInItsPlace) {
  const auto before = counting();
  auto song = m.song;
  for (auto& take : song.takes)
    for (auto& mic : take.mics) mic.offset = Frames{4'800};
  m.song = song;
  const auto after = counting();
  ASSERT_EQ(after.size(), before.size());
  for (std::size_t i = 0; i < after.size(); ++i) EXPECT_EQ(after[i].at, before[i].at + Frames{4'800});
}

TEST_F(Detect, SaysWhatIsMissingAndCanBeCancelled) {
  Progress progress;
  const auto none = detectHits(m.song, m.take, m.set, {}, progress);
  ASSERT_FALSE(none);
  EXPECT_NE(none.error().message.find("guides"), std::string::npos);
  EXPECT_FALSE(detectHits(m.song, TakeId{999}, m.set, m.pool, progress));
  progress.cancel();
  const auto cancelled = detectHits(m.song, m.take, m.set, m.pool, progress);
  ASSERT_FALSE(cancelled);
  EXPECT_EQ(cancelled.error().kind, ErrorKind::cancelled);
}

TEST(DetectNotes, AreHitsExactlyWhereTheyBeginAndAChordIsOne) {
  auto m = test::songOf(TempoMap{}, {std::vector<float>(48'000 * 4)}, {});
  const auto media = m.song.takes.front().mics.front().media;
  m.pool[media] = DecodedMedia::fromSamples(48'000, {std::vector<float>(48'000 * 4)},
                                            {{Frames{5'001}, Frames{20'000}, 60, 64, false},
                                             {Frames{5'600}, Frames{20'000}, 64, 100, false},
                                             {Frames{5'601}, Frames{20'000}, 67, 70, false},
                                             {Frames{30'007}, Frames{31'000}, 36, 127, true},
                                             {Frames{30'500}, Frames{31'000}, 42, 50, true}});
  Progress progress;
  const auto hits = detectHits(m.song, m.take, m.set, m.pool, progress);
  ASSERT_TRUE(hits);
  ASSERT_EQ(hits->size(), 2U);
  EXPECT_EQ((*hits)[0].at, Frames{5'001});
  EXPECT_NEAR((*hits)[0].strength, 100.0 * 100 / 127 / 127, 1e-9) << "as loud as its loudest note";
  EXPECT_TRUE((*hits)[0].strokes.empty());
  EXPECT_EQ((*hits)[1].at, Frames{30'007});
  EXPECT_EQ((*hits)[1].drum, DrumClass::kick);
  ASSERT_EQ((*hits)[1].strokes.size(), 2U);
  EXPECT_EQ((*hits)[1].strokes[1].drum, DrumClass::hat);
  EXPECT_EQ(activeHits(*hits, {}, 48'000).size(), 2U);
}

}  // namespace
}  // namespace ochron
