#pragma once

#include <map>
#include <memory>
#include <string>
#include <tuple>
#include <vector>

namespace ochron::demo {

/// Real instrument samples out of a General MIDI soundfont, one note at a time.
class Instruments {
 public:
  explicit Instruments(const std::string& soundfont);
  ~Instruments();

  /// A percussion key, mono; sample 0 is where its attack begins (1 % of its peak).
  const std::vector<float>& drum(int key, int velocity);
  /// A note of a melodic program held for `seconds`, mono; sample 0 is where its attack begins.
  std::vector<float> note(int program, int midi, int velocity, double seconds);

 private:
  std::vector<float> render(bool percussion, int program, int key, int velocity, double held, double tail);
  struct State;
  std::unique_ptr<State> state_;
  std::map<std::tuple<int, int>, std::vector<float>> drums_;
};

}  // namespace ochron::demo
