// Holds the arrows of docs/architecture.md: a core folder includes only what its line in src/core/CMakeLists.txt lists.

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>
#include <sstream>

namespace {
namespace fs = std::filesystem;

const fs::path kSource = fs::path(OCHRON_SOURCE_DIR) / "src";

std::string textOf(const fs::path& file) {
  std::stringstream s;
  s << std::ifstream(file).rdbuf();
  return s.str();
}

std::map<std::string, std::set<std::string>> allowed() {
  std::map<std::string, std::set<std::string>> out;
  const auto text = textOf(kSource / "core" / "CMakeLists.txt");
  const std::regex line(R"(ochron_core_library\(([\w/]+)([^)]*)\))");
  for (std::sregex_iterator it(text.begin(), text.end(), line), end; it != end; ++it) {
    auto& uses = out[(*it)[1]];
    uses.insert((*it)[1]);
    std::stringstream words((*it)[2].str());
    std::string word;
    bool listing = false;
    while (words >> word) {
      if (word == "USES")
        listing = true;
      else if (word == "LINKS")
        listing = false;
      else if (listing)
        uses.insert(word);
    }
  }
  return out;
}

std::vector<std::string> includesOf(const fs::path& file) {
  std::vector<std::string> out;
  const auto text = textOf(file);
  const std::regex include(R"(#include [<"]([^>"]+)[>"])");
  for (std::sregex_iterator it(text.begin(), text.end(), include), end; it != end; ++it) out.push_back((*it)[1]);
  return out;
}

/// Of a file of the core, or of one that it includes: "media", "analysis/hits".
std::string folderOf(const fs::path& file) { return file.parent_path().generic_string(); }

TEST(Layers, CoreFoldersIncludeOnlyWhatTheyList) {
  const auto rules = allowed();
  ASSERT_GE(rules.size(), 10u);
  int checked = 0;
  for (const auto& entry : fs::recursive_directory_iterator(kSource / "core")) {
    if (entry.path().extension() != ".cpp" && entry.path().extension() != ".h") continue;
    const auto folder = folderOf(fs::relative(entry.path(), kSource / "core"));
    ASSERT_TRUE(rules.contains(folder)) << folder;
    for (const auto& include : includesOf(entry.path())) {
      if (!rules.contains(folderOf(include))) continue;
      EXPECT_TRUE(rules.at(folder).contains(folderOf(include))) << entry.path() << " includes " << include;
      ++checked;
    }
  }
  EXPECT_GT(checked, 50);
}

TEST(Layers, CoreFoldersListNothingThatTheyDoNotInclude) {
  std::map<std::string, std::set<std::string>> used;
  for (const auto& entry : fs::recursive_directory_iterator(kSource / "core"))
    if (entry.path().extension() == ".cpp" || entry.path().extension() == ".h")
      for (const auto& include : includesOf(entry.path()))
        used[folderOf(fs::relative(entry.path(), kSource / "core"))].insert(folderOf(include));
  for (const auto& [folder, listed] : allowed())
    for (const auto& lower : listed)
      if (lower != folder) EXPECT_TRUE(used[folder].contains(lower)) << folder << " lists " << lower;
}

TEST(Layers, CoreKnowsNoQt) {
  for (const auto& entry : fs::recursive_directory_iterator(kSource / "core"))
    if (entry.is_regular_file())
      for (const auto& include : includesOf(entry.path()))
        EXPECT_FALSE(std::regex_match(include, std::regex("Q[A-Z].*|Qt.*"))) << entry.path() << " includes " << include;
}

TEST(Layers, NoFolderOfTheApplicationIncludesItselfRoundAbout) {
  const auto app = kSource / "app";
  std::map<std::string, std::set<std::string>> used;
  for (const auto& entry : fs::recursive_directory_iterator(app)) {
    if (entry.path().extension() != ".cpp" && entry.path().extension() != ".h") continue;
    const auto folder = fs::relative(entry.path().parent_path(), app).string();
    for (const auto& include : includesOf(entry.path()))
      if (const auto other = fs::path(include).parent_path().string(); other != folder && fs::exists(app / include))
        used[folder].insert(other);
  }
  EXPECT_GT(used.size(), 15u);
  // What a folder reaches, by all that it includes.
  for (const auto& [folder, lower] : used) {
    std::vector<std::string> next(lower.begin(), lower.end());
    std::set<std::string> reached;
    while (!next.empty()) {
      const auto at = next.back();
      next.pop_back();
      if (!reached.insert(at).second) continue;
      next.insert(next.end(), used[at].begin(), used[at].end());
    }
    EXPECT_FALSE(reached.contains(folder)) << folder;
  }
}

TEST(Layers, SongKnowsNoAnalysisRenderingOrFiles) {
  const auto song = allowed().at("song");
  for (const char* above : {"analysis", "render", "store", "media", "play", "feel", "seams", "edits"})
    EXPECT_FALSE(song.contains(above)) << above;
}

}  // namespace
