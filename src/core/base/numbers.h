#pragma once

#include <charconv>
#include <cmath>
#include <optional>
#include <string>
#include <string_view>

namespace ochron {

// Numbers as text, the same under every locale: a point, no grouping.

/// A finite number that fills the whole text (a leading "+" is allowed); none otherwise, and for NaN and infinity.
inline std::optional<double> parseNumber(std::string_view text) {
  if (text.starts_with('+') && !text.starts_with("+-")) text.remove_prefix(1);
  double v = 0;
  const auto r = std::from_chars(text.data(), text.data() + text.size(), v);
  if (r.ec != std::errc{} || r.ptr != text.data() + text.size() || !std::isfinite(v)) return std::nullopt;
  return v;
}

/// With so many digits after the point; never "-0.00".
inline std::string fixed(double value, int digits) {
  char text[400];
  const auto r = std::to_chars(text, text + sizeof text, value, std::chars_format::fixed, digits);
  std::string out(text, r.ec == std::errc{} ? r.ptr : text);
  if (out.starts_with('-') && out.find_first_not_of("-0.") == std::string::npos) out.erase(0, 1);
  return out;
}

/// As fixed(), with its sign always shown.
inline std::string signedFixed(double value, int digits) {
  const auto text = fixed(value, digits);
  return text.starts_with('-') ? text : "+" + text;
}

/// 10 log10 of a power or of a ratio of powers.
inline double decibelsOf(double power) { return 10 * std::log10(power); }

/// The shortest text that reads back as the same number.
inline std::string shortest(double value) {
  char text[64];
  const auto r = std::to_chars(text, text + sizeof text, value);
  return std::string(text, r.ptr);
}

}  // namespace ochron
