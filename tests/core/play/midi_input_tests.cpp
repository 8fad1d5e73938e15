// Keys of MIDI keyboards: which messages are keys, and the keyboard without hardware.

#include "play/midi_input.h"

#include <gtest/gtest.h>

#include <array>
#include <memory>
#include <thread>

#include "play/engine.h"

namespace ochron {
namespace {

TEST(MidiInput, APressedKeyOfAnyChannelIsOne) {
  for (unsigned char channel = 0; channel < 16; ++channel) {
    const std::array<unsigned char, 3> message{static_cast<unsigned char>(0x90 + channel), 64, 100};
    EXPECT_EQ(keyPressOf(message), (KeyPress{64, 100}));
  }
}

TEST(MidiInput, WhatIsNoPressedKeyIsPassedOver) {
  using Bytes = std::vector<unsigned char>;
  for (const auto& m :
       {Bytes{}, Bytes{0x90}, Bytes{0x90, 64}, Bytes{0x90, 64, 0}, Bytes{0x80, 64, 100}, Bytes{0xB0, 64, 100},
        Bytes{0xF8}, Bytes{0x90, 200, 100}, Bytes{0x90, 64, 200}, Bytes{0xF0, 1, 2, 3, 0xF7}})
    EXPECT_FALSE(keyPressOf(m));
}

TEST(MidiInput, TheSimulatedKeyboardsKeysAreMetInOrderAcrossThreads) {
  SimulatedKeyboard keyboard;
  EXPECT_FALSE(keyboard.press(60)) << "nobody listens yet";
  const auto keys = std::make_shared<KeyStream>();
  keyboard.playInto(keys);
  std::thread player([&] {
    for (int i = 0; i < 2'000; ++i)
      while (!keyboard.press(i % 128)) std::this_thread::yield();
  });
  KeyPress pressed;
  for (int i = 0; i < 2'000;) {
    if (!keys->take(pressed)) continue;
    ASSERT_EQ(pressed.key, i % 128);
    ++i;
  }
  player.join();
  EXPECT_FALSE(keys->take(pressed));
}

TEST(MidiInput, AKeyStrikesItsSoundInTheNextBlockWhateverTheControllingThreadDoes) {
  Engine engine(48'000);
  const auto keys = std::make_shared<KeyStream>();
  engine.listenTo(keys);
  SimulatedKeyboard keyboard;
  keyboard.playInto(keys);
  auto bank = std::make_shared<LiveBank>();
  for (int i = 0; i < 4; ++i) bank->sounds.push_back({{std::vector<float>(1'000, 0.1F * static_cast<float>(i + 1))}});
  engine.setBank(bank);
  std::array<float, 64> left{};
  std::array<float, 64> right{};
  engine.process(left, right);
  keys->strikeFrom(36);
  std::thread([&] { EXPECT_TRUE(keyboard.press(38, 127)); }).join();
  engine.process(left, right);
  EXPECT_NEAR(left[10], 0.3F, 0.01F) << "the third sound, at the block's beginning";
  EXPECT_NEAR(left[0], 0.3F, 0.01F);
  KeyStream::Heard heard;
  ASSERT_TRUE(keys->next(heard));
  EXPECT_EQ(heard.key, (KeyPress{38, 127}));
  EXPECT_TRUE(heard.struck);
  EXPECT_FALSE(heard.playing);
  keys->strikeFrom(KeyStream::kNoKeys);
  ASSERT_TRUE(keyboard.press(64));
  engine.process(left, right);
  ASSERT_TRUE(keys->next(heard));
  EXPECT_FALSE(heard.struck) << "it is for who controls";
}

TEST(MidiInput, AKeyboardThatIsNotThereIsRefusedWithASentence) {
  const auto opened = RtMidiInput::open("no such keyboard");
  ASSERT_FALSE(opened);
  EXPECT_FALSE(opened.error().message.empty());
}

}  // namespace
}  // namespace ochron
