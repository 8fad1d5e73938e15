// Where the song is heard: chosen, kept by name, unplugged and back.

#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QToolButton>

#include "app/window_fixture.h"
#include "document/sound_desk.h"
#include "document/transport.h"
#include "head/notice_bar.h"
#include "head/output_sheet.h"

namespace ochron {
namespace {

/// A machine with outputs of our own.
struct Outputs {
  std::vector<SoundOutput> there{{"jack", "Desk", "JACK, Desk", true, {48'000}},
                                 {"alsa", "Headphones", "ALSA, Headphones", false, {}},
                                 {"simulated", {}, "simulated sound device", false, {}}};
  SimulatedDevice* last = nullptr;  ///< of the player
  std::vector<SoundChoice> opened;

  SoundDesk::Machine machine() {
    return {[this](const SoundChoice& c) -> Result<std::unique_ptr<AudioDevice>> {
              const auto fits = [&](const SoundOutput& o) {
                return (c.api.empty() || o.api == c.api) && (c.name.empty() || o.name == c.name);
              };
              if (std::ranges::none_of(there, fits))
                return fail(ErrorKind::notFound, "\"" + c.name + "\" is not there.");
              opened.push_back(c);
              auto device = std::make_unique<SimulatedDevice>();
              last = device.get();
              return device;
            },
            [this] { return there; }};
  }
};

struct SoundDesks : test::Driven {
  SoundDesks() {
    QSettings().clear();
    show();
    sound().useMachine(outputs.machine());
  }
  SoundDesk& sound() { return doc().transport().sound(); }
  QString notice() { return window->findChild<QLabel*>("notice")->text(); }
  Outputs outputs;
};

TEST_F(SoundDesks, WhatIsChosenInTheSheetIsHeardByAndKept) {
  OutputSheet sheet(doc(), window.get());
  sheet.show();
  doc().jobs().finishAll();
  auto* list = sheet.findChild<QListWidget*>("outputs");
  ASSERT_EQ(list->count(), 4) << "the system's own choice and three";
  EXPECT_EQ(list->currentRow(), 0);
  list->setCurrentRow(2);
  auto* block = sheet.findChild<QComboBox*>("block frames");
  block->setCurrentIndex(block->findText("1024 frames"));
  sheet.findChild<QPushButton*>("use output")->click();
  const SoundChoice wanted{"alsa", "Headphones", 1'024};
  EXPECT_EQ(sound().choice(), wanted);
  ASSERT_FALSE(outputs.opened.empty());
  EXPECT_EQ(outputs.opened.back(), wanted);
  EXPECT_EQ(sound().runs().blockFrames, 1'024);
  EXPECT_TRUE(sheet.findChild<QLabel*>("device run")->text().contains("1024"));
  Player another(48'000);
  SoundDesk next(doc(), another);
  EXPECT_EQ(next.choice(), wanted) << "the next start of the program";
}

TEST_F(SoundDesks, ADeviceWhosePlugIsPulledStopsTheSongAndIsHeardAgainWhenItIsBack) {
  sound().choose({"alsa", "Headphones", 256});
  doc().transport().playFrom(Frames{});
  ASSERT_TRUE(until([&] { return sound().runs().blocks > 4; }));
  std::erase_if(outputs.there, [](auto& o) { return o.name == "Headphones"; });
  outputs.last->unplug();
  ASSERT_TRUE(until([&] { return !sound().isChosenHeard(); }));
  EXPECT_TRUE(until([&] { return !doc().transport().player().engine().playing(); }));
  EXPECT_TRUE(notice().contains("does not answer any more")) << notice().toStdString();
  const auto before = outputs.opened.size();
  outputs.there.push_back({"alsa", "Headphones", "ALSA, Headphones", false, {}});
  ASSERT_TRUE(until([&] { return sound().isChosenHeard(); }));
  EXPECT_GT(outputs.opened.size(), before);
  EXPECT_EQ(outputs.opened.back().name, "Headphones");
  doc().transport().playFrom(Frames{});
  EXPECT_TRUE(until([&] { return sound().runs().blocks > 4; }));
}

TEST_F(SoundDesks, WhatIsChosenAndNotThereIsSaidAndAnotherOnePlays) {
  sound().choose({"alsa", "Stage box", 256});
  EXPECT_FALSE(sound().isChosenHeard());
  ASSERT_TRUE(until([&] { return notice().contains("Stage box"); }));
  EXPECT_TRUE(notice().contains("Playing by")) << notice().toStdString();
  EXPECT_EQ(outputs.opened.back().name, "") << "any that answers";
  outputs.there.insert(outputs.there.begin(), {"alsa", "Stage box", "ALSA, Stage box", false, {}});
  EXPECT_TRUE(until([&] { return sound().isChosenHeard(); }));
}

/// Is there, and does not start.
struct Held : SimulatedDevice {
  Result<void> start(AudioSource&, const DeviceSettings&) override {
    return fail(ErrorKind::ioFailed, "Another program holds it.");
  }
};

TEST_F(SoundDesks, OneThatIsNotThereStaysChosenInTheSheetWhenOnlyBlocksAreChanged) {
  sound().choose({"alsa", "Stage box", 256});
  OutputSheet sheet(doc(), window.get());
  doc().jobs().finishAll();
  auto* list = sheet.findChild<QListWidget*>("outputs");
  ASSERT_NE(list->currentItem(), nullptr);
  EXPECT_TRUE(list->currentItem()->text().contains("Stage box")) << list->currentItem()->text().toStdString();
  EXPECT_TRUE(list->currentItem()->text().contains("not there"));
  auto* block = sheet.findChild<QComboBox*>("block frames");
  block->setCurrentIndex(block->count() - 1);
  QTest::mouseClick(sheet.findChild<QPushButton*>("use output"), Qt::LeftButton);
  EXPECT_EQ(sound().choice().name, "Stage box");
  EXPECT_EQ(sound().choice().blockFrames, kBlockSizes.back());
}

TEST_F(SoundDesks, OneThatIsThereAndRefusesIsTriedOnceAndNotEveryFewSeconds) {
  int tried = 0;
  auto machine = outputs.machine();
  machine.open = [&tried, open = machine.open](const SoundChoice& c) -> Result<std::unique_ptr<AudioDevice>> {
    if (c.name != "Headphones") return open(c);
    ++tried;
    return std::make_unique<Held>();
  };
  sound().useMachine(machine);
  sound().choose({"alsa", "Headphones", 256});
  EXPECT_FALSE(sound().isChosenHeard());
  ASSERT_TRUE(until([&] { return notice().contains("Another program holds it"); }));
  QTest::qWait(4'000);  // longer than it takes to look again for one that is not there
  EXPECT_EQ(tried, 1);
}

TEST_F(SoundDesks, AMachineWithoutSoundSaysSoWhenItIsAsked) {
  outputs.there.clear();
  EXPECT_TRUE(run("transport.device"));
  EXPECT_TRUE(notice().contains("No sound device answers")) << notice().toStdString();
}

TEST_F(SoundDesks, TheStatusLineOpensTheSheet) {
  auto* button = window->findChild<QToolButton*>("sound device");
  ASSERT_TRUE(button);
  bool seen = false;
  QTimer::singleShot(300, window.get(), [&] {
    if (auto* sheet = window->findChild<QDialog*>("output sheet")) seen = true, sheet->close();
  });
  QTest::mouseClick(button, Qt::LeftButton);
  EXPECT_TRUE(seen);
}

}  // namespace
}  // namespace ochron
