#include "store/groove_file.h"

#include "store/project.h"
#include "store/timing_json.h"

namespace ochron {

Result<void> writeGroove(const Groove& groove, const std::filesystem::path& file) {
  Json j{{"orthochron groove", 1}};
  j.update(grooveToJson(groove));
  return writeAtomically(std::filesystem::absolute(file), j.dump(1) + "\n");
}

std::filesystem::path grooveFileName(const std::string& name) {
  std::string safe;
  for (const char c : name)
    if (static_cast<unsigned char>(c) >= 32 && std::string_view("/\\:*?\"<>|").find(c) == std::string_view::npos)
      safe += c;
  while (!safe.empty() && safe.front() == '.') safe.erase(0, 1);
  return (safe.empty() ? "groove" : safe) + ".groove.json";
}

Result<Groove> readGrooveFile(const std::filesystem::path& file) {
  constexpr std::size_t kLargest = std::size_t{1} << 20;
  auto text = readWholeFile(file, kLargest);
  if (!text) return tl::unexpected(text.error());
  const auto j = Json::parse(*text, nullptr, false);
  JsonReader r;
  if (j.is_discarded())
    r.complain("it is damaged or cut short");
  else if (r.integer(j, "orthochron groove", 1, 1'000'000) > 1)
    r.complain("it was written by a newer version");
  Groove g;
  if (r.ok()) g = readGroove(r, j);
  if (!r.ok())
    return fail(ErrorKind::badInput,
                file.string() + " cannot be read as a groove: " + r.problem() + ". Take the groove again.");
  return g;
}

}  // namespace ochron
