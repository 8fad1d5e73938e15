#pragma once

#include <string_view>

namespace ochron {

/// Without the blanks, tabs and line ends around it.
constexpr std::string_view trimmed(std::string_view text) {
  constexpr std::string_view kBlank = " \t\r\n";
  const auto first = text.find_first_not_of(kBlank);
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(kBlank) + 1 - first);
}

}  // namespace ochron
