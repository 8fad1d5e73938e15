#include "render/splices.h"

#include <algorithm>
#include <cmath>

#include "dsp/fade.h"

namespace ochron {
namespace {

constexpr double kLongestMs = 28;  // of what one jump repeats or leaves out
constexpr double kFadeMs = 8;      // crossfade at a jump
constexpr double kLeastFadeMs = 1.5;
constexpr int kCoarse = 4;         // frames that are searched as one
constexpr double kWindowMs = 3;    // in which the level is looked at
constexpr double kStroke = 4;      // rise of power within a jump that counts as a stroke
constexpr double kLagGive = 0.35;  // of a lag, that a jump may be longer or shorter than its share

/// All channels, a few frames taken as one, and their level.
class Coarse {
 public:
  Coarse(const std::vector<std::span<const float>>& channels, int rate) {
    const auto n = channels.front().size() / kCoarse;
    for (const auto& c : channels) {
      auto& out = list_.emplace_back(n);
      for (std::size_t i = 0; i < n; ++i) {
        float sum = 0;
        for (std::size_t k = 0; k < kCoarse; ++k) sum += c[i * kCoarse + k];
        out[i] = sum;
      }
    }
    power_.assign(n + 1, 0.0);
    for (std::size_t i = 0; i < n; ++i) {
      double p = 0;
      for (const auto& c : list_) p += static_cast<double>(c[i]) * c[i];
      power_[i + 1] = power_[i] + p;
    }
    window_ = std::max<std::int64_t>(1, std::llround(kWindowMs * rate / 1000 / kCoarse));
  }
  std::int64_t size() const { return std::ssize(power_) - 1; }

  /// Energy of the difference between what goes on from two places.
  double unlike(std::int64_t a, std::int64_t b, std::int64_t length, double most) const {
    double sum = 0;
    for (const auto& c : list_) {
      const float* x = c.data() + a;
      const float* y = c.data() + b;
      for (std::int64_t i = 0; i < length; ++i) {
        const double d = static_cast<double>(x[i]) - y[i];
        sum += d * d;
      }
      if (sum > most) return sum;
    }
    return sum;
  }
  double energy(std::int64_t from, std::int64_t to) const {
    from = std::clamp<std::int64_t>(from, 0, size());
    to = std::clamp<std::int64_t>(to, from, size());
    return power_[static_cast<std::size_t>(to)] - power_[static_cast<std::size_t>(from)];
  }
  /// How much the power rises anywhere in a stretch, from one window to the next.
  double rise(std::int64_t from, std::int64_t to) const {
    double most = 0;
    const double floor = 1e-9 * static_cast<double>(window_) + 1e-4 * energy(0, size()) /
                                                                   std::max<double>(1, static_cast<double>(size())) *
                                                                   static_cast<double>(window_);
    for (auto at = from; at + window_ <= to; at += std::max<std::int64_t>(1, window_ / 2))
      most = std::max(most, energy(at, at + window_) / (energy(at - window_, at) + floor));
    return most;
  }

 private:
  std::vector<std::vector<float>> list_;
  std::vector<double> power_;
  std::int64_t window_ = 1;
};

struct Found {
  std::int64_t at = 0;
  double cost = 1e300;
};

/// The best place for a jump by `lag` (coarse frames; repeats when positive, else leaves out), in [first, last).
Found placeFor(const Coarse& sound, std::int64_t lag, std::int64_t fade, std::int64_t first, std::int64_t last) {
  Found best;
  const auto from = lag > 0 ? first + lag : first;
  const auto until = (lag > 0 ? last : last + lag) - fade;
  for (auto at = from; at <= until; ++at) {
    const double unlike = sound.unlike(at, at - lag, fade, best.cost);
    if (unlike >= best.cost) continue;
    const double stroke = sound.rise(std::min(at, at - lag), std::max(at, at - lag) + fade);
    const double cost = stroke > kStroke
                            ? unlike + sound.energy(std::min(at, at - lag), std::max(at, at - lag) + fade) * stroke
                            : unlike;
    if (cost < best.cost) best = {at, cost};
  }
  return best;
}

/// At full resolution around a coarse place: where both are most alike.
std::int64_t refined(const std::vector<std::span<const float>>& channels, std::int64_t at, std::int64_t lag,
                     std::int64_t fade, std::int64_t low, std::int64_t high) {
  double least = 1e300;
  std::int64_t best = at;
  for (auto p = std::max(low, at - kCoarse); p <= std::min(high, at + kCoarse); ++p) {
    double sum = 0;
    for (const auto& c : channels)
      for (std::int64_t i = 0; i < fade; ++i) {
        const double d =
            static_cast<double>(c[static_cast<std::size_t>(p + i)]) - c[static_cast<std::size_t>(p - lag + i)];
        sum += d * d;
      }
    if (sum < least) {
      least = sum;
      best = p;
    }
  }
  return best;
}

}  // namespace

std::vector<Splice> splicesFor(const std::vector<std::span<const float>>& channels, std::int64_t change,
                               const SpliceSettings& s) {
  std::vector<Splice> out;
  if (change == 0 || channels.empty()) return out;
  const auto frames = [&](double ms) { return static_cast<std::int64_t>(std::llround(ms * s.rate / 1000)); };
  const Coarse sound(channels, s.rate);
  const auto room = s.last - s.first;
  const auto count = std::max<std::int64_t>(1, (std::abs(change) + frames(kLongestMs) - 1) / frames(kLongestMs));
  const auto share = room / count;
  std::int64_t left = change;
  for (std::int64_t i = 0; i < count; ++i) {
    const auto first = s.first + i * share;
    const auto last = i + 1 == count ? s.last : first + share;
    const auto fair = left / (count - i);
    const auto fade = std::min(frames(kFadeMs), (last - first - std::abs(fair)) / 2);
    if (fade < frames(kLeastFadeMs)) return {};
    // The last jump makes up what is left; those before may be a little longer or shorter where that fits better.
    const auto give = i + 1 == count ? 0 : static_cast<std::int64_t>(kLagGive * static_cast<double>(std::abs(fair)));
    Found best;
    std::int64_t bestLag = fair;
    for (auto lag = fair - give; lag <= fair + give; lag += 2 * kCoarse) {
      const auto coarseLag = lag >= 0 ? (lag + kCoarse / 2) / kCoarse : -((-lag + kCoarse / 2) / kCoarse);
      const auto found = placeFor(sound, coarseLag, std::max<std::int64_t>(1, fade / kCoarse),
                                  (first + kCoarse - 1) / kCoarse, last / kCoarse);
      if (found.cost >= best.cost) continue;
      best = found;
      bestLag = lag;
    }
    if (best.cost >= 1e300) return {};
    const auto low = bestLag > 0 ? first + bestLag : first;
    const auto high = (bestLag > 0 ? last : last + bestLag) - fade;
    if (high < low) return {};
    const auto at = refined(channels, std::clamp(best.at * kCoarse, low, high), bestLag, fade, low, high);
    out.push_back({at, at - bestLag, fade});
    left -= bestLag;
  }
  return out;
}

std::vector<float> along(std::span<const float> channel, const std::vector<Splice>& splices) {
  std::vector<float> out;
  std::int64_t from = 0;
  for (const auto& s : splices) {
    out.insert(out.end(), channel.begin() + from, channel.begin() + s.at);
    const auto going = channel.subspan(static_cast<std::size_t>(s.at), static_cast<std::size_t>(s.fade));
    const auto coming = channel.subspan(static_cast<std::size_t>(s.to), static_cast<std::size_t>(s.fade));
    out.insert(out.end(), going.begin(), going.end());
    crossInto(std::span(out).last(going.size()), coming);
    from = s.to + s.fade;
  }
  out.insert(out.end(), channel.begin() + from, channel.end());
  return out;
}

}  // namespace ochron
