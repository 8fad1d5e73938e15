#include "dsp/phase_vocoder.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <iterator>
#include <numbers>
#include <utility>

#include "dsp/window.h"

namespace ochron {
namespace {

constexpr double kShortestSeconds = 0.043;  // of a window; the longest has eight times that
constexpr std::size_t kScales = 4;
constexpr int kOverlap = 8;            // windows over each frame
constexpr float kLeastWeight = 1e-3F;  // of a whole window: less is left out at the very ends

/// The power of two nearest to it.
int shortestWindow(int rate) {
  const double frames = kShortestSeconds * rate * std::numbers::sqrt2;
  return static_cast<int>(std::bit_floor(static_cast<unsigned>(std::max(256.0, frames))));
}

std::complex<float> unit(std::complex<float> z, std::complex<float> otherwise) {
  const float size = std::abs(z);
  return size > 0 ? z / size : otherwise;
}

}  // namespace

double StretchMap::source(double frame) const {
  auto after = keys.upper_bound(static_cast<std::int64_t>(std::floor(frame)));
  if (after == keys.begin()) ++after;
  if (after == keys.end()) --after;
  const auto before = std::prev(after);
  const double along = (frame - static_cast<double>(before->first)) / static_cast<double>(after->first - before->first);
  return static_cast<double>(before->second) + along * static_cast<double>(after->second - before->second);
}

PhaseVocoder::PhaseVocoder(int rate, std::size_t channels, StretchMap map, StreamSource source)
    : shortest_(shortestWindow(rate)),
      map_(std::move(map)),
      source_(channels, static_cast<std::size_t>(4 * size(kScales - 1)), std::move(source)),
      windows_(rate, shortest_, source_),
      now_(channels),
      lastBins_(channels),
      earlier_(channels) {
  for (std::size_t i = 0; i < kScales; ++i) scales_.push_back({RealFft(size(i)), hannWindow(size(i))});
  const auto held = static_cast<std::size_t>(size(kScales - 1));
  sums_.assign(channels, std::vector<float>(held, 0.0F));
  weights_.assign(held, 0.0F);
}

/// A longer window must not reach from what goes on into what begins afresh, where the phases are others.
PhaseVocoder::Place PhaseVocoder::placeAt(std::int64_t frame) {
  Place p{frame, std::llround(map_.source(static_cast<double>(frame)))};
  while (freshFrom_ < map_.fresh.size() && map_.fresh[freshFrom_].end.value + size(kScales - 1) < frame) ++freshFrom_;
  std::int64_t room = size(kScales - 1);
  for (auto i = freshFrom_; i < map_.fresh.size(); ++i) {
    const auto& f = map_.fresh[i];
    p.fresh = p.fresh || f.contains(Frames{frame});
    room = std::min(room, std::max(f.start.value - frame, frame - f.start.value));
    if (f.start.value > frame + size(kScales - 1)) break;
  }
  const int wanted = windows_.at(p.source);
  while (p.scale + 1 < kScales && size(p.scale + 1) <= wanted && size(p.scale + 1) <= 2 * room) ++p.scale;
  return p;
}

void PhaseVocoder::analyse(std::int64_t source, std::size_t scale, std::vector<Bins>& out) {
  auto& s = scales_[scale];
  const auto half = size(scale) / 2;
  for (std::size_t c = 0; c < out.size(); ++c) {
    const auto x = s.fft.time();
    source_.read(c, source - half, x);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] *= s.window[i];
    s.fft.forward();
    const auto bins = s.fft.bins();
    out[c].assign(bins.begin(), bins.end());
  }
}

/// The bins of a peak turn together, as the peak does: on by `carried`.
void PhaseVocoder::lockToPeaks(const Bins& carried) {
  const auto n = power_.size();
  // Below the lowest bin the spectrum is mirrored.
  const auto isPeak = [&](std::size_t i) {
    const auto below = i > 0 ? i - 1 : 1;
    const auto farBelow = i > 1 ? i - 2 : 2 - i;
    return power_[i] > power_[below] && (farBelow == i || power_[i] > power_[farBelow]) && power_[i] >= power_[i + 1] &&
           power_[i] >= power_[i + 2];
  };
  std::size_t from = 0;
  std::size_t peak = 0;
  bool any = false;
  const auto turnUpTo = [&](std::size_t to) {
    const auto angle = unit(turned_[peak] * carried[peak], turned_[peak]);
    std::fill(turned_.begin() + static_cast<std::ptrdiff_t>(from), turned_.begin() + static_cast<std::ptrdiff_t>(to),
              angle);
    from = to;
  };
  for (std::size_t i = 0; i + 2 < n; ++i) {
    if (!isPeak(i)) continue;
    if (std::exchange(any, true)) {
      const auto valley = static_cast<std::size_t>(std::min_element(power_.begin() + static_cast<std::ptrdiff_t>(peak),
                                                                    power_.begin() + static_cast<std::ptrdiff_t>(i)) -
                                                   power_.begin());
      turnUpTo(valley);
    }
    peak = i;
  }
  turnUpTo(n);
}

/// How the bins are turned at the next place, `now_` being its spectra.
void PhaseVocoder::carryOn(const Place& to) {
  const auto bins = static_cast<std::size_t>(size(to.scale)) / 2 + 1;
  if (to.fresh || turned_.empty()) {
    turned_.assign(bins, 1.0F);
    return;
  }
  if (to.scale != last_.scale) {
    analyse(last_.source, to.scale, lastBins_);
    Bins same(bins);
    for (std::size_t i = 0; i < bins; ++i)
      same[i] = turned_[to.scale > last_.scale
                            ? (i + (std::size_t{1} << (to.scale - last_.scale)) / 2) >> (to.scale - last_.scale)
                            : i << (last_.scale - to.scale)];
    turned_ = std::move(same);
  }
  analyse(to.source - (to.frame - last_.frame), to.scale, earlier_);
  Bins carried(bins);
  power_.assign(bins, 0.0F);
  for (std::size_t c = 0; c < now_.size(); ++c)
    for (std::size_t i = 0; i < bins; ++i) {
      carried[i] += lastBins_[c][i] * std::conj(earlier_[c][i]);
      power_[i] += std::norm(now_[c][i]);
    }
  lockToPeaks(carried);
}

void PhaseVocoder::addWindow(const Place& at) {
  auto& s = scales_[at.scale];
  const auto length = static_cast<std::size_t>(size(at.scale));
  const auto first =
      static_cast<std::size_t>(at.frame - static_cast<std::int64_t>(length) / 2 - given_ + size(kScales - 1) / 2);
  if (weights_.size() < first + length) {
    weights_.resize(first + length, 0.0F);
    for (auto& c : sums_) c.resize(first + length, 0.0F);
  }
  const float scale = 1.0F / static_cast<float>(length);
  for (std::size_t c = 0; c < sums_.size(); ++c) {
    const auto bins = s.fft.bins();
    for (std::size_t i = 0; i < bins.size(); ++i) bins[i] = now_[c][i] * turned_[i];
    s.fft.inverse();
    const auto x = s.fft.time();
    for (std::size_t i = 0; i < length; ++i) sums_[c][first + i] += x[i] * s.window[i] * scale;
  }
  for (std::size_t i = 0; i < length; ++i) weights_[first + i] += s.window[i] * s.window[i];
}

void PhaseVocoder::make(ChannelSpans out) {
  const auto wanted = static_cast<std::int64_t>(out.front().size());
  const auto lead = static_cast<std::int64_t>(size(kScales - 1) / 2);
  while (next_ - lead < given_ + wanted) {
    const auto place = placeAt(next_);
    analyse(place.source, place.scale, now_);
    carryOn(place);
    addWindow(place);
    std::swap(lastBins_, now_);
    last_ = place;
    next_ += size(place.scale) / kOverlap;
  }
  const auto from = static_cast<std::ptrdiff_t>(lead);
  for (std::size_t c = 0; c < out.size(); ++c)
    for (std::ptrdiff_t i = 0; i < wanted; ++i) {
      const auto k = static_cast<std::size_t>(from + i);
      out[c][static_cast<std::size_t>(i)] = sums_[c][k] / std::max(weights_[k], kLeastWeight);
    }
  for (auto& c : sums_) c.erase(c.begin(), c.begin() + wanted);
  weights_.erase(weights_.begin(), weights_.begin() + wanted);
  given_ += wanted;
}

}  // namespace ochron
