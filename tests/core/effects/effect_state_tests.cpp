// What an effect holds beside its controls: taken from a preset, heard, saved beside the song, and missing.

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <fstream>

#include "edits/insert_edits.h"
#include "effects/catalog.h"
#include "render/live_racks.h"
#include "store/archive.h"
#include "store/effect_states.h"
#include "store/project.h"
#include "support/effects_here.h"
#include "support/scratch.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

const EffectInfo& keeper() {
  const auto& all = test::effectsHere();
  return *std::find_if(all.begin(), all.end(), [](const auto& e) { return e.uri == "urn:orthochron:lv2:keeper"; });
}

EffectState louder() {
  auto state = stateOf(keeper(), keeper().presets.front());
  EXPECT_TRUE(state) << (state ? "" : state.error().message);
  return state ? *state : EffectState{};
}

/// What comes out of an effect that holds a state, for ones.
float heardThrough(const Shared<EffectState>& state) {
  const auto effect = Effect::start(keeper(), 48'000, 1, {{"gain", 2}}, state);
  EXPECT_TRUE(effect && (*effect)->waitUntilReady(std::chrono::seconds(20)));
  std::vector<float> ones(64, 1.0F);
  const std::array<std::span<float>, 1> sides{std::span(ones)};
  EXPECT_TRUE((*effect)->ask(sides, {}));
  EXPECT_TRUE((*effect)->answer(sides, Effect::Clock::now() + std::chrono::seconds(5)));
  return ones[10];
}

Song named(const std::string& name) {
  Song out;
  out.name = name;
  return out;
}

struct StateOfAnEffect : ::testing::Test {
  /// A song with the keeper in its mix, as its preset left it.
  Song song() {
    auto s = plain;
    s = *addInsert(s, {}, {{}, keeper().uri, keeper().name, true, {}});
    return *setInsertState(s, s.inserts->front().id, keeper().presets.front().values, state);
  }
  const Song plain = named("Kept");
  EffectState state = louder();
  test::Scratch dir;
};

TEST_F(StateOfAnEffect, ComesFromAPresetWithTheFilesThatItNames) {
  ASSERT_TRUE(keeper().presets.front().state);
  ASSERT_TRUE(state.any());
  EXPECT_TRUE(state.files.contains("state.ttl"));
  EXPECT_TRUE(std::any_of(state.files.begin(), state.files.end(), [](const auto& f) { return f.second == "0.25\n"; }));
  EXPECT_EQ(louder(), state) << "the same preset gives another state";
}

TEST_F(StateOfAnEffect, IsHeard) {
  EXPECT_FLOAT_EQ(heardThrough({}), 2);
  EXPECT_FLOAT_EQ(heardThrough(state), 2 * 3 * 0.25F);
}

TEST_F(StateOfAnEffect, LiesBesideTheSavedSongAndIsHeardAgain) {
  const auto project = dir.path() / "a.ochron";
  ASSERT_TRUE(saveProject(song(), project));
  EXPECT_TRUE(fs::exists(project / kEffectStates / state.id / "state.ttl"));
  const auto text = *readWholeFile(project / kSongFile, 1 << 20);
  EXPECT_EQ(text.find("keeper#factor"), std::string::npos) << "in the song's own text";
  auto moved = dir.path() / "b.ochron";
  fs::rename(project, moved);
  const auto back = openProject(moved);
  ASSERT_TRUE(back);
  EXPECT_EQ(*back, song());
  const auto& held = back->inserts->front().state;
  EXPECT_EQ(held->files, state.files);
  EXPECT_FLOAT_EQ(heardThrough(held), 2 * 3 * 0.25F);
}

TEST_F(StateOfAnEffect, GoesIntoAnArchiveAndComesOutOfIt) {
  const auto packed = dir.path() / "a.zip";
  Progress progress;
  Outputs outputs;
  const auto written = writeArchive(song(), packed, outputs, progress);
  ASSERT_TRUE(written) << written.error().message;
  ASSERT_TRUE(outputs.commit());
  const auto back = unpackArchive(packed, dir.path() / "c.ochron", progress);
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(back->inserts->front().state->files, state.files);
}

TEST_F(StateOfAnEffect, ThatIsMissingLetsSoundPastAndSaysSo) {
  const auto project = dir.path() / "a.ochron";
  ASSERT_TRUE(saveProject(song(), project));
  std::ofstream(project / kEffectStates / state.id / "state.ttl") << "something else";
  const auto back = openProject(project);
  ASSERT_TRUE(back);
  EXPECT_TRUE(back->inserts->front().state->missing());
  EXPECT_EQ(back->inserts->front().state->id, state.id) << "its name is kept";
  std::vector<std::string> missing;
  const auto racks = startRacks(*back, test::effectsHere(), missing);
  ASSERT_TRUE(racks);
  EXPECT_EQ(*racks, nullptr);
  EXPECT_EQ(missing, std::vector<std::string>{"What Keeper held"});
  LiveRacks live;
  live.know(test::effectsHere());
  live.follow(*back);
  const auto id = back->inserts->front().id;
  EXPECT_EQ(live.told(id).state, LiveRacks::State::stopped);
  EXPECT_NE(live.told(id).trouble.find("missing from the song's folder"), std::string::npos);
  live.follow(*setInsertState(*back, id, {}, state));
  EXPECT_EQ(live.told(id).trouble, "") << "another preset plays again";
}

TEST_F(StateOfAnEffect, ThatNoSongUsesIsListedForCleaning) {
  const auto project = dir.path() / "a.ochron";
  ASSERT_TRUE(saveProject(song(), project));
  EXPECT_TRUE(unusedFiles(project, {song()}).empty());
  const auto unused = unusedFiles(project, {plain});
  ASSERT_EQ(unused.size(), 1U);
  EXPECT_EQ(unused.front().filename(), state.id);
}

TEST_F(StateOfAnEffect, LiesInNoFolderThatASongNamesFreely) {
  auto hostile = song();
  ASSERT_TRUE(saveProject(hostile, dir.path() / "a.ochron"));
  // A state that is whole and is what its name says, but lies elsewhere.
  fs::rename(dir.path() / "a.ochron" / kEffectStates / state.id, dir.path() / state.id);
  auto inserts = *hostile.inserts;
  for (const auto& name : {"../../" + state.id, (dir.path() / state.id).string(), state.id + "/../../../" + state.id}) {
    inserts.front().state = EffectState{name, {}};
    hostile.inserts = inserts;
    readEffectStates(hostile, dir.path() / "a.ochron");
    EXPECT_TRUE(hostile.inserts->front().state->missing()) << name;
  }
  inserts.front().state = EffectState{state.id, {}};
  hostile.inserts = inserts;
  fs::rename(dir.path() / state.id, dir.path() / "a.ochron" / kEffectStates / state.id);
  readEffectStates(hostile, dir.path() / "a.ochron");
  EXPECT_FALSE(hostile.inserts->front().state->missing()) << "in its place it is read";
}

TEST(PresetOfAnEffect, ThatIsNotThereIsRefusedWithASentence) {
  auto preset = keeper().presets.front();
  preset.uri = "urn:orthochron:lv2:keeper#gone";
  const auto state = stateOf(keeper(), preset);
  ASSERT_FALSE(state);
  EXPECT_NE(state.error().message.find("could not be used, so nothing was changed"), std::string::npos);
}

}  // namespace
}  // namespace ochron
