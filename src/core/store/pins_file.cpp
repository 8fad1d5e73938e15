#include "store/pins_file.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <utility>

#include "base/numbers.h"
#include "base/text.h"
#include "files/atomic_file.h"

namespace ochron {
namespace {

using Pairs = std::vector<std::pair<double, double>>;

constexpr std::size_t kLargestPins = std::size_t{16} << 20;
constexpr std::size_t kMost = 100'000;
constexpr double kLatestPin = 360'000;  // s
constexpr double kLeastApart = 0.004;   // s

/// Empty when a line is no pair of numbers; a first line without numbers is a heading.
Pairs fromCsv(std::string_view text, std::size_t& badLine) {
  Pairs out;
  for (std::size_t line = 1; !text.empty(); ++line) {
    const auto end = std::min(text.find('\n'), text.size());
    const auto row = trimmed(text.substr(0, end));
    text.remove_prefix(std::min(end + 1, text.size()));
    if (row.empty()) continue;
    const auto comma = row.find_first_of(",;");
    const auto a = parseNumber(trimmed(row.substr(0, comma)));
    const auto b = comma == std::string_view::npos ? std::nullopt : parseNumber(trimmed(row.substr(comma + 1)));
    if (a && b) {
      out.emplace_back(*a, *b);
    } else if (line > 1) {
      badLine = line;
      return {};
    }
  }
  return out;
}

Pairs fromJson(std::string_view text) {
  const auto j = nlohmann::json::parse(text, nullptr, false);
  Pairs out;
  if (!j.is_array()) return {};
  for (const auto& pair : j) {
    if (!pair.is_array() || pair.size() != 2 || !pair[0].is_number() || !pair[1].is_number()) return {};
    out.emplace_back(pair[0].get<double>(), pair[1].get<double>());
  }
  return out;
}

}  // namespace

Result<std::vector<Pin>> loadPins(const std::filesystem::path& file, int rate) {
  auto text = readWholeFile(file, kLargestPins);
  if (!text) return tl::unexpected(text.error());
  return pinsFromText(*text, file.string(), rate);
}

Result<std::vector<Pin>> pinsFromText(std::string_view text, const std::string& name, int rate) {
  const auto refuse = [&](const std::string& why) {
    return fail(ErrorKind::badInput, name + " cannot be read as pins: " + why +
                                         " Give pairs of seconds, in the recording and where that is to be: a pair a "
                                         "line as CSV, or [[0, 0], [1.5, 1.62]] as JSON.");
  };
  std::size_t badLine = 0;
  const auto begins = text.find_first_not_of(" \t\r\n");
  const bool json = begins != std::string_view::npos && text[begins] == '[';
  auto pairs = json ? fromJson(text) : fromCsv(text, badLine);
  if (badLine > 0) return refuse("line " + std::to_string(badLine) + " is no pair of numbers.");
  if (pairs.size() < 2) return refuse("it holds less than two pairs.");
  if (pairs.size() > kMost) return refuse("it holds more than 100000 pairs.");
  std::sort(pairs.begin(), pairs.end());
  std::vector<Pin> pins;
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    const auto [take, to] = pairs[i];
    if (!(take >= 0 && take <= kLatestPin && to >= 0 && to <= kLatestPin))
      return refuse("a place is not 0 to 360000 seconds.");
    if (i > 0 && (take < pairs[i - 1].first + kLeastApart || to < pairs[i - 1].second + kLeastApart))
      return refuse("pins must rise by 4 ms at least, " + fixed(take, 3) + " s to " + fixed(to, 3) + " s does not.");
    pins.push_back({Frames{std::llround(take * rate)}, Frames{std::llround(to * rate)}});
  }
  return pins;
}

}  // namespace ochron
