#include "checks/layer_checks.h"

#include <algorithm>
#include <cmath>

#include "base/numbers.h"
#include "song/layer_strokes.h"

namespace ochron {
namespace {

constexpr double kNearThreshold = 0.03;  // of a strength
constexpr double kCancels = 0.3;         // correlation, below 0, from which a sound weakens the drum

/// What both come to together against the drum alone, dB, when they are equally loud.
double togetherDb(double likeness) { return 10 * std::log10(std::max(0.01, (1 + likeness) / 2)); }

}  // namespace

std::vector<Check> layerChecksOf(const Song& song) {
  std::vector<Check> out;
  for (const auto& layer : song.layers) {
    const auto* set = song.find(layer.set);
    if (!layer.on || !set) continue;
    const auto& accepted = set->plan->accepted;
    bool said = false;
    for (const auto& s : strokesOf(song, layer)) {
      const auto add = [&](CheckKind kind, double risk, std::string title, std::string detail) {
        if (!accepted.contains({s.hit, kind}))
          out.push_back({kind, set->id, s.take, s.hit, s.at, risk, std::move(title), std::move(detail)});
      };
      const double above = s.strength - layer.settings.threshold;
      if (layer.settings.threshold > 0 && !s.byHand && std::abs(above) < kNearThreshold)
        add(CheckKind::ghostOrStroke, 0.4 - 5 * std::abs(above), "ghost or stroke?",
            "strength " + fixed(s.strength, 2) + (above < 0 ? ", just below " : ", just above ") + "the line of \"" +
                layer.name + "\"");
      const auto& sound = layer.sounds->sounds[s.sound];
      const double together = s.turned == sound.turned ? std::abs(sound.likeness) : -std::abs(sound.likeness);
      if (said || !s.heard || !sound.listened || together > -kCancels) continue;
      said = true;  // it is the layer's, not the stroke's
      add(CheckKind::layerCancels, 0.7, "cancels the drum",
          "\"" + layer.name + "\": " + signedFixed(togetherDb(together), 1) + " dB together; turn its polarity");
    }
  }
  return out;
}

}  // namespace ochron
