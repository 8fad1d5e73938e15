// What tells for each reading of recordings whose beats and bars are known: the input of tempo_fit.py.
//   tempo_study LIST.json > CLUES.json
// LIST.json: [{"name": .., "group": .., "set": .., "wav": .., "beats": [seconds], "downs": [seconds], "meter": "4/4"}]

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "analysis/tempo/bar_lines.h"
#include "analysis/tempo/steady_line.h"
#include "analysis/tempo/tempo_level.h"
#include "base/median.h"
#include "mono_of.h"
#include "study.h"

namespace ochron {
namespace {

/// F-measure of places within 70 ms.
double agreement(const std::vector<double>& found, const std::vector<double>& known) {
  const auto near = [](double x, const std::vector<double>& all) {
    return std::any_of(all.begin(), all.end(), [&](double y) { return std::abs(x - y) <= 0.07; });
  };
  const auto a = std::count_if(found.begin(), found.end(), [&](double x) { return near(x, known); });
  const auto b = std::count_if(known.begin(), known.end(), [&](double x) { return near(x, found); });
  return 2.0 * static_cast<double>(std::min(a, b)) /
         std::max<double>(1, static_cast<double>(found.size() + known.size()));
}

double medianGap(const std::vector<double>& places) {
  std::vector<double> gaps;
  for (std::size_t i = 1; i < places.size(); ++i) gaps.push_back(places[i] - places[i - 1]);
  return gaps.empty() ? 0 : medianOf(std::move(gaps));
}

nlohmann::json studied(const nlohmann::json& item) {
  constexpr double kSameTempo = 0.04;
  constexpr double kRight = 0.8;
  nlohmann::json out{{"name", item["name"]}, {"group", item["group"]}, {"set", item["set"]}, {"meter", item["meter"]}};
  out["levels"] = nlohmann::json::array();
  out["bars"] = nlohmann::json::array();
  auto reader = AudioFileReader::open(item["wav"].get<std::string>());
  if (!reader) return out;
  const auto rate = reader->info().rate;
  const auto sound = monoOf(*reader);
  const auto beats = item["beats"].get<std::vector<double>>();
  const auto downs = item["downs"].get<std::vector<double>>();
  const double known = 60 / std::max(1e-3, medianGap(beats));
  const auto curves = onsetCurves(sound, rate);
  const auto chroma = chromaOf(sound, rate);
  const auto loop = loopOf(sound, rate, {});
  Progress progress;
  for (const auto& r : tempoReadings(curves, loop, 60, 200, progress)) {
    const bool right = std::abs(r.path.bpm / known - 1) < kSameTempo;
    out["levels"].push_back({{"clues", r.clues}, {"right", right}, {"bpm", r.path.bpm}});
    if (!right) continue;
    for (const auto& c : barCandidates(curves, chroma, refinedBeats(curves, r.path.beats), isLoopAt(loop, r.path.bpm)))
      out["bars"].push_back(
          {{"clues", c.clues},
           {"right", agreement(c.lines.downbeats, downs) > kRight &&
                         (c.lines.meter == Meter{7, 8} || agreement(c.lines.beats, beats) > kRight)}});
  }
  return out;
}

}  // namespace
}  // namespace ochron

int main(int argc, char** argv) { return ochron::studyList(argc, argv, ochron::studied); }
