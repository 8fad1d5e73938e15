#pragma once

#include <algorithm>
#include <string_view>

namespace ochron {

/// Describes one number of a settings struct: the same text, unit and range feed controls, command line and files.
struct SettingRange {
  std::string_view name;
  std::string_view unit;
  double low = 0;
  double high = 1;
  double step = 1;
  double fallback = 0;

  constexpr bool accepts(double v) const { return v >= low && v <= high; }
  /// The nearest value of the range; the fallback for NaN.
  constexpr double clamp(double v) const { return v != v ? fallback : std::clamp(v, low, high); }
};

/// A number of a settings struct, described once: project files, command line and controls are made from this.
template <class Settings>
struct Setting {
  double Settings::*field;
  SettingRange range;
  std::string_view key;     ///< in project files
  std::string_view help;    ///< one line
  std::string_view option;  ///< on the command line; empty: none
};

}  // namespace ochron
