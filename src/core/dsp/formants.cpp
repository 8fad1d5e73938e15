#include "dsp/formants.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <complex>
#include <numbers>

#include "dsp/fft.h"

namespace ochron {
namespace {

constexpr double kWindowSeconds = 0.04;
constexpr std::size_t kHops = 4;        // of a window
constexpr int kMostRises = 16;          // of the envelope towards the harmonics
constexpr double kClose = 0.12;         // nepers: some 1 dB
constexpr double kMostGain = 2.76;      // nepers: 24 dB
constexpr double kFloor = 1e-5;         // of the loudest bin, so that silence has an envelope
constexpr double kHighestPitch = 900;   // Hz, of what has a period
constexpr double kLowestPitch = 60;     // Hz
constexpr double kLeastPeak = 0.07;     // of the cepstrum, for a period to be believed
constexpr double kNoiseSeconds = 1e-3;  // order of the envelope where there is none
constexpr double kLeastSeconds = 6e-4;
constexpr double kSoftFrom = 0.8;  // of the order

/// The logarithm of a spectrum's envelope, frame by frame.
class EnvelopeFinder {
 public:
  EnvelopeFinder(int size, int rate)
      : fft_(size), size_(static_cast<std::size_t>(size)), rate_(rate), log_(size_ / 2 + 1), raised_(size_ / 2 + 1) {}

  /// Of windowed samples, `size / 2 + 1` values.
  const std::vector<double>& of(std::span<const float> windowed) {
    std::copy(windowed.begin(), windowed.end(), fft_.time().begin());
    fft_.forward();
    double loudest = 1e-12;
    for (const auto& b : fft_.bins()) loudest = std::max(loudest, static_cast<double>(std::abs(b)));
    for (std::size_t k = 0; k < log_.size(); ++k)
      log_[k] = std::log(std::max(static_cast<double>(std::abs(fft_.bins()[k])), kFloor * loudest));
    raised_ = log_;
    cepstrum(raised_);
    const auto order = orderOf();
    for (int i = 0;; ++i) {
      smooth(order);
      double above = 0;
      for (std::size_t k = 0; k < log_.size(); ++k) {
        const double s = static_cast<double>(fft_.time()[k]) / static_cast<double>(size_);
        above = std::max(above, log_[k] - s);
        raised_[k] = std::max(log_[k], s);
        envelope_[k] = s;
      }
      if (above < kClose || i == kMostRises) return envelope_;
      cepstrum(raised_);
    }
  }

 private:
  void cepstrum(const std::vector<double>& half) {
    auto time = fft_.time();
    for (std::size_t k = 0; k < half.size(); ++k) {
      time[k] = static_cast<float>(half[k]);
      if (k > 0 && k < size_ / 2) time[size_ - k] = static_cast<float>(half[k]);
    }
    fft_.forward();
  }

  /// Half of the period, in frames, where the cepstrum has a peak for it.
  std::size_t orderOf() {
    const auto first = static_cast<std::size_t>(rate_ / kHighestPitch);
    const auto last = std::min(size_ / 2 - 1, static_cast<std::size_t>(rate_ / kLowestPitch));
    std::size_t best = first;
    for (auto q = first; q <= last; ++q)
      if (fft_.bins()[q].real() > fft_.bins()[best].real()) best = q;
    const double peak = static_cast<double>(fft_.bins()[best].real()) / static_cast<double>(size_);
    const double period = peak > kLeastPeak ? static_cast<double>(best) / 2 : kNoiseSeconds * rate_;
    return static_cast<std::size_t>(std::max(period, kLeastSeconds * rate_));
  }

  /// Keeps what is below the order, with a soft end.
  void smooth(std::size_t order) {
    auto bins = fft_.bins();
    for (std::size_t q = 0; q < bins.size(); ++q) {
      const double x = static_cast<double>(q) / static_cast<double>(order);
      const double keep = x >= 1           ? 0.0
                          : x <= kSoftFrom ? 1.0
                                           : 0.5 + 0.5 * std::cos(std::numbers::pi * (x - kSoftFrom) / (1 - kSoftFrom));
      bins[q] = {bins[q].real() * static_cast<float>(keep), 0.0F};
    }
    fft_.inverse();
  }

  RealFft fft_;
  std::size_t size_;
  int rate_;
  std::vector<double> log_;
  std::vector<double> raised_;
  std::vector<double> envelope_ = std::vector<double>(log_.size());
};

/// Between two bins; beyond the last one the last.
double at(const std::vector<double>& envelope, double bin) {
  const double last = static_cast<double>(envelope.size() - 1);
  const double x = std::clamp(bin, 0.0, last);
  const auto k = std::min(static_cast<std::size_t>(x), envelope.size() - 2);
  const double part = x - static_cast<double>(k);
  return envelope[k] * (1 - part) + envelope[k + 1] * part;
}

std::vector<float> sineWindow(std::size_t size) {
  std::vector<float> w(size);
  for (std::size_t i = 0; i < size; ++i)
    w[i] = static_cast<float>(std::sin(std::numbers::pi * (static_cast<double>(i) + 0.5) / static_cast<double>(size)));
  return w;
}

}  // namespace

std::vector<float> withFormants(std::span<const float> sound, std::span<const float> recorded, int rate,
                                const std::function<FormantPlace(std::size_t)>& place) {
  const auto size = std::bit_ceil(static_cast<std::size_t>(kWindowSeconds * rate));
  const auto hop = size / kHops;
  const auto window = sineWindow(size);
  EnvelopeFinder finder(static_cast<int>(size), rate);
  RealFft fft(static_cast<int>(size));
  std::vector<float> out(sound.size(), 0.0F);
  std::vector<float> room(size);
  // Squares of the windows that lie over a frame add up to half of their number.
  const float scale = 2.0F / static_cast<float>(kHops * size);
  const auto length = static_cast<std::int64_t>(sound.size());
  const auto reach = static_cast<std::int64_t>(size);
  for (auto first = -reach + static_cast<std::int64_t>(hop); first < length; first += static_cast<std::int64_t>(hop)) {
    const auto windowed = [&](std::span<const float> from, std::span<float> to) {
      for (std::int64_t i = 0; i < reach; ++i) {
        const auto f = first + i;
        const auto k = static_cast<std::size_t>(i);
        to[k] = f >= 0 && f < length ? from[static_cast<std::size_t>(f)] * window[k] : 0.0F;
      }
    };
    const auto where = place(static_cast<std::size_t>(std::clamp<std::int64_t>(first + reach / 2, 0, length - 1)));
    windowed(sound, fft.time());
    if (where.now != where.wanted) {
      windowed(recorded, room);
      const auto& envelope = finder.of(room);
      fft.forward();
      for (std::size_t k = 0; k < fft.bins().size(); ++k) {
        const auto bin = static_cast<double>(k);
        const double gain = at(envelope, bin / where.wanted) - at(envelope, bin / where.now);
        fft.bins()[k] *= static_cast<float>(std::exp(std::clamp(gain, -kMostGain, kMostGain)));
      }
      fft.inverse();
    } else {
      for (auto& x : fft.time()) x *= static_cast<float>(size);
    }
    for (std::int64_t i = std::max<std::int64_t>(0, -first); i < std::min(reach, length - first); ++i)
      out[static_cast<std::size_t>(first + i)] +=
          fft.time()[static_cast<std::size_t>(i)] * window[static_cast<std::size_t>(i)] * scale;
  }
  return out;
}

}  // namespace ochron
