#include "support/effects_here.h"

#include <gtest/gtest.h>

#include <cstdlib>
#include <string>

#include "effects/catalog.h"

namespace ochron::test {

void findEffectsHere() { ::setenv("LV2_PATH", (std::string(OCHRON_TEST_LV2) + ":/usr/lib/lv2").c_str(), 1); }

const std::vector<EffectInfo>& effectsHere() {
  static const auto all = [] {
    findEffectsHere();
    auto found = listEffects();
    EXPECT_TRUE(found) << found.error().message;
    return found ? *found : std::vector<EffectInfo>();
  }();
  return all;
}

}  // namespace ochron::test
