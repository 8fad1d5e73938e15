#include "effect_base.h"

LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(std::uint32_t index) {
  constexpr std::array kAll{&ochron::lv2::kEqualizer, &ochron::lv2::kCompressor, &ochron::lv2::kLineUp};
  return index < kAll.size() ? kAll[index] : nullptr;
}
