#include "document/groove_library.h"

#include <QStandardPaths>
#include <algorithm>
#include <map>

#include "files/atomic_file.h"
#include "files/outputs.h"
#include "store/groove_file.h"

namespace ochron {
namespace fs = std::filesystem;

fs::path GrooveLibrary::folder() {
  return fs::path(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation).toStdString()) / "grooves";
}

namespace {

/// What was read last, and what the folder looked like then: it is read again when it does not any more.
struct ReadGrooves {
  std::map<fs::path, fs::file_time_type> files;
  std::vector<Groove> grooves;
  QStringList problems;
};

std::map<fs::path, fs::file_time_type> filesIn(const fs::path& folder) {
  std::map<fs::path, fs::file_time_type> out;
  std::error_code ec;
  for (const auto& entry : fs::directory_iterator(folder, ec)) out[entry.path()] = entry.last_write_time(ec);
  return out;
}

}  // namespace

std::vector<Groove> GrooveLibrary::grooves(QStringList* problems) {
  static ReadGrooves last;
  const auto files = filesIn(folder());
  if (files != last.files) {
    last = {files, {}, {}};
    last.grooves = read(last.problems);
  }
  if (problems) *problems << last.problems;
  return last.grooves;
}

std::vector<Groove> GrooveLibrary::read(QStringList& problems) {
  std::vector<Groove> out;
  std::error_code ec;
  for (const auto& entry : fs::directory_iterator(folder(), ec)) {
    if (entry.path().extension() != ".json") continue;
    if (auto g = readGrooveFile(entry.path(), {}))
      out.push_back(*g);
    else
      problems << QString::fromStdString(g.error().message);
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.name < b.name; });
  return out;
}

Result<void> GrooveLibrary::keep(const Groove& groove) {
  auto file = folder() / grooveFileName(groove.name);
  std::error_code ec;
  // Two names may make one file name ("a/b", "a?b"): another groove's file is not written over.
  const auto stem = file.stem().string();
  for (int n = 2; fs::exists(file, ec); ++n) {
    const auto there = readGrooveFile(file, groove.grid);
    if (there && there->name == groove.name) break;
    if (there) {
      file = folder() / (stem + " " + std::to_string(n) + ".json");
      continue;
    }
    if (auto aside = setAside(file); !aside) return tl::unexpected(aside.error());  // what was there is damaged
    break;
  }
  Outputs outputs;
  if (auto ok = ochron::writeGroove(groove, file, outputs); !ok) return ok;
  return outputs.commit();
}

}  // namespace ochron
