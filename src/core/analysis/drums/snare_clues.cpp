#include "analysis/drums/snare_clues.h"

#include <algorithm>
#include <cmath>

#include "analysis/drums/own_drum.h"
#include "analysis/levels/weighed.h"
#include "base/median.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr double kLoud = 0.5;       // of a loud stroke
constexpr double kSurelyOwn = 0.2;  // strokes so sure show what the drum is like, when there are as many as these
constexpr std::size_t kFewSure = 3;
constexpr double kLeastNetDb = -45;
constexpr double kFarDb = 15;  // a band that is farther off tells no more
constexpr double kMostRiseDb = 30;
constexpr double kMostMeanRiseDb = 20;
constexpr double kSilent = 1e-6;
using Net = std::array<double, BandEnergy::kBands>;

/// Found by bench/stroke_fit.py (docs/figures.md, "Hits on takes with truth").
constexpr SnareClues kOddsOf{2.945,  4.472,  1.145, -1.462, 0.295,  0.928, -0.737, -0.318, -2.385,
                             -2.397, -6.651, 1.308, 0.773,  -0.285, 0.460, -2.903, 0.521,  2.217};

/// Levels above 100 Hz are compared: below, what rang before hides a stroke.
constexpr std::size_t kFirst = 1, kPast = 6;

double levelOf(const Net& net) { return medianOf({net.begin() + kFirst, net.begin() + kPast}); }

}  // namespace

std::vector<SnareClues> snareClues(const std::vector<Attack>& attacks, const MicLevel& level,
                                   const std::vector<double>& sure) {
  std::vector<Net> nets;
  std::array<std::vector<double>, BandEnergy::kBands> loud;
  std::array<std::vector<double>, BandEnergy::kBands> sureLoud;
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    auto& net = nets.emplace_back(attacks[i].net);
    for (auto& db : net) db = std::max(db, kLeastNetDb);
    if (sure[i] <= 0 || level.at(attacks[i].at) < kLoud) continue;
    for (std::size_t b = 0; b < net.size(); ++b) {
      loud[b].push_back(net[b]);
      if (sure[i] > kSurelyOwn) sureLoud[b].push_back(net[b]);
    }
  }
  if (loud[0].empty()) return {};
  Net own{};
  for (std::size_t b = 0; b < own.size(); ++b)
    own[b] = medianOf(sureLoud[b].size() >= kFewSure ? std::move(sureLoud[b]) : std::move(loud[b]));
  std::vector<SnareClues> out;
  for (std::size_t i = 0; i < attacks.size(); ++i) {
    Net off{};
    for (std::size_t b = 0; b < off.size(); ++b) off[b] = nets[i][b] - own[b];
    const double quieter = levelOf(off);
    auto& clues = out.emplace_back();
    auto next = clues.begin();
    *next++ = 1;
    *next++ = 5 * sure[i];
    *next++ = 0.2 * decibelsOf(level.at(attacks[i].at) + kSilent);
    for (std::size_t b = kFirst; b < off.size(); ++b) {
      const double apart = std::clamp(off[b] - quieter, -kFarDb, kFarDb) / 5;
      *next++ = apart;
      *next++ = apart * apart;
    }
    *next++ = std::min(attacks[i].rise, kMostRiseDb) / 10;
    *next++ = std::min(attacks[i].bodyRise, kMostRiseDb) / 10;
    *next++ = std::min(attacks[i].meanRise, kMostMeanRiseDb) / 10;
  }
  return out;
}

double sureBy(const SnareClues& clues) { return weighed(clues, kOddsOf) / kOddsOfSure; }

}  // namespace ochron
