#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include <fstream>
#include <random>

#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/locks.h"
#include "edits/plan_edits.h"
#include "edits/track_edits.h"
#include "seams/apply_plan.h"
#include "store/json_reader.h"
#include "store/project.h"
#include "store/song_json.h"
#include "support/scratch.h"
#include "support/song_maker.h"
#include "support/two_sets.h"
#include "takes/mic_names.h"

namespace ochron {
namespace {

Song sample() {
  test::Style style;
  style.bars = 3;
  auto m = test::songOf(test::perform(style));
  TimingPlan plan;
  plan.settings.on = true;
  plan.settings.groove = Groove{"late", {}, {}, {1, 2.5}, {0.5, 1}, {{-1, 1}, {}}};
  plan.settings.givenScatter = 60, plan.settings.scatterDraw = 3;
  plan.gaps.push_back({m.take, {Frames{10}, Frames{20}}});
  plan.overrides[HitId{9}].target = Ticks{77};
  plan.overrides[HitId{9}].seam = {Frames{99},        Frames{200}, CrossfadeLaw::equalPower,
                                   FadeShape::sCurve, -20.0,       SeamFill::faded};
  plan.overrides[HitId{10}].joined = false;
  plan.settings.gridRules = {{{8, StepKind::triplet, 50}, DrumClass::hat, {}},
                             {{32, StepKind::straight, 58}, {}, std::pair{Ticks{0}, Ticks{107'520}}}};
  plan.settings.bias = 30;
  plan.settings.stretchLimit = 12;
  plan.accepted.emplace(HitId{9}, CheckKind::levelChange);
  auto song = *applyTimingPlan(*setTimingPlan(m.song, m.set, plan), m.set, m.pool);
  HitSettings hits;
  hits.guides[song.tracks.front().id] = {50, -10};
  song = *setHitSettings(song, m.set, hits);
  song = *moveHit(song, m.take, m.set, song.hitsOf(m.take, m.set)->front().id, Frames{500});
  song = *keepGroove(song, *plan.settings.groove);
  return *lockSet(*lockRange(song, m.set, {Frames{30'000}, Frames{40'000}}), m.set, true);
}

TEST(SongJson, WhatIsReadWrittenAndReadAgainIsEqual) {
  const auto song = sample();
  const auto text = songToJson(song);
  const auto back = songFromJson(text, "song.json");
  ASSERT_TRUE(back.has_value()) << back.error().message;
  EXPECT_EQ(*back, song);
  EXPECT_EQ(songToJson(*back), text);
}

TEST(SongJson, EveryTruncationIsRefusedWithASentence) {
  const auto text = songToJson(sample());
  for (std::size_t n = 0; n + 2 < text.size(); n += 97) {
    const auto r = songFromJson(text.substr(0, n), "song.json");
    ASSERT_FALSE(r.has_value()) << n;
    ASSERT_NE(r.error().message.find("song.json"), std::string::npos);
  }
}

TEST(SongJson, MutilatedTextNeverGivesASongThatBreaksTheRules) {
  const auto text = songToJson(sample());
  std::mt19937_64 dice(4);
  int accepted = 0;
  for (int i = 0; i < 1500; ++i) {
    auto bad = text;
    for (std::uint64_t k = 0; k < 1 + dice() % 3; ++k)
      bad[dice() % bad.size()] = "0123456789-{}[]\",:eE.tfn"[dice() % 24];
    const auto r = songFromJson(bad, "song.json");
    if (!r) continue;
    ++accepted;
    ASSERT_TRUE(brokenRules(*r).empty());
  }
  EXPECT_LT(accepted, 1500);
}

TEST(SongJson, HitsOfTheFirstFormatAreRead) {
  auto text = songToJson(sample());
  const auto schema = text.find("\"orthochron song\": ");
  ASSERT_NE(schema, std::string::npos);
  text[schema + 19] = '1';
  const auto track = std::to_string(sample().tracks.front().id.value);
  for (auto at = text.find("\"heard by\": []"); at != std::string::npos; at = text.find("\"heard by\": []", at + 1))
    text.replace(at, 14, "\"heard by\": [" + track + "]");
  const auto song = songFromJson(text, "song.json");
  ASSERT_TRUE(song.has_value()) << song.error().message;
  const auto& hits = *song->takes.front().facts.front().hits;
  EXPECT_EQ(hits.front().heardBy.front().track, song->tracks.front().id);
  EXPECT_EQ(hits.front().heardBy.front().strength, hits.front().strength);
}

TEST(SongJson, ANewerFormatIsSaidToBeNewer) {
  const auto r = songFromJson(R"({"orthochron song": 999})", "song.json");
  ASSERT_FALSE(r.has_value());
  EXPECT_NE(r.error().message.find("newer version"), std::string::npos);
}

TEST(Project, SavedAndOpenedIsTheSame) {
  const test::Scratch scratch;
  auto song = sample();
  song.media[0].path = (scratch / "a.ochron" / "media" / "x.wav").string();
  ASSERT_TRUE(saveProject(song, scratch / "a.ochron"));
  const auto back = openProject(scratch / "a.ochron");
  ASSERT_TRUE(back.has_value());
  EXPECT_EQ(*back, song);
  std::filesystem::rename(scratch / "a.ochron", scratch / "b.ochron");
  EXPECT_EQ(openProject(scratch / "b.ochron")->media[0].path, (scratch / "b.ochron" / "media" / "x.wav").string());
}

TEST(Project, ASaveThatFailsAtAnyStepLeavesTheOldSong) {
  const test::Scratch scratch;
  auto song = sample();
  ASSERT_TRUE(saveProject(song, scratch / "s.ochron"));
  auto changed = song;
  changed.name = "changed";
  for (int failing = 0; failing < 3; ++failing) {
    auto ops = FileOps::real();
    if (failing == 0) ops.writeAndSync = [](auto& file, auto) { return std::ofstream(file) << "half", false; };
    if (failing == 1) ops.rename = [](auto&, auto&) { return false; };
    if (failing == 2) ops.syncFolder = [](auto&) { return false; };
    EXPECT_FALSE(saveProject(changed, scratch / "s.ochron", ops)) << failing;
    const auto now = openProject(scratch / "s.ochron");
    ASSERT_TRUE(now.has_value()) << failing;
    EXPECT_TRUE(*now == song || *now == changed);
    if (failing < 2) EXPECT_EQ(*now, song);
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(scratch / "s.ochron"), {}), 1) << "parts are left over";
  }
}

TEST(Project, FilesOfASongThatCouldNotBeSavedStayWhereTheSongUsesThem) {
  const test::Scratch scratch;
  const auto folder = scratch / "s.ochron";
  const auto file = folder / "media" / "print.wav";
  for (const bool inPlace : {false, true}) {
    std::filesystem::remove_all(folder);
    auto song = sample();
    ASSERT_TRUE(saveProject(song, folder));
    std::filesystem::create_directories(folder / "media");
    std::ofstream(file) << "sound";
    song.media.front().path = file.string();
    auto ops = FileOps::real();
    if (inPlace)
      ops.syncFolder = [](auto&) { return false; };
    else
      ops.rename = [](auto&, auto&) { return false; };
    EXPECT_FALSE(saveWithFiles(song, folder, {file}, ops));
    const auto there = openProject(folder);
    ASSERT_TRUE(there);
    EXPECT_EQ(there->media.front().path == file.string(), inPlace);
    EXPECT_EQ(std::filesystem::exists(file), inPlace);
  }
}

TEST(Project, AutosaveStandsBesideTheSongUntilItIsSaved) {
  const test::Scratch scratch;
  auto song = sample();
  ASSERT_TRUE(saveProject(song, scratch / "s.ochron"));
  EXPECT_EQ(findAutosave(scratch / "s.ochron").state, Autosave::State::none);
  auto newer = song;
  newer.name = "newer";
  ASSERT_TRUE(autosaveProject(newer, scratch / "s.ochron"));
  EXPECT_EQ(openProject(scratch / "s.ochron")->name, song.name);
  const auto found = findAutosave(scratch / "s.ochron");
  ASSERT_EQ(found.state, Autosave::State::newer);
  EXPECT_EQ(found.song->name, "newer");
  ASSERT_TRUE(saveProject(newer, scratch / "s.ochron"));
  EXPECT_EQ(findAutosave(scratch / "s.ochron").state, Autosave::State::none);
}

TEST(Project, WhatIsNoProjectIsRefused) {
  const test::Scratch scratch;
  EXPECT_FALSE(openProject(scratch.path()));
  std::filesystem::create_directories(scratch / "x.ochron");
  std::ofstream(scratch / "x.ochron" / "song.json") << "[1, 2";
  EXPECT_FALSE(openProject(scratch / "x.ochron"));
}

TEST(MicNames, RolesAreReadFromNames) {
  EXPECT_EQ(guessRole("Kick In 01"), MicRole::kickIn);
  EXPECT_EQ(guessRole("KickOut"), MicRole::kickOut);
  EXPECT_EQ(guessRole("snr_top"), MicRole::snareTop);
  EXPECT_EQ(guessRole("SD Bottom"), MicRole::snareBottom);
  EXPECT_EQ(guessRole("OH L"), MicRole::overhead);
  EXPECT_EQ(guessRole("Room-R"), MicRole::room);
  EXPECT_EQ(guessRole("HiHat"), MicRole::hat);
  EXPECT_EQ(guessRole("Floor Tom"), MicRole::tom);
  EXPECT_EQ(guessRole("Lead Voice"), MicRole::none);
  EXPECT_EQ(guessRole("Bass DI"), MicRole::none);
}

TEST(MicNames, KitAndGuidesAreOffered) {
  EXPECT_EQ(guessDrumKit({"Bass", "Kick In", "Snare Top", "OH L", "Voice"}), (std::vector<int>{1, 2, 3}));
  EXPECT_TRUE(guessDrumKit({"Bass", "Kick"}).empty());
  EXPECT_EQ(guessGuides({MicRole::overhead, MicRole::snareTop, MicRole::kickOut, MicRole::kickIn}),
            (std::vector<int>{3, 1}));
}

/// Songs as earlier versions of the program wrote them, kept in tests/data.
class EarlierFormats : public ::testing::TestWithParam<int> {};

TEST_P(EarlierFormats, OpenWholeAndAreWrittenInTodays) {
  const auto file = std::filesystem::path(OCHRON_SOURCE_DIR) / "tests" / "data" /
                    ("format-" + std::to_string(GetParam()) + ".song.json");
  std::ifstream in(file);
  const std::string text((std::istreambuf_iterator<char>(in)), {});
  const auto song = songFromJson(text, file.string());
  ASSERT_TRUE(song.has_value()) << song.error().message;
  EXPECT_EQ(song->tracks.size(), 12u + song->layers.size());
  EXPECT_EQ(song->media.size(), 12u);
  EXPECT_EQ(song->layers.size(), GetParam() == 5 ? 1u : 0u);
  EXPECT_EQ(song->inserts->empty(), GetParam() < 6);
  EXPECT_EQ(song->patterns.size(), GetParam() < 7 ? 0u : 1u);
  const auto& set = song->sets.front();
  EXPECT_GT(song->hitsOf(song->takes.front().id, set.id)->size(), 230u);
  EXPECT_GT(set.clips->size(), 200u);
  EXPECT_EQ(set.plan->settings.keepPocket, 100);
  const auto again = songFromJson(songToJson(*song), "again");
  ASSERT_TRUE(again.has_value());
  EXPECT_EQ(*again, *song);
}
INSTANTIATE_TEST_SUITE_P(Kept, EarlierFormats, ::testing::Values(1, 3, 4, 5, 6, 7));

TEST(FormatThree, PinsTiedToTheSongAreReadAsTheyWereMeantAndDoubledOnesOnce) {
  Song song = sample();
  ClipList clips = *song.sets[0].clips;
  auto& c = clips.back();
  c.start += Frames{5000};
  const auto from = c.source;
  c.map =
      TakeMap({{from, from}, {from + Frames{2000}, from + Frames{2500}}, {from + Frames{4000}, from + Frames{4100}}});
  song.sets[0].clips = clips;
  auto j = nlohmann::ordered_json::parse(songToJson(song));
  j["orthochron song"] = 3;
  auto& clip = j["mic sets"][0]["clips"].back();
  for (auto& pin : clip["pins"]) {
    pin["song"] = pin["stretched"].get<std::int64_t>() + (c.start - c.source).value;
    pin.erase("stretched");
  }
  clip["pins"].insert(clip["pins"].begin(), clip["pins"][0]);
  const auto back = songFromJson(j.dump(), "song.json");
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(back->sets[0].clips->back().map, c.map);
}

TEST(Pins, ThatDoNotRiseInAFileAreRefused) {
  Song song = sample();
  ClipList clips = *song.sets[0].clips;
  clips.front().map = TakeMap({{Frames{10}, Frames{10}}, {Frames{5}, Frames{20}}});
  song.sets[0].clips = clips;
  const auto back = songFromJson(songToJson(song), "song.json");
  ASSERT_FALSE(back);
  EXPECT_NE(back.error().message.find("pins"), std::string::npos) << back.error().message;
}

TEST(ClipFormants, AreReadBackAsDecidedAndNothingElseIsUnderstood) {
  Song song = sample();
  const auto with = [&](std::optional<Formants> formants) {
    ClipList clips = *song.sets[0].clips;
    changeExtras(clips.front(), [&](ClipExtras& e) { e.formants = formants; });
    song.sets[0].clips = clips;
    return songToJson(song);
  };
  for (const auto& decided : {std::optional<Formants>{}, std::optional(Formants{true, 0}),
                              std::optional(Formants{false, 0}), std::optional(Formants{false, -730})}) {
    const auto back = songFromJson(with(decided), "song.json");
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_EQ(back->sets[0].clips->front().extras->formants, decided);
  }
  auto j = nlohmann::ordered_json::parse(with(Formants{true, 0}));
  for (const auto& bad : {nlohmann::ordered_json("sideways"), nlohmann::ordered_json(5000),
                          nlohmann::ordered_json::array(), nlohmann::ordered_json(true)}) {
    j["mic sets"][0]["clips"][0]["formants"] = bad;
    const auto back = songFromJson(j.dump(), "song.json");
    ASSERT_FALSE(back) << bad;
    EXPECT_NE(back.error().message.find("formants"), std::string::npos) << back.error().message;
  }
}

TEST(MicNames, TellATempoOnlyWhenTheySayBpm) {
  EXPECT_EQ(bpmInName("Loop 96 bpm"), 96);
  EXPECT_EQ(bpmInName("shaker_120BPM_03"), 120);
  EXPECT_EQ(bpmInName("Top-87.5-bpm"), 87.5);
  for (const char* none : {"Kick 01", "bpm", "take 1200bpm", "120", "abpm 99", ""})
    EXPECT_FALSE(bpmInName(none)) << none;
}

TEST(ForeignKeys, OfAnotherVersionAreKeptAndWrittenBackWhereTheirOwnerIs) {
  const test::TwoSets t;
  auto j = Json::parse(songToJson(t.song));
  j["inserts"] = {{"of", 1}};
  j["mic sets"][1]["blend"] = 0.5;
  j["mic sets"][1]["clips"][0]["warmth"] = {1, 2, 3};
  j["tracks"][0]["insert"] = "eq";
  const auto song = songFromJson(j.dump(), "song.json");
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_EQ(song->foreign->keys.size(), 4U);
  EXPECT_EQ(Json::parse(songToJson(*song)), j) << "nothing is lost";
  // Edits leave them with their owners; what goes takes its own along.
  const auto moved = *moveSet(*song, t.bass, -1);
  const auto again = Json::parse(songToJson(moved));
  EXPECT_EQ(again["mic sets"][0]["blend"], 0.5);
  EXPECT_FALSE(again["mic sets"][1].contains("blend"));
  const auto without = Json::parse(songToJson(*removeTracks(*song, t.song.find(t.bass)->tracks)));
  EXPECT_EQ(without["inserts"], j["inserts"]);
  EXPECT_EQ(without.dump().find("blend"), std::string::npos);
}

TEST(ForeignKeys, ANewerFileIsRefusedForWorkAndReadToBeLookedAt) {
  const test::TwoSets t;
  auto j = Json::parse(songToJson(t.song));
  j["orthochron song"] = kSongSchema + 1;
  j["inserts"] = 7;
  const auto refused = songFromJson(j.dump(), "song.json");
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("newer version"), std::string::npos);
  const auto seen = songFromJson(j.dump(), "song.json", Newer::look);
  ASSERT_TRUE(seen) << seen.error().message;
  EXPECT_EQ(seen->foreign->format, kSongSchema + 1);
  EXPECT_EQ(Json::parse(songToJson(*seen)), j) << "saved under another name it stays what it is";
}

TEST(ForeignKeys, ASongOfThisVersionHasNone) {
  const test::TwoSets t;
  const auto song = songFromJson(songToJson(t.song), "song.json");
  ASSERT_TRUE(song);
  EXPECT_TRUE(song->foreign->keys.empty());
  EXPECT_EQ(*song, t.song);
}

}  // namespace
}  // namespace ochron
