#include <QInputDialog>
#include <algorithm>

#include "document/selection.h"
#include "document/takes_desk.h"
#include "document/wording.h"
#include "edits/track_edits.h"
#include "lanes/lanes_view.h"
#include "main_window.h"

namespace ochron {

/// Commands on tracks, mic sets and takes as they stand in the song.
void MainWindow::buildTrackActions() {
  auto& a = *actions_;
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };
  const auto set = [this] { return doc_.song().find(doc_.selection().set()); };
  const auto track = [this] { return doc_.song().find(doc_.selection().track()); };
  const auto hasTrack = [track] { return track() != nullptr; };
  const auto hasSet = [set] { return set() != nullptr; };
  const auto take = [this, set]() -> const Take* {
    const auto* s = set();
    return s && !s->clips->empty() ? doc_.song().find(s->clips->front().take) : nullptr;
  };
  const auto hasTake = [take] { return take() != nullptr; };
  const auto askName = [this](const QString& title, const std::string& now) {
    bool ok = false;
    const auto name =
        QInputDialog::getText(this, title, tr("Its name:"), QLineEdit::Normal, QString::fromStdString(now), &ok);
    return ok ? name.trimmed().toStdString() : std::string();
  };

  a.add(
      "set.next", tr("Next mic set"), "Shift+PgDown", [this] { stepSet(1); }, hasTracks);
  a.add(
      "set.previous", tr("Previous mic set"), "Shift+PgUp", [this] { stepSet(-1); }, hasTracks);
  a.add(
      "track.next", tr("Next track"), "Ctrl+PgDown", [this] { stepTrack(1); }, hasTracks);
  a.add(
      "track.previous", tr("Previous track"), "Ctrl+PgUp", [this] { stepTrack(-1); }, hasTracks);
  for (const int by : {-1, 1})
    a.add(
        by < 0 ? "set.up" : "set.down", by < 0 ? tr("Move the set up") : tr("Move the set down"),
        by < 0 ? "Ctrl+Shift+PgUp" : "Ctrl+Shift+PgDown",
        [this, by] {
          doc_.edit(by < 0 ? tr("Move a set up") : tr("Move a set down"),
                    moveSet(doc_.song(), doc_.selection().set(), by));
        },
        hasSet);
  a.add(
      "track.remove", tr("Remove the track"), {},
      [this, track] {
        const Track gone = *track();
        if (doc_.edit(tr("Remove %1").arg(QString::fromStdString(gone.name)), removeTracks(doc_.song(), {gone.id})))
          doc_.tell(tr("\"%1\" is out of the song. Its recording stays on the disk; undo brings it back.")
                        .arg(QString::fromStdString(gone.name)));
      },
      hasTrack);
  a.add(
      "set.remove", tr("Remove the mic set"), {},
      [this, set] {
        const MicSet gone = *set();
        if (doc_.edit(tr("Remove %1").arg(QString::fromStdString(gone.name)), removeTracks(doc_.song(), gone.tracks)))
          doc_.tell(tr("\"%1\" with %2 is out of the song. The recordings stay on the disk; undo brings them back.")
                        .arg(QString::fromStdString(gone.name), counted(gone.tracks.size(), "track", "tracks")));
      },
      hasSet);
  a.add(
      "take.remove", tr("Remove the take"), {},
      [this, take] {
        const auto id = take()->id;
        const auto name = QString::fromStdString(take()->name);
        if (doc_.edit(tr("Remove %1").arg(name), removeTake(doc_.song(), id)))
          doc_.tell(
              tr("\"%1\" is out of the song with all its clips. Its recordings stay on the disk; undo brings it back.")
                  .arg(name));
      },
      hasTake);
  a.add(
      "set.rename", tr("Rename the mic set\u2026"), {},
      [this, set, askName] {
        const auto id = set()->id;
        if (const auto name = askName(tr("Rename the mic set"), set()->name); !name.empty())
          doc_.edit(tr("Rename a mic set"), renameSet(doc_.song(), id, name));
      },
      hasSet);
  a.add(
      "take.rename", tr("Rename the take\u2026"), {},
      [this, take, askName] {
        const auto id = take()->id;
        if (const auto name = askName(tr("Rename the take"), take()->name); !name.empty())
          doc_.edit(tr("Rename a take"), renameTake(doc_.song(), id, name));
      },
      hasTake);
  const auto turn = [this](bool Track::*flag) {
    return [this, flag] { doc_.takesDesk().turn(doc_.selection().track(), flag); };
  };
  a.add("track.mute", tr("Mute the track, or not"), {}, turn(&Track::muted), hasTrack);
  a.add("track.solo", tr("The track alone, or not"), {}, turn(&Track::solo), hasTrack);
  a.add(
      "track.rename", tr("Rename the track\u2026"), "F2",
      [this, track, askName] {
        Track named = *track();
        if (const auto name = askName(tr("Rename the track"), named.name); !name.empty()) {
          named.name = name;
          doc_.edit(tr("Rename track"), setTrack(doc_.song(), named));
        }
      },
      hasTrack);
  a.add("song.rename", tr("Rename the song\u2026"), {}, [this, askName] {
    if (const auto name = askName(tr("Rename the song"), doc_.song().name); !name.empty())
      doc_.edit(tr("Rename the song"), renameSong(doc_.song(), name));
  });
}

void MainWindow::stepSet(int by) {
  const auto& sets = doc_.song().sets;
  const auto now = std::find_if(sets.begin(), sets.end(), [&](auto& s) { return s.id == doc_.selection().set(); });
  const auto at = now == sets.end() ? 0 : std::clamp<std::ptrdiff_t>(now - sets.begin() + by, 0, std::ssize(sets) - 1);
  doc_.selection().chooseTrack(sets[static_cast<std::size_t>(at)].tracks.front());
}

void MainWindow::stepTrack(int by) {
  const auto& tracks = doc_.song().tracks;
  const auto now =
      std::find_if(tracks.begin(), tracks.end(), [&](auto& t) { return t.id == doc_.selection().track(); });
  const auto at =
      now == tracks.end() ? 0 : std::clamp<std::ptrdiff_t>(now - tracks.begin() + by, 0, std::ssize(tracks) - 1);
  doc_.selection().chooseTrack(tracks[static_cast<std::size_t>(at)].id);
}

}  // namespace ochron
