// A compressor that is steered by what all mics of a set hear together: their balance and phase stay.

#include <algorithm>
#include <cmath>

#include "effect_base.h"

namespace ochron::lv2 {
namespace {

class Compressor : public PortBoard<11> {
  enum Port : std::size_t {
    kIn,
    kKey,
    kOut,
    kThreshold,
    kRatio,
    kKnee,
    kAttack,
    kRelease,
    kMakeup,
    kTogether,
    kReduction
  };

 public:
  explicit Compressor(double rate) : rate_(rate) {}
  void begin() {
    reduction_ = 0;
    settings_.begin();
  }
  void run(std::uint32_t frames) {
    settings_.goal({value(kThreshold), value(kMakeup)});
    const double slope = 1 - 1 / std::max(1.0, static_cast<double>(value(kRatio)));
    const double knee = std::max(0.0, static_cast<double>(value(kKnee)));
    const double attack = step(value(kAttack));
    const double release = step(value(kRelease));
    const auto* key = value(kTogether) > 0.5F && in(kKey) ? in(kKey) : in(kIn);
    double most = 0;
    for (std::uint32_t i = 0; i < frames; ++i) {
      settings_.next(1);
      const double threshold = settings_.now()[0];
      const double makeup = settings_.now()[1];
      const double level = 20 * std::log10(std::max(1e-6, std::abs(static_cast<double>(key[i]))));
      const double wanted = slope * over(level - threshold, knee);
      reduction_ += (wanted - reduction_) * (wanted > reduction_ ? attack : release);
      most = std::max(most, reduction_);
      out(kOut)[i] = static_cast<float>(static_cast<double>(in(kIn)[i]) * std::pow(10.0, (makeup - reduction_) / 20));
    }
    tell(kReduction, static_cast<float>(most));
  }

 private:
  /// Of a time constant in ms.
  double step(float ms) const { return 1 - std::exp(-1000 / (std::max(0.01, static_cast<double>(ms)) * rate_)); }
  /// dB over the threshold with a quadratic knee (Giannoulis, Massberg, Reiss: Digital Dynamic Range Compressor Design,
  /// JAES 60, 2012).
  static double over(double db, double knee) {
    if (2 * db <= -knee) return 0;
    if (2 * db >= knee) return db;
    return (db + knee / 2) * (db + knee / 2) / (2 * knee);
  }

  const double rate_;
  double reduction_ = 0;  // dB
  Glide<2> settings_;     // threshold and make-up
};

}  // namespace

const LV2_Descriptor kCompressor = descriptorOf<Compressor>("urn:orthochron:lv2:compressor");

}  // namespace ochron::lv2
