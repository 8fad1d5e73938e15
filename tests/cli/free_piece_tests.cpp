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

/// The F measures of beats and bars heard in a file of the piece, within 70 ms.
std::pair<double, double> heardInFreePiece(const char* name) {
  const auto truth = truthOfFreePiece();
  const auto file = std::filesystem::path(OCHRON_SOURCE_DIR) / "demo/free" / name;
  const auto run = test::cli({"tempo", file.string(), "--json"});
  EXPECT_EQ(run.status, 0) << run.err;
  if (run.status != 0) return {};
  const auto heard = FreeJson::parse(run.out);
  return {fMeasure(heard["beats"], truth["beats"], 0.07), fMeasure(heard["downbeats"], truth["downbeats"], 0.07)};
}

TEST(FreePiece, ItsBeatsAndBarsAreFollowedThroughAllItBreathes) {
  const auto [beats, bars] = heardInFreePiece("Piano.flac");
  EXPECT_GE(beats, 0.96);
  EXPECT_GE(bars, 0.94);
}

TEST(FreePiece, PlayedOnKeysAndKeptAsNotesItsBeatsAreFollowedToo) {
  const auto [beats, bars] = heardInFreePiece("Piano.mid");
  EXPECT_GE(beats, 0.95);
  EXPECT_GE(bars, 0.94);
}

TEST(FreePiece, TheMapOfTheKeysLocksTheRecordingOfThePiano) {
  const test::Scratch scratch;
  const auto keys = (std::filesystem::path(OCHRON_SOURCE_DIR) / "demo/free/Piano.mid").string();
  const auto piano = (std::filesystem::path(OCHRON_SOURCE_DIR) / "demo/free/Piano.flac").string();
  const auto map = (scratch / "free.mid").string();
  ASSERT_EQ(test::cli({"map", keys, "--out", map}).status, 0);
  const auto report = (scratch / "report.json").string();
  const auto truth = truthOfFreePiece();
  const double start = truth["downbeats"][0];
  const auto run = test::cli({"quantize", piano, "--tempo-map", map, "--start", std::to_string(start), "--grid", "1/8",
                              "--out", (scratch / "out").string(), "--report", report});
  ASSERT_EQ(run.status, 0) << run.err;
  std::ifstream in(report);
  double most = 0;
  double sum = 0;
  const auto moves = FreeJson::parse(in)["moves"];
  for (const auto& m : moves) {
    const double by = std::abs(m["to"].get<double>() - m["from"].get<double>());
    most = std::max(most, by);
    sum += by;
  }
  ASSERT_GE(moves.size(), 90U);
  EXPECT_LT(sum / static_cast<double>(moves.size()), 0.03) << "at one tempo they would be far off; most " << most;
  const auto both = test::cli(
      {"quantize", keys, "--tempo-map", map, "--tempo", "100", "--grid", "1/8", "--out", (scratch / "out2").string()});
  EXPECT_NE(both.status, 0) << "one of the two";
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
