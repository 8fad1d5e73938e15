// A full repaint of the lanes at 1280 x 800 with 24 tracks and thousands of pieces in view.

#include <benchmark/benchmark.h>

#include <QApplication>
#include <QImage>
#include <chrono>
#include <cmath>
#include <ctime>
#include <thread>

#include "document/hit_desk.h"
#include "document/song_files.h"
#include "document/sounding.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/take_edits.h"
#include "edits/tempo_edits.h"
#include "lanes/lanes_view.h"
#include "main_window.h"
#include "media/audio_file.h"
#include "store/project.h"
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
    auto s = window->document().timingDesk().settings();
    s.on = true;
    window->document().timingDesk().setSettings("plan", s);
    window->document().jobs().finishAll();
    window->view().setLaneHeight(22);
  }
  ~Big() { window->document().files().leave(); }
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

/// As while zooming: nothing of the picture before can be kept.
void ZoomWholeSong(benchmark::State& state) {
  auto& view = big().window->view();
  auto& lanes = big().window->lanes();
  view.showAll();
  const double widest = view.framesPerPixel();
  QImage image(lanes.size(), QImage::Format_ARGB32_Premultiplied);
  int step = 0;
  for (auto _ : state) {
    view.show(0, widest * (0.9 + 0.001 * (++step % 50)));
    lanes.render(&image, {}, QRegion(QRect(kGutterWidth, 0, lanes.width() - kGutterWidth, lanes.height())),
                 QWidget::DrawWindowBackground);
    benchmark::DoNotOptimize(image.bits());
  }
}
BENCHMARK(ZoomWholeSong)->Unit(benchmark::kMillisecond);

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

/// One step of a drag of a setting of the plan that cuts them: the plan, its pieces, the repaint.
void DragStepOfASetting(benchmark::State& state) {
  auto& window = *big().window;
  auto& doc = window.document();
  doc.setStep(Step::timing);
  window.view().showAll();
  doc.jobs().finishAll();
  const auto hold = doc.takeHold();
  auto s = doc.timingDesk().settings();
  int step = 0;
  for (auto _ : state) {
    s.strength = 60 + ++step % 40;
    doc.timingDesk().setSettings("strength", s, "bench");
    QCoreApplication::processEvents();
  }
  state.counters["hits"] = static_cast<double>(doc.timingDesk().planned().hits.size());
  doc.cancelGesture();
  doc.jobs().finishAll();
}
BENCHMARK(DragStepOfASetting)->Unit(benchmark::kMillisecond);

/// Takes turns with the event loop until something holds, and keeps the longest turn.
class Waits {
 public:
  template <class Act>
  void act(Act&& act) {
    const auto from = std::chrono::steady_clock::now();
    const auto own = threadMs();
    act();
    worst_ =
        std::max(worst_, std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count());
    own_ = std::max(own_, threadMs() - own);
  }
  template <class Holds>
  void until(Holds&& holds) {
    while (!holds()) {
      act([] { QCoreApplication::processEvents(); });
      std::this_thread::sleep_for(std::chrono::milliseconds(1));  // the cores are for the work
    }
  }
  double worstMs() const { return worst_; }
  /// The longest that the thread itself was at work: what it takes where a core is free for it.
  double ownMs() const { return own_; }

 private:
  static double threadMs() {
    timespec t{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &t);
    return static_cast<double>(t.tv_sec) * 1e3 + static_cast<double>(t.tv_nsec) * 1e-6;
  }
  double worst_ = 0;
  double own_ = 0;
};

/// The song of 24 tracks and five minutes from the disk until it can be heard; the peaks of its recordings are there.
void Reopen(benchmark::State& state) {
  const test::Scratch scratch;
  const auto folder = scratch / "big.ochron";
  if (!saveProject(big().window->document().song(), folder)) return state.SkipWithError("cannot save");
  for (auto _ : state) {
    Document doc;
    doc.files().open(folder);
    Waits waits;
    waits.until([&] { return doc.sounding().playPlan() && doc.recordings().complete(); });
    state.PauseTiming();
    doc.jobs().finishAll();
    doc.files().leave();
    state.ResumeTiming();
  }
}
BENCHMARK(Reopen)->Unit(benchmark::kMillisecond)->Iterations(3);

/// Sixty tracks of ten minutes with 49 800 clips: opened, played, a clip moved, faded and undone, every step shown.
/// What counts is the longest that the interface thread was held up.
void SixtyTracks(benchmark::State& state) {
  constexpr int kTracks = 60;
  constexpr int kClips = 830;
  constexpr std::int64_t kLength = 48'000ll * 600;
  const test::Scratch scratch;
  const auto file = scratch / "long.wav";
  {
    auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1});
    std::vector<float> second(48'000);
    for (std::size_t i = 0; i < second.size(); ++i)
      second[i] = static_cast<float>(0.3 * std::exp(-static_cast<double>(i % 12'000) / 3'000) * std::sin(0.05 * i));
    for (int s = 0; s < 600; ++s)
      if (!w->write(second)) return state.SkipWithError("cannot write");
    if (!w->finish()) return state.SkipWithError("cannot finish");
  }
  Song song;
  std::vector<IncomingFile> files(kTracks);
  for (int i = 0; i < kTracks; ++i)
    files[static_cast<std::size_t>(i)] = {
        "Track " + std::to_string(i + 1), file.string(), {}, 1, 48'000, Frames{kLength}, {}};
  song = *importTake(song, files, {});
  std::vector<Frames> cuts;
  for (int k = 1; k < kClips; ++k) cuts.emplace_back(kLength / kClips * k);
  for (const auto& set : std::vector<MicSet>(song.sets)) song = *splitAt(song, set.id, cuts, Frames{96});
  const auto folder = scratch / "sixty.ochron";
  if (!saveProject(song, folder)) return state.SkipWithError("cannot save");
  for (auto _ : state) {
    MainWindow window;
    window.resize(1280, 800);
    window.show();
    auto& doc = window.document();
    const auto told = [&](const std::string& what, const Waits& waits) {
      state.counters[what] = waits.worstMs();
      state.counters[what + ", its own"] = waits.ownMs();
    };
    Waits opening;
    opening.act([&] { doc.files().openSoon(folder, SongFiles::Copy::saved, OpenAs::owner); });
    opening.until([&] { return doc.sounding().playPlan() && doc.recordings().complete() && !doc.jobs().busy(); });
    told("opening, worst ms", opening);
    const auto clip = (*doc.song().sets[30].clips)[400].id;
    Waits edits;
    edits.act([&] { doc.edit("move", moveClips(doc.song(), {clip}, Frames{2'000}, Overlap::crossfade)); });
    edits.until([&] { return !doc.jobs().busy(); });
    edits.act([&] { doc.undo(); });
    edits.until([&] { return !doc.jobs().busy(); });
    told("editing, worst ms", edits);
    Waits starting;
    starting.act([&] { doc.transport().playFrom(Frames{48'000}); });
    starting.act([] { QCoreApplication::processEvents(); });
    told("starting to play, worst ms", starting);
    Waits playing;
    const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(2);
    playing.until([&] { return std::chrono::steady_clock::now() > end; });
    doc.transport().playStop();
    told("playing, worst ms", playing);
    Waits steps;
    for (const auto step :
         {Step::takes, Step::tempo, Step::hits, Step::timing, Step::seams, Step::clips, Step::pitch, Step::print}) {
      steps.act([&] { doc.setStep(step); });
      steps.act([] { QCoreApplication::processEvents(); });
    }
    told("steps, worst ms", steps);
    doc.files().leave();
  }
}
BENCHMARK(SixtyTracks)->Unit(benchmark::kMillisecond)->Iterations(1);

/// Five thousand hits of 24 mics in the Timing step: played, a target dragged, a setting turned, a hit stepped to. What
/// counts is the longest that the interface thread was held up.
void FiveThousandHits(benchmark::State& state) {
  auto& window = *big().window;
  auto& doc = window.document();
  const auto told = [&](const std::string& what, const Waits& waits) {
    state.counters[what] = waits.worstMs();
    state.counters[what + ", its own"] = waits.ownMs();
  };
  const auto settled = [&] { return !doc.jobs().busy(); };
  constexpr int kHits = 5'000;
  const auto set = doc.song().sets.front().id;
  const auto take = doc.song().takes.front().id;
  HitList hits;
  for (int i = 0; i < kHits; ++i) {
    Hit h;
    h.at = Frames{24'000 + i * (doc.song().end().value - 96'000) / kHits + i % 7 * 40};
    h.drum = i % 4 == 0 ? DrumClass::kick : i % 4 == 2 ? DrumClass::snare : DrumClass::hat;
    h.strength = 0.3 + 0.1 * (i % 7);
    h.confidence = 1;
    hits.push_back(h);
  }
  doc.edit("hits", setDetectedHits(doc.song(), take, set, hits));
  doc.jobs().finishAll();
  for (auto _ : state) {
    doc.setStep(Step::timing);
    window.view().showAll();
    Waits quiet;
    quiet.until(settled);
    state.counters["hits"] = static_cast<double>(doc.timingDesk().planned().hits.size());
    Waits starting;
    starting.act([&] { doc.transport().playFrom(Frames{48'000}); });
    starting.act([] { QCoreApplication::processEvents(); });
    told("starting to play, worst ms", starting);
    Waits playing;
    const auto end = std::chrono::steady_clock::now() + std::chrono::seconds(2);
    playing.until([&] { return std::chrono::steady_clock::now() > end; });
    doc.transport().playStop();
    told("playing, worst ms", playing);
    Waits stepping;
    for (int i = 0; i < 20; ++i) {
      stepping.act([&] { doc.hitDesk().step(1); });
      stepping.act([] { QCoreApplication::processEvents(); });
    }
    told("stepping, worst ms", stepping);
    Waits turning;
    const auto was = doc.timingDesk().settings();
    {
      const auto hold = doc.takeHold();
      auto s = was;
      for (int i = 0; i < 10; ++i) {
        s.strength = 100 - i;
        turning.act([&] { doc.timingDesk().setSettings("strength", s, "bench"); });
        turning.act([] { QCoreApplication::processEvents(); });
      }
      turning.act([&] { doc.cancelGesture(); });
    }
    told("a control dragged, worst ms", turning);
    Waits command;
    auto s = was;
    s.strength = 80;
    command.act([&] { doc.timingDesk().setSettings("strength", s); });
    command.until(settled);
    command.act([&] { doc.undo(); });
    command.until(settled);
    told("a setting and its undo, worst ms", command);
  }
}
BENCHMARK(FiveThousandHits)->Unit(benchmark::kMillisecond)->Iterations(1);

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
