// A short delay to bring one mic into step with another.

#include <algorithm>
#include <cmath>
#include <vector>

#include "effect_base.h"

namespace ochron::lv2 {
namespace {

class LineUp : public PortBoard<5> {
  enum Port : std::size_t { kIn, kOut, kDelay, kPart, kTurned };
  static constexpr std::size_t kMost = 8192;  // frames, a power of two
  static constexpr double kGlideSeconds = 0.01;

 public:
  explicit LineUp(double rate) : kept_(kMost, 0.0F), glide_(1 - std::exp(-1 / (kGlideSeconds * rate))) {}
  void begin() {
    std::fill(kept_.begin(), kept_.end(), 0.0F);
    now_ = wanted();
    sign_ = turned();
  }
  void run(std::uint32_t frames) {
    const double goal = wanted();
    const double sign = turned();
    for (std::uint32_t i = 0; i < frames; ++i) {
      kept_[at_] = in(kIn)[i];
      // At rest it is the sound itself, to the bit; on the way it glides.
      now_ = std::abs(goal - now_) < 1e-4 ? goal : now_ + (goal - now_) * glide_;
      sign_ = std::abs(sign - sign_) < 1e-4 ? sign : sign_ + (sign - sign_) * glide_;
      const auto whole = static_cast<std::size_t>(now_);
      const double part = now_ - static_cast<double>(whole);
      out(kOut)[i] = static_cast<float>(sign_ * (part == 0 ? static_cast<double>(back(whole)) : between(whole, part)));
      at_ = (at_ + 1) % kMost;
    }
  }

 private:
  double wanted() const {
    return std::clamp(std::round(static_cast<double>(value(kDelay))), 0.0, 4800.0) +
           std::clamp(static_cast<double>(value(kPart)), 0.0, 0.999);
  }
  double turned() const { return value(kTurned) > 0.5F ? -1 : 1; }
  float back(std::size_t frames) const { return kept_[(at_ + kMost - frames) % kMost]; }
  /// Third-order Lagrange interpolation; its outer points need a frame to either side.
  double between(std::size_t whole, double part) const {
    const double a = whole > 0 ? static_cast<double>(back(whole - 1)) : static_cast<double>(back(0));
    const double b = back(whole);
    const double c = back(whole + 1);
    const double d = back(whole + 2);
    return -part * (part - 1) * (part - 2) / 6 * a + (part + 1) * (part - 1) * (part - 2) / 2 * b -
           (part + 1) * part * (part - 2) / 2 * c + (part + 1) * part * (part - 1) / 6 * d;
  }

  std::vector<float> kept_;
  std::size_t at_ = 0;
  double now_ = 0;
  double sign_ = 1;
  const double glide_;
};

}  // namespace

const LV2_Descriptor kLineUp = descriptorOf<LineUp>("urn:orthochron:lv2:line-up");

}  // namespace ochron::lv2
