#include "store/scala_file.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

#include "base/numbers.h"
#include "base/text.h"
#include "files/atomic_file.h"

namespace ochron {
namespace {

constexpr std::size_t kLargestScale = std::size_t{1} << 20;

/// Cents of one line of a scale file: "386.3" or "5/4" or "2"; what follows a blank is a comment.
std::optional<double> stepOf(std::string_view line) {
  line = trimmed(line);
  line = line.substr(0, std::min(line.find(' '), line.find('\t')));
  if (line.find('.') != std::string_view::npos) return parseNumber(line);
  const auto slash = line.find('/');
  const auto over = parseNumber(line.substr(0, slash));
  const auto under = slash == std::string_view::npos ? std::optional(1.0) : parseNumber(line.substr(slash + 1));
  if (!over || !under || *over <= 0 || *under <= 0) return {};
  return 1200 * std::log2(*over / *under);
}

}  // namespace

Result<Scale> loadScala(const std::filesystem::path& file, int tonic) {
  auto text = readWholeFile(file, kLargestScale);
  if (!text) return tl::unexpected(text.error());
  return scalaFromText(*text, tonic, file.string());
}

Result<Scale> scalaFromText(std::string_view text, int tonic, const std::string& name) {
  std::vector<std::string_view> lines;
  while (!text.empty()) {
    const auto end = std::min(text.find('\n'), text.size());
    auto line = text.substr(0, end);
    text.remove_prefix(std::min(end + 1, text.size()));
    if (!line.empty() && line.back() == '\r') line.remove_suffix(1);
    if (line.empty() || line.front() != '!') lines.push_back(line);
  }
  const auto broken = [&name](std::size_t line, const std::string& what) {
    return fail(ErrorKind::badInput, name + " cannot be read as a scale: in line " + std::to_string(line + 1) +
                                         ", comments not counted, " + what +
                                         " A scale file has a title, the number of steps, and a step a line.");
  };
  if (lines.size() < 2) return broken(lines.size(), "the number of steps is missing.");
  const auto first = trimmed(lines[1]);
  const auto count = parseNumber(first.substr(0, first.find(' ')));
  if (!count || *count < 1 || *count > static_cast<double>(kMostScaleSteps) || *count != std::floor(*count))
    return broken(1, "it must be the number of steps, 1 to 1200.");
  const auto steps = static_cast<std::size_t>(*count);
  if (lines.size() < 2 + steps) return broken(lines.size(), "a step is missing.");
  Scale out;
  out.name = std::string(trimmed(lines[0]));
  out.tonic = std::clamp(tonic, 0, 11);
  out.steps = {0};
  for (std::size_t i = 0; i < steps; ++i) {
    const auto step = stepOf(lines[2 + i]);
    if (!step || !std::isfinite(*step) || *step < 0) return broken(2 + i, "it is neither cents nor a ratio above 1.");
    out.steps.push_back(*step);
  }
  out.octave = out.steps.back();
  out.steps.pop_back();
  if (out.octave < 1 || out.octave > 12'000) return broken(1 + steps, "the last step must be 1 to 12000 cents.");
  std::sort(out.steps.begin(), out.steps.end());
  out.steps.erase(std::unique(out.steps.begin(), out.steps.end()), out.steps.end());
  if (out.steps.back() >= out.octave) return broken(1 + steps, "the last step must be the largest.");
  return out;
}

}  // namespace ochron
