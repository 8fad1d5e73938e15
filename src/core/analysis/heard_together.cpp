#include "analysis/heard_together.h"

#include <algorithm>

#include "base/units.h"

namespace ochron {
namespace {

constexpr double kUnheard = -1;

/// How sure the surest stroke is that a mic hears within reach.
double surestNear(const std::vector<MicStroke>& strokes, Frames at, Frames reach) {
  double surest = kUnheard;
  auto s = std::lower_bound(strokes.begin(), strokes.end(), at - reach, [](auto& x, Frames f) { return x.at < f; });
  for (; s != strokes.end() && s->at <= at + reach; ++s)
    if (!s->close) surest = std::max(surest, s->sure);
  return surest;
}

}  // namespace

void believeTogether(std::vector<MicHearing>& mics, int rate, const HeardTogetherSettings& settings) {
  const Frames reach = framesFromMs(settings.reachMs, rate);
  std::vector<std::vector<double>> sure(mics.size());
  for (std::size_t m = 0; m < mics.size(); ++m)
    for (const auto& s : mics[m].strokes) {
      sure[m].push_back(s.sure);
      if (!mics[m].guide || mics[m].soundsOn || s.close || s.sure >= 0) continue;
      double other = kUnheard;
      for (std::size_t n = 0; n < mics.size(); ++n)
        if (n != m && mics[n].guide && !mics[n].soundsOn)
          other = std::max(other, surestNear(mics[n].strokes, s.at, reach));
      // Two that fall short by as much as they may are where one that counts begins.
      const double together = (s.sure + std::min(other, 0.0) + settings.doubts) / 2;
      if (together > 0) sure[m].back() = together;
    }
  for (std::size_t m = 0; m < mics.size(); ++m)
    for (std::size_t i = 0; i < sure[m].size(); ++i) {
      auto& s = mics[m].strokes[i];
      s.byOthers = s.sure < sure[m][i];
      s.sure = sure[m][i];
    }
}

}  // namespace ochron
