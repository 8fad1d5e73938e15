// Hand-over folders: whole or not there, checked, and made a song of.

#include "handover/handover.h"

#include <gtest/gtest.h>

#include <fstream>
#include <nlohmann/json.hpp>

#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/insert_edits.h"
#include "edits/mark_edits.h"
#include "edits/track_edits.h"
#include "feel/timings.h"
#include "media/audio_file.h"
#include "render/render.h"
#include "support/json_schema.h"
#include "support/layered.h"
#include "support/scratch.h"
#include "support/two_sets.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

struct Handover : ::testing::Test {
  Handover() {
    test::Style style;
    style.bars = 6;
    std::vector<float> sound(3000, 0.2F);
    made = test::layered(test::songOf(test::perform(style)), DrumClass::snare, sound);
    made.song = *addMarker(made.song, Ticks{kTicksPerQuarter * 4}, Ticks{0}, "verse");
    made.song = *addMarker(made.song, Ticks{kTicksPerQuarter * 8}, Ticks{kTicksPerQuarter * 4}, "chorus");
    Track t = made.song.tracks[1];
    t.gainDb = -5;
    t.pan = 20;
    made.song = *setTrack(made.song, t);
  }
  Result<HandoverReport> write() {
    Timings timings;
    return writeHandover(made.song, made.pool, compilePlan(made.song, made.pool), timings.all(made.song), folder, {},
                         test::unwatched());
  }
  std::vector<std::string> wrong() {
    const auto w = checkHandover(folder, test::unwatched());
    EXPECT_TRUE(w) << w.error().message;
    return w ? *w : std::vector<std::string>{"no folder"};
  }

  test::Scratch scratch;
  fs::path folder = scratch / "hand over";
  test::MadeSong made;
};

TEST_F(Handover, HoldsEveryTrackFromOneMomentOnAndIsWhole) {
  const auto report = write();
  ASSERT_TRUE(report) << report.error().message;
  EXPECT_TRUE(wrong().empty());
  std::optional<Frames> length;
  int tracks = 0;
  for (const auto& e : fs::directory_iterator(folder / "tracks")) {
    const auto r = AudioFileReader::open(e.path());
    ASSERT_TRUE(r);
    EXPECT_EQ(length.value_or(r->info().length), r->info().length);
    length = r->info().length;
    ++tracks;
  }
  EXPECT_EQ(tracks, 5) << "four mics and a layer";
  EXPECT_TRUE(fs::exists(folder / "layers" / "sound" / "sound.sfz"));
  EXPECT_TRUE(fs::exists(folder / "session.txt"));
  const auto j = nlohmann::json::parse(std::ifstream(folder / "session.json"));
  EXPECT_EQ(j["markers"].size(), 2U);
  EXPECT_EQ(j["tracks"].size(), 5U);
}

TEST_F(Handover, TellsWhichEffectsAreInTheFilesAndWhichAreNot) {
  Insert reverb;
  reverb.effect = "urn:example:reverb", reverb.name = "Reverb", reverb.values = {{"wet", 0.5}};
  Insert loud;
  loud.effect = "urn:example:loud", loud.name = "Loud", loud.on = false;
  made.song = *addInsert(made.song, {made.song.tracks.front().id, {}}, reverb);
  made.song = *addInsert(made.song, {}, loud);
  ASSERT_TRUE(write());
  const auto j = nlohmann::json::parse(std::ifstream(folder / "session.json"));
  EXPECT_EQ(j["tracks"][0]["effects"][0]["values"]["wet"], 0.5);
  EXPECT_FALSE(j["tracks"][1].contains("effects"));
  EXPECT_EQ(j["mix_effects"][0]["uri"], "urn:example:loud");
  std::ifstream in(folder / "session.txt");
  const std::string text{std::istreambuf_iterator<char>(in), {}};
  EXPECT_NE(text.find("in the file: Reverb"), std::string::npos) << text;
  EXPECT_NE(text.find("The mix goes through, in no file: Loud (off)"), std::string::npos) << text;
}

TEST_F(Handover, ItsSessionHoldsToTheSchemaThatLiesBesideIt) {
  made.song = *addInsert(made.song, {made.song.tracks.front().id, {}}, {{}, "urn:example:room", "Room", true, {}});
  const auto set = made.song.sets.front().id;
  made.song = *splitAt(made.song, set, {Frames{40'000}, Frames{90'000}}, Frames{960});
  const auto ids = test::idsOf(made.song, set);
  made.song = *changeClips(made.song, {ids[1]}, [](Clip& c) {
    c.gainDb = 2;
    c.pan = -10;
    c.muted = true;
  });
  made.song = *reverseClips(made.song, {ids[1]});
  made.song = *changeFades(made.song, {ids[0], ids[2]}, FadeEnd::in, [](const Clip&, Fade) {
    return Fade{Frames{900}, FadeShape::sCurve, 0.3, FadeKind::tape};
  });
  ASSERT_TRUE(write());
  const auto session = nlohmann::json::parse(std::ifstream(folder / "session.json"));
  auto schema = nlohmann::json::parse(std::ifstream(folder / session["$schema"].get<std::string>()));
  EXPECT_EQ(test::faultsBySchema(session, schema), std::vector<std::string>{});
  EXPECT_EQ(session["tracks"][0]["clips"][0]["fade_in"]["shape"], "s-curve");
  // It says no when something is otherwise.
  auto wrong = session;
  wrong["tracks"][0].erase("file");
  wrong["tracks"][0]["clips"][1]["fade_in"] = {{"shape", "bow"}};
  wrong["more"] = 1;
  EXPECT_EQ(test::faultsBySchema(wrong, schema).size(), 6U);
}

TEST_F(Handover, WhatIsMissingChangedOrAddedIsSaid) {
  ASSERT_TRUE(write());
  std::ofstream(folder / "tracks" / "more.txt") << "x";
  EXPECT_EQ(wrong().size(), 1U);
  fs::remove(folder / "tracks" / "more.txt");
  std::fstream(folder / "session.txt", std::ios::in | std::ios::out) << "X";
  ASSERT_EQ(wrong().size(), 1U);
  EXPECT_NE(wrong().front().find("session.txt"), std::string::npos);
  fs::remove(fs::directory_iterator(folder / "tracks")->path());
  EXPECT_GE(wrong().size(), 2U);
  EXPECT_FALSE(songOfHandover(folder, test::unwatched()));
  EXPECT_FALSE(checkHandover(scratch.path(), test::unwatched())) << "it is none at all";
}

TEST_F(Handover, BecomesASongThatSoundsTheSame) {
  ASSERT_TRUE(write());
  const auto song = songOfHandover(folder, test::unwatched());
  ASSERT_TRUE(song) << song.error().message;
  EXPECT_TRUE(brokenRules(*song).empty());
  EXPECT_EQ(song->tracks.size(), 5U);
  EXPECT_EQ(song->markers.size(), 2U);
  EXPECT_EQ(song->tempo.tempos().size(), made.song.tempo.tempos().size());
  MediaPool pool;
  for (const auto& m : song->media) {
    auto media = decodeMedia(m.path, m.fingerprint, {scratch / "cache", song->rate}, test::unwatched());
    ASSERT_TRUE(media) << media.error().message;
    pool[m.id] = *media;
  }
  const auto n = static_cast<std::size_t>(made.song.end().value);
  const auto mix = [&](const Song& s, const MediaPool& p) {
    std::vector<float> left(n), right(n), room(n);
    addMix(compilePlan(s, p), Frames{}, left, right, room, {});
    return left;
  };
  // Bar 1 lies where it lay, and so does all sound.
  const auto shift = made.song.tempo.origin() - song->tempo.origin();
  const auto a = mix(made.song, made.pool);
  const auto b = mix(*song, pool);
  for (std::size_t i = static_cast<std::size_t>(shift.value); i < n; ++i)
    ASSERT_NEAR(a[i], b[i - static_cast<std::size_t>(shift.value)], 1e-6F) << i;
}

TEST_F(Handover, NeverGoesOverWhatIsThereAndLeavesNothingWhenItFails) {
  fs::create_directories(folder);
  std::ofstream(folder / "mine.txt") << "mine";
  EXPECT_FALSE(write());
  EXPECT_TRUE(fs::exists(folder / "mine.txt"));
  fs::remove_all(folder);
  made.pool.erase(made.song.media.front().id);
  EXPECT_FALSE(write());
  EXPECT_TRUE(fs::is_empty(scratch.path())) << "no half folder";
}

TEST_F(Handover, ASessionThatLeadsOutOfTheFolderIsNotFollowed) {
  ASSERT_TRUE(write());
  auto j = nlohmann::json::parse(std::ifstream(folder / "session.json"));
  j["tracks"][0]["file"] = "../../etc/passwd";
  std::ofstream(folder / "session.json") << j.dump();
  const auto w = wrong();
  EXPECT_TRUE(std::any_of(w.begin(), w.end(), [](auto& s) { return s.find("does not lie in") != std::string::npos; }));
  EXPECT_FALSE(songOfHandover(folder, test::unwatched()));
  for (const char* text : {"", "{", "{}", "[]", R"({"orthochron handover":1})", R"({"orthochron handover":9})",
                           R"({"orthochron handover":1,"rate":"x","tracks":3,"tempo":[]})"}) {
    std::ofstream(folder / "session.json") << text;
    const auto refused = checkHandover(folder, test::unwatched());
    ASSERT_FALSE(refused) << text;
    EXPECT_FALSE(refused.error().message.empty());
  }
}

}  // namespace
}  // namespace ochron
