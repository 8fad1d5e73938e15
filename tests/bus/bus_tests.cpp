// What a screen reader finds: the real program on a private session with the accessibility bus (AT-SPI 2).

#include <gtest/gtest.h>

#include <QCoreApplication>
#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <numbers>

#include "bus/desktop.h"
#include "media/audio_file.h"
#include "support/performance.h"

namespace ochron::test {
namespace {

struct OnTheBus : ::testing::Test {
  void SetUp() override {
    if (!desktop.missing().isEmpty()) GTEST_SKIP() << desktop.missing().toStdString();
  }
  /// A command by the finder of commands, as it is typed.
  bool run(const char* words) const {
    const auto field = [](const Accessible& a) { return a.name == "Find a command" && a.is(Accessible::kFocused); };
    if (!desktop.takeKeys() || !desktop.key("ctrl+f") || !desktop.wait(field) || !desktop.type(words)) return false;
    return desktop.key("Return") && desktop.until([&] {
      const auto all = desktop.shown();
      return std::none_of(all.begin(), all.end(), field);
    });
  }
  Desktop desktop;
};

/// Roles of what does something: they need a name, a focusable thing that has none of these is mute.
bool acts(const Accessible& a) {
  static const QStringList roles{"push button", "check box", "radio button", "toggle button", "slider",
                                 "spin box",    "combo box", "text",         "button menu",   "menu item"};
  return roles.contains(a.role);
}

std::vector<std::string> faults(const std::vector<Accessible>& shown, const Desktop& desktop) {
  std::vector<std::string> out;
  for (const auto& a : shown) {
    const auto what = (a.role + " \"" + a.name + "\"").toStdString();
    if (acts(a) && a.name.isEmpty()) out.push_back("nameless: " + what);
    if (a.is(Accessible::kFocusable) && a.role == "filler") out.push_back("of no kind: " + what);
    if ((a.role == "list" || a.role == "canvas" || a.role == "table") && desktop.children(a) == 0)
      out.push_back("empty: " + what);
  }
  return out;
}

TEST_F(OnTheBus, EveryStepSaysWhatEachOfItsControlsIsAndNoViewIsEmpty) {
  ASSERT_TRUE(desktop.start({"--demo", OCHRON_SOURCE_DIR "/demo/song"}));
  for (const char* step : {"Takes", "Tempo", "Hits", "Timing", "Seams", "Clips", "Kit", "Pitch", "Print"}) {
    const auto stop = desktop.wait(
        [&](const Accessible& a) { return a.role == "radio button" && a.name.contains(", " + QString(step)); });
    ASSERT_TRUE(stop) << step;
    ASSERT_TRUE(desktop.press(*stop)) << step;
    ASSERT_TRUE(desktop.wait([&](const Accessible& a) {
      return a.role == "radio button" && a.name.endsWith(QString(step) + ", open");
    })) << step;
    for (const auto& fault : faults(desktop.shown(), desktop)) ADD_FAILURE() << step << ": " << fault;
  }
}

TEST_F(OnTheBus, EverySheetSaysWhatEachOfItsControlsIs) {
  ASSERT_TRUE(desktop.start({"--demo", OCHRON_SOURCE_DIR "/demo/song"}));
  const auto opened = [&](const std::string& how, std::size_t before) {
    ASSERT_TRUE(desktop.until([&] { return desktop.windows().size() > before; })) << how;
    for (const auto& fault : faults(desktop.under(desktop.windows().back()), desktop))
      ADD_FAILURE() << how << ": " << fault;
    ASSERT_TRUE(desktop.key("Escape"));
    ASSERT_TRUE(desktop.until([&] { return desktop.windows().size() == before; })) << how;
  };
  const auto before = desktop.windows().size();
  for (const char* keys : {"shift+F1", "F1", "ctrl+f"}) {
    ASSERT_TRUE(desktop.takeKeys());
    ASSERT_TRUE(desktop.key(keys));
    opened(keys, before);
  }
  for (const char* command : {"Kept copies", "Room on the disk", "transport.output", "About"}) {
    ASSERT_TRUE(run(command));
    opened(command, before);
  }
}

void write(const std::filesystem::path& file, const std::vector<float>& samples) {
  auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, 48'000, 1});
  ASSERT_TRUE(w.has_value());
  ASSERT_TRUE(w->write(samples));
  ASSERT_TRUE(w->finish());
}

/// Notes of half a second, each 30 cents over its step.
std::vector<float> sung(std::size_t frames) {
  std::vector<float> out(frames);
  constexpr std::array kSteps{0, 2, 4, 5, 4, 2, 0, 7};
  constexpr std::size_t kNote = 36'000;
  constexpr std::size_t kSounds = 28'800;
  for (std::size_t i = 0; i < frames; ++i) {
    const auto in = i % kNote;
    if (in >= kSounds) continue;
    const double hertz = 220 * std::exp2((kSteps[i / kNote % kSteps.size()] + 0.3) / 12);
    const double level = std::min({1.0, in / 2'400.0, (kSounds - in) / 2'400.0});
    for (int k = 1; k <= 8; ++k)
      out[i] += static_cast<float>(0.2 * level / k * std::sin(2 * std::numbers::pi * hertz * k * in / 48'000.0));
  }
  return out;
}

TEST_F(OnTheBus, TheWholeJobIsDoneWithoutSeeing) {
  Style style;
  style.bars = 8;
  style.bpm = 104;
  const auto played = perform(style);
  QStringList files;
  const std::array names{"Kick In.wav", "Snare Top.wav", "Hat.wav", "Overhead.wav", "Voice.wav"};
  for (std::size_t i = 0; i < names.size(); ++i) {
    const auto file = desktop.scratch() / names[i];
    write(file, i < 4 ? played.mics[i] : sung(played.mics[0].size()));
    files << QString::fromStdString(file.string());
  }
  const auto item = [&](const QString& list, const std::function<bool(const Accessible&)>& is) {
    std::optional<Accessible> found;
    desktop.until([&] {
      if (const auto top = desktop.named(list))
        for (const auto& a : desktop.under(*top))
          if (!found && a.role == "list item" && is(a)) found = a;
      return found.has_value();
    });
    return found;
  };
  const auto press = [&](const QString& role, const QString& name) {
    const auto found = desktop.wait([&](const Accessible& a) { return a.role == role && a.name.startsWith(name); });
    return found && desktop.press(*found);
  };

  ASSERT_TRUE(desktop.start(files));
  const auto import = desktop.wait([](const Accessible& a) { return a.role == "push button" && a.name == "Import"; });
  ASSERT_TRUE(import);
  ASSERT_TRUE(desktop.press(*import));
  ASSERT_TRUE(desktop.wait([](const Accessible& a) { return a.name == "Mute Kick In"; })) << "imported";

  ASSERT_TRUE(desktop.until([&] { return desktop.windows().size() == 1; }));
  ASSERT_TRUE(run("Listen to all takes"));
  ASSERT_TRUE(press("radio button", "Step 2, Tempo"));
  ASSERT_TRUE(desktop.wait([](const Accessible& a) { return a.name.contains("104"); })) << "a tempo is heard";
  ASSERT_TRUE(press("push button", "Use it for the song"));
  ASSERT_TRUE(desktop.named("tempo 104.00"));

  ASSERT_TRUE(press("radio button", "Step 3, Hits"));
  ASSERT_TRUE(run("Find hits"));
  ASSERT_TRUE(press("radio button", "Step 4, Timing"));
  const auto isKick = [](const Accessible& a) { return a.name.startsWith("kick, bar 3"); };
  ASSERT_TRUE(item("Timing graph", isKick)) << "hits are found";
  ASSERT_TRUE(press("check box", "Lock to the grid"));
  const auto hit = item("Timing graph", [&](const Accessible& a) { return isKick(a) && a.name.contains("goes to"); });
  ASSERT_TRUE(hit) << "the takes are locked";
  ASSERT_TRUE(desktop.press(*hit));
  ASSERT_TRUE(desktop.takeKeys());
  ASSERT_TRUE(desktop.key("alt+shift+Right"));
  ASSERT_TRUE(
      item("Timing graph",
           [&](const Accessible& a) { return a.is(Accessible::kSelected) && a.name != hit->name && isKick(a); }))
      << "the hit goes elsewhere than " << hit->name.toStdString();

  ASSERT_TRUE(run("Next set"));
  ASSERT_TRUE(press("radio button", "Step 8, Pitch"));
  ASSERT_TRUE(press("push button", "Listen"));
  ASSERT_TRUE(item("Pitch lens", [](const Accessible& a) { return a.name.contains("sharp"); })) << "notes are heard";
  ASSERT_TRUE(press("check box", "Tune to the scale"));
  const auto note = item("Pitch lens", [](const Accessible& a) { return a.name.contains("goes to"); });
  ASSERT_TRUE(note) << "the line is tuned";
  ASSERT_TRUE(desktop.press(*note));
  ASSERT_TRUE(run("Notes one step of the scale up"));
  ASSERT_TRUE(
      item("Pitch lens", [&](const Accessible& a) { return a.is(Accessible::kSelected) && a.name != note->name; }))
      << "the note is another than " << note->name.toStdString();

  const auto out = desktop.scratch() / "locked.wav";
  ASSERT_TRUE(run("song.export"));
  ASSERT_TRUE(press("push button", "Export"));
  ASSERT_TRUE(desktop.until([&] { return desktop.windows().size() > 1; }));
  ASSERT_TRUE(desktop.type(QString::fromStdString(out.string())));
  ASSERT_TRUE(desktop.key("Return"));
  ASSERT_TRUE(desktop.until([&] {
    const auto r = AudioFileReader::open(out);
    return r && r->info().length.value > 48'000 * 15;
  }));
}

}  // namespace
}  // namespace ochron::test

int main(int argc, char** argv) {
  ::testing::InitGoogleTest(&argc, argv);
  QCoreApplication app(argc, argv);
  return RUN_ALL_TESTS();
}
