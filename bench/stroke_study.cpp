// What tells of each attack that is asked about on the mic of a snare whose strokes are known: the input of
// stroke_fit.py.
//   stroke_study LIST.json > CLUES.json
// LIST.json: [{"name": .., "set": .., "wav": .., "own": [seconds of every stroke of the snare as this mic hears it]}]

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "analysis/drums/own_drum.h"
#include "analysis/drums/snare_clues.h"
#include "mono_of.h"
#include "study.h"

namespace ochron {
namespace {

constexpr double kStroke = 0.005;  // s within which an attack is that stroke
constexpr double kOther = 0.03;    // s beyond which it is another drum's; between, it is neither

nlohmann::json studied(const nlohmann::json& item) {
  auto reader = AudioFileReader::open(item.at("wav").get<std::string>());
  if (!reader) throw std::runtime_error(reader.error().message);
  const int rate = reader->info().rate;
  const auto samples = monoOf(*reader);
  Progress progress;
  const MicLevel level(samples, rate);
  const BandEnergy energy(samples, rate, progress, 0, 1);
  const auto attacks = findAttacks(samples, rate, energy, {}, progress);
  OwnDrumSettings byLikeness;
  byLikeness.byClues = false;
  const auto sure = judgeAttacks(samples, level, attacks, MicHears::snare, false, byLikeness);
  const auto clues = snareClues(attacks, level, sure);
  nlohmann::json out{{"name", item.at("name")}, {"set", item.at("set")}, {"attacks", nlohmann::json::array()}};
  for (std::size_t i = 0; i < clues.size(); ++i) {
    double nearest = 1e9;
    for (const double own : item.at("own"))
      nearest = std::min(nearest, std::abs(own - static_cast<double>(attacks[i].at) / rate));
    if (sure[i] <= byLikeness.doubt || (nearest > kStroke && nearest < kOther)) continue;
    out["attacks"].push_back({{"own", nearest <= kStroke}, {"sure", sure[i]}, {"clues", clues[i]}});
  }
  return out;
}

}  // namespace
}  // namespace ochron

int main(int argc, char** argv) { return ochron::studyList(argc, argv, ochron::studied); }
