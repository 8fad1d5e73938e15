// Two shelves and two bells; minimum phase, or the same levels at linear phase.

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>
#include <vector>

#include "effect_base.h"

namespace ochron::lv2 {
namespace {

/// A band as a filter of second order (R. Bristow-Johnson, Cookbook formulae for audio equalizer biquad filter
/// coefficients).
struct Band {
  enum class Kind { lowShelf, bell, highShelf };
  std::array<double, 3> b{1, 0, 0};
  std::array<double, 2> a{0, 0};
  double x1 = 0, x2 = 0, y1 = 0, y2 = 0;

  void set(Kind kind, double rate, double gainDb, double hz, double octaves) {
    const double amp = std::pow(10.0, gainDb / 40);
    const double w = 2 * M_PI * std::min(hz, 0.47 * rate) / rate;
    const double c = std::cos(w);
    const double alpha = std::sin(w) * std::sinh(std::log(2.0) / 2 * octaves * w / std::sin(w));
    const double root = 2 * std::sqrt(amp) * alpha;
    double a0 = 1;
    if (kind == Kind::bell) {
      a0 = 1 + alpha / amp;
      b = {1 + alpha * amp, -2 * c, 1 - alpha * amp};
      a = {-2 * c, 1 - alpha / amp};
    } else {
      const double s = kind == Kind::lowShelf ? 1 : -1;
      a0 = (amp + 1) + s * (amp - 1) * c + root;
      b = {amp * ((amp + 1) - s * (amp - 1) * c + root), s * 2 * amp * ((amp - 1) - s * (amp + 1) * c),
           amp * ((amp + 1) - s * (amp - 1) * c - root)};
      a = {-s * 2 * ((amp - 1) + s * (amp + 1) * c), (amp + 1) + s * (amp - 1) * c - root};
    }
    for (auto& v : b) v /= a0;
    for (auto& v : a) v /= a0;
  }
  double run(double x) {
    const double y = b[0] * x + b[1] * x1 + b[2] * x2 - a[0] * y1 - a[1] * y2;
    x2 = x1, x1 = x, y2 = y1, y1 = y;
    return y;
  }
  double levelAt(double w) const {
    const std::complex<double> z = std::polar(1.0, -w);
    return std::abs((b[0] + b[1] * z + b[2] * z * z) / (1.0 + a[0] * z + a[1] * z * z));
  }
};

class Equalizer : public PortBoard<16> {
  static constexpr std::size_t kBands = 4;
  enum Port : std::size_t { kIn, kOut, kFirst, kPhase = kFirst + 3 * kBands, kLatency };
  static constexpr int kHalf = 1023;  // taps to either side of the middle one
  static constexpr std::size_t kTaps = 2 * kHalf + 1;

 public:
  explicit Equalizer(double rate) : rate_(rate), taps_(kTaps, 0.0F), kept_(2 * kTaps, 0.0F) {}
  void begin() {
    linear_ = false;
    for (auto& band : bands_) band.x1 = band.x2 = band.y1 = band.y2 = 0;
    std::fill(kept_.begin(), kept_.end(), 0.0F);
    settings_.begin();
  }
  void run(std::uint32_t frames) {
    const bool linear = value(kPhase) > 0.5F;
    follow(linear);
    constexpr std::uint32_t kEvery = 16;  // frames between two filters on the way to other settings
    tell(kLatency, linear ? static_cast<float>(kHalf) : 0.0F);
    for (std::uint32_t i = 0; i < frames; ++i) {
      if (settings_.next(kEvery)) setBands(settings_.now());
      const float x = in(kIn)[i];
      // Twice the same, so that the last kTaps samples always lie in one piece.
      kept_[at_] = kept_[at_ + kTaps] = x;
      at_ = (at_ + 1) % kTaps;
      if (linear) {
        float sum = 0;
        const float* from = kept_.data() + at_;
        for (std::size_t k = 0; k < kTaps; ++k) sum += taps_[k] * from[k];
        out(kOut)[i] = sum;
        continue;
      }
      double y = x;
      for (auto& band : bands_) y = band.run(y);
      out(kOut)[i] = static_cast<float>(y);
    }
  }

 private:
  using Settings = Glide<3 * kBands>;
  /// Linear phase follows at once: its taps are too many to be made over and over.
  void follow(bool linear) {
    Settings::Values wanted{};
    for (std::size_t i = 0; i < 3 * kBands; ++i) wanted[i] = value(kFirst + i);
    if (linear && (!linear_ || wanted != ofTaps_)) {
      settings_.begin();
      settings_.goal(wanted);
      setBands(wanted);
      makeTaps();
      ofTaps_ = wanted;
    } else if (settings_.goal(wanted)) {
      setBands(wanted);
    }
    linear_ = linear;
  }
  void setBands(const Settings::Values& now) {
    constexpr std::array kKinds{Band::Kind::lowShelf, Band::Kind::bell, Band::Kind::bell, Band::Kind::highShelf};
    for (std::size_t k = 0; k < kBands; ++k)
      bands_[k].set(kKinds[k], rate_, now[3 * k], std::max(10.0F, now[3 * k + 1]), std::max(0.1F, now[3 * k + 2]));
  }
  /// The response by its samples over the spectrum, under a Hann window.
  void makeTaps() {
    constexpr int kPoints = 1024;
    std::array<double, kPoints + 1> level{};
    for (int k = 0; k <= kPoints; ++k) {
      level[static_cast<std::size_t>(k)] = 1;
      for (const auto& band : bands_) level[static_cast<std::size_t>(k)] *= band.levelAt(M_PI * k / kPoints);
    }
    for (int n = 0; n <= kHalf; ++n) {
      double sum = level[0] / 2 + level[kPoints] / 2 * (n % 2 == 0 ? 1 : -1);
      for (int k = 1; k < kPoints; ++k) sum += level[static_cast<std::size_t>(k)] * std::cos(M_PI * k * n / kPoints);
      const double window = 0.5 + 0.5 * std::cos(M_PI * n / (kHalf + 1));
      taps_[static_cast<std::size_t>(kHalf + n)] = taps_[static_cast<std::size_t>(kHalf - n)] =
          static_cast<float>(sum / kPoints * window);
    }
  }

  const double rate_;
  std::array<Band, kBands> bands_;
  Settings settings_;
  Settings::Values ofTaps_{};
  bool linear_ = false;
  std::vector<float> taps_;
  std::vector<float> kept_;
  std::size_t at_ = 0;
};

}  // namespace

const LV2_Descriptor kEqualizer = descriptorOf<Equalizer>("urn:orthochron:lv2:equalizer");

}  // namespace ochron::lv2
