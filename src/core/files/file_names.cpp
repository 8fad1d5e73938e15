#include "files/file_names.h"

#include <cstdint>
#include <string_view>

#include "base/text.h"

namespace ochron {
namespace {

constexpr std::size_t kLongestName = 120;

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

std::filesystem::path freeFile(const std::filesystem::path& folder, const std::string& name, const std::string& ending,
                               const std::set<std::filesystem::path>& taken) {
  auto file = folder / (name + ending);
  std::error_code none;
  for (int n = 2; std::filesystem::exists(file, none) || taken.contains(file); ++n)
    file = folder / (name + " " + std::to_string(n) + ending);
  return file;
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
    const auto n = utf8SequenceAt(rest);
    const bool control = n == 1 && static_cast<unsigned char>(rest[0]) < 32;
    out += n == 0 || control ? std::string("\uFFFD") : std::string(rest.substr(0, n));
    rest.remove_prefix(n == 0 ? 1 : n);
  }
  return out;
}

}  // namespace ochron
