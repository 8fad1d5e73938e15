#include "entry/entry.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/numbers.h"

namespace ochron {
namespace {

std::string lowered(std::string s) {
  std::erase_if(s, [](unsigned char c) { return std::isspace(c); });
  for (auto& c : s) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  // A typographic minus, as the screen shows it, is a minus.
  constexpr std::string_view kMinus = "\u2212";
  for (auto at = s.find(kMinus); at != std::string::npos; at = s.find(kMinus)) {
    s[at] = '-';
    s.erase(at + 1, kMinus.size() - 1);
  }
  return s;
}

bool isTime(Quantity q) { return q == Quantity::position || q == Quantity::length; }

/// Frames in one of a unit; none when the unit is no time.
std::optional<double> framesIn(const std::string& unit, Quantity q, const TempoMap& map, Frames at) {
  const double rate = map.rate();
  if (unit.empty()) return q == Quantity::position ? rate : rate / 1000;
  if (unit == "ms") return rate / 1000;
  if (unit == "s" || unit == "sec") return rate;
  if (unit == "samples" || unit == "sample" || unit == "smp" || unit == "frames") return 1.0;
  if (unit == "beats" || unit == "beat" || unit == "b") {
    const auto t = map.toTicks(at);
    const auto beat = map.meterOfBar(map.barAt(t)).beatLength();
    return static_cast<double>((map.toFrames(t + beat) - map.toFrames(t)).value);
  }
  return {};
}

std::optional<double> centsIn(const std::string& unit) {
  if (unit.empty() || unit == "c" || unit == "cent" || unit == "cents") return 1.0;
  if (unit == "st" || unit == "semitone" || unit == "semitones") return 100.0;
  return {};
}

}  // namespace

Result<Entry> parseEntry(const std::string& typed, Quantity quantity, const TempoMap& map, Frames at) {
  const auto refuse = [&](const std::string& why) {
    return fail(ErrorKind::badInput,
                "\"" + typed + "\" " + why + ". Type a number, or +3, -=3, *0.5, /2 to change what is there.");
  };
  auto text = lowered(typed);
  Entry e;
  bool minus = false;
  bool divide = false;
  if (text.starts_with("+=") || text.starts_with("-=")) {
    e.how = Entry::How::add;
    minus = text[0] == '-';
    text.erase(0, 2);
  } else if (text.starts_with("+")) {
    e.how = Entry::How::add;
    text.erase(0, 1);
  } else if (text.starts_with("*") || text.starts_with("/")) {
    e.how = Entry::How::multiply;
    divide = text[0] == '/';
    text.erase(0, 1);
  }
  std::replace(text.begin(), text.end(), ',', '.');
  const auto digits = text.find_first_not_of("+-.0123456789");
  const auto exponent = digits != std::string::npos && text[digits] == 'e' && digits + 1 < text.size()
                            ? text.find_first_not_of("+-.0123456789", digits + 1)
                            : digits;
  const auto parsed = parseNumber(std::string_view(text).substr(0, exponent));
  if (!parsed) return refuse("is no number");
  const double number = *parsed;
  const std::string unit = exponent == std::string::npos ? std::string() : text.substr(exponent);
  if (e.how == Entry::How::multiply) {
    if (!unit.empty()) return refuse("multiplies by something with a unit");
    if (divide && number == 0) return refuse("divides by zero");
    e.value = divide ? 1 / number : number;
    return e;
  }
  double scale = 1;
  if (isTime(quantity)) {
    const auto frames = framesIn(unit, quantity, map, at);
    if (!frames) return refuse("has a unit that is no time; ms, s, samples and beats are known");
    scale = *frames;
  } else if (quantity == Quantity::pitch) {
    const auto cents = centsIn(unit);
    if (!cents) return refuse("has a unit that is no pitch; cents and semitones (st) are known");
    scale = *cents;
  } else if (!unit.empty() && !(quantity == Quantity::gain && unit == "db") &&
             !(quantity == Quantity::percent && unit == "%")) {
    return refuse("has a unit that does not fit here");
  }
  e.value = number * scale * (minus ? -1 : 1);
  return e;
}

std::string entryText(double value, Quantity quantity, int rate) {
  switch (quantity) {
    case Quantity::position: return fixed(value / rate, 4).append(" s");
    case Quantity::length: {
      const double ms = value * 1000 / rate;
      return ms >= 10'000 ? fixed(ms / 1000, 3).append(" s") : fixed(ms, 2).append(" ms");
    }
    case Quantity::gain: return fixed(value, 1).append(" dB");
    case Quantity::percent: return fixed(value, 0).append(" %");
    case Quantity::pitch: return shortest(value).append(" c");
    case Quantity::plain: break;
  }
  return shortest(value);
}

}  // namespace ochron
