#pragma once

#include <gtest/gtest.h>

#include <QLabel>
#include <QSettings>
#include <QTest>
#include <memory>

#include "main_window.h"
#include "media/audio_file.h"
#include "support/performance.h"
#include "support/scratch.h"

namespace ochron::test {

inline void writeWav(const std::filesystem::path& file, const std::vector<float>& samples) {
  auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1});
  ASSERT_TRUE(w.has_value());
  ASSERT_TRUE(w->write(samples));
  ASSERT_TRUE(w->finish());
}

/// A window with a kit of four mics imported through the real import path, hits found.
struct Window : ::testing::Test {
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
    window = std::make_unique<MainWindow>();
    window->resize(1280, 800);
    window->show();
    QTest::qWait(20);
  }
  void TearDown() override {
    doc().leave();
    window.reset();
  }
  void import() {
    window->takeIn(files, false);
    doc().jobs().finishAll();
    ASSERT_EQ(doc().song().tracks.size(), 4u);
    // The performance's bar 1 is half a second in.
    doc().edit("tempo", setTempoMap(doc().song(), performance.map));
    auto s = doc().timing();
    s.on = true;
    doc().setTiming("plan", s);
    doc().jobs().finishAll();
  }
  Document& doc() { return window->document(); }
  bool run(const char* id) { return window->actions().trigger(id); }
  template <class T>
  T* find(const char* name) {
    auto* w = window->findChild<T*>(name);
    EXPECT_NE(w, nullptr) << name;
    return w;
  }
  QString status() { return find<QLabel>("status")->text(); }
  void click(QWidget* w, QPointF at) { QTest::mouseClick(w, Qt::LeftButton, {}, at.toPoint()); }

  Scratch scratch;
  Performance performance;
  QStringList files;
  std::unique_ptr<MainWindow> window;
};

}  // namespace ochron::test
