// Bars of another length on the command line: said, listed, and written into the map that a performance has.
#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>

#include "support/cli.h"
#include "support/drum_pattern.h"
#include "support/scratch.h"

namespace ochron {
namespace {

using test::cli;

TEST(Meters, ABarOfTwoIsToldListedAndWrittenIntoTheMapThatQuantizesTheSameTake) {
  const test::Scratch scratch;
  const auto in = (scratch / "in.wav").string();
  const auto map = (scratch / "map.mid").string();
  const auto verse = test::repeated("K-h-S-h-K-hkS-hh", 6);
  test::writeWav(in, test::played(verse + "K-h-" + verse, 0.26, 0.4), test::kPatternRate);
  const auto told = cli({"tempo", in});
  EXPECT_NE(told.out.find("4/4 (bar 13: 2/4)"), std::string::npos) << told.out << told.err;
  const auto json = nlohmann::json::parse(cli({"tempo", in, "--json"}).out);
  EXPECT_EQ(json["meters"].dump(), R"([{"bar":1,"meter":"4/4"},{"bar":13,"meter":"2/4"},{"bar":14,"meter":"4/4"}])");
  const auto written = cli({"map", in, "--out", map});
  EXPECT_NE(written.out.find("bar 13: 2/4"), std::string::npos) << written.out << written.err;
  // On the map read back every stroke is where it is on what was heard.
  const auto start = std::to_string(json["downbeats"][0].get<double>());
  for (const std::vector<std::string>& how :
       {std::vector<std::string>{"--tempo", "auto"}, {"--tempo-map", map, "--start", start}}) {
    std::vector<std::string> all{"quantize", in,
                                 "--grid",   "1/8",
                                 "--out",    (scratch / "out").string(),
                                 "--report", (scratch / "r.json").string()};
    all.insert(all.end(), how.begin(), how.end());
    const auto r = cli(all);
    ASSERT_EQ(r.status, 0) << r.err;
    std::ifstream file(scratch / "r.json");
    const auto moves = nlohmann::json::parse(file)["moves"];
    EXPECT_GT(moves.size(), 100u);
    for (const auto& m : moves) EXPECT_LT(std::abs(m["to"].get<double>() - m["from"].get<double>()), 0.012) << how[0];
  }
}

}  // namespace
}  // namespace ochron
