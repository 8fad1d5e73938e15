#pragma once

#include <cstddef>
#include <string_view>

namespace ochron {

/// Without the blanks, tabs and line ends around it.
constexpr std::string_view trimmed(std::string_view text) {
  constexpr std::string_view kBlank = " \t\r\n";
  const auto first = text.find_first_not_of(kBlank);
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(kBlank) + 1 - first);
}

/// Bytes of the UTF-8 sequence at the start of `text`; 0 when there is none.
constexpr std::size_t utf8SequenceAt(std::string_view text) {
  const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
  const auto lead = byte(0);
  if (lead < 0x80) return 1;
  const std::size_t n = lead >= 0xF0 ? 4 : lead >= 0xE0 ? 3 : 2;
  if (lead < 0xC2 || lead > 0xF4 || text.size() < n) return 0;
  for (std::size_t i = 1; i < n; ++i)
    if ((byte(i) & 0xC0) != 0x80) return 0;
  // Overlong forms, surrogates and what lies beyond U+10FFFF.
  const auto second = byte(1);
  if ((lead == 0xE0 && second < 0xA0) || (lead == 0xED && second > 0x9F) || (lead == 0xF0 && second < 0x90) ||
      (lead == 0xF4 && second > 0x8F))
    return 0;
  return n;
}

/// True when every byte belongs to well-formed UTF-8 (RFC 3629).
constexpr bool isUtf8(std::string_view text) {
  while (!text.empty()) {
    const auto n = utf8SequenceAt(text);
    if (n == 0) return false;
    text.remove_prefix(n);
  }
  return true;
}

}  // namespace ochron
