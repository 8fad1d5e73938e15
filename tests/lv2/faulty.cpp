// A plug-in that ends, hangs, writes what is no sound, or is slow, as its control says. One control goes with the rate.

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <thread>

#include "effect_base.h"

namespace ochron::lv2 {
namespace {

class Faulty : public PortBoard<4> {
  enum Port : std::size_t { kIn, kOut, kFault, kHertz };

 public:
  explicit Faulty(double) {}
  void begin() {}
  void run(std::uint32_t frames) {
    const auto fault = static_cast<int>(value(kFault));
    if (fault == 1) std::abort();
    if (fault == 2) std::this_thread::sleep_for(std::chrono::hours(1));
    if (fault == 4) std::this_thread::sleep_for(std::chrono::milliseconds(60));
    for (std::uint32_t i = 0; i < frames; ++i) out(kOut)[i] = fault == 3 ? std::nanf("") : in(kIn)[i];
  }
};

const LV2_Descriptor kFaulty = descriptorOf<Faulty>("urn:orthochron:lv2:faulty");

}  // namespace
}  // namespace ochron::lv2

LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(std::uint32_t index) {
  return index == 0 ? &ochron::lv2::kFaulty : nullptr;
}
