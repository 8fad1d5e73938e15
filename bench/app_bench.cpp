// A full repaint of the lanes at 1280 x 800 with 24 tracks and thousands of pieces in view.

#include <benchmark/benchmark.h>

#include <QApplication>
#include <QImage>

#include "canvas/lanes_view.h"
#include "edits/clip_edits.h"
#include "edits/tempo_edits.h"
#include "main_window.h"
#include "media/audio_file.h"
#include "support/performance.h"
#include "support/scratch.h"

namespace {

using namespace ochron;

struct Big {
  test::Scratch scratch;
  std::unique_ptr<MainWindow> window;
  Big() {
    test::Style style;
    style.bars = 150;
    style.ghostShare = 1;
    const auto p = test::perform(style);
    QStringList files;
    for (int i = 0; i < 24; ++i) {
      const auto file = scratch / (i == 0   ? "Kick In.wav"
                                   : i == 1 ? "Snare Top.wav"
                                            : "Tom " + std::to_string(i) + ".wav");
      auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1});
      if (!w || !w->write(p.mics[static_cast<std::size_t>(i % 4)]) || !w->finish()) std::abort();
      files << QString::fromStdString(file.string());
    }
    window = std::make_unique<MainWindow>();
    window->resize(1280, 800);
    window->show();
    window->takeIn(files, false);
    window->document().jobs().finishAll();
    window->document().edit("tempo", setTempoMap(window->document().song(), p.map));
    auto s = window->document().timing();
    s.on = true;
    window->document().setTiming("plan", s);
    window->document().jobs().finishAll();
    window->view().setLaneHeight(22);
  }
  ~Big() { window->document().leave(); }
};

std::unique_ptr<Big>& held() {
  static std::unique_ptr<Big> b;
  return b;
}

Big& big() {
  if (!held()) held() = std::make_unique<Big>();
  return *held();
}

void paint(benchmark::State& state) {
  auto& lanes = big().window->lanes();
  QImage image(lanes.size(), QImage::Format_ARGB32_Premultiplied);
  for (auto _ : state) {
    lanes.render(&image, {}, QRegion(QRect(kGutterWidth, 0, lanes.width() - kGutterWidth, lanes.height())),
                 QWidget::DrawWindowBackground);
    benchmark::DoNotOptimize(image.bits());
  }
  const auto seen = big().window->view().visible();
  int pieces = 0;
  for (const auto& c : *big().window->document().song().sets[0].clips) pieces += c.range().overlaps(seen) ? 24 : 0;
  state.counters["pieces in view"] = pieces;
}

void RepaintWholeSong(benchmark::State& state) {
  big().window->view().showAll();
  paint(state);
}
BENCHMARK(RepaintWholeSong)->Unit(benchmark::kMillisecond);

void RepaintFiveThousandPieces(benchmark::State& state) {
  big().window->view().show(1e6, 48'000.0 * 58 / big().window->view().width());
  paint(state);
}
BENCHMARK(RepaintFiveThousandPieces)->Unit(benchmark::kMillisecond);

void RepaintEightSeconds(benchmark::State& state) {
  big().window->view().show(1e6, 48'000.0 * 8 / big().window->view().width());
  paint(state);
}
BENCHMARK(RepaintEightSeconds)->Unit(benchmark::kMillisecond);

/// One step of a drag of a piece with 24 lanes and 5 000 pieces in view: the edit, what follows from it, the repaint.
void DragStepAmongFiveThousandPieces(benchmark::State& state) {
  auto& window = *big().window;
  auto& doc = window.document();
  doc.setStep(Step::clips);
  window.view().show(1e6, 48'000.0 * 58 / window.view().width());
  QImage image(window.lanes().size(), QImage::Format_ARGB32_Premultiplied);
  const auto hold = doc.takeHold();
  const auto base = doc.version();
  const auto clip = (*base->sets[0].clips)[base->sets[0].clips->size() / 3].id;
  std::int64_t by = 0;
  for (auto _ : state) {
    doc.edit("move", moveClips(*base, {clip}, Frames{++by * 10}, Overlap::crossfade), "bench");
    window.lanes().render(&image);
  }
  doc.cancelGesture();
  doc.jobs().finishAll();
  doc.setStep(Step::timing);
}
BENCHMARK(DragStepAmongFiveThousandPieces)->Unit(benchmark::kMillisecond);

}  // namespace

int main(int argc, char** argv) {
  if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  const test::Scratch home;
  for (const char* variable : {"XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME"})
    qputenv(variable, QByteArray::fromStdString(home.path().string()));
  QApplication app(argc, argv);
  benchmark::Initialize(&argc, argv);
  benchmark::RunSpecifiedBenchmarks();
  held().reset();  // before the application goes
  return 0;
}
