#include "analysis/drums/struck_along.h"

#include <algorithm>

#include "analysis/levels/weighed.h"
#include "base/median.h"

namespace ochron {
namespace {

constexpr std::size_t kBandsAsked = 3;
constexpr std::size_t kTomBands = 0;     // 20 to 600 Hz
constexpr std::size_t kCymbalBands = 4;  // 1.5 kHz and up
constexpr double kLeastDb = -10, kMostDb = 25;
constexpr std::size_t kTomBand = 1;       // 100 to 250 Hz
constexpr double kPlainDb = 1.5;          // so much more there than kick and snare bring, where it sounds on, is a tom
constexpr double kPlainSpread = 0.5;      // and by so many times as that varies from stroke to stroke
constexpr double kBrighterDb = 6;         // so much more where cymbals sound, it is a cymbal that reaches down there
constexpr double kBeforeSeconds = 0.003;  // by less a wide mic may be early
constexpr std::size_t kFewHits = 6;
constexpr int kAny = -1;

/// Weights of the clues: always, and more of them with a kick, a snare, a hat.
using AlongOdds = std::array<AlongClues, 4>;

/// Both found by bench/along_fit.py (docs/figures.md, "Hits on takes with truth").
constexpr AlongOdds kTomOdds{
    {{-1.850, 2.118, -0.606, -0.045, 1.562, 5.564, -0.574, -0.727, -0.901, 1.526, 0.014, -4.588, -0.990},
     {2.660, 2.131, -1.330, -3.270, 0.458, 1.824, 0.075, -5.145, 1.110, 2.806, 1.624, 0.266, -0.482},
     {-2.729, -1.736, 0.015, -0.318, -0.201, -4.551, 0.783, 5.392, 1.084, -9.444, -0.948, 12.789, 0.627},
     {-3.744, -0.750, -0.377, 0.447, -0.048, -1.711, -0.549, -0.323, 0.458, 0.052, -0.926, 1.051, 0.377}}};
constexpr AlongOdds kCymbalOdds{
    {{0.020, 0.603, -0.091, -0.661, 0.349, 0.255, -0.468, 0.981, 0.970, 2.609, 1.148, -2.920, -0.526},
     {-0.522, 2.017, -1.651, -1.110, -0.668, -1.459, -1.041, -0.470, 1.538, -0.072, 1.449, 1.312, -0.700},
     {-0.941, 0.151, 0.073, 0.715, 0.351, -1.897, -1.249, -0.182, -0.452, 0.153, -1.216, 1.320, 1.491},
     {-4.444, 9.427, -0.241, -9.081, 0.376, 6.634, -0.628, -8.926, 0.397, 4.881, -0.418, -2.838, -1.512}}};

bool struck(const StrokeChain& close, DrumClass drum) {
  return std::any_of(close.begin(), close.end(), [&](auto* s) { return s->drum == drum; });
}

int skinsOf(const StrokeChain& close) {
  return (struck(close, DrumClass::kick) ? 1 : 0) + (struck(close, DrumClass::snare) ? 2 : 0);
}

/// What the clues weigh by what is usual shows by itself, too, be it the only tom of a take.
bool plainlyATom(const BetweenMics::Beyond& heard) {
  const double more = heard.more[kTomBand];
  const double bright = std::max(heard.more[kCymbalBands], heard.more[kCymbalBands + 1]);
  return more > kPlainDb + kPlainSpread * heard.varies[kTomBand] && heard.rings[kTomBand] > 0 &&
         bright <= more + kBrighterDb;
}

double oddsOf(const AlongClues& clues, const AlongOdds& odds, const StrokeChain& close) {
  double out = weighed(clues, odds[0]);
  if (struck(close, DrumClass::kick)) out += weighed(clues, odds[1]);
  if (struck(close, DrumClass::snare)) out += weighed(clues, odds[2]);
  if (struck(close, DrumClass::hat)) out += weighed(clues, odds[3]);
  return out;
}

Frames firstOf(const StrokeChain& close) {
  return (*std::min_element(close.begin(), close.end(), [](auto* a, auto* b) { return a->at < b->at; }))->at;
}

BetweenMics::Beyond clamped(BetweenMics::Beyond b) {
  for (auto& db : b.more) db = std::clamp(db, kLeastDb, kMostDb);
  for (auto& db : b.rings) db = std::clamp(db, kLeastDb, kMostDb);
  return b;
}

BetweenMics::Beyond middleOf(const std::vector<BetweenMics::Beyond>& all) {
  BetweenMics::Beyond out;
  for (std::size_t b = 0; b < out.more.size(); ++b) {
    std::vector<double> more, rings;
    for (const auto& x : all) more.push_back(x.more[b]), rings.push_back(x.rings[b]);
    out.more[b] = medianOf(std::move(more));
    out.rings[b] = medianOf(std::move(rings));
  }
  return out;
}

}  // namespace

StruckAlong::StruckAlong(const BetweenMics& between, const std::vector<StrokeChain>& hits, int rate)
    : between_(between), rate_(rate) {
  std::map<int, std::vector<BetweenMics::Beyond>> heard;
  for (const auto& close : hits) {
    if (close.empty()) continue;
    const auto beyond = between.beyond(close, firstOf(close));
    if (!beyond) continue;
    heard[skinsOf(close)].push_back(clamped(*beyond));
    heard[kAny].push_back(clamped(*beyond));
  }
  for (const auto& [skins, all] : heard)
    if (skins == kAny || all.size() >= kFewHits) usual_.emplace(skins, middleOf(all));
}

std::optional<AlongClues> StruckAlong::clues(DrumClass drum, const StrokeChain& close, Frames from) const {
  const auto heard = between_.beyond(close, from);
  return heard ? cluesIn(*heard, drum, close) : std::nullopt;
}

std::optional<AlongClues> StruckAlong::cluesIn(const BetweenMics::Beyond& heard, DrumClass drum,
                                               const StrokeChain& close) const {
  auto usual = usual_.find(skinsOf(close));
  if (usual == usual_.end()) usual = usual_.find(kAny);
  if (usual == usual_.end()) return {};
  const auto here = clamped(heard);
  const std::size_t first = drum == DrumClass::tom ? kTomBands : kCymbalBands;
  AlongClues out;
  auto next = out.begin();
  *next++ = 1;
  for (auto b = first; b < first + kBandsAsked; ++b) {
    *next++ = here.more[b] / 10;
    *next++ = here.rings[b] / 10;
    *next++ = (here.more[b] - usual->second.more[b]) / 10;
    *next++ = (here.rings[b] - usual->second.rings[b]) / 10;
  }
  return out;
}

std::optional<DrumClass> StruckAlong::from(const StrokeChain& close, Frames at) const {
  const bool skins = skinsOf(close) != 0;
  const auto heard = between_.beyond(close, at);
  if (!heard) return {};
  if (skins && plainlyATom(*heard)) return DrumClass::tom;
  const auto tom = skins ? cluesIn(*heard, DrumClass::tom, close) : std::nullopt;
  const auto cymbal = cluesIn(*heard, DrumClass::cymbal, close);
  const double tomOdds = tom ? oddsOf(*tom, kTomOdds, close) : 0;
  const double cymbalOdds = cymbal ? oddsOf(*cymbal, kCymbalOdds, close) : 0;
  if (std::max(tomOdds, cymbalOdds) <= 0) return {};
  return tomOdds > cymbalOdds ? DrumClass::tom : DrumClass::cymbal;
}

std::optional<DrumClass> StruckAlong::with(const StrokeChain& close, Frames begins) const {
  if (close.empty()) return {};
  const auto first = firstOf(close);
  const auto along = from(close, first);
  // What begins before the close strokes hides in what was there before them.
  if (along || first - begins <= Frames{static_cast<std::int64_t>(kBeforeSeconds * rate_)}) return along;
  return from(close, begins);
}

}  // namespace ochron
