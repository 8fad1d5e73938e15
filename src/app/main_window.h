#pragma once

#include <QMainWindow>
#include <QPointer>

#include "actions/actions.h"
#include "canvas/view_state.h"
#include "document/document.h"
#include "store/project.h"

class QSplitter;

namespace ochron {

class Bench;
class ChecksPanel;
class HeadLine;
class LanesView;
class LoupeView;
class Manual;
class NoticeBar;
class Rail;
class Regions;
class StepPanel;
class Tour;
class Ruler;
class SongRow;
class SongStrip;
class StatusLine;
class Row;

/// The one window.
class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  explicit MainWindow(QWidget* parent = nullptr);

  Document& document() { return doc_; }
  ViewState& view() { return view_; }
  Actions& actions() { return *actions_; }
  LanesView& lanes() { return *lanes_; }
  /// Brings files, and the recordings that lie in folders, in as a take, or opens a project, as if dropped on the
  /// window. With `ask` the import sheet is shown.
  void takeIn(const QStringList& names, bool ask = true);
  /// Moves what runs that did not end properly left behind to the kept copies, and offers it.
  void offerRecovery();
  /// The main things in five cards, in place; leaves at once when asked to.
  void showAround();
  /// Jumps and zooms glide, or do not.
  /// `wanted`: by the desktop; the user's own choice stands over it.
  void useMotion(bool wanted);

 protected:
  bool event(QEvent* event) override;
  bool focusNextPrevChild(bool next) override;
  void closeEvent(QCloseEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;

 private:
  void buildActions();
  void buildSongActions();
  void buildPlayActions();
  void buildHitActions();
  void buildThisActions();
  void buildClipActions();
  void buildMarkActions();
  void buildTempoActions();
  void buildTrackActions();
  void stepSet(int by);
  void stepTrack(int by);
  void buildPinActions();
  void buildKitActions();
  void buildPatternActions();
  void showPattern(std::optional<bool> on);
  void buildPitchActions();
  void buildViewActions();
  void buildMenus();
  void buildLayout();
  void tick();
  void fitScreen();
  void refreshTitle();
  bool mayLeaveSong();
  bool saveSong(bool choosePlace);
  void openSong(const QString& folder);
  bool ask(const QString& title, const QString& text, const QString& yes);
  void showKept();
  /// Presses a button; says so where it is not shown or cannot be pressed now.
  void press(const QString& button);
  /// The same after going to a step.
  void pressIn(Step step, const QString& button);
  bool keepAutosave(const std::filesystem::path& folder, const Autosave& found);
  void micSet();
  /// The user guide, at the page of the open step.
  void showGuide();
  void showKeys();
  void findCommand();

  Document doc_;
  ViewState view_;
  Actions* actions_;
  HeadLine* head_ = nullptr;
  SongStrip* strip_ = nullptr;
  NoticeBar* notices_ = nullptr;
  Ruler* ruler_ = nullptr;
  SongRow* songRow_ = nullptr;
  LanesView* lanes_ = nullptr;
  QList<Row*> canvasRows_;  ///< everything along the time axis
  Bench* bench_ = nullptr;
  LoupeView* loupe_ = nullptr;
  ChecksPanel* checks_ = nullptr;
  StatusLine* status_ = nullptr;
  QSplitter* columns_ = nullptr;
  QSplitter* rows_ = nullptr;
  QMenu* recent_ = nullptr;
  Rail* rail_ = nullptr;
  Regions* regions_ = nullptr;
  StepPanel* panel_ = nullptr;
  QPointer<Tour> tour_;
  QPointer<Manual> manual_;
  bool fitted_ = false;
};

}  // namespace ochron
