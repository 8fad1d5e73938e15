// Every number of the settings goes the whole way: file, command line, ranges.

#include <gtest/gtest.h>

#include <set>

#include "base/numbers.h"
#include "edits/layer_edits.h"
#include "song/range_rules.h"
#include "store/song_json.h"
#include "support/process.h"
#include "support/two_sets.h"
#include "takes/silence.h"

namespace ochron {
namespace {

/// Where the numbers of each list lie in a song.
struct TimingList {
  static constexpr auto& all = kTimingNumbers;
  static const TimingSettings& in(const Song& song) { return song.sets.front().plan->settings; }
  static void put(Song& song, const TimingSettings& s) {
    auto plan = *song.sets.front().plan;
    plan.settings = s;
    song.sets.front().plan = plan;
  }
};
struct TuneList {
  static constexpr auto& all = kTuneNumbers;
  static const TuneSettings& in(const Song& song) { return song.sets.front().pitch->settings; }
  static void put(Song& song, const TuneSettings& s) {
    PitchPlan plan;
    plan.settings = s;
    song.sets.front().pitch = plan;
  }
};
struct HitSettingList {
  static constexpr auto& all = kHitNumbers;
  static const HitSettings& in(const Song& song) { return song.sets.front().hits; }
  static void put(Song& song, const HitSettings& s) { song.sets.front().hits = s; }
};
struct GuideList {
  static constexpr auto& all = kGuideNumbers;
  static GuideSettings in(const Song& song) { return song.sets.front().hits.guide(song.sets.front().tracks.front()); }
  static void put(Song& song, const GuideSettings& s) {
    song.sets.front().hits.guides[song.sets.front().tracks.front()] = s;
  }
};
struct AnchorList {
  static constexpr auto& all = kAnchorNumbers;
  static const AnchorSettings& in(const Song& song) { return song.anchorSettings; }
  static void put(Song& song, const AnchorSettings& s) { song.anchorSettings = s; }
};
struct LayerList {
  static constexpr auto& all = kLayerNumbers;
  static LayerSettings in(const Song& song) { return song.layers.empty() ? LayerSettings{} : song.layers[0].settings; }
  static void put(Song& song, const LayerSettings& s) {
    song = *addLayer(song, song.sets.front().id, DrumClass::snare, "Snare layer");
    song.layers.front().settings = s;
  }
};

/// A list that is not here has no test: each new one is added.
using Lists = ::testing::Types<TimingList, TuneList, HitSettingList, GuideList, AnchorList, LayerList>;

template <class List>
struct SettingList : ::testing::Test {
  template <class Setting>
  static Song with(const Setting& n, double value) {
    static const Song base = test::TwoSets().song;
    Song song = base;
    auto settings = List::in(song);
    settings.*n.field = value;
    List::put(song, settings);
    return song;
  }
  static bool passes(const Song& song) {
    std::vector<std::string> broken;
    checkRangesOf(song, nullptr, broken);
    return broken.empty();
  }
};
TYPED_TEST_SUITE(SettingList, Lists);

TYPED_TEST(SettingList, EveryNumberIsSavedReadBackAndRefusedOutsideItsRange) {
  for (const auto& n : TypeParam::all) {
    for (const double value : {n.range.low, (n.range.low + n.range.high) / 2, n.range.high, n.range.fallback}) {
      const auto song = this->with(n, value);
      ASSERT_TRUE(this->passes(song)) << n.key;
      auto back = songFromJson(songToJson(song), "song.json");
      ASSERT_TRUE(back) << n.key << ": " << back.error().message;
      EXPECT_EQ(*back, song) << n.key << " at " << value;
      EXPECT_EQ(TypeParam::in(*back).*n.field, value) << n.key;
    }
    const auto beyond = this->with(n, n.range.high + 1);
    EXPECT_FALSE(this->passes(beyond)) << n.key << " passes the gate";
    const auto back = songFromJson(songToJson(beyond), "song.json");
    ASSERT_FALSE(back) << n.key;
    EXPECT_NE(back.error().message.find(std::string(n.key)), std::string::npos) << back.error().message;
  }
}

TEST(Settings, ANotesOwnNumbersAreSavedAndReadBack) {
  Song song = test::TwoSets().song;
  NoteWish wish;
  for (std::size_t i = 0; i < kNoteNumbers; ++i) wish.own[i] = kTuneNumbers[i].range.high;
  PitchPlan plan;
  plan.wishes[NoteName(song.takes.front().id, 4800)] = wish;
  song.sets.front().pitch = plan;
  const auto back = songFromJson(songToJson(song), "song.json");
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(*back, song);
}

template <class Settings, std::size_t N>
void describedOnce(const std::array<Setting<Settings>, N>& all) {
  std::set<std::string_view> keys;
  std::set<std::string_view> options;
  const Settings fresh{};
  for (const auto& n : all) {
    EXPECT_TRUE(keys.insert(n.key).second) << n.key;
    if (!n.option.empty()) EXPECT_TRUE(options.insert(n.option).second) << n.option;
    EXPECT_FALSE(n.help.empty()) << n.key;
    EXPECT_TRUE(n.range.accepts(n.range.fallback)) << n.key;
    EXPECT_LT(n.range.low, n.range.high) << n.key;
    EXPECT_EQ(fresh.*n.field, n.range.fallback) << n.key;
    EXPECT_EQ(&settingOf(all, n.field), &n) << "two descriptions of one field: " << n.key;
  }
}

TEST(Settings, FieldsKeysAndOptionsAreUnlikeAndFallbacksAreTheStructsOwn) {
  describedOnce(kTimingNumbers);
  describedOnce(kTuneNumbers);
  describedOnce(kAnchorNumbers);
  describedOnce(kHitNumbers);
  describedOnce(kGuideNumbers);
  describedOnce(kSilenceNumbers);
  describedOnce(kLayerNumbers);
}

template <class Settings, std::size_t N>
void optionsOf(const char* command, const std::array<Setting<Settings>, N>& all) {
  const auto run = test::run({OCHRON_CLI, command, "--help"});
  ASSERT_EQ(run.status, 0);
  for (const auto& n : all)
    if (!n.option.empty())
      EXPECT_NE(
          run.out.find(std::string(n.option) + " FLOAT:" + shortest(n.range.low) + " to " + shortest(n.range.high)),
          std::string::npos)
          << command << " " << n.option;
}

TEST(Settings, EveryOptionIsOnTheCommandLineWithItsRange) {
  optionsOf("quantize", kTimingNumbers);
  optionsOf("quantize", kHitNumbers);
  optionsOf("tune", kTuneNumbers);
  optionsOf("layer", kLayerNumbers);
}

}  // namespace
}  // namespace ochron
