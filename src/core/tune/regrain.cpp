#include "tune/regrain.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numbers>

#include "dsp/varispeed.h"
#include "dsp/window.h"
#include "tune/period_colour.h"

namespace ochron {
namespace {

constexpr double kSpread = 0.08;   // s
constexpr std::size_t kLeast = 4;  // periods
constexpr double kReach = 1.25;    // periods

/// Where the periods of the new pitch lie. `placed`: where the marks are to lie.
std::vector<double> newMarks(std::span<const double> marks, std::span<const double> placed, int rate,
                             const RegrainSettings& settings) {
  std::vector<double> phase{0};
  std::vector<double> bend{0};
  const double bendFrom = placed.back() - std::min(kSpread * rate, 0.5 * (placed.back() - placed.front()));
  for (std::size_t i = 0; i + 1 < marks.size(); ++i) {
    const double longer = (placed[i + 1] - placed[i]) / (marks[i + 1] - marks[i]);
    phase.push_back(phase.back() + longer * settings.ratio(0.5 * (marks[i] + marks[i + 1])));
    const double middle = 0.5 * (placed[i] + placed[i + 1]);
    const double along = std::clamp((middle - bendFrom) / (placed.back() - bendFrom), 0.0, 1.0);
    bend.push_back(bend.back() + 1 - std::cos(2 * std::numbers::pi * along));
  }
  const auto whole = std::max<std::int64_t>(
      1, settings.endsFreely ? static_cast<std::int64_t>(phase.back()) : std::llround(phase.back()));
  const double rest = settings.endsFreely ? 0 : static_cast<double>(whole) - phase.back();
  for (std::size_t i = 0; i < phase.size(); ++i) phase[i] += rest * bend[i] / bend.back();
  std::vector<double> out;
  std::size_t i = 0;
  for (std::int64_t k = 0; k < whole + (settings.endsFreely ? 1 : 0); ++k) {
    const auto at = static_cast<double>(k);
    while (i + 2 < phase.size() && phase[i + 1] <= at) ++i;
    const double along = (at - phase[i]) / (phase[i + 1] - phase[i]);
    out.push_back(placed[i] + along * (placed[i + 1] - placed[i]));
  }
  if (!settings.endsFreely) out.push_back(placed.back());
  return out;
}

std::size_t nearestMark(std::span<const double> marks, double at) {
  const auto after = static_cast<std::size_t>(std::lower_bound(marks.begin(), marks.end(), at) - marks.begin());
  if (after == 0) return 0;
  if (after == marks.size()) return marks.size() - 1;
  return marks[after] - at < at - marks[after - 1] ? after : after - 1;
}

/// The recording's period at a mark.
double periodAt(std::span<const double> marks, std::size_t i) {
  const auto next = std::min(i + 1, marks.size() - 1);
  return marks[next] - marks[next - 1];
}

/// How far a period of the recording, as long as it is with its formants moved, reaches to either side of its mark,
/// `gap` from one new mark to the next: its own length at least, else its colour would be blurred; where the new pitch
/// is much lower, no further than to what would be the next one's own.
double reachOf(double period, double gap) { return std::clamp(gap, period, kReach * period); }

}  // namespace

Regrained regrain(const std::vector<std::span<const float>>& channels, int rate, std::span<const double> marks,
                  const RegrainSettings& settings) {
  Regrained out;
  if (marks.size() < kLeast + 1 || channels.empty()) return out;
  prepareSpeedReading();
  std::vector<double> placed(marks.begin(), marks.end());
  if (settings.place)
    for (auto& p : placed) p = settings.place(p);
  const auto places = newMarks(marks, placed, rate, settings);
  const auto first = static_cast<std::int64_t>(std::ceil(placed.front()));
  const auto end = static_cast<std::int64_t>(std::floor(places.back())) + 1;
  out.start = Frames{first};
  out.channels.assign(channels.size(), std::vector<float>(static_cast<std::size_t>(end - first), 0.0F));
  std::vector<LaidPeriod> laid;
  for (std::size_t k = 0; k < places.size(); ++k) {
    const bool last = k + 1 == places.size();
    const auto mark = k == 0 ? 0 : last && !settings.endsFreely ? marks.size() - 1 : nearestMark(placed, places[k]);
    const double colour = settings.formants(places[k]);
    const double period = periodAt(marks, mark);
    const double gapBefore = k == 0 ? period : places[k] - places[k - 1];
    const double gapAfter = last ? period : places[k + 1] - places[k];
    // It begins and ends on the recording, which nothing reaches into.
    const double before = std::min(reachOf(period / colour, gapBefore), places[k] - places.front());
    const double after = std::min(reachOf(period / colour, gapAfter), places.back() - places[k]);
    laid.push_back({places[k] - static_cast<double>(first), marks[mark], period, colour});
    // More periods in the same time are softer, fewer are louder, so that the power stays.
    const auto gain = k == 0 || last ? 1.0F : static_cast<float>(std::sqrt((gapBefore + gapAfter) / 2 / period));
    const auto to = std::min<std::int64_t>(end, static_cast<std::int64_t>(std::ceil(places[k] + after)));
    const auto from = std::max(first, static_cast<std::int64_t>(std::ceil(places[k] - before)));
    const auto middle = std::max(from, static_cast<std::int64_t>(std::ceil(places[k])));
    HannWalk rising(0.5 + 0.5 * (static_cast<double>(from) - places[k]) / before, 0.5 / before);
    HannWalk falling(0.5 + 0.5 * (static_cast<double>(middle) - places[k]) / after, 0.5 / after);
    for (auto i = from; i < to; ++i) {
      const double off = static_cast<double>(i) - places[k];
      const auto weight = gain * static_cast<float>(i < middle ? rising.next() : falling.next());
      for (std::size_t c = 0; c < channels.size(); ++c) {
        const SpeedSource source{channels[c].data(), 1, std::ssize(channels[c])};
        out.channels[c][static_cast<std::size_t>(i - first)] +=
            weight * static_cast<float>(speedRead(source, marks[mark] + off * colour, colour));
      }
    }
  }
  keepColour(out.channels, channels, rate, laid);
  return out;
}

}  // namespace ochron
