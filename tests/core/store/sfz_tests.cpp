// SFZ: what is read, what is refused, what is said.

#include "store/sfz_file.h"

#include <gtest/gtest.h>

#include <fstream>

#include "support/cli.h"
#include "support/scratch.h"

namespace ochron {
namespace {

TEST(Sfz, RegionsInheritFromGroupMasterAndGlobal) {
  const auto r = sfzRegions(
      "// a kit\n<control> default_path=samples/\n<global> volume=-3\n<group> key=38 lovel=1 hivel=63\n"
      "<region> sample=soft one.wav seq_position=1 /* first */\n<region>sample=soft two.wav\nseq_position=2\n"
      "<group> key=36\n<region> sample=kick.wav volume=0");
  ASSERT_EQ(r.size(), 3U);
  EXPECT_EQ(r[0].at("sample"), "soft one.wav");
  EXPECT_EQ(r[1].at("sample"), "soft two.wav");
  EXPECT_EQ(r[1].at("hivel"), "63");
  EXPECT_EQ(r[1].at("volume"), "-3");
  EXPECT_EQ(r[2].at("key"), "36");
  EXPECT_EQ(r[2].at("volume"), "0");
  EXPECT_FALSE(r[2].contains("hivel")) << "a new group begins anew";
}

TEST(Sfz, DefinitionsAreFilledInAndNeverForEver) {
  const auto r = sfzRegions("#define $KEY 38\n#define $A $A$A\n<region> key=$KEY sample=$A.wav");
  ASSERT_EQ(r.size(), 1U);
  EXPECT_EQ(r[0].at("key"), "38");
}

struct Kit : test::Scratch {
  std::filesystem::path write(const std::string& text) {
    const auto file = path() / "kit.sfz";
    std::ofstream(file) << text;
    return file;
  }
  void sample(const std::string& name) { test::writeWav(path() / name, std::vector<float>(2000, 0.1F)); }
};

TEST(Sfz, TheDrumsKeyIsTakenAndVelocitiesBecomeStrengths) {
  Kit kit;
  kit.sample("k.wav"), kit.sample("s1.wav"), kit.sample("s2.wav");
  const auto file = kit.write(
      "<region> sample=k.wav key=36\n<region> sample=s1.wav key=38 hivel=63 tune=-20 pan=30\n"
      "<region> sample=s2.wav key=38 lovel=64 offset=100 end=999 ampeg_release=0.3 lfo01_freq=3");
  const auto set = readSoundSet(file, DrumClass::snare);
  ASSERT_TRUE(set) << set.error().message;
  ASSERT_EQ(set->entries.size(), 2U);
  EXPECT_EQ(set->entries[0].sound.low, 0);
  EXPECT_NEAR(set->entries[0].sound.high, 63.0 / 127, 1e-9);
  EXPECT_EQ(set->entries[0].sound.cents, -20);
  EXPECT_EQ(set->entries[0].sound.pan, 30);
  EXPECT_EQ(set->entries[1].from, Frames{100});
  EXPECT_EQ(set->entries[1].to, Frames{1000});
  EXPECT_EQ(set->notUnderstood, (std::vector<std::string>{"ampeg_release", "lfo01_freq"}));
}

TEST(Sfz, AMissingSampleAndAnEmptyInstrumentAreRefusedWithASentence) {
  Kit kit;
  const auto missing = readSoundSet(kit.write("<region> sample=..\\gone\\x.wav"), {});
  ASSERT_FALSE(missing);
  EXPECT_NE(missing.error().message.find("gone/x.wav"), std::string::npos) << missing.error().message;
  const auto empty = readSoundSet(kit.write("<global> volume=1\n<region> key=3\n"), {});
  ASSERT_FALSE(empty);
  EXPECT_NE(empty.error().message.find("no region with a sample"), std::string::npos);
  EXPECT_FALSE(readSoundSet(kit.path() / "none.sfz", {}));
}

TEST(Sfz, ASoundFileIsASetOfOne) {
  const auto set = readSoundSet("/some/where/clap.wav", DrumClass::snare);
  ASSERT_TRUE(set);
  EXPECT_EQ(set->name, "clap");
  EXPECT_EQ(set->files.size(), 1U);
}

TEST(Sfz, WhatIsWrittenIsReadAgain) {
  Kit kit;
  kit.sample("a.wav"), kit.sample("b.wav");
  const auto file = kit.write(sfzText({{"a.wav", 36, 1, 60, -2.5, 10, -30, 1}, {"b.wav", 37}}));
  const auto a = readSoundSet(file, DrumClass::kick);
  ASSERT_TRUE(a) << a.error().message;
  ASSERT_EQ(a->entries.size(), 1U);
  EXPECT_EQ(a->entries[0].sound.gainDb, -2.5);
  EXPECT_EQ(a->entries[0].sound.cents, -30);
  EXPECT_TRUE(a->notUnderstood.empty());
}

}  // namespace
}  // namespace ochron
