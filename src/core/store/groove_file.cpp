#include "store/groove_file.h"

#include "files/atomic_file.h"
#include "files/file_names.h"
#include "store/midi_file.h"
#include "store/midi_in.h"
#include "store/timing_json.h"

namespace ochron {

Result<void> writeGroove(const Groove& groove, const std::filesystem::path& file, Outputs& outputs) {
  if (isMidiName(file)) return writeGrooveMidi(groove, file, outputs);
  Json j{{"orthochron groove", 1}};
  j.update(grooveToJson(groove));
  return outputs.add(file, j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n");
}

std::filesystem::path grooveFileName(const std::string& name) { return fileNameFor(name, "groove") + ".groove.json"; }

Result<Groove> readGrooveFile(const std::filesystem::path& file, const Grid& grid) {
  if (isMidiName(file)) return readGrooveMidi(file, grid);
  constexpr std::size_t kLargest = std::size_t{1} << 20;
  auto text = readWholeFile(file, kLargest);
  if (!text) return tl::unexpected(text.error());
  return grooveFromJson(*text, file.string());
}

Result<Groove> grooveFromJson(std::string_view text, const std::string& name) {
  const auto j = Json::parse(text, nullptr, false);
  JsonReader r;
  if (j.is_discarded())
    r.complain("it is damaged or cut short");
  else if (r.integer(j, "orthochron groove", 1, 1'000'000) > 1)
    r.complain("it was written by a newer version");
  Groove g;
  if (r.ok()) g = readGroove(r, j);
  if (!r.ok())
    return fail(ErrorKind::badInput, name + " cannot be read as a groove: " + r.problem() + ". Take the groove again.");
  return g;
}

}  // namespace ochron
