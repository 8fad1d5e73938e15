#include "document/groove_library.h"

#include <QStandardPaths>
#include <algorithm>

#include "files/atomic_file.h"
#include "files/outputs.h"
#include "store/groove_file.h"

namespace ochron {
namespace fs = std::filesystem;

fs::path GrooveLibrary::folder() {
  return fs::path(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString()) / "grooves";
}

std::vector<Groove> GrooveLibrary::grooves(QStringList* problems) {
  std::vector<Groove> out;
  std::error_code ec;
  for (const auto& entry : fs::directory_iterator(folder(), ec)) {
    if (entry.path().extension() != ".json") continue;
    if (auto g = readGrooveFile(entry.path(), {}))
      out.push_back(*g);
    else if (problems)
      *problems << QString::fromStdString(g.error().message);
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.name < b.name; });
  return out;
}

Result<void> GrooveLibrary::keep(const Groove& groove) {
  const auto file = folder() / grooveFileName(groove.name);
  std::error_code ec;
  if (fs::exists(file, ec) && !readGrooveFile(file, groove.grid))
    if (auto aside = setAside(file); !aside) return tl::unexpected(aside.error());  // what was there is damaged
  Outputs outputs;
  if (auto ok = ochron::writeGroove(groove, file, outputs); !ok) return ok;
  return outputs.commit();
}

}  // namespace ochron
