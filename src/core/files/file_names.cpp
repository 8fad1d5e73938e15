#include "files/file_names.h"

#include <cstdint>
#include <string_view>

namespace ochron {
namespace {

constexpr std::size_t kLongestName = 120;

/// Bytes of the UTF-8 sequence at the start of `text`; 0 when there is none.
std::size_t sequenceAt(std::string_view text) {
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

}  // namespace

std::string fileNameFor(const std::string& text, const std::string& fallback) {
  constexpr std::string_view kNotTaken = "/\\:*?\"<>|";
  std::string out;
  for (const char c : text)
    out += static_cast<unsigned char>(c) < 32 || kNotTaken.find(c) != std::string_view::npos ? '_' : c;
  while (!out.empty() && out.front() == '.') out.erase(0, 1);
  if (out.size() > kLongestName) {
    std::size_t end = kLongestName;
    while (end > 0 && (static_cast<unsigned char>(out[end]) & 0xC0) == 0x80) --end;
    out.resize(end);
  }
  return out.empty() ? fallback : out;
}

std::string endingOf(const std::filesystem::path& file) {
  auto ending = file.extension().string();
  for (auto& c : ending)
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  return ending;
}

bool isMidiName(const std::filesystem::path& file) {
  const auto ending = endingOf(file);
  return ending == ".mid" || ending == ".midi";
}

std::string shownPath(const std::filesystem::path& path) {
  const auto& raw = path.native();
  std::string out;
  for (std::string_view rest = raw; !rest.empty();) {
    const auto n = sequenceAt(rest);
    const bool control = n == 1 && static_cast<unsigned char>(rest[0]) < 32;
    out += n == 0 || control ? std::string("\uFFFD") : std::string(rest.substr(0, n));
    rest.remove_prefix(n == 0 ? 1 : n);
  }
  return out;
}

bool isUtf8(const std::string& text) {
  for (std::string_view rest = text; !rest.empty();) {
    const auto n = sequenceAt(rest);
    if (n == 0) return false;
    rest.remove_prefix(n);
  }
  return true;
}

}  // namespace ochron
