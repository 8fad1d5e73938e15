// What tells of each hit of kits whose strokes are known whether a tom or a cymbal was struck along with what has a mic
// of its own: the input of along_fit.py.
//   along_study LIST.json > CLUES.json
// LIST.json: [{"name": .., "set": .., "mics": [{"wav": .., "hears": "kick|snare|tom|hat|everything|room", "guide":
// ..}],
//              "toms": [seconds of every stroke as the first guide hears it], "cymbals": [..]}]

#include <algorithm>
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>

#include "analysis/drums/heard_together.h"
#include "analysis/drums/struck_along.h"
#include "mono_of.h"
#include "study.h"

namespace ochron {
namespace {

constexpr double kCounts = 0.05;  // claim that counts at the default sensitivity

const std::map<std::string, MicHears> kHears{
    {"kick", MicHears::kick}, {"snare", MicHears::snare},           {"tom", MicHears::tom},
    {"hat", MicHears::hat},   {"everything", MicHears::everything}, {"room", MicHears::room},
};

struct Kit {
  std::vector<std::vector<float>> sounds;
  std::vector<MicHearing> mics;
  int rate = 0;
};

Kit heard(const nlohmann::json& mics) {
  Kit kit;
  Beside beside;
  for (const auto& m : mics) {
    auto reader = AudioFileReader::open(m.at("wav").get<std::string>());
    if (!reader) throw std::runtime_error(reader.error().message);
    kit.rate = reader->info().rate;
    kit.sounds.push_back(monoOf(*reader));
    beside.drums = beside.drums || ownDrum(kHears.at(m.at("hears"))).has_value();
  }
  beside.guides =
      std::count_if(mics.begin(), mics.end(), [](auto& m) { return m.at("guide").template get<bool>(); }) > 1;
  Progress progress;
  for (std::size_t i = 0; i < mics.size(); ++i) {
    const GuideSignal signal{kit.sounds[i], {}, kHears.at(mics[i].at("hears")), mics[i].at("guide")};
    kit.mics.push_back(listenTo(signal, static_cast<int>(i), beside, kit.rate, progress));
  }
  return kit;
}

bool anyWithin(const nlohmann::json& strokes, double at) {
  return std::any_of(strokes.begin(), strokes.end(),
                     [&](auto& s) { return std::abs(s.template get<double>() - at) < kOneHitSeconds; });
}

nlohmann::json studied(const nlohmann::json& item) {
  auto kit = heard(item.at("mics"));
  believeTogether(kit.mics, kit.rate);
  const BetweenMics between(kit.mics, kit.rate);
  std::vector<const MicStroke*> counting;
  for (const auto& m : kit.mics)
    for (const auto& s : m.strokes)
      if (m.guide && s.claim() >= kCounts) counting.push_back(&s);
  std::stable_sort(counting.begin(), counting.end(), [](auto* a, auto* b) { return a->at < b->at; });
  std::vector<StrokeChain> hits;
  for (const auto& chain : chainsOf(counting, kit.rate))
    if (auto close = closeOf(chain, kit.rate); !close.empty()) hits.push_back(std::move(close));
  const StruckAlong along(between, hits, kit.rate);
  nlohmann::json out{{"name", item.at("name")}, {"set", item.at("set")}, {"hits", nlohmann::json::array()}};
  for (const auto& close : hits) {
    const auto first = close.front()->at;
    const auto tom = along.clues(DrumClass::tom, close, first);
    const auto cymbal = along.clues(DrumClass::cymbal, close, first);
    if (!tom || !cymbal) continue;
    const auto with = [&](DrumClass drum) {
      return std::any_of(close.begin(), close.end(), [&](auto* s) { return s->drum == drum; });
    };
    const double at = static_cast<double>(first.value) / kit.rate;
    out["hits"].push_back({{"with", {with(DrumClass::kick), with(DrumClass::snare), with(DrumClass::hat)}},
                           {"tom", anyWithin(item.at("toms"), at)},
                           {"cymbal", anyWithin(item.at("cymbals"), at)},
                           {"tomClues", *tom},
                           {"cymbalClues", *cymbal}});
  }
  return out;
}

}  // namespace
}  // namespace ochron

int main(int argc, char** argv) { return ochron::studyList(argc, argv, ochron::studied); }
