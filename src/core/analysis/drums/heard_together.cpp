#include "analysis/drums/heard_together.h"

#include <algorithm>

#include "base/units.h"

namespace ochron {
namespace {

constexpr double kUnheard = -1;
constexpr double kEcho = -0.3;  // how sure a stroke is that only a room heard

/// Whether a mic's strokes count for others.
bool speaks(const MicHearing& m) { return m.guide && !m.soundsOn; }
bool isNear(const MicHearing& m) { return speaks(m) && m.hears != MicHears::room; }

/// How sure the surest stroke is that a mic hears in [from, to].
double surestIn(const std::vector<MicStroke>& strokes, Frames from, Frames to, bool closeToo) {
  double surest = kUnheard;
  auto s = std::lower_bound(strokes.begin(), strokes.end(), from, [](auto& x, Frames f) { return x.at < f; });
  for (; s != strokes.end() && s->at <= to; ++s)
    if (closeToo || !s->close) surest = std::max(surest, s->sure);
  return surest;
}

/// The surest of the other near mics.
double othersIn(const std::vector<MicHearing>& mics, std::size_t mic, Frames from, Frames to, bool closeToo) {
  double surest = kUnheard;
  for (std::size_t n = 0; n < mics.size(); ++n)
    if (n != mic && isNear(mics[n])) surest = std::max(surest, surestIn(mics[n].strokes, from, to, closeToo));
  return surest;
}

}  // namespace

void believeTogether(std::vector<MicHearing>& mics, int rate, const HeardTogetherSettings& settings) {
  const Frames reach = framesFromMs(settings.reachMs, rate);
  const Frames late = framesFromMs(settings.roomLateMs, rate);
  const bool anyNear = std::any_of(mics.begin(), mics.end(), isNear);
  std::vector<std::vector<double>> sure(mics.size());
  for (std::size_t m = 0; m < mics.size(); ++m)
    for (const auto& s : mics[m].strokes) {
      auto& now = sure[m].emplace_back(s.sure);
      if (!speaks(mics[m]) || s.close) continue;
      if (!isNear(mics[m])) {
        if (anyNear && othersIn(mics, m, s.at - late, s.at + reach, true) < settings.heardNear)
          now = std::min(now, kEcho);
      } else if (s.sure < 0) {
        const double other = othersIn(mics, m, s.at - reach, s.at + reach, false);
        // Two that fall short by as much as they may are where one that counts begins.
        const double together = (s.sure + std::min(other, 0.0) + settings.doubts) / 2;
        if (together > 0) now = together;
      }
    }
  for (std::size_t m = 0; m < mics.size(); ++m)
    for (std::size_t i = 0; i < sure[m].size(); ++i) {
      auto& s = mics[m].strokes[i];
      s.byOthers = s.sure < sure[m][i];
      s.sure = sure[m][i];
    }
}

}  // namespace ochron
