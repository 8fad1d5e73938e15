#include <QApplication>
#include <QCheckBox>
#include <QDialog>
#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenuBar>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "canvas/lanes_view.h"
#include "checks/checks_panel.h"
#include "document/clip_desk.h"
#include "document/round_desk.h"
#include "edits/take_edits.h"
#include "keeping/recordings_dialog.h"
#include "keys/key_sheet.h"
#include "main_window.h"

#include "bench/bench.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr const char* kMatchKey = "hearing/match loudness";
constexpr const char* kGlideKey = "view/glide";
constexpr int kGlideMs = 120;

}  // namespace

void MainWindow::buildActions() {
  auto& a = *actions_;
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };

  a.add("song.new", tr("New song"), "Ctrl+N", [this] {
    if (mayLeaveSong()) {
      fitted_ = false;
      doc_.newSong();
      doc_.setStep(Step::takes);
    }
  });
  a.add("song.open", tr("Open\u2026"), "Ctrl+O",
        [this] { openSong(QFileDialog::getExistingDirectory(this, tr("Open a song"))); });
  a.add("song.import", tr("Import recordings\u2026"), "Ctrl+I", [this] {
    takeIn(
        QFileDialog::getOpenFileNames(this, tr("Import recordings"), {},
                                      tr("Recordings (*.wav *.bwf *.flac *.aif *.aiff *.ogg *.mp3 *.mid *.midi);;All files (*)")));
  });
  a.add(
      "song.save", tr("Save"), "Ctrl+S", [this] { saveSong(false); }, hasTracks);
  a.add(
      "song.saveas", tr("Save as\u2026"), "Ctrl+Shift+S", [this] { saveSong(true); }, hasTracks);
  a.add(
      "song.recordings", tr("Recordings to look at\u2026"), {}, [this] { RecordingsDialog(doc_, this).exec(); },
      [this] { return !doc_.recordings().troubles().empty(); });
  a.add("song.kept", tr("Kept copies\u2026"), {}, [this] { showKept(); });
  a.add(
      "song.openlast", tr("Open the last song"), {}, [this] { openSong(doc_.recent().value(0)); },
      [this] { return !doc_.recent().isEmpty(); });
  a.add("transport.device", tr("Use the sound device"), {}, [this] { doc_.trySoundDevice(); });
  a.add(
      "song.export", tr("Export\u2026"), "Ctrl+E", [this] { doc_.setStep(Step::print); }, hasTracks);
  a.add("song.room", tr("Room on the disk\u2026"), {}, [this] {
    bool ok = false;
    const double now = Document::cacheRoom();
    const double room =
        QInputDialog::getDouble(this, tr("Room on the disk"), tr("Decoded and made sound may take, GB:"), now,
                                kCacheRoomRange.low, kCacheRoomRange.high, 1, &ok);
    if (ok) doc_.setCacheRoom(room);
  });
  a.add("song.quit", tr("Quit"), "Ctrl+Q", [this] { close(); });

  a.add(
      "edit.undo", tr("Undo"), "Ctrl+Z", [this] { doc_.undo(); }, [this] { return !doc_.undoName().isEmpty(); });
  a.add(
      "edit.redo", tr("Redo"), "Ctrl+Shift+Z", [this] { doc_.redo(); }, [this] { return !doc_.redoName().isEmpty(); });
  a.add("edit.norange", tr("Select nothing"), "Escape", [this] {
    if (doc_.roundDesk().going()) return doc_.roundDesk().end();
    if (doc_.desk().openBundle()) return doc_.desk().openBundle({});
    doc_.setRange({});
    doc_.setCurrentSeam({});
    doc_.setCurrentHit({});
    doc_.desk().clear();
  });
  a.add("help.find", tr("Find a command"), "Ctrl+F", [this] { findCommand(); });

  a.add("transport.play", tr("Play or stop"), "Space", [this] { doc_.playStop(); });
  a.add("transport.loop", tr("Loop the range"), "L", [this] {
    if (doc_.range().empty()) doc_.tell(tr("Drag over the ruler or the lanes to choose what is repeated."));
    doc_.setLooping(!doc_.looping());
  });
  a.add("transport.click", tr("Click"), "C", [this] { doc_.setClick(!doc_.click()); });
  a.add("transport.clicklouder", tr("Click louder"), "Shift+C",
        [this] { doc_.setClickLevelDb(std::min(0.0, doc_.clickLevelDb() + 3)); });
  a.add("transport.clicksofter", tr("Click softer"), "Ctrl+Shift+C",
        [this] { doc_.setClickLevelDb(std::max(-36.0, doc_.clickLevelDb() - 3)); });
  a.add("transport.compare", tr("Original or edited"), "O", [this] { doc_.setOriginal(!doc_.original()); });
  const auto match = [this](bool on) {
    doc_.matchLoudness(on);
    QSettings().setValue(kMatchKey, on);
    doc_.tell(on ? tr("The original is heard as loud as the edited version.")
                 : tr("The original is heard as loud as it was recorded."));
  };
  a.add("transport.match", tr("Original as loud as edited, or as recorded"), {},
        [this, match] { match(!doc_.matchesLoudness()); });
  doc_.matchLoudness(QSettings().value(kMatchKey, true).toBool());
  a.add("transport.start", tr("Go to the beginning"), "Home",
        [this] { doc_.setCursor(doc_.song().tempo.origin()), view_.reveal(doc_.cursor()); });
  a.add("transport.end", tr("Go to the end"), "End",
        [this] { doc_.setCursor(doc_.song().end()), view_.reveal(doc_.cursor()); });
  buildHitActions();
  buildClipActions();
  buildMarkActions();
  buildTempoActions();
  buildPinActions();
  buildPitchActions();

  a.add(
      "take.micset", tr("Mic set\u2026"), "Ctrl+G", [this] { micSet(); },
      [this] { return doc_.song().tracks.size() > 1; });

  a.add("view.all", tr("Whole song"), "Ctrl+0", [this] { view_.showAll(); });
  a.add("view.motion", tr("Glide when zooming and jumping, or not"), {}, [this] {
    const bool on = !view_.glides();
    view_.setGlide(on ? kGlideMs : 0);
    QSettings().setValue(kGlideKey, on);
    doc_.tell(on ? tr("Zooming and jumping glide.") : tr("Zooming and jumping are at once."));
  });
  a.add("help.tour", tr("Show me around"), {}, [this] { showAround(); });
  const auto zoom = [this](double factor) {
    const double x = std::clamp<double>(view_.xOf(doc_.cursor()), kGutterWidth, kGutterWidth + view_.width());
    view_.zoomInto(x, factor);
  };
  a.add("view.closer", tr("Closer"), "+", [zoom] { zoom(0.6); })->setShortcuts({QKeySequence("+"), QKeySequence("=")});
  a.add("view.wider", tr("Wider"), "-", [zoom] { zoom(1 / 0.6); });
  a.add(
      "view.range", tr("Zoom to the range"), "Z",
      [this] {
        const auto r = doc_.range();
        view_.show(static_cast<double>(r.start.value), static_cast<double>(r.length().value) / view_.width());
      },
      [this] { return !doc_.range().empty(); });
  a.add("view.taller", tr("Taller lanes"), "Ctrl++", [this] {
     view_.setLaneHeight(view_.laneHeight() * 5 / 4);
   })->setShortcuts({QKeySequence("Ctrl++"), QKeySequence("Ctrl+=")});
  a.add("view.lower", tr("Lower lanes"), "Ctrl+-", [this] { view_.setLaneHeight(view_.laneHeight() * 4 / 5); });
  a.add("view.left", tr("Scroll left"), "PgUp", [this] { view_.scrollBy(-view_.width() * 0.8); });
  a.add("view.right", tr("Scroll right"), "PgDown", [this] { view_.scrollBy(view_.width() * 0.8); });
  a.add("view.table", tr("Hit table or timing graph"), "T",
        [this] { doc_.setStep(doc_.step() == Step::hits ? Step::timing : Step::hits); });
  a.add("view.bench", tr("Bench under the lanes"), "Ctrl+T", [this] { bench_->fold(!bench_->folded()); });
  a.add("view.night", tr("Night sheet"), "Ctrl+Shift+N", [] { Theme::get().setNight(!Theme::get().sheet().night); });
  const std::array<std::pair<Step, QString>, 8> steps{{{Step::takes, tr("Takes")},
                                                       {Step::tempo, tr("Tempo")},
                                                       {Step::hits, tr("Hits")},
                                                       {Step::timing, tr("Timing")},
                                                       {Step::seams, tr("Seams")},
                                                       {Step::clips, tr("Clips")},
                                                       {Step::pitch, tr("Pitch")},
                                                       {Step::print, tr("Print")}}};
  for (std::size_t i = 0; i < steps.size(); ++i)
    a.add(QStringLiteral("step.%1").arg(i + 1), tr("Step %1: %2").arg(i + 1).arg(steps[i].second),
          QString::number(i + 1), [this, step = steps[i].first] { doc_.setStep(step); });
  a.add("help.keys", tr("Keys"), "F1", [this] { showKeys(); });
  a.add("help.about", tr("About Orthochron"), {}, [this] {
    QMessageBox::about(
        this, tr("About Orthochron"),
        tr("<b>Orthochron %1</b><br>Puts performances on the song's grid and keeps their feel.<br><br>GPL-3.0-or-later")
            .arg(OCHRON_VERSION));
  });
  connect(&doc_, &Document::transportChanged, this, [this] { actions_->refresh(); });
}

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
    for (const auto& folder : doc_.recent()) recent_->addAction(folder, this, [this, folder] { openSong(folder); });
    if (recent_->isEmpty()) recent_->addAction(tr("nothing yet"))->setEnabled(false);
  });
  for (const char* id : {"song.import", "song.save", "song.saveas", "song.recordings", "song.kept", "song.room",
                         "song.export", "song.quit"})
    song->addAction(actions_->action(id));
  auto* edit = menu(tr("Edit"), {"edit.undo", "edit.redo", "-", "edit.cut", "edit.copy", "edit.paste", "edit.delete",
                                 "-", "clips.all", "clips.ontrack", "clips.after", "clips.likename", "clips.likecolour",
                                 "edit.norange", "-", "envelope.copy", "envelope.paste"});
  connect(edit, &QMenu::aboutToShow, this, [this] {
    actions_->action("edit.undo")
        ->setText(doc_.undoName().isEmpty() ? tr("Undo") : tr("Undo: %1").arg(doc_.undoName()));
    actions_->action("edit.redo")
        ->setText(doc_.redoName().isEmpty() ? tr("Redo") : tr("Redo: %1").arg(doc_.redoName()));
  });
  menu(tr("Take"), {"song.import",   "take.micset", "-",         "hits.find",  "hits.next",      "hits.previous",
                    "hits.add",      "hits.remove", "-",         "hits.later", "hits.earlier",   "hits.restore",
                    "hits.lead",     "hits.alike",  "-",         "hits.hear",  "hits.hearclick", "hits.hearlift",
                    "hits.hearstep", "-",           "hits.write"});
  menu(tr("Tempo"), {"take.heartempo", "take.usetempo", "tempo.anchor", "-", "tempo.nextbar", "tempo.previousbar",
                     "tempo.tie", "tempo.tap", "tempo.remove", "tempo.removeall", "-", "tempo.follows", "tempo.hearall",
                     "tempo.fitall", "tempo.fitrange", "-", "tempo.readmap"});
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
  menu(tr("Pitch"), {"pitch.hear",
                     "-",
                     "pitch.next",
                     "pitch.previous",
                     "pitch.all",
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
                    "view.motion"});
  menu(tr("Help"), {"help.tour", "help.find", "help.keys", "help.about"});
}

void MainWindow::micSet() {
  QDialog sheet(this);
  sheet.setObjectName("mic set sheet");
  sheet.setWindowTitle(tr("Mic set"));
  auto* column = new QVBoxLayout(&sheet);
  column->setContentsMargins(22, 18, 22, 18);
  column->setSpacing(8);
  auto* title = new QLabel(tr("Which tracks are always edited as one?"), &sheet);
  title->setFont(Theme::get().font(14, 600));
  column->addWidget(title);
  auto* name = new QLineEdit(tr("Drums"), &sheet);
  column->addWidget(name);
  const auto* active = doc_.song().find(doc_.activeSet());
  std::vector<std::pair<TrackId, QCheckBox*>> boxes;
  for (const auto& t : doc_.song().tracks) {
    auto* box = new QCheckBox(QString::fromStdString(t.name), &sheet);
    box->setChecked(active && std::find(active->tracks.begin(), active->tracks.end(), t.id) != active->tracks.end());
    column->addWidget(box);
    boxes.emplace_back(t.id, box);
  }
  auto* line = new QHBoxLayout;
  auto* apart = new QPushButton(tr("Take apart"), &sheet);
  apart->setEnabled(active && active->tracks.size() > 1);
  auto* make = new QPushButton(tr("Make the set"), &sheet);
  make->setProperty("primary", true);
  make->setDefault(true);
  line->addWidget(apart);
  line->addStretch(1);
  line->addWidget(make);
  column->addLayout(line);
  connect(make, &QPushButton::clicked, &sheet, &QDialog::accept);
  connect(apart, &QPushButton::clicked, &sheet, [&sheet] { sheet.done(2); });
  const int answer = sheet.exec();
  if (answer == 2) doc_.edit(tr("Take the mic set apart"), dissolveMicSet(doc_.song(), active->id));
  if (answer != QDialog::Accepted) return;
  std::vector<TrackId> tracks;
  for (const auto& [id, box] : boxes)
    if (box->isChecked()) tracks.push_back(id);
  if (doc_.edit(tr("Make a mic set"), makeMicSet(doc_.song(), tracks, name->text().toStdString())))
    doc_.setActiveSet(doc_.song().setOf(tracks.front())->id);
}

void MainWindow::showKeys() { KeySheet(*actions_, this).exec(); }

void MainWindow::findCommand() {
  actions_->refresh();
  CommandFinder finder(*actions_, this);
  if (finder.exec() != QDialog::Accepted) return;
  if (!actions_->trigger(finder.command()))
    doc_.tell(tr("\"%1\" has nothing to work on now.").arg(actions_->action(finder.command())->text()));
}

void MainWindow::useMotion() { view_.setGlide(QSettings().value(kGlideKey, true).toBool() ? kGlideMs : 0); }

}  // namespace ochron
