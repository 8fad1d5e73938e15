#include <QStandardPaths>
#include <QStringList>
#include <algorithm>

#include "base/result.h"
#include "document/document.h"
#include "document/groove_library.h"
#include "edits/plan_edits.h"
#include "feel/groove.h"
#include "store/groove_file.h"
#include "store/project.h"

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

void Document::takeGroove(const QString& name) {
  auto groove = ochron::takeGroove(song(), activeSet(), name.toStdString());
  if (!groove) return tell(QString::fromStdString(groove.error().message));
  edit(tr("Take groove \"%1\"").arg(name), keepGroove(song(), *groove));
}

void Document::readGroove(const fs::path& file) {
  auto groove = readGrooveFile(file, timing().grid);
  if (!groove) return warn(QString::fromStdString(groove.error().message));
  if (edit(tr("Bring in groove \"%1\"").arg(QString::fromStdString(groove->name)), keepGroove(song(), *groove)))
    useGroove(*groove);
}

void Document::writeGroove(const fs::path& file) {
  if (!timing().groove) return tell(tr("Choose a groove first."));
  auto outputs = outputsOf(song());
  auto done = ochron::writeGroove(*timing().groove, file, outputs);
  if (done) done = outputs.commit();
  if (!done) return warn(QString::fromStdString(done.error().message));
  tell(tr("Groove written to %1.").arg(QString::fromStdString(file.string())));
}

void Document::keepGrooveInLibrary() {
  if (!timing().groove) return tell(tr("Choose a groove first."));
  const auto done = GrooveLibrary::keep(*timing().groove);
  if (!done) return warn(QString::fromStdString(done.error().message));
  tell(tr("\"%1\" is in your library now, for every song.").arg(QString::fromStdString(timing().groove->name)));
}

void Document::useGroove(const std::optional<Groove>& groove) {
  auto s = timing();
  s.groove = groove;
  if (groove) s.on = true;
  setTiming(groove ? tr("Use groove \"%1\"").arg(QString::fromStdString(groove->name)) : tr("Use no groove"), s);
}

}  // namespace ochron
