#include <QStandardPaths>
#include <QStringList>
#include <algorithm>

#include "base/result.h"
#include "document/document.h"
#include "document/groove_library.h"
#include "feel/groove.h"
#include "store/groove_file.h"
#include "store/midi_file.h"

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
    if (auto g = readGrooveFile(entry.path()))
      out.push_back(*g);
    else if (problems)
      *problems << QString::fromStdString(g.error().message);
  }
  std::sort(out.begin(), out.end(), [](auto& a, auto& b) { return a.name < b.name; });
  return out;
}

Result<void> GrooveLibrary::keep(const Groove& groove) {
  std::error_code ec;
  fs::create_directories(folder(), ec);
  if (ec) return fail(ErrorKind::ioFailed, folder().string() + " cannot be made.", ec.message());
  return writeGroove(groove, folder() / grooveFileName(groove.name));
}

void Document::takeGroove(const QString& name) {
  auto groove = ochron::takeGroove(song(), activeSet(), name.toStdString());
  if (!groove) return tell(QString::fromStdString(groove.error().message));
  edit(tr("Take groove \"%1\"").arg(name), keepGroove(song(), *groove));
}

void Document::readGroove(const fs::path& file) {
  const auto ending = QString::fromStdString(file.extension().string()).toLower();
  const bool midi = ending == ".mid" || ending == ".midi";
  auto groove = midi ? readGrooveMidi(file, timing().grid) : readGrooveFile(file);
  if (!groove) return tell(QString::fromStdString(groove.error().message));
  if (edit(tr("Bring in groove \"%1\"").arg(QString::fromStdString(groove->name)), keepGroove(song(), *groove)))
    useGroove(*groove);
}

void Document::writeGroove(const fs::path& file) {
  if (!timing().groove) return tell(tr("Choose a groove first."));
  const bool midi = file.extension() == ".mid";
  const auto done = midi ? writeGrooveMidi(*timing().groove, file) : ochron::writeGroove(*timing().groove, file);
  tell(done ? tr("Groove written to %1.").arg(QString::fromStdString(file.string()))
            : QString::fromStdString(done.error().message));
}

void Document::keepGrooveInLibrary() {
  if (!timing().groove) return tell(tr("Choose a groove first."));
  const auto done = GrooveLibrary::keep(*timing().groove);
  tell(done ? tr("\"%1\" is in your library now, for every song.").arg(QString::fromStdString(timing().groove->name))
            : QString::fromStdString(done.error().message));
}

void Document::useGroove(const std::optional<Groove>& groove) {
  auto s = timing();
  s.groove = groove;
  if (groove) s.on = true;
  setTiming(groove ? tr("Use groove \"%1\"").arg(QString::fromStdString(groove->name)) : tr("Use no groove"), s);
}

}  // namespace ochron
