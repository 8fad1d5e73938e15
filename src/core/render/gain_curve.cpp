#include "render/gain_curve.h"

#include <algorithm>
#include <cmath>

namespace ochron {
namespace {

constexpr int kFine = 64;  // straight pieces between two knots, thrice over
/// Bends of 1 and -1 are powers of 1/4 and 4 (base/bend.h): places by the fourth power from either end follow them.
constexpr int kSteepest = 4;

void add(GainCurve& curve, Frames at, double gain) {
  const GainPoint p{at, static_cast<float>(gain)};
  if (!curve.empty() && curve.back().at >= at) {
    if (curve.back().at == at) curve.back() = p;
    return;
  }
  curve.push_back(p);
}

}  // namespace

CurveReader::CurveReader(const GainCurve& curve, Frames from) noexcept : curve_(curve) {
  next_ = static_cast<std::size_t>(
      std::upper_bound(curve.begin(), curve.end(), from, [](Frames f, const GainPoint& p) { return f < p.at; }) -
      curve.begin());
}

float CurveReader::at(Frames f) noexcept {
  if (curve_.empty()) return 1;
  while (next_ < curve_.size() && curve_[next_].at <= f) ++next_;
  if (next_ == 0) return curve_.front().gain;
  const auto& a = curve_[next_ - 1];
  if (next_ == curve_.size()) return a.gain;
  const auto& b = curve_[next_];
  return a.gain + (b.gain - a.gain) * static_cast<float>((f - a.at).value) / static_cast<float>((b.at - a.at).value);
}

void applyGain(const GainCurve& curve, Frames at, std::span<float> samples) noexcept {
  if (curve.empty()) return;
  const auto end = at + Frames{std::ssize(samples)};
  CurveReader reader(curve, at);
  // Where the curve is level at 1 the samples stay as they are, to the bit.
  for (auto f = at; f < end; f += Frames{1}) {
    const float g = reader.at(f);
    if (g != 1.0f) samples[static_cast<std::size_t>((f - at).value)] *= g;
  }
}

GainCurve baked(std::vector<Frames> knots, const std::function<double(Frames)>& gain) {
  std::sort(knots.begin(), knots.end());
  knots.erase(std::unique(knots.begin(), knots.end()), knots.end());
  std::vector<Frames> places = knots;
  for (std::size_t i = 1; i < knots.size(); ++i) {
    const auto from = knots[i - 1];
    const auto length = static_cast<double>((knots[i] - from).value);
    for (int k = 1; k < kFine; ++k) {
      const double x = static_cast<double>(k) / kFine;
      const double steep = std::pow(x, kSteepest);
      for (const double at : {x, steep, 1 - steep}) places.push_back(from + Frames{std::llround(length * at)});
    }
  }
  std::sort(places.begin(), places.end());
  GainCurve out;
  for (const auto at : places) add(out, at, gain(at));
  return out;
}

GainCurve decibelCurve(const Envelope& e) {
  std::vector<Frames> knots;
  for (const auto& p : e) knots.push_back(p.at);
  return baked(std::move(knots), [&](Frames f) {
    const double db = valueAt(e, f, 0);
    return db <= kSilentDb ? 0.0 : std::pow(10.0, db / 20);
  });
}

GainCurve product(const GainCurve& a, const GainCurve& b) {
  if (a.empty()) return b;
  if (b.empty()) return a;
  std::vector<Frames> knots;
  for (const auto* c : {&a, &b})
    for (const auto& p : *c) knots.push_back(p.at);
  std::sort(knots.begin(), knots.end());
  GainCurve out;
  CurveReader left(a, knots.front());
  CurveReader right(b, knots.front());
  for (const auto k : knots) add(out, k, static_cast<double>(left.at(k)) * right.at(k));
  return out;
}

GainCurve gateCurve(std::vector<FrameRange> ranges, int rate) {
  std::erase_if(ranges, [](auto& r) { return r.empty(); });
  std::sort(ranges.begin(), ranges.end(), [](auto& a, auto& b) { return a.start < b.start; });
  std::vector<FrameRange> apart;
  for (const auto& r : ranges) {
    if (!apart.empty() && r.start <= apart.back().end)
      apart.back().end = std::max(apart.back().end, r.end);
    else
      apart.push_back(r);
  }
  const Frames fade{std::max<std::int64_t>(1, std::llround(kSpanFadeSeconds * rate))};
  GainCurve out;
  for (std::size_t i = 0; i < apart.size(); ++i) {
    const auto& r = apart[i];
    const auto room = i == 0 ? fade : std::max(Frames{1}, std::min(fade, (r.start - apart[i - 1].end) / 2));
    add(out, r.start - room, 1);
    add(out, r.start, 0);
    add(out, r.end - std::min(fade, r.length() / 2 + Frames{r.length().value % 2}), 0);
    add(out, r.end, 1);
  }
  return out;
}

GainCurve gateOf(const Song& song, const Track& track) {
  std::vector<FrameRange> silent;
  for (const auto& s : song.spans)
    if (std::find(s.tracks.begin(), s.tracks.end(), track.id) != s.tracks.end()) silent.push_back(s.range);
  const auto& e = *track.muteEnvelope;
  for (std::size_t i = 0; i < e.size(); ++i)
    if (e[i].value >= 0.5)
      silent.push_back({e[i].at, i + 1 < e.size() ? e[i + 1].at : std::max(song.end(), e[i].at) + Frames{1}});
  return gateCurve(std::move(silent), song.rate);
}

}  // namespace ochron
