#include "analysis/drums/stroke_chains.h"

#include <algorithm>

namespace ochron {
namespace {

constexpr double kSameStrokeSeconds = 0.012;
constexpr double kTwoKicksSeconds = 0.015;

}  // namespace

std::vector<StrokeChain> chainsOf(const std::vector<const MicStroke*>& strokes, int rate) {
  const Frames reach{static_cast<std::int64_t>(kOneHitSeconds * rate)};
  const Frames apart{static_cast<std::int64_t>(kTwoKicksSeconds * rate)};
  std::vector<StrokeChain> out;
  for (const auto* s : strokes) {
    const bool again = !out.empty() && s->close && s->drum == DrumClass::kick &&
                       std::any_of(out.back().begin(), out.back().end(), [&](const MicStroke* o) {
                         return o->mic == s->mic && o->drum == s->drum && s->at - o->at >= apart;
                       });
    if (out.empty() || s->at - out.back().back()->at > reach || again) out.emplace_back();
    out.back().push_back(s);
  }
  return out;
}

bool mayBeOne(const MicStroke& a, const MicStroke& b, int rate) {
  const Frames same{static_cast<std::int64_t>(kSameStrokeSeconds * rate)};
  return std::max(a.at - b.at, b.at - a.at) <= same;
}

StrokeChain closeOf(const StrokeChain& chain, int rate) {
  StrokeChain out;
  for (const auto* s : chain) {
    const bool again = std::any_of(out.begin(), out.end(), [&](const MicStroke* o) {
      return o->drum == s->drum && (mayBeOne(*o, *s, rate) || o->mic != s->mic);
    });
    if (s->close && !again) out.push_back(s);
  }
  return out;
}

}  // namespace ochron
