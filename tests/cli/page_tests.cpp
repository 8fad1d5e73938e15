// docs/cli.md: its tables are what the program says of itself, its calls work.

#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <sstream>

#include "edits/clip_edits.h"
#include "edits/take_edits.h"
#include "files/content_id.h"
#include "store/project.h"
#include "support/cli.h"
#include "support/performance.h"
#include "support/scratch.h"
#include "support/unwatched.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;
using test::cli;

const fs::path kPage = fs::path(OCHRON_SOURCE_DIR) / "docs" / "cli.md";
constexpr std::string_view kTable = "| option | takes |";

std::string pageText() {
  std::ifstream in(kPage);
  return {std::istreambuf_iterator<char>(in), {}};
}

/// Sections by their command.
std::map<std::string, std::string> sectionsOf(const std::string& page) {
  std::map<std::string, std::string> out;
  std::istringstream in(page);
  std::string command;
  for (std::string line; std::getline(in, line);) {
    if (line.starts_with("## ")) command = line.substr(3);
    if (!command.empty()) out[command] += line + "\n";
  }
  return out;
}

std::string tableIn(const std::string& section) {
  const auto from = section.find(kTable);
  if (from == std::string::npos) return {};
  const auto end = section.find("\n\n", from);
  return section.substr(from, end == std::string::npos ? std::string::npos : end + 1 - from);
}

TEST(CliPages, SayWhatTheProgramSaysOfItsOptions) {
  const auto said = cli({"--print-options"});
  ASSERT_EQ(said.status, 0) << said.err;
  const auto now = sectionsOf(said.out);
  auto page = pageText();
  if (std::getenv("OCHRON_WRITE_PAGES")) {
    for (const auto& [command, section] : now) {
      const auto at = page.find("\n## " + command + "\n");
      if (at == std::string::npos) continue;
      const auto from = page.find(kTable, at);
      const auto end = page.find("\n\n", from);
      page.replace(from, end == std::string::npos ? std::string::npos : end + 1 - from, tableIn(section));
    }
    std::ofstream(kPage) << page;
  }
  const auto written = sectionsOf(page);
  for (const auto& [command, section] : now) {
    ASSERT_TRUE(written.contains(command)) << command << " has no section";
    EXPECT_EQ(tableIn(written.at(command)), tableIn(section)) << command << ": ./run pages";
  }
  EXPECT_EQ(written.size(), now.size()) << "a section of a command that is gone";
}

/// What the page's calls read: a kit of two mics, a bass, a song of that bass.
struct Room : test::Scratch {
  Room() {
    test::Style style;
    style.bars = 8;
    const auto played = test::perform(style);
    test::writeWav(path() / "kick.wav", played.mics[0]);
    test::writeWav(path() / "snare.wav", played.mics[1]);
    std::vector<float> bass(4 * 48'000);
    for (std::size_t i = 0; i < bass.size(); ++i) {
      const auto t = static_cast<double>(i) / 48'000;
      for (int k = 1; k < 6; ++k) bass[i] += static_cast<float>(0.2 / k * std::sin(2 * M_PI * 110.9 * k * t));
    }
    test::writeWav(path() / "bass.wav", bass);
    Song song;
    ImportSettings settings;
    settings.takeName = "take";
    const auto id = contentId(path() / "bass.wav", test::unwatched());
    song = *importTake(
        song, {{"Bass", (path() / "bass.wav").string(), *id, 1, 48'000, Frames{4 * 48'000}, {}, MicRole::none}},
        settings);
    song = *splitAt(song, song.sets[0].id, {Frames{50'000}}, Frames{480});
    EXPECT_TRUE(saveProject(song, path() / "song.ochron"));
  }
};

TEST(CliPages, EveryCommandHasACallAndItWorks) {
  const Room room;
  std::istringstream page(pageText());
  std::map<std::string, int> calls;
  std::string section;
  for (std::string line; std::getline(page, line);) {
    if (line.starts_with("## ")) section = line.substr(3), calls[section];
    constexpr std::string_view kProgram = "orthochron-cli ";
    if (section.empty() || !line.starts_with(kProgram)) continue;
    ++calls[section];
    EXPECT_TRUE(line.starts_with(std::string(kProgram) + section + " ")) << line;
    const auto done = test::run(
        {"/bin/sh", "-c", "cd '" + room.path().string() + "' && '" + OCHRON_CLI + "' " + line.substr(kProgram.size())});
    EXPECT_EQ(done.status, 0) << line << "\n" << done.err;
  }
  for (const auto& [command, n] : calls) EXPECT_GE(n, 1) << command << " has no call";
  for (const char* file : {"hits.csv", "locked/kick.wav", "moves.json", "map.mid", "longer.wav", "bass.mid",
                           "tuned.wav", "snares.wav", "strokes.json", "song.flac", "written.json",
                           "received.ochron/song.json", "song.zip", "elsewhere.ochron/song.json"})
    EXPECT_TRUE(fs::exists(room.path() / file)) << file;
}

}  // namespace
}  // namespace ochron
