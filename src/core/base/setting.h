#pragma once

#include <algorithm>
#include <array>
#include <string>
#include <string_view>

#include "base/result.h"

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

/// The description of one field among those of its struct.
template <class Settings, std::size_t N>
constexpr const Setting<Settings>& settingOf(const std::array<Setting<Settings>, N>& all, double Settings::*field) {
  for (const auto& n : all)
    if (n.field == field) return n;
  return all.front();
}

/// Fails with the name of the first number that is outside its range.
template <class Settings, std::size_t N>
Result<void> checkRanges(const Settings& settings, const std::array<Setting<Settings>, N>& all) {
  for (const auto& n : all)
    if (!n.range.accepts(settings.*n.field))
      return fail(ErrorKind::badInput, std::string(n.range.name) + " is outside its range.");
  return {};
}

}  // namespace ochron
