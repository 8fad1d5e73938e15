#include "analysis/soft_onsets.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>

#include "dsp/fft.h"

namespace ochron {
namespace {

constexpr double kWindowSeconds = 0.043;
constexpr double kGapBeforeSeconds = 0.002;
constexpr double kGapAfterSeconds = 0.006;
constexpr double kLowestHz = 40;
constexpr double kHighestHz = 3'500;
constexpr double kVibrato = 0.03;  // of a frequency: how far it may swing
constexpr double kHopSeconds = 0.005;
constexpr double kApartSeconds = 0.035;  // an onset is the highest rise within this on either side
constexpr float kDriftAllowed = 1.15F;   // a tone's own swelling
constexpr std::int64_t kStrokeMs = 15;
constexpr std::int64_t kFirstLaterMs = 120;
constexpr std::int64_t kLastLaterMs = 200;
constexpr std::int64_t kLaterReachMs = 12;
constexpr double kLeft = 0.4;

/// Magnitudes of windows at every hop.
class Spectra {
 public:
  Spectra(std::span<const float> samples, int rate)
      : hop_(static_cast<std::int64_t>(std::lround(kHopSeconds * rate))),
        size_(static_cast<std::int64_t>(std::bit_ceil(static_cast<unsigned>(kWindowSeconds * rate * 0.75)))),
        gap_(static_cast<std::int64_t>((kGapBeforeSeconds + kGapAfterSeconds) * rate)),
        before_(static_cast<std::int64_t>(kGapBeforeSeconds * rate)) {
    const auto firstBin =
        std::max<std::int64_t>(1, static_cast<std::int64_t>(kLowestHz * static_cast<double>(size_) / rate));
    const auto lastBin =
        std::min(size_ / 2 - 1, static_cast<std::int64_t>(kHighestHz * static_cast<double>(size_) / rate));
    firstBin_ = static_cast<std::size_t>(firstBin);
    bins_ = static_cast<std::size_t>(lastBin - firstBin + 3);
    RealFft fft(static_cast<int>(size_));
    std::vector<float> window(static_cast<std::size_t>(size_));
    for (std::int64_t i = 0; i < size_; ++i)
      window[static_cast<std::size_t>(i)] = static_cast<float>(
          0.5 - 0.5 * std::cos(2 * std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(size_)));
    for (std::int64_t first = -size_; first < std::ssize(samples); first += hop_) {
      const auto time = fft.time();
      for (std::int64_t i = 0; i < size_; ++i) {
        const auto k = first + i;
        time[static_cast<std::size_t>(i)] = k >= 0 && k < std::ssize(samples) ? samples[static_cast<std::size_t>(k)] *
                                                                                    window[static_cast<std::size_t>(i)]
                                                                              : 0.0f;
      }
      fft.forward();
      for (auto k = firstBin - 1; k <= lastBin + 1; ++k)
        magnitudes_.push_back(std::sqrt(std::norm(fft.bins()[static_cast<std::size_t>(k)])));
    }
  }
  /// The highest magnitude within a bin's width of vibrato.
  float around(std::span<const float> frame, std::size_t k) const {
    const auto reach =
        std::max<std::size_t>(1, static_cast<std::size_t>(std::lround(kVibrato * static_cast<double>(k + firstBin_))));
    const auto from = frame.begin() + static_cast<std::ptrdiff_t>(k - std::min(k, reach));
    const auto to = frame.begin() + static_cast<std::ptrdiff_t>(std::min(frame.size(), k + reach + 1));
    return *std::max_element(from, to);
  }
  std::int64_t count() const { return std::ssize(magnitudes_) / static_cast<std::int64_t>(bins_); }
  /// From the window before a place to the window after it.
  std::int64_t framesAhead() const { return (size_ + gap_ + hop_ / 2) / hop_; }
  std::span<const float> frame(std::int64_t n) const {
    return std::span(magnitudes_).subspan(static_cast<std::size_t>(n) * bins_, bins_);
  }
  /// The place that window n is the one before of.
  std::int64_t frameBetween(std::int64_t n) const { return std::max<std::int64_t>(0, n * hop_ + before_); }

 private:
  std::int64_t hop_;
  std::int64_t size_;
  std::int64_t gap_;
  std::int64_t before_;
  std::size_t firstBin_ = 1;
  std::size_t bins_ = 0;
  std::vector<float> magnitudes_;
};

}  // namespace

std::vector<SoftOnset> findSoftOnsets(std::span<const float> samples, int rate, double leastFresh) {
  const auto spectra = Spectra(samples, rate);
  const auto count = spectra.count();
  const auto ahead = spectra.framesAhead();
  std::vector<float> rise(static_cast<std::size_t>(count), 0.0f);
  std::vector<float> fresh(static_cast<std::size_t>(count), 0.0f);
  for (std::int64_t n = 0; n + ahead < count; ++n) {
    const auto before = spectra.frame(n);
    const auto after = spectra.frame(n + ahead);
    double rising = 0;
    double all = 0;
    for (std::size_t k = 1; k + 1 < after.size(); ++k) {
      const float old = kDriftAllowed * spectra.around(before, k);
      rising += std::max(0.0f, after[k] - old);
      all += after[k];
    }
    rise[static_cast<std::size_t>(n)] = static_cast<float>(rising);
    fresh[static_cast<std::size_t>(n)] = all > 1e-9 ? static_cast<float>(rising / all) : 0.0f;
  }
  std::vector<SoftOnset> out;
  const auto reach = static_cast<std::int64_t>(kApartSeconds / kHopSeconds);
  for (std::int64_t n = 0; n < count; ++n) {
    const float here = rise[static_cast<std::size_t>(n)];
    if (here <= 0 || fresh[static_cast<std::size_t>(n)] < leastFresh) continue;
    const auto from = rise.begin() + std::max<std::int64_t>(0, n - reach);
    const auto to = rise.begin() + std::min(count, n + reach + 1);
    if (std::max_element(from, to) - rise.begin() != n) continue;
    out.push_back({spectra.frameBetween(n), fresh[static_cast<std::size_t>(n)]});
  }
  return out;
}

bool soundsOn(const std::vector<float>& peaks, const std::vector<std::int64_t>& strokesMs) {
  const auto highest = [&](std::int64_t from, std::int64_t to) {
    float peak = 0;
    for (auto i = std::max<std::int64_t>(0, from); i < std::min(to, std::ssize(peaks)); ++i)
      peak = std::max(peak, peaks[static_cast<std::size_t>(i)]);
    return peak;
  };
  std::vector<double> left;
  for (const auto ms : strokesMs) {
    const auto stroke = highest(ms, ms + kStrokeMs);
    if (stroke <= 0) continue;
    // The quietest moment: the next stroke does not count as sounding on.
    float least = stroke;
    for (auto at = kFirstLaterMs; at <= kLastLaterMs; at += kLaterReachMs)
      least = std::min(least, highest(ms + at, ms + at + kLaterReachMs));
    left.push_back(least / stroke);
  }
  if (left.empty()) return false;
  std::nth_element(left.begin(), left.begin() + std::ssize(left) / 2, left.end());
  return left[left.size() / 2] > kLeft;
}

}  // namespace ochron
