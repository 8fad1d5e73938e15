#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "document/clip_desk.h"
#include "document/effect_desk.h"
#include "document/print_desk.h"
#include "document/print_trial.h"
#include "document/recording_files.h"
#include "document/round_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/this_desk.h"
#include "edits/take_edits.h"
#include "entry/save_name.h"
#include "keeping/recordings_dialog.h"
#include "main_window.h"
#include "theme/theme.h"

namespace ochron {

void MainWindow::buildActions() {
  buildSongActions();
  buildPlayActions();
  buildHitActions();
  buildThisActions();
  buildClipActions();
  buildMarkActions();
  buildTempoActions();
  buildTrackActions();
  buildPinActions();
  buildKitActions();
  buildPatternActions();
  buildPitchActions();
  buildViewActions();
  connect(&doc_, &Document::transportChanged, this, [this] { actions_->refresh(); });
}

/// Commands of songs and of editing in general.
void MainWindow::buildSongActions() {
  auto& a = *actions_;
  const auto hasTracks = [this] { return !doc_.song().tracks.empty(); };

  a.add("song.new", tr("New song"), "Ctrl+N", [this] {
    if (mayLeaveSong()) {
      fitted_ = false;
      doc_.files().newSong();
      doc_.setStep(Step::takes);
    }
  });
  a.add("song.open", tr("Open\u2026"), "Ctrl+O",
        [this] { openSong(QFileDialog::getExistingDirectory(this, tr("Open a song"))); });
  a.add("song.import", tr("Import recordings\u2026"), "Ctrl+I", [this] {
    takeIn(QFileDialog::getOpenFileNames(this, tr("Import recordings"), {},
                                         tr("Recordings (%1);;All files (*)").arg(recordingPatterns().join(' '))));
  });
  a.add("song.save", tr("Save"), "Ctrl+S", [this] { saveSong(false); });
  a.add("song.saveas", tr("Save as\u2026"), "Ctrl+Shift+S", [this] { saveSong(true); });
  a.add(
      "song.recordings", tr("Recordings to look at\u2026"), {}, [this] { RecordingsDialog(doc_, this).exec(); },
      [this] { return !doc_.recordings().troubles().empty(); });
  a.add("song.kept", tr("Kept copies\u2026"), {}, [this] { showKept(); });
  a.add(
      "song.openlast", tr("Open the last song"), {}, [this] { openSong(doc_.files().recent().value(0)); },
      [this] { return !doc_.files().recent().isEmpty(); });
  a.add(
      "song.export", tr("Export\u2026"), "Ctrl+E", [this] { doc_.setStep(Step::print); }, hasTracks);
  const auto printing = [this](int doing) {
    doc_.setStep(Step::print);
    if (auto* mode = findChild<QComboBox*>("print mode")) mode->setCurrentIndex(doing);
  };
  const auto inPanel = [this, printing](int doing, const char* name) {
    return [this, printing, doing, name] {
      printing(doing);
      pressIn(Step::print, name);
    };
  };
  a.add("print.export", tr("Export as the panel says"), {}, inPanel(0, "export"), hasTracks);
  a.add("print.commitnow", tr("Commit to audio as the panel says"), {}, inPanel(1, "print now"), hasTracks);
  a.add("print.handovernow", tr("Hand over as the panel says"), {}, inPanel(2, "hand over"), hasTracks);
  a.add("print.addeffect", tr("Add an effect\u2026"), {}, inPanel(3, "effect add"), hasTracks);
  const auto effect = [this](const QString& id, const QString& text, auto act) {
    actions_->add(
        id, text, {}, [this, act] { act(doc_.effectDesk(), doc_.effectDesk().chosen()->id); },
        [this] { return doc_.step() == Step::print && doc_.effectDesk().chosen(); });
  };
  effect("print.earlier", tr("The effect earlier"), [](EffectDesk& d, InsertId id) { d.move(id, -1); });
  effect("print.later", tr("The effect later"), [](EffectDesk& d, InsertId id) { d.move(id, 1); });
  effect("print.takeout", tr("Take the effect out"), [](EffectDesk& d, InsertId id) { d.remove(id); });
  effect("print.restart", tr("Restart the effect"), [](EffectDesk& d, InsertId id) { d.restart(id); });
  const auto isPrinted = [this] { return !printsOf(doc_.song(), doc_.selection().set()).empty(); };
  a.add(
      "print.commit", tr("Commit to audio\u2026"), "Ctrl+Shift+E", [printing] { printing(1); }, hasTracks);
  a.add(
      "print.back", tr("Take the print back"), {}, [this] { doc_.printDesk().takeBack(doc_.selection().set()); },
      isPrinted);
  a.add(
      "print.anew", tr("Print anew"), {}, [this] { doc_.printDesk().printAnew(doc_.selection().set()); }, isPrinted);
  a.add(
      "print.hear", tr("Hear the print or what it was made of"), "Alt+Shift+H",
      [this] { doc_.printTrial().turn(doc_.selection().set()); }, isPrinted);
  a.add(
      "print.compare", tr("Compare the print with what it was made of"), {},
      [this] { doc_.printDesk().compare(doc_.selection().set()); }, isPrinted);
  a.add("print.measure", tr("Measure loudness"), {}, inPanel(0, "measure loudness"), hasTracks);
  a.add(
      "print.effects", tr("Effects\u2026"), "Ctrl+Shift+F", [printing] { printing(3); }, hasTracks);
  a.add(
      "print.course", tr("Show the next control that moves along the song"), {},
      [this] { doc_.effectDesk().showNextControl(); },
      [this] { return doc_.step() == Step::print && !doc_.effectDesk().moving().empty(); });
  a.add(
      "print.still", tr("Hold the control that is shown still"), {},
      [this] {
        if (const auto ref = doc_.effectDesk().shownControl()) doc_.effectDesk().holdStill(ref->insert, ref->control);
      },
      [this] { return doc_.step() == Step::print && doc_.effectDesk().shownControl().has_value(); });
  a.add(
      "print.handover", tr("Hand over\u2026"), {}, [printing] { printing(2); }, hasTracks);
  const auto archive = [this](ArchivePacking packing) {
    return [this, packing] {
      const auto name = QString::fromStdString(doc_.song().name) + ".zip";
      const auto file = askWhereToSave(this, tr("Archive the song"), name, tr("Archive (*.zip)"));
      if (!file.isEmpty()) doc_.printDesk().archive(file.toStdString(), packing);
    };
  };
  a.add("song.archive", tr("Archive the song in one file\u2026"), {}, archive(ArchivePacking::none), hasTracks);
  a.add("song.archiveflac", tr("Archive the song, recordings as FLAC\u2026"), {}, archive(ArchivePacking::flac),
        hasTracks);
  a.add("song.unarchive", tr("Open an archive\u2026"), {}, [this] {
    const auto file = QFileDialog::getOpenFileName(this, tr("Open an archive"), {}, tr("Archive (*.zip)"));
    if (file.isEmpty()) return;
    const auto folder = askWhereToSave(this, tr("Unpack it as a song"), QFileInfo(file).completeBaseName() + ".ochron",
                                       tr("Songs (*.ochron)"));
    if (!folder.isEmpty()) doc_.printDesk().openArchive(file.toStdString(), folder.toStdString());
  });
  connect(&doc_.printDesk(), &PrintDesk::unpacked, this, [this](const QString& folder) { openSong(folder); });
  a.add(
      "song.clean", tr("Set unused recordings aside\u2026"), {}, [this] { doc_.printDesk().clean(); }, hasTracks);
  a.add(
      "song.gather", tr("Gather recordings in the song's folder"), {}, [this] { doc_.printDesk().gather(); },
      hasTracks);
  a.add("song.room", tr("Room on the disk\u2026"), {}, [this] {
    bool ok = false;
    const double now = SongFiles::cacheRoom();
    const double room =
        QInputDialog::getDouble(this, tr("Room on the disk"), tr("Decoded and made sound may take, GB:"), now,
                                kCacheRoomRange.low, kCacheRoomRange.high, 1, &ok);
    if (ok) doc_.files().setCacheRoom(room);
  });
  a.add("song.quit", tr("Quit"), "Ctrl+Q", [this] { close(); });

  a.add(
      "edit.undo", tr("Undo"), "Ctrl+Z", [this] { doc_.undo(); }, [this] { return !doc_.undoName().isEmpty(); });
  a.add(
      "edit.redo", tr("Redo"), "Ctrl+Shift+Z", [this] { doc_.redo(); }, [this] { return !doc_.redoName().isEmpty(); });
  a.add("edit.norange", tr("Select nothing"), "Escape", [this] {
    if (doc_.takeBack()) return;
    if (doc_.roundDesk().going()) return doc_.roundDesk().end();
    if (doc_.printTrial().on()) return doc_.printTrial().turn(doc_.selection().set());
    if (doc_.selection().openBundle()) return doc_.clipDesk().openBundle({});
    doc_.selection().chooseNothing();
  });
  a.add("help.where", tr("Say what is chosen, and where"), "F3", [this] { doc_.tell(doc_.thisDesk().words()); });
  a.add("help.find", tr("Find a command"), "Ctrl+F", [this] { findCommand(); });
  a.add(
      "take.micset", tr("Mic set\u2026"), "Ctrl+G", [this] { micSet(); },
      [this] { return doc_.song().tracks.size() > 1; });
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
  const auto* active = doc_.song().find(doc_.selection().set());
  std::vector<std::pair<TrackId, QCheckBox*>> boxes;
  auto* scroll = new QScrollArea(&sheet);
  scroll->setWidgetResizable(true);
  scroll->setFrameShape(QFrame::NoFrame);
  auto* inside = new QWidget;
  auto* rows = new QVBoxLayout(inside);
  rows->setContentsMargins(0, 0, 0, 0);
  for (const auto& t : doc_.song().tracks) {
    auto* box = new QCheckBox(QString::fromStdString(t.name), inside);
    box->setChecked(active && std::find(active->tracks.begin(), active->tracks.end(), t.id) != active->tracks.end());
    rows->addWidget(box);
    boxes.emplace_back(t.id, box);
  }
  rows->addStretch(1);
  scroll->setWidget(inside);
  column->addWidget(scroll, 1);
  constexpr int kRow = 26;
  constexpr int kMostRows = 18;  // on the smallest screen; the rest is scrolled to
  scroll->setMinimumHeight(kRow * std::min(kMostRows, static_cast<int>(boxes.size())));
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
  const auto chosen = active ? active->id : SetId{};  // the song may be another one when the sheet is closed
  const int answer = sheet.exec();
  if (answer == 2) doc_.edit(tr("Take the mic set apart"), dissolveMicSet(doc_.song(), chosen));
  if (answer != QDialog::Accepted) return;
  std::vector<TrackId> tracks;
  for (const auto& [id, box] : boxes)
    if (box->isChecked()) tracks.push_back(id);
  if (doc_.edit(tr("Make a mic set"), makeMicSet(doc_.song(), tracks, name->text().toStdString())))
    if (const auto* made = doc_.song().setOf(tracks.front())) {
      doc_.selection().chooseSet(made->id);
      doc_.tell(
          tr("The tracks are one set now. Hits and plans that they had by themselves are gone: find the set's hits."));
    }
}

}  // namespace ochron
