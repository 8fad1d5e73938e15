#include "song/envelope.h"

#include <algorithm>
#include <cmath>

#include "terms/bend.h"

namespace ochron {
namespace {

auto firstAfter(const Envelope& e, Frames at) {
  return std::upper_bound(e.begin(), e.end(), at, [](Frames f, const EnvelopePoint& p) { return f < p.at; });
}

}  // namespace

double valueAt(const Envelope& e, Frames at, double fallback, EnvelopeWay way) {
  if (e.empty()) return fallback;
  const auto next = firstAfter(e, at);
  if (next == e.begin()) return way == EnvelopeWay::steps ? fallback : e.front().value;
  const auto& a = *(next - 1);
  if (next == e.end() || way == EnvelopeWay::steps) return a.value;
  const double x = static_cast<double>((at - a.at).value) / static_cast<double>((next->at - a.at).value);
  const double share = bent(x, a.bend);
  return way == EnvelopeWay::octaves ? a.value * std::pow(next->value / a.value, share)
                                     : a.value + (next->value - a.value) * share;
}

Envelope withPoint(Envelope e, const EnvelopePoint& point) {
  const auto at =
      std::lower_bound(e.begin(), e.end(), point.at, [](const EnvelopePoint& p, Frames f) { return p.at < f; });
  if (at != e.end() && at->at == point.at)
    *at = point;
  else
    e.insert(at, point);
  return e;
}

Envelope piece(const Envelope& e, FrameRange range, double fallback) {
  Envelope out{{Frames{0}, valueAt(e, range.start, fallback), 0}};
  for (const auto& p : e)
    if (range.contains(p.at)) out = withPoint(std::move(out), {p.at - range.start, p.value, p.bend});
  const auto last = range.end - Frames{1};
  if (last > range.start) out = withPoint(std::move(out), {last - range.start, valueAt(e, last, fallback), 0});
  return out;
}

Envelope withPiece(const Envelope& e, const Envelope& part, Frames at, Frames length, double fallback) {
  const auto end = at + length;
  Envelope out;
  for (const auto& p : e)
    if (p.at < at || p.at >= end) out.push_back(p);
  out = withPoint(std::move(out), {at - Frames{1}, valueAt(e, at - Frames{1}, fallback), 0});
  for (const auto& p : part)
    if (p.at < length) out = withPoint(std::move(out), {at + p.at, p.value, p.bend});
  return withPoint(std::move(out), {end, valueAt(e, end, fallback), 0});
}

}  // namespace ochron
