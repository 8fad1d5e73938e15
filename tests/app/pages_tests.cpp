// The pages hold what the program says: settings as they are described in the code, links that lead somewhere.

#include <gtest/gtest.h>

#include <filesystem>
#include <fstream>
#include <regex>
#include <sstream>

#include "app/window_fixture.h"
#include "base/numbers.h"
#include "document/hand_settings.h"
#include "render/export_stems.h"
#include "song/hit.h"
#include "song/layer.h"
#include "song/timing.h"
#include "song/tuning.h"
#include "takes/silence.h"
#include "time/anchors.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

const fs::path kDocs = fs::path(OCHRON_SOURCE_DIR) / "docs";

std::string textOf(const fs::path& file) {
  std::ifstream in(file);
  std::stringstream text;
  text << in.rdbuf();
  return text.str();
}

std::vector<fs::path> allPages() {
  std::vector<fs::path> out{fs::path(OCHRON_SOURCE_DIR) / "README.md", fs::path(OCHRON_SOURCE_DIR) / "CHANGELOG.md"};
  for (const auto& e : fs::recursive_directory_iterator(kDocs))
    if (e.path().extension() == ".md") out.push_back(e.path());
  return out;
}

std::string rowOf(const SettingRange& r, std::string_view key, std::string_view option, std::string_view help) {
  const auto cell = [](std::string_view text) { return text.empty() ? std::string("\u2013") : std::string(text); };
  return "| " + std::string(r.name) + " | " + shortest(r.low) + " to " + shortest(r.high) +
         (r.unit.empty() ? "" : " " + std::string(r.unit)) + " | " + shortest(r.fallback) + " | " +
         (key.empty() ? "\u2013" : "`" + std::string(key) + "`") + " | " +
         (option.empty() ? "\u2013" : "`" + std::string(option) + "`") + " | " + cell(help) + " |\n";
}

constexpr const char* kHead =
    "| setting | range | default | in files | option | what it does |\n|---|---|---|---|---|---|\n";

template <class List>
std::string tableOf(const char* title, const List& list) {
  std::string out = std::string("## ") + title + "\n\n" + kHead;
  for (const auto& n : list) out += rowOf(n.range, n.key, n.option, n.help);
  return out + "\n";
}

std::string settingsPage() {
  std::string out =
      "# Settings\n\nEvery number of a settings struct, as the code describes it (`Setting`, `SettingRange`). This "
      "page is "
      "made by\n`./run pages`; a test holds it. The program's own settings (window, device, keys) lie where the "
      "desktop "
      "keeps those of programs:\n`~/.config/orthochron`.\n\n";
  out += tableOf("Hits", kHitNumbers);
  out += tableOf("Guides", kGuideNumbers);
  out += tableOf("Timing plans", kTimingNumbers);
  out += tableOf("Anchors", kAnchorNumbers);
  out += tableOf("Pitch plans", kTuneNumbers);
  out += tableOf("Layers", kLayerNumbers);
  out += tableOf("Silent gaps", kSilenceNumbers);
  out += tableOf("Hands", kHandNumbers);
  out += std::string("## Exports\n\n") + kHead;
  out += rowOf(kQualityRange, "quality", "--quality", "of packed formats: how much is kept");
  out += rowOf(kLoudnessRange, "loudness", "--loudness", "what the mix is brought to");
  return out;
}

TEST(Pages, TheSettingsAreThoseOfTheCode) {
  const auto file = kDocs / "settings.md";
  const auto page = settingsPage();
  if (std::getenv("OCHRON_WRITE_PAGES")) std::ofstream(file) << page;
  EXPECT_EQ(textOf(file), page) << "./run pages makes it anew";
}

/// The commands of the window with the keys they are shipped with, by what they are about.
std::string keysPage(const Actions& actions) {
  struct Group {
    const char* title;
    std::vector<const char*> prefixes;
  };
  const std::vector<Group> groups{{"The song and its files", {"song."}},
                                  {"Anything that is chosen", {"edit.", "this."}},
                                  {"Playing", {"transport."}},
                                  {"What is seen, and help", {"step.", "view.", "help."}},
                                  {"Going from place to place", {"jump."}},
                                  {"Tracks and takes", {"track.", "set.", "take."}},
                                  {"Tempo", {"tempo."}},
                                  {"Hits", {"hits."}},
                                  {"Timing", {"timing.", "lock.", "groove.", "pins.", "stretch."}},
                                  {"Seams", {"seams."}},
                                  {"Clips, spans and markers", {"clips.", "spans.", "markers.", "envelope."}},
                                  {"Kit", {"kit.", "cells.", "patterns."}},
                                  {"Pitch", {"pitch."}},
                                  {"Print", {"print."}},
                                  {"Checks", {"checks."}}};
  std::string out =
      "# Keys\n\nShown in the program by Shift+F1, where each can be changed; when a key is taken, the sheet says by "
      "what. "
      "Ctrl+F finds a\ncommand by its words. This page is made by `./run pages`; a test holds it.\n";
  std::size_t listed = 0;
  for (const auto& g : groups) {
    out += std::string("\n## ") + g.title + "\n\n| command | key |\n|---|---|\n";
    for (const auto& id : actions.ids()) {
      if (std::none_of(g.prefixes.begin(), g.prefixes.end(), [&](const char* p) { return id.startsWith(p); })) continue;
      const auto* a = actions.action(id);
      const auto key = a->shortcut().toString();
      out += "| " + a->text().toStdString() + " | " + (key.isEmpty() ? "\u2014" : key.toStdString()) + " |\n";
      ++listed;
    }
  }
  EXPECT_EQ(listed, static_cast<std::size_t>(actions.ids().size())) << "a command stands in no group";
  return out;
}

struct PagesOfTheWindow : test::Driven {};

TEST_F(PagesOfTheWindow, TheKeysAreThoseOfTheCommands) {
  QSettings().clear();
  show();
  const auto file = kDocs / "keys.md";
  const auto page = keysPage(window->actions());
  if (std::getenv("OCHRON_WRITE_PAGES")) std::ofstream(file) << page;
  EXPECT_EQ(textOf(file), page) << "./run pages makes it anew";
}

TEST(Pages, TheirLinksLeadSomewhere) {
  const std::regex link(R"(\]\(([^)#]+)(#[^)]*)?\))");
  std::size_t followed = 0;
  for (const auto& page : allPages()) {
    const auto text = textOf(page);
    for (std::sregex_iterator at(text.begin(), text.end(), link), end; at != end; ++at) {
      const auto to = (*at)[1].str();
      if (to.find("://") != std::string::npos) continue;
      EXPECT_TRUE(fs::exists(page.parent_path() / to)) << page << ": " << to;
      ++followed;
    }
  }
  EXPECT_GT(followed, 60U);
}

TEST(Pages, FilesThatTheyNameAreThere) {
  // `src/core/edits/X_edits.h` and the like stand for any; all others are real.
  const std::regex name(R"(`((?:src|tests|bench|demo|fuzz)/[A-Za-z0-9_/.\-]+)`)");
  for (const auto& e : fs::recursive_directory_iterator(kDocs)) {
    if (e.path().extension() != ".md") continue;
    const auto text = textOf(e.path());
    for (std::sregex_iterator at(text.begin(), text.end(), name), end; at != end; ++at) {
      const auto file = (*at)[1].str();
      if (file.find("X_") != std::string::npos || file.find("NAME") != std::string::npos) continue;
      const auto there = fs::path(OCHRON_SOURCE_DIR) / file;
      EXPECT_TRUE(fs::exists(there) || fs::exists(there.string() + ".cpp")) << e.path() << ": " << file;
    }
  }
}

/// A page's lines without tables, headings and code; paragraphs and points begin behind an empty one.
std::vector<std::string> proseOf(const fs::path& page) {
  std::vector<std::string> out;
  std::istringstream in(textOf(page));
  bool code = false;
  for (std::string line; std::getline(in, line);) {
    if (line.starts_with("```")) code = !code;
    static const std::regex point(R"(^\s*([-*]|\d+\.)\s.*)");
    if (code || line.starts_with('|') || line.starts_with('#') || line.starts_with("```")) line.clear();
    if (std::regex_match(line, point)) out.emplace_back();
    out.push_back(line);
  }
  return out;
}

TEST(Pages, NoLineOfProseIsLongerThanIsRead) {
  constexpr std::size_t kMost = 170;  // bytes
  for (const auto& page : allPages())
    for (const auto& line : proseOf(page)) EXPECT_LE(line.size(), kMost) << page << ": " << line;
}

/// Of pages that are read from beginning to end; figures are looked up.
TEST(Pages, NoSentenceHoldsMoreThanFortyFiveWords) {
  constexpr int kMost = 45;
  for (const auto& page : allPages()) {
    if (page.filename() == "figures.md") continue;
    int words = 0;
    std::string sentence;
    for (auto line : proseOf(page)) {
      std::istringstream in(line);
      if (line.empty()) words = 0, sentence.clear();
      for (std::string word; in >> word;) {
        sentence += word + " ";
        EXPECT_LE(++words, kMost) << page << ": " << sentence;
        if (word.find_last_of(".!?:;") == word.size() - 1 || word.ends_with(".)") || word.ends_with(".*") ||
            word.ends_with(".**"))
          words = 0, sentence.clear();
      }
    }
  }
}

}  // namespace
}  // namespace ochron
