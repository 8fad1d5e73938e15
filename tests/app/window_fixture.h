#pragma once

#include <gtest/gtest.h>

#include <QApplication>
#include <QLabel>
#include <QMouseEvent>
#include <QSettings>
#include <QTest>
#include <QTimer>
#include <memory>

#include "document/attention.h"
#include "document/clip_desk.h"
#include "document/hit_desk.h"
#include "document/print_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/takes_desk.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/tempo_edits.h"
#include "main_window.h"
#include "media/audio_file.h"
#include "support/performance.h"
#include "support/scratch.h"
#include "theme/theme.h"

namespace ochron::test {

inline void writeWav(const std::filesystem::path& file, const std::vector<float>& samples) {
  auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1});
  ASSERT_TRUE(w.has_value());
  ASSERT_TRUE(w->write(samples));
  ASSERT_TRUE(w->finish());
}

/// The main window, driven and looked at.
struct Driven : ::testing::Test {
  void TearDown() override {
    // Of one process: what a test chose is not the next one's.
    Theme::get().setDesktopTextSize(1);
    Theme::get().followDesktopText();
    if (!window) return;
    doc().files().leave();
    window.reset();
  }
  void show() {
    window = std::make_unique<MainWindow>();
    window->resize(1280, 800);
    window->show();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(window.get()));
  }
  Document& doc() { return window->document(); }
  /// Lets the window live on until something holds; false when it does not within ten seconds.
  template <class Holds>
  static bool until(Holds holds) {
    return QTest::qWaitFor(holds, 10'000);
  }
  /// Acts on a sheet as soon as it is there.
  template <class Sheet, class Act>
  void onSheet(const QString& name, Act act) {
    auto* poll = new QTimer(window.get());
    QObject::connect(poll, &QTimer::timeout, poll, [this, name, act, poll] {
      auto* sheet = window->findChild<Sheet*>(name);
      if (!sheet || !sheet->isVisible()) return;
      poll->deleteLater();
      poll->stop();
      act(sheet);
    });
    poll->start(5);
  }
  bool playing() { return doc().transport().player().engine().playing(); }
  Frames heardAt() { return doc().transport().player().engine().position(); }
  /// Until so much more has been played, also round a loop, where the place goes back; false when it stands still.
  bool hear(Frames more) {
    auto last = heardAt();
    Frames heard{};
    return until([&] {
      const auto now = heardAt();
      if (now > last) heard = heard + (now - last);
      last = now;
      return heard >= more;
    });
  }
  bool run(const char* id) { return window->actions().trigger(id); }
  template <class T>
  T* find(const char* name) {
    auto* w = window->findChild<T*>(name);
    EXPECT_NE(w, nullptr) << name;
    return w;
  }
  QString status() { return find<QLabel>("status")->property("whole").toString(); }
  /// A press, moves with the button down (QTest moves without buttons), and unless it is still held a release.
  static void drag(QWidget* on, QPointF from, QPointF to, Qt::KeyboardModifiers keys = {}, bool release = true) {
    QTest::mousePress(on, Qt::LeftButton, keys, from.toPoint());
    for (int i = 1; i <= 5; ++i) {
      const QPointF at = (from + (to - from) * i / 5.0).toPoint();  // a pointer is on whole pixels
      QMouseEvent move(QEvent::MouseMove, at, on->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, keys);
      QApplication::sendEvent(on, &move);
    }
    if (release) QTest::mouseRelease(on, Qt::LeftButton, keys, to.toPoint());
  }
  /// The left side of a range of the mix, as it is exported.
  std::vector<float> exported(FrameRange range) {
    const auto file = scratch / "out.wav";
    ExportSettings s;
    s.range = range;
    doc().printDesk().exportTo(s, file);
    doc().jobs().finishAll();
    auto r = AudioFileReader::open(file);
    EXPECT_TRUE(r);
    if (!r) return {};
    std::vector<float> all(static_cast<std::size_t>(r->info().length.value * r->info().channels));
    EXPECT_TRUE(r->read(all));
    std::vector<float> left;
    for (std::size_t i = 0; i < all.size(); i += static_cast<std::size_t>(r->info().channels)) left.push_back(all[i]);
    return left;
  }
  void click(QWidget* w, QPointF at) { QTest::mouseClick(w, Qt::LeftButton, {}, at.toPoint()); }

  Scratch scratch;
  Performance performance;
  QStringList files;
  std::unique_ptr<MainWindow> window;
};

/// A window with a kit of four mics imported through the real import path, hits found.
struct Window : Driven {
  void SetUp() override {
    QSettings().clear();
    Style style;
    style.bars = 8;
    performance = perform(style);
    const char* names[] = {"Kick In.wav", "Snare Top.wav", "Hat.wav", "Overhead.wav"};
    for (std::size_t i = 0; i < 4; ++i) {
      writeWav(scratch / names[i], performance.mics[i]);
      files << QString::fromStdString((scratch / names[i]).string());
    }
    show();
  }
  void import() {
    window->takeIn(files, false);
    doc().jobs().finishAll();
    ASSERT_EQ(doc().song().tracks.size(), 4u);
    // The performance's bar 1 is half a second in.
    doc().edit("tempo", setTempoMap(doc().song(), performance.map));
    auto s = doc().timingDesk().settings();
    s.on = true;
    doc().timingDesk().setSettings("plan", s);
    doc().jobs().finishAll();
  }
};

/// The same with its timing plan carried out as slices.
struct SlicedWindow : Window {
  void SetUp() override {
    Window::SetUp();
    import();
    auto s = doc().timingDesk().settings();
    s.method = TimingMethod::slices;
    doc().timingDesk().setSettings("slices", s);
    doc().jobs().finishAll();
  }
};

}  // namespace ochron::test
