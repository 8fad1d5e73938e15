#include "instruments.h"

#include <fluidsynth.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>

#include "score.h"

namespace ochron::demo {
namespace {
constexpr float kAttackShare = 0.01f;  // -40 dB under the peak
}

struct Instruments::State {
  fluid_settings_t* settings = nullptr;
  fluid_synth_t* synth = nullptr;
};

Instruments::Instruments(const std::string& soundfont) : state_(std::make_unique<State>()) {
  state_->settings = new_fluid_settings();
  fluid_settings_setnum(state_->settings, "synth.sample-rate", kRate);
  fluid_settings_setint(state_->settings, "synth.reverb.active", 0);
  fluid_settings_setint(state_->settings, "synth.chorus.active", 0);
  fluid_settings_setnum(state_->settings, "synth.gain", 0.7);
  state_->synth = new_fluid_synth(state_->settings);
  if (fluid_synth_sfload(state_->synth, soundfont.c_str(), 1) == FLUID_FAILED) {
    std::fprintf(stderr, "make_demo: %s cannot be read. Install the package fluid-soundfont-gm.\n", soundfont.c_str());
    std::exit(2);
  }
}

Instruments::~Instruments() {
  delete_fluid_synth(state_->synth);
  delete_fluid_settings(state_->settings);
}

std::vector<float> Instruments::render(bool percussion, int program, int key, int velocity, double held, double tail) {
  auto* synth = state_->synth;
  fluid_synth_system_reset(synth);
  const int channel = percussion ? 9 : 0;
  if (!percussion) fluid_synth_program_change(synth, channel, program);
  fluid_synth_noteon(synth, channel, key, velocity);
  const auto total = static_cast<std::size_t>((held + tail) * kRate);
  const auto off = static_cast<std::size_t>(held * kRate);
  std::vector<float> left(total);
  std::vector<float> right(total);
  fluid_synth_write_float(synth, static_cast<int>(off), left.data(), 0, 1, right.data(), 0, 1);
  fluid_synth_noteoff(synth, channel, key);
  fluid_synth_write_float(synth, static_cast<int>(total - off), left.data(), static_cast<int>(off), 1, right.data(),
                          static_cast<int>(off), 1);
  float peak = 0;
  for (std::size_t i = 0; i < total; ++i) {
    left[i] = 0.5f * (left[i] + right[i]);
    peak = std::max(peak, std::abs(left[i]));
  }
  const auto begin =
      std::find_if(left.begin(), left.end(), [&](float s) { return std::abs(s) >= kAttackShare * peak; });
  left.erase(left.begin(), begin);
  while (!left.empty() && std::abs(left.back()) < 1e-5f) left.pop_back();
  return left;
}

const std::vector<float>& Instruments::drum(int key, int velocity) {
  auto& held = drums_[{key, velocity}];
  if (held.empty()) held = render(true, 0, key, velocity, 0.3, key == 49 ? 3.5 : 1.5);
  return held;
}

std::vector<float> Instruments::note(int program, int midi, int velocity, double seconds) {
  return render(false, program, midi, velocity, seconds, 0.4);
}

}  // namespace ochron::demo
