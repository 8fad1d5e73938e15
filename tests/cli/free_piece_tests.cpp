// The free performance of the demo folder, heard by the command line and held against its truth.

#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>

#include "support/cli.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using FreeJson = nlohmann::json;

FreeJson truthOfFreePiece() {
  std::ifstream file(std::filesystem::path(OCHRON_SOURCE_DIR) / "demo/free/truth.json");
  return FreeJson::parse(file);
}

/// F measure of places against true ones, each used once.
double fMeasure(const std::vector<double>& found, const std::vector<double>& real, double within) {
  std::vector<bool> used(found.size());
  int right = 0;
  for (const double r : real) {
    std::size_t best = found.size();
    for (std::size_t i = 0; i < found.size(); ++i)
      if (!used[i] && std::abs(found[i] - r) <= within &&
          (best == found.size() || std::abs(found[i] - r) < std::abs(found[best] - r)))
        best = i;
    if (best == found.size()) continue;
    used[best] = true;
    ++right;
  }
  return 2.0 * right / static_cast<double>(found.size() + real.size());
}

TEST(FreePiece, ItsBeatsAndBarsAreFollowedThroughAllItBreathes) {
  const auto truth = truthOfFreePiece();
  const auto piano = std::filesystem::path(OCHRON_SOURCE_DIR) / "demo/free/Piano.flac";
  const auto run = test::cli({"tempo", piano.string(), "--json"});
  ASSERT_EQ(run.status, 0) << run.err;
  const auto heard = FreeJson::parse(run.out);
  EXPECT_GE(fMeasure(heard["beats"], truth["beats"], 0.07), 0.96);
  EXPECT_GE(fMeasure(heard["downbeats"], truth["downbeats"], 0.07), 0.94);
}

TEST(FreePiece, ItsMapFollowsThePlayers) {
  const test::Scratch scratch;
  const auto folder = std::filesystem::path(OCHRON_SOURCE_DIR) / "demo/free";
  const auto run = test::cli({"map", (folder / "Piano.flac").string(), (folder / "Bass.flac").string(), "--out",
                              (scratch / "free.mid").string()});
  ASSERT_EQ(run.status, 0) << run.err;
  EXPECT_NE(run.out.find("bars of 3"), std::string::npos) << run.out;
  EXPECT_GE(std::stoi(run.out), 15) << "a map, not one tempo: " << run.out;
}

}  // namespace
}  // namespace ochron
