// What tells kicks, snares and toms apart on a mic that is all there is: the input of one_mic_fit.py.
//   one_mic_study LIST.json > CLUES.json
// LIST.json: [{"name": .., "set": .., "wav": .., "strokes": [{"time": seconds as this mic hears it, "class": ..}]}]

#include <cmath>
#include <nlohmann/json.hpp>

#include "analysis/drums/one_mic_drums.h"
#include "analysis/drums/own_drum.h"
#include "analysis/levels/mic_level.h"
#include "dsp/listening.h"
#include "mono_of.h"
#include "study.h"

namespace ochron {
namespace {

constexpr double kStroke = 0.015;  // s within which an attack is that stroke

nlohmann::json studied(const nlohmann::json& item) {
  auto reader = AudioFileReader::open(item.at("wav").get<std::string>());
  if (!reader) throw std::runtime_error(reader.error().message);
  const auto mono = monoOf(*reader);
  const auto heard = Listening::to(mono, reader->info().rate);
  if (!heard) throw std::runtime_error(heard.error().message);
  const auto samples = heard->samples();
  Progress progress;
  const MicLevel level(samples, kListeningRate);
  const BandEnergy energy(samples, kListeningRate, progress, 0, 1);
  const auto attacks = findAttacks(samples, kListeningRate, energy, {}, progress);
  const auto sure = judgeAttacks(samples, level, attacks, MicHears::everything, false);
  nlohmann::json out{{"name", item.at("name")}, {"set", item.at("set")}, {"attacks", nlohmann::json::array()}};
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    if (sure[i] <= 0) continue;
    auto drums = nlohmann::json::array();
    for (const auto& s : item.at("strokes"))
      if (std::abs(s.at("time").get<double>() - static_cast<double>(attacks[i].at) / kListeningRate) < kStroke)
        drums.push_back(s.at("class"));
    if (drums.empty()) continue;
    const auto clues = oneMicClues(energy, attacks[i].at);
    out["attacks"].push_back({{"drums", drums}, {"loud", clues.loud}, {"share", clues.share}, {"ring", clues.ring}});
  }
  return out;
}

}  // namespace
}  // namespace ochron

int main(int argc, char** argv) { return ochron::studyList(argc, argv, ochron::studied); }
