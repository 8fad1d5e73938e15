#include "render/splices.h"

#include <algorithm>
#include <cmath>

#include "dsp/fade.h"
#include "render/part_stream.h"

namespace ochron {
namespace {

constexpr double kLongestMs = 28;  // of what one jump repeats or leaves out
constexpr double kFadeMs = 8;      // crossfade at a jump
constexpr double kLeastFadeMs = 1.5;
constexpr int kCoarse = 4;         // frames that are searched as one
constexpr double kWindowMs = 3;    // in which the level is looked at
constexpr double kStroke = 4;      // rise of power within a jump that counts as a stroke
constexpr double kLagGive = 0.35;  // of a lag, that a jump may be longer or shorter than its share
// About the middle of what a jump makes up for, in which its place is looked for: of the only one, and of one of
// several, whose lengths are tried, too.
constexpr double kOnlySearchSeconds = 10;
constexpr double kSearchSeconds = 0.6;
class Near {
 public:
  /// `mean`: power of such few frames in all of the sound.
  Near(const SplicedSound& sound, FrameRange range, double mean)
      : window_(windowOf(sound.rate)), start_(std::max<std::int64_t>(0, range.start.value / kCoarse - 2 * window_)) {
    const auto end = std::min(sound.frames, range.end.value + kCoarse);
    std::vector<std::span<float>> spans;
    fine_.assign(sound.channels, std::vector<float>(static_cast<std::size_t>(end - start_ * kCoarse), 0.0F));
    for (auto& c : fine_) spans.emplace_back(c);
    sound.source(static_cast<std::size_t>(start_ * kCoarse), spans);
    power_ = coarsePower(fine_, list_);
    floor_ = (1e-9 + 1e-4 * mean) * static_cast<double>(window_);
  }
  static std::int64_t windowOf(int rate) {
    return std::max<std::int64_t>(1, std::llround(kWindowMs * rate / 1000 / kCoarse));
  }
  /// Sums `sound`, a few frames taken as one, into `coarse`; gives back their power, added up from the first on.
  static std::vector<double> coarsePower(const std::vector<std::vector<float>>& sound,
                                         std::vector<std::vector<float>>& coarse) {
    const auto n = sound.front().size() / kCoarse;
    for (const auto& c : sound) {
      auto& out = coarse.emplace_back(n);
      for (std::size_t i = 0; i < n; ++i) {
        float sum = 0;
        for (std::size_t k = 0; k < kCoarse; ++k) sum += c[i * kCoarse + k];
        out[i] = sum;
      }
    }
    std::vector<double> power(n + 1, 0.0);
    for (std::size_t i = 0; i < n; ++i) {
      double p = 0;
      for (const auto& c : coarse) p += static_cast<double>(c[i]) * c[i];
      power[i + 1] = power[i] + p;
    }
    return power;
  }
  /// Frame `at` of a channel and what follows.
  const float* frame(std::size_t channel, std::int64_t at) const {
    return fine_[channel].data() + (at - start_ * kCoarse);
  }
  std::size_t channels() const { return fine_.size(); }

  /// Energy of the difference between what goes on from two places.
  double unlike(std::int64_t a, std::int64_t b, std::int64_t length, double most) const {
    double sum = 0;
    for (const auto& c : list_) {
      const float* x = c.data() + (a - start_);
      const float* y = c.data() + (b - start_);
      for (std::int64_t i = 0; i < length; ++i) {
        const double d = static_cast<double>(x[i]) - y[i];
        sum += d * d;
      }
      if (sum > most) return sum;
    }
    return sum;
  }
  double energy(std::int64_t from, std::int64_t to) const {
    const auto size = std::ssize(power_) - 1;
    from = std::clamp<std::int64_t>(from - start_, 0, size);
    to = std::clamp<std::int64_t>(to - start_, from, size);
    return power_[static_cast<std::size_t>(to)] - power_[static_cast<std::size_t>(from)];
  }
  /// How much the power rises anywhere in a stretch, from one window to the next.
  double rise(std::int64_t from, std::int64_t to) const {
    double most = 0;
    for (auto at = from; at + window_ <= to; at += std::max<std::int64_t>(1, window_ / 2))
      most = std::max(most, energy(at, at + window_) / (energy(at - window_, at) + floor_));
    return most;
  }

 private:
  std::int64_t window_;
  std::int64_t start_;  ///< of what is at hand, a few frames counted as one
  std::vector<std::vector<float>> fine_;
  std::vector<std::vector<float>> list_;
  std::vector<double> power_;
  double floor_ = 0;
};

/// Power of a few frames taken as one, in all channels together, on average; none when it was ended.
std::optional<double> meanPower(const SplicedSound& sound, const std::function<bool()>& going) {
  double sum = 0;
  std::vector<std::vector<float>> block(sound.channels);
  const bool whole = passOn(sound.source, sound.channels, {Frames{}, Frames{sound.frames}}, [&](ChannelSpans spans) {
    for (std::size_t c = 0; c < spans.size(); ++c) block[c].assign(spans[c].begin(), spans[c].end());
    std::vector<std::vector<float>> coarse;
    sum += Near::coarsePower(block, coarse).back();
    return going();
  });
  return whole ? std::optional(sum / std::max(1.0, static_cast<double>(sound.frames / kCoarse))) : std::nullopt;
}

struct Found {
  std::int64_t at = 0;
  double cost = 1e300;
};

/// The best place for a jump by `lag` (coarse frames; repeats when positive, else leaves out), in [first, last).
Found placeFor(const Near& sound, std::int64_t lag, std::int64_t fade, std::int64_t first, std::int64_t last) {
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
std::int64_t refined(const Near& sound, std::int64_t at, std::int64_t lag, std::int64_t fade, std::int64_t low,
                     std::int64_t high) {
  double least = 1e300;
  std::int64_t best = at;
  for (auto p = std::max(low, at - kCoarse); p <= std::min(high, at + kCoarse); ++p) {
    double sum = 0;
    for (std::size_t c = 0; c < sound.channels(); ++c) {
      const float* x = sound.frame(c, p);
      const float* y = sound.frame(c, p - lag);
      for (std::int64_t i = 0; i < fade; ++i) {
        const double d = static_cast<double>(x[i]) - y[i];
        sum += d * d;
      }
    }
    if (sum < least) {
      least = sum;
      best = p;
    }
  }
  return best;
}

/// The middle of a stretch, where it is longer than so much.
FrameRange middleOf(FrameRange r, Frames most) {
  if (r.length() <= most) return r;
  const auto start = r.start + Frames{(r.length() - most).value / 2};
  return {start, start + most};
}

}  // namespace

std::optional<std::vector<Splice>> splicesFor(const SplicedSound& sound, std::int64_t change, FrameRange within,
                                              const std::function<bool()>& going) {
  const std::vector<Splice> kNone;
  std::vector<Splice> out;
  if (change == 0 || sound.channels == 0) return out;
  const auto frames = [&](double ms) { return framesFromMs(ms, sound.rate).value; };
  const auto mean = meanPower(sound, going);
  if (!mean) return {};
  const auto count = std::max<std::int64_t>(1, (std::abs(change) + frames(kLongestMs) - 1) / frames(kLongestMs));
  const Frames longest{frames(1e3 * (count == 1 ? kOnlySearchSeconds : kSearchSeconds))};
  const Frames share{within.length().value / count};
  std::int64_t left = change;
  for (std::int64_t i = 0; i < count; ++i) {
    const auto from = within.start + Frames{i * share.value};
    const auto place = middleOf({from, i + 1 == count ? within.end : from + share}, longest);
    const auto first = place.start.value;
    const auto last = place.end.value;
    const auto fair = left / (count - i);
    const auto fade = std::min(frames(kFadeMs), (last - first - std::abs(fair)) / 2);
    if (fade < frames(kLeastFadeMs)) return kNone;
    if (!going()) return {};
    const Near near(sound, place, *mean);
    // The last jump makes up what is left; those before may be a little longer or shorter where that fits better.
    const auto give = i + 1 == count ? 0 : static_cast<std::int64_t>(kLagGive * static_cast<double>(std::abs(fair)));
    Found best;
    std::int64_t bestLag = fair;
    for (auto lag = fair - give; lag <= fair + give; lag += 2 * kCoarse) {
      const auto coarseLag = lag >= 0 ? (lag + kCoarse / 2) / kCoarse : -((-lag + kCoarse / 2) / kCoarse);
      const auto found = placeFor(near, coarseLag, std::max<std::int64_t>(1, fade / kCoarse),
                                  (first + kCoarse - 1) / kCoarse, last / kCoarse);
      if (found.cost >= best.cost) continue;
      best = found;
      bestLag = lag;
    }
    if (best.cost >= 1e300) return kNone;
    const auto low = bestLag > 0 ? first + bestLag : first;
    const auto high = (bestLag > 0 ? last : last + bestLag) - fade;
    if (high < low) return kNone;
    const auto at = refined(near, std::clamp(best.at * kCoarse, low, high), bestLag, fade, low, high);
    out.push_back({at, at - bestLag, fade});
    left -= bestLag;
  }
  return out;
}

bool along(const SplicedSound& sound, const std::vector<Splice>& splices, const StreamSink& to) {
  const auto read = [&](std::int64_t from, std::int64_t frames) {
    std::vector<std::vector<float>> out(sound.channels, std::vector<float>(static_cast<std::size_t>(frames), 0.0F));
    std::vector<std::span<float>> spans(out.begin(), out.end());
    sound.source(static_cast<std::size_t>(from), spans);
    return out;
  };
  std::int64_t from = 0;
  for (const auto& s : splices) {
    if (!passOn(sound.source, sound.channels, {Frames{from}, Frames{s.at}}, to)) return false;
    auto going = read(s.at, s.fade);
    const auto coming = read(s.to, s.fade);
    for (std::size_t c = 0; c < sound.channels; ++c) crossInto(going[c], coming[c]);
    if (!passOn(going, to)) return false;
    from = s.to + s.fade;
  }
  return passOn(sound.source, sound.channels, {Frames{from}, Frames{sound.frames}}, to);
}

}  // namespace ochron
