// Controls of effects that move along the song: their values, what is heard of them live and exported, what they go
// along with, and what the file keeps.

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <thread>

#include "edits/insert_edits.h"
#include "edits/locks.h"
#include "edits/mark_edits.h"
#include "edits/rate_edits.h"
#include "edits/tempo_edits.h"
#include "play/engine.h"
#include "render/live_racks.h"
#include "render/render.h"
#include "store/song_json.h"
#include "support/effects_here.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

const std::string kMovedEqualizer = "urn:orthochron:lv2:equalizer";

MovedControl gainCourse(Envelope points) { return {"Low gain", "dB", -18, 18, EnvelopeWay::even, std::move(points)}; }

TEST(MovedControl, GoesEvenlyByOctavesOrAtOnce) {
  const Envelope points{{Frames{1000}, 100, 0}, {Frames{2000}, 400, 0}};
  MovedControl m{"Frequency", "Hz", 20, 20'000, EnvelopeWay::even, points};
  EXPECT_EQ(m.at(Frames{0}), 100);
  EXPECT_EQ(m.at(Frames{1500}), 250);
  EXPECT_EQ(m.at(Frames{9000}), 400);
  m.way = EnvelopeWay::octaves;
  EXPECT_NEAR(m.at(Frames{1500}), 200, 1e-9);
  m.way = EnvelopeWay::steps;
  EXPECT_EQ(m.at(Frames{1999}), 100);
  EXPECT_EQ(m.at(Frames{2000}), 400);
}

struct Turned {
  const char* effect;
  const char* control;
  float from;
  float to;
};
class Turns : public ::testing::TestWithParam<Turned> {};

TEST_P(Turns, AreNoClicksInALowTone) {
  const auto [uri, control, from, to] = GetParam();
  const auto& all = test::effectsHere();
  const auto info = std::find_if(all.begin(), all.end(), [&](const EffectInfo& e) { return e.uri == uri; });
  ASSERT_NE(info, all.end());
  const auto started = Effect::start(*info, 48'000, 1, {{control, from}, {"ratio", 1}});
  ASSERT_TRUE(started && (*started)->waitUntilReady(std::chrono::seconds(20)));
  auto& effect = **started;
  const auto which = static_cast<std::size_t>(
      std::find_if(info->controls.begin(), info->controls.end(), [&](const auto& c) { return c.symbol == control; }) -
      info->controls.begin());
  std::vector<float> out;
  for (int block = 0; block < 200; ++block) {
    std::vector<float> tone(256);
    for (std::size_t i = 0; i < tone.size(); ++i)
      tone[i] = 0.1F * static_cast<float>(std::sin(2 * M_PI * 60 * static_cast<double>(out.size() + i) / 48'000));
    std::array<std::span<float>, 1> sides{tone};
    if (block == 100) effect.set(which, to);
    ASSERT_TRUE(effect.ask(sides, {}));
    ASSERT_TRUE(effect.answer(sides, Effect::Clock::now() + std::chrono::seconds(5)));
    out.insert(out.end(), tone.begin(), tone.end());
  }
  // A click is a corner: the second difference against that of the steady tone at its louder end.
  const auto corner = [&](std::size_t begin, std::size_t end) {
    float most = 0;
    for (auto i = begin; i < end; ++i) most = std::max(most, std::abs(out[i + 1] - 2 * out[i] + out[i - 1]));
    return most;
  };
  const auto steady = std::max(corner(20'000, 25'000), corner(45'000, 51'000));
  EXPECT_LT(corner(25'500, 26'500), 12 * steady);
}

INSTANTIATE_TEST_SUITE_P(OfControls, Turns,
                         ::testing::Values(Turned{"urn:orthochron:lv2:equalizer", "low_gain", -18, 18},
                                           Turned{"urn:orthochron:lv2:equalizer", "low_gain", 12, -12},
                                           Turned{"urn:orthochron:lv2:equalizer", "high_gain", 0, 18},
                                           Turned{"urn:orthochron:lv2:equalizer", "high_gain", 18, -18},
                                           Turned{"urn:orthochron:lv2:compressor", "makeup", 0, 12}));

struct MovedControls : ::testing::Test {
  MovedControls() {
    test::Style style;
    style.bars = 3;
    made = test::songOf(test::perform(style));
    put({});
  }
  void put(const InsertPlace& place) {
    made.song = *addInsert(made.song, place, {{}, kMovedEqualizer, "Equalizer", true, {}});
    insert = insertsIn(made.song, place).back().id;
    ref = {EnvelopeKind::effectControl, {}, {}, insert, "low_gain"};
  }
  void move(Envelope points, const std::string& control = "low_gain") {
    const auto next = moveControl(made.song, insert, control, gainCourse(std::move(points)));
    ASSERT_TRUE(next) << next.error().message;
    ASSERT_TRUE(brokenRules(*next).empty());
    made.song = *next;
  }
  std::vector<float> mix(std::size_t block = 1000) const {
    auto plan = compilePlan(made.song, made.pool);
    std::vector<std::string> missing;
    auto racks = startRacks(made.song, test::effectsHere(), missing);
    EXPECT_TRUE(racks) << racks.error().message;
    useRacks(plan, *racks);
    PlayedThrough through(plan);
    std::vector<float> left(kHeard);
    auto right = left;
    for (std::size_t at = 0; at < left.size(); at += block) {
      const auto n = std::min(block, left.size() - at);
      through.addMix(Frames{static_cast<std::int64_t>(at)}, std::span(left).subspan(at, n),
                     std::span(right).subspan(at, n));
    }
    return left;
  }
  static double difference(const std::vector<float>& a, const std::vector<float>& b, std::size_t from, std::size_t to) {
    double most = 0;
    for (auto i = from; i < to; ++i) most = std::max(most, static_cast<double>(std::abs(a[i] - b[i])));
    return most;
  }

  static constexpr std::size_t kHeard = 120'000;
  test::MadeSong made;
  InsertId insert;
  EnvelopeRef ref;
};

TEST_F(MovedControls, AreHeardAtTheValuesThatTheirPointsSayWhereTheySayThem) {
  const auto still = mix();
  made.song = *setInsertValues(made.song, insert, {{"low_gain", -12}});
  const auto low = mix();
  made.song = *setInsertValues(made.song, insert, {{"low_gain", 0}});
  move({{Frames{40'000}, 0, 0}, {Frames{44'000}, -12, 0}});
  const auto moved = mix();
  EXPECT_EQ(difference(moved, still, 0, 39'900), 0) << "before its points it is at the first one's";
  EXPECT_GT(difference(moved, still, 50'000, kHeard), 0.001);
  EXPECT_LT(difference(moved, low, 80'000, kHeard), 0.02 * difference(still, low, 80'000, kHeard));
}

TEST_F(MovedControls, SoundTheSameInAnyBlocksAndLive) {
  put({made.song.tracks[0].id, {}});
  move({{Frames{9'000}, 6, 0.4}, {Frames{100'000}, -15, 0}});
  const auto whole = mix(8192);
  EXPECT_EQ(mix(333), whole);
  EXPECT_EQ(mix(64), whole);
  LiveRacks live;
  live.know(test::effectsHere());
  live.follow(made.song);
  for (int i = 0; i < 5000 && !(live.racks() && live.racks()->tracks.size() == 1 && live.racks()->mix.size() == 1);
       ++i) {
    live.watch(made.song);
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  ASSERT_TRUE(live.racks());
  auto play = std::make_shared<PlayPlan>();
  play->edited = play->original = compilePlan(made.song, made.pool);
  useRacks(play->edited, live.racks());
  Engine engine(48'000);
  ASSERT_TRUE(engine.setPlan(play));
  engine.play();
  std::vector<float> left(kHeard);
  std::vector<float> right(kHeard);
  for (std::size_t at = 0; at < kHeard; at += 160)
    engine.process(std::span(left).subspan(at, 160), std::span(right).subspan(at, 160));
  // What starts to play fades in; filters forget that after a while.
  EXPECT_EQ(difference(left, whole, 48'000, kHeard), 0);
  // Another course is followed by the same effects, while they play.
  const auto racks = live.racks();
  move({{Frames{0}, -15, 0}});
  live.follow(made.song);
  EXPECT_EQ(live.racks(), racks);
}

TEST_F(MovedControls, HoldStillWithoutPointsAndComeBackByUndo) {
  move({{Frames{100}, 3, 0}});
  EXPECT_EQ(scaleOf(made.song, ref).name, "Low gain");
  EXPECT_EQ(scaleOf(made.song, ref).at(*envelopeOf(made.song, ref), Frames{0}), 3);
  const auto still = setEnvelope(made.song, ref, {});
  ASSERT_TRUE(still);
  EXPECT_EQ(envelopeOf(*still, ref), nullptr);
  EXPECT_TRUE(findInsert(*still, insert)->moved.empty());
  const auto clamped = setEnvelope(made.song, ref, {{Frames{5}, 99, 7}});
  EXPECT_EQ(*envelopeOf(*clamped, ref), (Envelope{{Frames{5}, 18, 1}}));
}

TEST_F(MovedControls, GoAlongWithTheGridAndTheRateAsOtherEnvelopesDo) {
  move({{Frames{48'000}, 3, 0}, {Frames{96'000}, 1, 0}});
  const auto held = holdEnvelopes(made.song, ref, Hold::grid);
  ASSERT_TRUE(held);
  EXPECT_EQ(envelopeHold(*held, ref), Hold::grid);
  const auto& map = made.song.tempo;
  const auto slower = TempoMap::make(48'000, map.origin(), {{Ticks{0}, map.bpmAt(Ticks{0}) / 2}}, map.meters());
  ASSERT_TRUE(slower);
  const auto carried = setTempoMap(*held, *slower);
  ASSERT_TRUE(carried) << carried.error().message;
  const auto& points = *envelopeOf(*carried, ref);
  ASSERT_EQ(points.size(), 2U);
  EXPECT_EQ((points[1].at - points[0].at).value, 2 * 48'000);
  const auto byClock = setTempoMap(made.song, *slower);
  EXPECT_EQ((*envelopeOf(*byClock, ref))[0].at, Frames{48'000});
  const auto doubled = songAtRate(made.song, 96'000);
  ASSERT_TRUE(doubled) << doubled.error().message;
  EXPECT_EQ((*envelopeOf(*doubled, ref))[1].at, Frames{192'000});
}

TEST_F(MovedControls, OfALockedPlaceMayMoveElsewhereOnly) {
  put({made.song.tracks[0].id, {}});
  move({{Frames{0}, 0, 0}, {Frames{90'000}, 0, 0}});
  const auto locked = lockRange(made.song, made.set, {Frames{10'000}, Frames{50'000}});
  ASSERT_TRUE(locked) << locked.error().message;
  const auto inside = setEnvelope(*locked, ref, {{Frames{0}, 0, 0}, {Frames{30'000}, 4, 0}, {Frames{90'000}, 0, 0}});
  EXPECT_TRUE(againstLocks(*locked, *inside));
  const auto after = setEnvelope(
      *locked, ref, {{Frames{0}, 0, 0}, {Frames{60'000}, 0, 0}, {Frames{70'000}, 4, 0}, {Frames{90'000}, 0, 0}});
  EXPECT_FALSE(againstLocks(*locked, *after));
}

TEST_F(MovedControls, AreKeptInTheFileWhichIsOfAnEarlierFormatWithoutThem) {
  EXPECT_NE(songToJson(made.song).find("\"orthochron song\": 6"), std::string::npos);
  move({{Frames{100}, 3, 0.25}, {Frames{70'000}, -7.5, 0}});
  auto gate = gainCourse({{Frames{0}, 1, 0}});
  gate.way = EnvelopeWay::steps, gate.unit = {};
  made.song = *moveControl(made.song, insert, "phase", gate);
  const auto text = songToJson(made.song);
  EXPECT_NE(text.find("\"orthochron song\": 9"), std::string::npos);
  const auto again = songFromJson(text, "x");
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(again->inserts, made.song.inserts);
}

TEST_F(MovedControls, ThatCannotBeAreRefusedWhenTheyAreRead) {
  move({{Frames{100}, 3, 0}});
  const auto text = songToJson(made.song);
  const auto with = [&](const std::string& was, const std::string& is) {
    auto other = text;
    const auto at = other.find(was, other.find("\"moved\""));
    EXPECT_NE(at, std::string::npos) << was;
    return songFromJson(other.replace(at, was.size(), is), "x");
  };
  EXPECT_TRUE(with("\"value\": 3", "\"value\": 4"));
  EXPECT_FALSE(with("\"value\": 3", "\"value\": 40")) << "beyond its range";
  EXPECT_FALSE(with("\"high\": 18", "\"high\": -18")) << "no range";
  EXPECT_FALSE(with("\"high\": 18", "\"high\": 1e300"));
  EXPECT_FALSE(with("\"at\": 100", "\"at\": 1e30"));
  EXPECT_FALSE(with("\"points\"", "\"pints\"")) << "without points nothing moves";
  auto octaves = gainCourse({{Frames{0}, 1, 0}});
  octaves.way = EnvelopeWay::octaves;
  EXPECT_FALSE(brokenRules(*moveControl(made.song, insert, "x", octaves)).empty()) << "octaves of what is below 0";
}

}  // namespace
}  // namespace ochron
