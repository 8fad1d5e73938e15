// Replays the corpora of fuzz/ through the very functions that are fuzzed.

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <sstream>

#include "../../../fuzz/song_json.cpp"

namespace {

TEST(FuzzCorpus, SongJsonHoldsItsProperty) {
  int files = 0;
  for (const auto& entry : std::filesystem::directory_iterator(std::filesystem::path(OCHRON_SOURCE_DIR) / "fuzz" /
                                                               "corpus" / "song_json")) {
    std::stringstream text;
    text << std::ifstream(entry.path(), std::ios::binary).rdbuf();
    const auto s = text.str();
    SCOPED_TRACE(entry.path().filename().string());
    EXPECT_EQ(LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(s.data()), s.size()), 0);
    ++files;
  }
  EXPECT_GE(files, 8);
}

TEST(FuzzCorpus, WhatIsNamedGoodOpensAndWhatIsNamedBadIsRefusedWithASentence) {
  for (const auto& entry : std::filesystem::directory_iterator(std::filesystem::path(OCHRON_SOURCE_DIR) / "fuzz" /
                                                               "corpus" / "song_json")) {
    std::stringstream text;
    text << std::ifstream(entry.path(), std::ios::binary).rdbuf();
    const auto name = entry.path().filename().string();
    const auto song = ochron::songFromJson(text.str(), name);
    if (name.starts_with("good"))
      EXPECT_TRUE(song.has_value()) << song.error().message;
    else
      EXPECT_TRUE(!song && song.error().message.find(name) != std::string::npos) << name;
  }
}

}  // namespace
