#pragma once

#include <optional>

#include "base/setting.h"
#include "terms/stretch_method.h"

namespace ochron {

inline constexpr SettingRange kFormantsRange{"formants", "c", -1200, 1200, 10, 0};

/// What becomes of the formants where pitch is changed: they go along with it, or stay but for so many cents.
struct Formants {
  bool along = false;
  double cents = 0;  ///< kFormantsRange; only where they do not go along

  bool operator==(const Formants&) const = default;
};

/// Cents from where they were recorded at which formants are held; none: they go along with the pitch. What was not
/// decided goes by the material: those of single notes stay.
inline std::optional<double> heldFormants(const std::optional<Formants>& decided, StretchMethod method) {
  if (decided) return decided->along ? std::nullopt : std::optional(decided->cents);
  return method == StretchMethod::single ? std::optional(0.0) : std::nullopt;
}

}  // namespace ochron
