#include <QApplication>
#include <QCommandLineParser>
#include <QDialog>
#include <QDir>
#include <QLocale>
#include <QPainter>
#include <QSettings>
#include <QTimer>
#include <clocale>
#include <cstdio>
#include <string_view>

#include "document/hit_desk.h"
#include "document/last_copy.h"
#include "document/note_out_desk.h"
#include "document/song_files.h"
#include "document/transport.h"
#include "files/signal_watch.h"
#include "keeping/damaged_settings.h"
#include "main_window.h"
#include "theme/desktop_look.h"
#include "theme/kept_look.h"
#include "theme/theme.h"

namespace {

/// The window with the sheet that lies over it, if there is one; ends the program.
void savePicture(QWidget& window, const QString& file) {
  auto picture = window.grab();
  for (auto* sheet : window.findChildren<QDialog*>()) {
    if (!sheet->isVisible()) continue;
    QPainter p(&picture);
    const auto over = sheet->grab();
    const QPoint at((picture.width() - over.width()) / 2, (picture.height() - over.height()) / 2);
    p.fillRect(picture.rect(), QColor(0, 0, 0, 60));
    p.drawPixmap(at, over);
  }
  const bool ok = picture.save(file);
  if (!ok) std::fprintf(stderr, "orthochron: %s cannot be written.\n", qPrintable(file));
  QApplication::exit(ok ? 0 : 2);
}

}  // namespace

int main(int argc, char** argv) {
  using namespace ochron;
  // These need no display.
  const std::string_view only = argc == 2 ? argv[1] : "";
  if (only == "--help" || only == "-h" || only == "--version" || only == "-v") qputenv("QT_QPA_PLATFORM", "offscreen");
  const SignalWatch ending(LastCopy::write);
  QApplication app(argc, argv);
  std::setlocale(LC_NUMERIC, "C");  // numbers in files and fields are the same everywhere
  QLocale::setDefault(QLocale::c());
  QApplication::setApplicationName("orthochron");
  QApplication::setOrganizationName("orthochron");
  QApplication::setApplicationVersion(OCHRON_VERSION);
  QApplication::setDesktopFileName("org.orthochron.Orthochron");
  QCommandLineParser parser;
  parser.setApplicationDescription("Puts performances on the song's grid and keeps their feel.");
  parser.addHelpOption();
  parser.addVersionOption();
  const QCommandLineOption demo("demo", "Open the demo song in <folder>.", "folder");
  const QCommandLineOption shot("shot", "Save a picture of the window to <file> and quit.", "file");
  const QCommandLineOption act(
      "act", "Run the commands with these <ids> (comma separated), or take in files, before the picture.", "ids");
  const QCommandLineOption night("night", "Use the night sheet.");
  const QCommandLineOption day("day", "Use the light sheet.");
  const QCommandLineOption clear("contrast", "Use the sheet of high contrast.");
  parser.addOptions({demo, shot, act, night, day, clear});
  parser.addPositionalArgument("song", "Project folder, or recordings to import.", "[song]");
  parser.process(app);

  const auto damaged = keepDamagedSettings();
  useKeptLook();
  MainWindow window;
  if (damaged) window.document().warn(*damaged);
  if (parser.isSet(shot)) window.resize(1280, 800);
  if (parser.isSet(night)) Theme::get().setSheet(SheetKind::night);
  if (parser.isSet(day)) Theme::get().setSheet(SheetKind::light);
  if (parser.isSet(clear)) Theme::get().setSheet(SheetKind::contrast);
  window.show();
  DesktopLook desktop(QDBusConnection::sessionBus());
  const bool moves = !parser.isSet(shot);
  QObject::connect(&desktop, &DesktopLook::changed, &window, [&desktop, &window, moves] {
    Theme::get().setDesktopSheet(desktop.sheet());
    // Elsewhere the size of text is in the resolution that the whole window goes by.
    if (QGuiApplication::platformName().startsWith("wayland")) Theme::get().setDesktopTextSize(desktop.textSize());
    if (moves) window.useMotion(desktop.motion());
  });
  if (moves) window.useMotion(desktop.motion());
  window.document().noteOutDesk().useKept();
  if (parser.isSet(demo)) {
    const auto projects = QDir(parser.value(demo)).entryInfoList({"*.ochron"}, QDir::Dirs);
    if (projects.isEmpty())
      return std::fprintf(stderr, "orthochron: there is no song in %s.\n", qPrintable(parser.value(demo))), 2;
    if (!window.document().files().openCopy(projects.front().absoluteFilePath().toStdString())) return 2;
    window.view().show(48'000 * 18.4, 48'000 * 8.6 / window.view().width());
    window.document().transport().setCursor(Frames{48'000 * 22});
    window.document().hitDesk().step(1);
    if (constexpr const char* kSeen = "guide/seen"; !parser.isSet(shot) && !QSettings().value(kSeen, false).toBool()) {
      QSettings().setValue(kSeen, true);
      QTimer::singleShot(0, &window, &MainWindow::showAround);
    }
  } else {
    window.document().setStep(Step::takes);
    if (!parser.positionalArguments().isEmpty()) window.takeIn(parser.positionalArguments());
    if (!parser.isSet(shot)) window.offerRecovery();
  }
  if (parser.isSet(shot)) {
    const auto file = parser.value(shot);
    // A sheet that a command opens waits to be closed: it is in the picture.
    auto* sheets = new QTimer(&window);
    QObject::connect(sheets, &QTimer::timeout, &window, [&window, file] {
      if (QApplication::activeModalWidget()) savePicture(window, file);
    });
    QTimer::singleShot(200, &window, [&, file, sheets] {
      window.document().jobs().finishAll();
      sheets->start(1'500);
      for (const auto& id : parser.value(act).split(',', Qt::SkipEmptyParts)) {
        window.document().jobs().finishAll();
        if (id.contains('/'))
          window.takeIn({id});
        else if (!window.actions().trigger(id))
          std::fprintf(stderr, "orthochron: the command %s did not run.\n", qPrintable(id));
      }
      window.document().jobs().finishAll();
      QTimer::singleShot(300, &window, [&window, file] { savePicture(window, file); });
    });
  }
  return QApplication::exec();
}
