#pragma once

#include <cmath>
#include <functional>
#include <vector>

namespace ochron {

/// Cents above 1 Hz of a note's number.
inline double centsOfMidi(double midi) { return 1200 * std::log2(440) + 100 * (midi - 69); }

/// A made-up singer whose pitch and formants are known: pulses of the glottis through two resonances.
struct MadeVoice {
  struct Note {
    double at;  ///< s
    double seconds;
    double midi;
  };
  int rate = 48'000;
  double seconds = 2;
  std::vector<Note> notes;
  std::function<double(double)> bend = [](double) { return 0.0; };  ///< cents at a time
  double formants[2] = {700, 1200};                                 ///< Hz

  double hertzAt(const Note& n, double t) const { return 440 * std::exp2((n.midi - 69) / 12 + bend(t) / 1200); }

  /// Notes that touch go on without a new attack.
  std::vector<float> samples() const {
    std::vector<double> source(static_cast<std::size_t>(seconds * rate), 0.0);
    double phase = 0;
    for (std::size_t k = 0; k < notes.size(); ++k) {
      const auto& n = notes[k];
      const bool fromBefore = k > 0 && notes[k - 1].at + notes[k - 1].seconds >= n.at - 1e-9;
      const bool intoNext = k + 1 < notes.size() && n.at + n.seconds >= notes[k + 1].at - 1e-9;
      for (auto i = static_cast<std::size_t>(n.at * rate); i < static_cast<std::size_t>((n.at + n.seconds) * rate);
           ++i) {
        const double t = static_cast<double>(i) / rate;
        const double hertz = hertzAt(n, t);
        phase += hertz / rate;
        double level = 1;
        if (!fromBefore) level = std::min(level, (t - n.at) / 0.02);
        if (!intoNext) level = std::min(level, (n.at + n.seconds - t) / 0.03);
        double x = 0;
        const int harmonics = static_cast<int>(5000 / hertz);
        for (int h = 1; h <= harmonics; ++h) x += std::cos(2 * M_PI * h * phase);
        source[i] = level * x / harmonics;
      }
    }
    std::vector<float> out(source.size());
    for (const double f : formants) {
      const double r = std::exp(-M_PI * 90 / rate);
      const double a = 2 * r * std::cos(2 * M_PI * f / rate);
      double y1 = 0;
      double y2 = 0;
      for (std::size_t i = 0; i < source.size(); ++i) {
        const double y = (1 - r) * source[i] + a * y1 - r * r * y2;
        y2 = y1;
        y1 = y;
        out[i] += static_cast<float>(y);
      }
    }
    return out;
  }
};

}  // namespace ochron
