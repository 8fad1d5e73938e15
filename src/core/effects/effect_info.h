#pragma once

#include <map>
#include <string>
#include <vector>

namespace ochron {

/// A control of an effect, as the plug-in describes its port.
struct EffectControl {
  struct Point {
    std::string label;
    double value = 0;
  };
  std::string symbol;
  std::string name;
  std::string group;  ///< empty: none
  std::string unit;   ///< as it is written behind the value
  double low = 0;
  double high = 1;
  double fallback = 0;
  bool toggled = false;
  bool whole = false;
  bool logarithmic = false;
  bool chosen = false;  ///< only the points are meant
  bool hidden = false;  ///< not for the user: it only counts
  bool ofRate = false;  ///< its numbers are shares of the rate, as the catalog lists them
  std::vector<Point> points;
};

struct EffectPreset {
  std::string uri;
  std::string name;
  std::map<std::string, double> values;
  bool state = false;  ///< it says more than values
};

/// A plug-in that can be put into a track: it has audio in and audio out.
struct EffectInfo {
  std::string uri;
  std::string name;
  std::string kind;    ///< "Compressor", as its class is called
  std::string bundle;  ///< where it lies
  int inputs = 1;
  int outputs = 1;
  bool keyed = false;                   ///< it hears more than the sound that goes through it
  std::vector<EffectControl> controls;  ///< what can be set, in the order of the ports
  std::vector<EffectControl> readings;  ///< what it tells
  std::vector<EffectPreset> presets;

  /// With numbers that go with the rate told for a rate, Hz.
  EffectInfo atRate(int rate) const;
};

}  // namespace ochron
