#include <QMenuBar>

#include "document/song_files.h"
#include "main_window.h"

namespace ochron {

void MainWindow::buildMenus() {
  const auto menu = [&](const QString& title, const QStringList& ids) {
    auto* m = menuBar()->addMenu(title);
    for (const auto& id : ids) {
      if (id == "-")
        m->addSeparator();
      else
        m->addAction(actions_->action(id));
    }
    connect(m, &QMenu::aboutToShow, actions_, &Actions::refresh);
    return m;
  };
  auto* song = menu(tr("Song"), {"song.new", "song.open"});
  recent_ = song->addMenu(tr("Open recent"));
  connect(recent_, &QMenu::aboutToShow, this, [this] {
    recent_->clear();
    for (const auto& folder : doc_.files().recent())
      recent_->addAction(folder, this, [this, folder] { openSong(folder); });
    if (recent_->isEmpty()) recent_->addAction(tr("nothing yet"))->setEnabled(false);
  });
  for (const char* id : {"song.import", "song.save", "song.saveas", "song.recordings", "song.kept", "song.room",
                         "song.export", "print.commit", "print.back", "print.measure", "print.effects",
                         "print.handover", "song.gather", "song.clean", "song.archive", "song.unarchive", "song.quit"})
    song->addAction(actions_->action(id));
  auto* edit = menu(tr("Edit"), {"edit.undo",
                                 "edit.redo",
                                 "-",
                                 "edit.cut",
                                 "edit.copy",
                                 "edit.paste",
                                 "edit.delete",
                                 "-",
                                 "this.all",
                                 "clips.ontrack",
                                 "clips.after",
                                 "clips.likename",
                                 "clips.likecolour",
                                 "edit.norange",
                                 "-",
                                 "this.next",
                                 "this.previous",
                                 "this.first",
                                 "this.last",
                                 "-",
                                 "this.up",
                                 "this.down",
                                 "this.setabove",
                                 "this.setbelow",
                                 "-",
                                 "envelope.copy",
                                 "envelope.paste"});
  connect(edit, &QMenu::aboutToShow, this, [this] {
    actions_->action("edit.undo")
        ->setText(doc_.undoName().isEmpty() ? tr("Undo") : tr("Undo: %1").arg(doc_.undoName()));
    actions_->action("edit.redo")
        ->setText(doc_.redoName().isEmpty() ? tr("Redo") : tr("Redo: %1").arg(doc_.redoName()));
  });
  menu(tr("Take"), {"song.import",
                    "take.micset",
                    "-",
                    "hits.find",
                    "hits.next",
                    "hits.previous",
                    "hits.add",
                    "hits.remove",
                    "-",
                    "hits.later",
                    "hits.earlier",
                    "hits.restore",
                    "hits.lead",
                    "hits.alike",
                    "-",
                    "hits.hear",
                    "hits.hearclick",
                    "hits.hearlift",
                    "hits.hearstep",
                    "-",
                    "hits.write",
                    "-",
                    "set.next",
                    "set.previous",
                    "track.next",
                    "track.previous",
                    "set.up",
                    "set.down",
                    "-",
                    "track.rename",
                    "set.rename",
                    "take.rename",
                    "-",
                    "track.remove",
                    "set.remove",
                    "take.remove"});
  menu(tr("Tempo"), {"take.heartempo", "take.hearalone", "take.usetempo", "tempo.anchor", "-", "tempo.nextbar",
                     "tempo.previousbar", "tempo.tie", "tempo.tap", "tempo.remove", "tempo.removeall", "-",
                     "tempo.follows", "tempo.hearall", "tempo.fitall", "tempo.fitrange", "-", "tempo.readmap"});
  menu(tr("Timing"), {"timing.toggle",
                      "timing.freeze",
                      "timing.release",
                      "timing.join",
                      "timing.separate",
                      "-",
                      "timing.leavealone",
                      "timing.putback",
                      "-",
                      "pins.add",
                      "pins.remove",
                      "pins.removeall",
                      "-",
                      "stretch.round",
                      "stretch.keep",
                      "-",
                      "lock.range",
                      "lock.unlockrange",
                      "lock.set",
                      "-",
                      "seams.next",
                      "seams.previous",
                      "seams.release",
                      "-",
                      "checks.next",
                      "checks.previous",
                      "checks.filter",
                      "checks.accept",
                      "checks.fix",
                      "-",
                      "groove.take",
                      "groove.read",
                      "groove.write",
                      "groove.library",
                      "groove.redraw",
                      "groove.drop"});
  menu(tr("Clips"), {"clips.split",         "clips.splithere",
                     "clips.splitrange",    "clips.splitgrid",
                     "clips.splithits",     "clips.splitsilence",
                     "clips.removesilence", "-",
                     "clips.trimstart",     "clips.trimend",
                     "clips.closegaps",     "clips.gapsmode",
                     "clips.snap",          "-",
                     "clips.duplicate",     "clips.duplicatetimes",
                     "clips.repeat",        "clips.reverse",
                     "clips.swap",          "clips.aligngrid",
                     "clips.alignline",     "clips.sync",
                     "clips.mute",          "-",
                     "clips.fadein",        "clips.fadeout",
                     "clips.crossfade",     "clips.nofades",
                     "clips.tapestart",     "clips.tapestop",
                     "song.fadein",         "song.fadeout",
                     "song.fadeboth",       "-",
                     "clips.bundle",        "clips.unbundle",
                     "clips.openbundle",    "-",
                     "spans.add",           "markers.add",
                     "markers.section"});
  menu(tr("Kit"), {"kit.add",           "kit.own",
                   "kit.swap",          "kit.next",
                   "kit.previous",      "-",
                   "kit.onoff",         "kit.nextlayer",
                   "kit.duplicate",     "kit.rename",
                   "kit.remove",        "-",
                   "kit.nextstroke",    "kit.previousstroke",
                   "kit.strokeoff",     "kit.strokesound",
                   "kit.strokelouder",  "kit.strokesofter",
                   "kit.strokerelease", "-",
                   "kit.print",         "kit.midi"});
  menu(tr("Pitch"), {"pitch.hear",
                     "-",
                     "this.all",
                     "-",
                     "pitch.up",
                     "pitch.down",
                     "pitch.bitup",
                     "pitch.bitdown",
                     "-",
                     "pitch.shorter",
                     "pitch.longer",
                     "-",
                     "pitch.split",
                     "pitch.join",
                     "pitch.silence",
                     "-",
                     "pitch.assung",
                     "pitch.giveback",
                     "pitch.melody",
                     "pitch.tohits",
                     "pitch.reference",
                     "-",
                     "pitch.asrecorded",
                     "pitch.keepkey"});
  menu(tr("Play"), {"transport.play", "transport.loop", "transport.compare", "transport.match", "-", "transport.click",
                    "transport.clicklouder", "transport.clicksofter", "transport.device", "-", "transport.start",
                    "transport.end", "-", "transport.nextbar", "transport.previousbar", "jump.nextedge",
                    "jump.previousedge", "jump.nextmarker", "jump.previousmarker"});
  menu(tr("View"), {"step.1",
                    "step.2",
                    "step.3",
                    "step.4",
                    "step.5",
                    "step.6",
                    "step.7",
                    "step.8",
                    "step.9",
                    "-",
                    "envelope.none",
                    "envelope.trackgain",
                    "envelope.trackpan",
                    "envelope.trackmute",
                    "envelope.clipgain",
                    "envelope.clippitch",
                    "envelope.songgain",
                    "envelope.songspeed",
                    "-",
                    "view.table",
                    "view.bench",
                    "view.nextpart",
                    "view.previouspart",
                    "view.all",
                    "view.closer",
                    "view.wider",
                    "view.range",
                    "view.taller",
                    "view.lower",
                    "view.left",
                    "view.right",
                    "-",
                    "view.night",
                    "view.contrast",
                    "view.motion"});
  menu(tr("Help"), {"help.tour", "help.find", "help.where", "help.said", "help.keys", "help.about"});
}

}  // namespace ochron
