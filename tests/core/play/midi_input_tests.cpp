// Keys of MIDI keyboards: which messages are keys, and the keyboard without hardware.

#include "play/midi_input.h"

#include <gtest/gtest.h>

#include <array>
#include <thread>

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

TEST(MidiInput, TheSimulatedKeyboardGivesItsKeysInOrderAcrossThreads) {
  SimulatedKeyboard keyboard;
  std::thread player([&] {
    for (int i = 0; i < 2'000; ++i)
      while (!keyboard.press(i % 128)) std::this_thread::yield();
  });
  for (int i = 0; i < 2'000;) {
    const auto pressed = keyboard.next();
    if (!pressed) continue;
    ASSERT_EQ(pressed->key, i % 128);
    ++i;
  }
  player.join();
  EXPECT_FALSE(keyboard.next());
}

TEST(MidiInput, AKeyboardThatIsNotThereIsRefusedWithASentence) {
  const auto opened = RtMidiInput::open("no such keyboard");
  ASSERT_FALSE(opened);
  EXPECT_FALSE(opened.error().message.empty());
}

}  // namespace
}  // namespace ochron
