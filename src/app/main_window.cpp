#include "main_window.h"
#include "canvas/read_items.h"

#include <QCloseEvent>
#include <QDropEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QMenuBar>
#include <QMessageBox>
#include <QMimeData>
#include <QPushButton>
#include <QScreen>
#include <QSettings>
#include <QSplitter>
#include <QTimer>
#include <QVBoxLayout>

#include "checks/checks_panel.h"
#include "document/clip_desk.h"
#include "document/kit_desk.h"
#include "document/pitch_desk.h"
#include "document/recording_files.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/takes_desk.h"
#include "document/tempo_desk.h"
#include "document/transport.h"
#include "entry/save_name.h"
#include "guide/tour.h"
#include "head/announcer.h"
#include "head/head_line.h"
#include "head/notice_bar.h"
#include "head/status_line.h"
#include "import_dialog.h"
#include "keeping/kept_dialog.h"
#include "keys/field_keys.h"
#include "keys/regions.h"
#include "lanes/lanes_access.h"
#include "lanes/lanes_view.h"
#include "lanes/ruler.h"
#include "lanes/song_row.h"
#include "lanes/song_strip.h"
#include "lanes/track_head.h"
#include "loupe/loupe_view.h"
#include "panel/bench.h"
#include "panel/step_panel.h"
#include "rail/rail.h"
#include "steps/all_steps.h"
#include "steps/timing/timing_graph.h"
#include "store/project.h"
#include "takes/mic_names.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr int kDesignWidth = 1280;
constexpr const char* kAsTheDesktop = "desktop";  // the sheet, as it is kept
constexpr int kDesignHeight = 800;
}  // namespace

MainWindow::MainWindow(QWidget* parent) : QMainWindow(parent), actions_(new Actions(this)) {
  tellLanesToReaders();
  tellItemsToReaders();
  tellAnnouncementsToReaders();
  setAcceptDrops(true);
  setMinimumSize(1024, 640);
  resize(kDesignWidth, kDesignHeight);
  setWindowIcon(QIcon(":/theme/icons/app.svg"));
  buildActions();
  buildLayout();
  buildMenus();
  connect(&doc_, &Document::songChanged, this, [this] {
    view_.setRate(doc_.song().rate);
    view_.setSongEnd(doc_.song().end());
    if (!fitted_ && doc_.song().end().value > 0) {
      fitted_ = true;
      view_.showAll();
    }
    if (doc_.song().tracks.empty()) fitted_ = false;
    actions_->refresh();
    refreshTitle();
  });
  doc_.selection().watch(Selection::kWhere, this, [this] {
    const auto* seam = doc_.step() == Step::seams ? doc_.selection().seamClip() : nullptr;
    const auto* hit =
        doc_.step() == Step::clips ? nullptr : doc_.selection().plannedHit();  // clicks on clips do not scroll
    if (seam)
      view_.reveal(seam->start);
    else if (hit)
      view_.reveal(doc_.transport().original() ? hit->home : hit->now);
    actions_->refresh();
  });
  canvasRows_ = findChildren<Row*>();
  for (auto* row : canvasRows_) connect(row, &Row::gestureTold, status_, &StatusLine::tellGesture);
  connect(&doc_.clipDesk(), &ClipDesk::changed, actions_, &Actions::refresh);
  connect(&doc_.tempoDesk(), &TempoDesk::changed, actions_, &Actions::refresh);
  doc_.selection().watch(Selection::Parts(Selection::kAll & ~Selection::kWhere), actions_,
                         [this] { actions_->refresh(); });
  auto* timer = new QTimer(this);
  connect(timer, &QTimer::timeout, this, &MainWindow::tick);
  timer->start(16);
  doc_.setAsker([this](auto& title, auto& text, auto& yes) { return ask(title, text, yes); });
  const QSettings settings;
  restoreGeometry(settings.value("window").toByteArray());
  fitScreen();
  columns_->restoreState(settings.value("columns 2").toByteArray());
  const auto kept = settings.value("sheet", kAsTheDesktop).toString();
  for (std::size_t i = 0; i < kSheetNames.size(); ++i)
    if (kept == QLatin1StringView(kSheetNames[i])) Theme::get().setSheet(static_cast<SheetKind>(i));
  actions_->refresh();
  refreshTitle();
}

void MainWindow::buildLayout() {
  auto* central = new QWidget(this);
  auto* column = new QVBoxLayout(central);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  head_ = new HeadLine(doc_, central);
  column->addWidget(head_);
  auto* middle = new QHBoxLayout;
  middle->setSpacing(0);
  const auto steps = makeSteps(doc_, central);
  rail_ = new Rail(doc_, steps, central);
  middle->addWidget(rail_);
  columns_ = new QSplitter(Qt::Horizontal, central);
  columns_->setHandleWidth(1);
  middle->addWidget(columns_, 1);
  panel_ = new StepPanel(doc_, steps, columns_);
  atLeastWide(*panel_, 216);
  auto* canvas = new QWidget(columns_);
  auto* canvasColumn = new QVBoxLayout(canvas);
  canvasColumn->setContentsMargins(0, 0, 0, 0);
  canvasColumn->setSpacing(0);
  strip_ = new SongStrip(doc_, view_, canvas);
  ruler_ = new Ruler(doc_, view_, canvas);
  notices_ = new NoticeBar(doc_, canvas);
  canvasColumn->addWidget(notices_);
  canvasColumn->addWidget(strip_);
  canvasColumn->addWidget(ruler_);
  songRow_ = new SongRow(doc_, view_, canvas);
  canvasColumn->addWidget(songRow_);
  rows_ = new QSplitter(Qt::Vertical, canvas);
  rows_->setHandleWidth(1);
  lanes_ = new LanesView(doc_, view_, rows_);
  lanes_->setMinimumHeight(120);
  rows_->addWidget(lanes_);
  bench_ = new Bench(doc_, view_, steps, rows_);
  rows_->addWidget(bench_);
  rows_->setStretchFactor(0, 1);
  rows_->setSizes({440, 196});
  canvasColumn->addWidget(rows_, 1);
  auto* right = new QSplitter(Qt::Vertical, columns_);
  right->setHandleWidth(1);
  loupe_ = new LoupeView(doc_, right);
  checks_ = new ChecksPanel(doc_, right);
  right->addWidget(loupe_);
  right->addWidget(checks_);
  right->setStretchFactor(0, 1);
  right->setSizes({440, 240});
  atLeastWide(*right, 210);
  columns_->addWidget(panel_);
  columns_->addWidget(canvas);
  columns_->addWidget(right);
  columns_->setStretchFactor(1, 1);
  columns_->setSizes({218, 728, 258});
  column->addLayout(middle, 1);
  status_ = new StatusLine(doc_, central);
  column->addWidget(status_);
  setCentralWidget(central);
  new FieldKeys(this, lanes_);
  new Announcer(doc_, status_);
  regions_ = new Regions(this, {head_, rail_, panel_, lanes_, bench_, loupe_, checks_});
  lanes_->setFocus();
}

bool MainWindow::focusNextPrevChild(bool next) {
  return regions_->stepInside(next) || QMainWindow::focusNextPrevChild(next);
}

void MainWindow::showAround() {
  if (tour_) return tour_->go(0);
  const auto placeOf = [this](const QWidget* w) {
    return [this, w] { return w->isVisible() ? QRect(w->mapTo(this, QPoint(0, 0)), w->size()) : QRect(); };
  };
  const auto timing = [this] { doc_.setStep(Step::timing); };
  tour_ = new Tour(
      this,
      {{tr("Steps, in any order"),
        tr("From the takes to the print. Each has its controls beside it and its own bench under the lanes. A red "
           "figure "
           "says how many things need a look. Keys 1 to 9."),
        placeOf(rail_), timing},
       {tr("The takes"),
        tr("Every hit is a tick; a line goes from where it was played to where it will be heard. Space plays, the "
           "wheel "
           "with Ctrl comes closer, a double click opens what is there."),
        placeOf(lanes_),
        {}},
       {tr("The plan"),
        tr("How near hits come to the grid, and how much of the player's wandering, pocket and scatter stays. Nothing "
           "is "
           "final: turn any control at any time, what you moved by hand stays yours."),
        placeOf(panel_), timing},
       {tr("Before and after"),
        tr("Original and Edited at the same place and equally loud, also while it plays: the key is O."),
        placeOf(head_->version()),
        {}},
       {tr("What needs an ear"),
        tr("The loupe shows the hit or seam on every mic; below it stands what the program is not sure of. N steps "
           "through, Y says it is good, Shift+Y does the plain thing about it."),
        placeOf(loupe_->parentWidget()),
        {}}});
}

/// Never larger than what the screen leaves free, title bar included.
void MainWindow::fitScreen() {
  const auto* on = screen();
  if (!on) return;
  constexpr int kTitleBar = 32;  // of desktops that have one; not known before the window is shown
  const auto free = on->availableGeometry();
  const QSize most(free.width(), free.height() - (free.height() < kDesignHeight + kTitleBar ? kTitleBar : 0));
  setMinimumSize(std::min(1024, most.width()), std::min(640, most.height()));
  if (width() > most.width() || height() > most.height()) resize(size().boundedTo(most));
}

void MainWindow::tick() {
  auto& engine = doc_.transport().player().engine();
  const auto at = engine.playing() ? engine.position() : doc_.transport().cursor();
  if (engine.playing()) {
    const double x = view_.xOf(at);
    // The view turns the page when the play line leaves it.
    if (x > kGutterWidth + view_.width() && x < kGutterWidth + view_.width() * 2.0)
      view_.show(static_cast<double>(at.value), view_.framesPerPixel());
    else if (x < kGutterWidth)
      view_.reveal(at);
  }
  head_->showPosition(at);
  head_->showLevels(engine.takeMasterPeak(0), engine.takeMasterPeak(1));
  for (auto* row : canvasRows_)
    if (row->isVisible()) row->showPlayLine(at);
  for (std::size_t i = 0; i < doc_.song().tracks.size(); ++i)
    if (auto* head = lanes_->head(doc_.song().tracks[i].id)) head->showLevel(engine.takeTrackPeak(i));
}

void MainWindow::refreshTitle() {
  const auto name = QString::fromStdString(doc_.song().name);
  const bool looking = doc_.files().keeper().as() == OpenAs::looker;
  setWindowTitle(
      tr("%1%2%3 \u2014 Orthochron")
          .arg(name, doc_.files().modified() ? " \u2022" : "", looking ? tr(" (looked at only)") : QString()));
}

// Files ---------------------------------------------------------------------------------------------------------------

void MainWindow::takeIn(const QStringList& names, bool ask) {
  if (names.isEmpty()) return;
  if (names.size() == 1 && looksLikeProject(names.front().toStdString())) return openSong(names.front());
  // An instrument is no recording; in the Kit step one sound is meant for a layer, too.
  const bool instrument = names.front().endsWith(".sfz", Qt::CaseInsensitive);
  if (names.size() == 1 && (instrument || (doc_.step() == Step::kit && !QFileInfo(names.front()).isDir()))) {
    doc_.setStep(Step::kit);
    return doc_.kitDesk().add(names.front().toStdString());
  }
  QStringList files;
  for (const auto& file : withoutFolders(names))
    if (QFileInfo(file).isDir())
      doc_.warn(looksLikeProject(file.toStdString())
                    ? tr("%1 is a song. Open it by itself.").arg(file)
                    : tr("%1: no recordings lie in this folder. Choose a song (.ochron) or recordings.").arg(file));
    else
      files << file;
  if (files.isEmpty()) return;
  std::vector<std::string> trackNames;
  for (const auto& f : files) trackNames.push_back(QFileInfo(f).completeBaseName().toStdString());
  QStringList ordered;
  for (const int i : inKitOrder(trackNames)) ordered << files[i];
  files = ordered;
  const auto& song = doc_.song();
  ImportDialog sheet(files, tr("Take %1").arg(song.takes.size() + 1),
                     song.media.empty() ? std::nullopt : std::optional(song.rate), this);
  if (ask && sheet.exec() != QDialog::Accepted) return;
  doc_.takesDesk().importFiles(sheet.files(), sheet.takeName(), sheet.rate());
}

bool MainWindow::saveSong(bool choosePlace) {
  if (doc_.files().keeper().as() == OpenAs::looker) choosePlace = true;
  auto folder = QString::fromStdString(doc_.files().folder().string());
  if (folder.isEmpty() || choosePlace) {
    folder = askWhereToSave(this, tr("Save the song"), QString::fromStdString(doc_.song().name) + kProjectEnding,
                            tr("Orthochron songs (*.ochron)"));
    if (folder.isEmpty()) return false;
  }
  const bool ok = doc_.files().save(folder.toStdString());
  refreshTitle();
  return ok;
}

bool MainWindow::mayLeaveSong() {
  if (!doc_.files().modified()) return true;
  QMessageBox box(QMessageBox::NoIcon, tr("Save the song?"),
                  tr("\"%1\" has changes that are not saved.").arg(QString::fromStdString(doc_.song().name)),
                  QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  const int answer = box.exec();
  if (answer == QMessageBox::Save) return saveSong(false);
  return answer == QMessageBox::Discard;
}

bool MainWindow::ask(const QString& title, const QString& text, const QString& yes) {
  QMessageBox box(QMessageBox::NoIcon, title, text, QMessageBox::Cancel, this);
  box.setObjectName("question");
  const QAbstractButton* go = box.addButton(yes, QMessageBox::AcceptRole);
  box.exec();
  return box.clickedButton() == go;
}

void MainWindow::openSong(const QString& path) {
  if (path.isEmpty() || !mayLeaveSong()) return;
  const auto folder = projectFolder(path.toStdString());
  fitted_ = false;
  // Opened again: what was not saved has been decided about. The open song stays until it is there.
  if (folder == doc_.files().folder() && doc_.files().keeper().as() == OpenAs::owner)
    return doc_.files().openSoon(folder, SongFiles::Copy::saved, OpenAs::owner);
  auto as = OpenAs::owner;
  if (const auto holder = FolderLock::holderOf(folder)) {
    QMessageBox box(
        QMessageBox::NoIcon, tr("This song is open elsewhere"),
        tr("%1 has \"%2\" open. Look at it only, and save changes under another name? Or take it over: the "
           "other window cannot save there any more.")
            .arg(QString::fromStdString(holder->described()), QString::fromStdString(folder.stem().string())),
        QMessageBox::Cancel, this);
    box.setObjectName("open elsewhere");
    auto* look = box.addButton(tr("Look only"), QMessageBox::AcceptRole);
    const QAbstractButton* take = box.addButton(tr("Take over"), QMessageBox::DestructiveRole);
    box.setDefaultButton(look);
    box.exec();
    const QAbstractButton* clicked = box.clickedButton();
    if (clicked != look && clicked != take) return;
    as = clicked == look ? OpenAs::looker : OpenAs::heir;
  }
  auto copy = SongFiles::Copy::saved;
  bool spare = false;
  if (as != OpenAs::looker) {
    const auto found = findAutosave(folder);
    if (found.state == Autosave::State::newer &&
        QMessageBox::question(
            this, tr("Autosaved copy"),
            tr("There is a newer, autosaved copy of this song. Open that one? If not, it is kept under "
               "Song, Kept copies.")) == QMessageBox::Yes)
      copy = SongFiles::Copy::autosaved;
    else if (found.state != Autosave::State::none)
      spare = !keepAutosave(folder, found);
  }
  doc_.files().openSoon(folder, copy, as, spare);
}

/// The autosaved copy is not what is opened; it stays among the kept ones. False when it could not be put there.
bool MainWindow::keepAutosave(const std::filesystem::path& folder, const Autosave& found) {
  if (!doc_.files().keepAside(folder)) return false;
  if (found.state == Autosave::State::other)
    doc_.warn(tr("An autosaved copy goes on from another state of this song. It was kept aside."),
              tr("Kept copies\u2026"), "song.kept");
  if (found.state == Autosave::State::damaged)
    doc_.warn(tr("The autosaved copy of this song is damaged and was kept aside. The saved song is open."),
              tr("Kept copies\u2026"), "song.kept");
  return true;
}

void MainWindow::offerRecovery() {
  std::vector<KeptCopies::Copy> found;
  for (const auto& folder : doc_.files().keeper().abandoned())
    if (auto copy = doc_.files().keepAside(folder)) {
      found.push_back(*copy);
      std::error_code ec;
      std::filesystem::remove(folder, ec);  // only when nothing is left in it
    }
  const auto last = doc_.files().recent().value(0).toStdString();
  if (!last.empty() && doc_.song().tracks.empty() && !FolderLock::holderOf(last) &&
      findAutosave(last).state == Autosave::State::newer)
    doc_.warn(tr("\"%1\" was not closed properly; there is an autosaved copy of it.")
                  .arg(QString::fromStdString(std::filesystem::path(last).stem().string())),
              tr("Open it"), "song.openlast");
  if (found.empty()) return;
  KeptDialog sheet(found, KeptDialog::Why::crash, this);
  if (sheet.exec() == QDialog::Accepted && mayLeaveSong()) {
    fitted_ = false;
    doc_.files().openKept(*sheet.chosen());
  }
}

void MainWindow::pressIn(Step step, const QString& button) {
  doc_.setStep(step);
  press(button);
}

void MainWindow::press(const QString& button) {
  auto* b = findChild<QAbstractButton*>(button);
  if (b && b->isVisible() && b->isEnabled()) return b->click();
  doc_.tell(tr("This cannot be done now: what it belongs to is not shown, or has nothing to do."));
}

void MainWindow::showKept() {
  KeptDialog sheet(doc_.files().keeper().kept().list(), KeptDialog::Why::asked, this);
  if (sheet.exec() == QDialog::Accepted && mayLeaveSong()) {
    fitted_ = false;
    doc_.files().openKept(*sheet.chosen());
  }
}

bool MainWindow::event(QEvent* event) {
  // Who comes back from another program may have changed a recording there.
  if (event->type() == QEvent::WindowActivate) doc_.recordings().noticeChanges();
  return QMainWindow::event(event);
}

void MainWindow::closeEvent(QCloseEvent* event) {
  if (!mayLeaveSong()) return event->ignore();
  if (doc_.jobs().hasTasks() &&
      !ask(tr("Something is still being done"),
           tr("\"%1\" is not done yet. Closing ends it, and it leaves nothing behind.").arg(doc_.jobs().what()),
           tr("Close")))
    return event->ignore();
  QSettings settings;
  settings.setValue("window", saveGeometry());
  settings.setValue("columns 2", columns_->saveState());
  const auto& theme = Theme::get();
  settings.setValue("sheet", theme.followsDesktop()
                                 ? QString(kAsTheDesktop)
                                 : QLatin1StringView(kSheetNames[static_cast<std::size_t>(theme.kind())]));
  doc_.files().leave();
  event->accept();
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  QStringList files;
  for (const auto& url : event->mimeData()->urls())
    if (url.isLocalFile()) files << url.toLocalFile();
  files.sort();
  // The sheet opens after the drop is over, so that the file manager is not held up.
  QTimer::singleShot(0, this, [this, files] { takeIn(files); });
}

}  // namespace ochron
