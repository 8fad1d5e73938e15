#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <string>
#include <tuple>
#include <vector>

namespace ochron::test {

/// A Standard MIDI File put together by hand: one track, 480 pulses to the quarter note.
class MidiBytes {
 public:
  static constexpr int kDivision = 480;

  MidiBytes& tempo(int at, double bpm) {
    const auto us = static_cast<std::uint32_t>(std::lround(60e6 / bpm));
    return put(at, {'\xff', '\x51', 3, byte(us >> 16), byte(us >> 8), byte(us)});
  }
  MidiBytes& meter(int at, int beats, int power) {
    return put(at, {'\xff', '\x58', 4, byte(beats), byte(power), 24, 8});
  }
  MidiBytes& marker(int at, const std::string& text) {
    return put(at, std::string{'\xff', '\x06', byte(text.size())} + text);
  }
  MidiBytes& note(int at, int end, int key, int velocity, int channel = 0) {
    put(at, {byte(0x90 | channel), byte(key), byte(velocity)});
    return put(end, {byte(0x80 | channel), byte(key), 0});
  }
  MidiBytes& put(int at, const std::string& event) {
    events_.emplace_back(at, static_cast<int>(events_.size()), event);
    return *this;
  }
  std::string bytes() const {
    auto sorted = events_;
    std::sort(sorted.begin(), sorted.end());
    std::string track;
    int now = 0;
    for (const auto& [at, order, event] : sorted) {
      track += quantity(static_cast<std::uint32_t>(at - now)) + event;
      now = at;
    }
    track += std::string{0, '\xff', '\x2f', 0};
    return std::string("MThd") + number(6, 4) + number(0, 2) + number(1, 2) + number(kDivision, 2) + "MTrk" +
           number(static_cast<std::uint32_t>(track.size()), 4) + track;
  }
  std::filesystem::path write(const std::filesystem::path& file) const {
    const auto all = bytes();
    std::ofstream(file, std::ios::binary).write(all.data(), static_cast<std::streamsize>(all.size()));
    return file;
  }

 private:
  template <class T>
  static char byte(T v) {
    return static_cast<char>(static_cast<unsigned char>(v));
  }
  static std::string number(std::uint32_t v, int bytes) {
    std::string out;
    for (int i = bytes - 1; i >= 0; --i) out += byte(v >> (8 * i));
    return out;
  }
  static std::string quantity(std::uint32_t v) {
    std::string out{byte(v & 0x7f)};
    while ((v >>= 7) != 0) out.insert(out.begin(), byte(0x80 | (v & 0x7f)));
    return out;
  }
  std::vector<std::tuple<int, int, std::string>> events_;
};

}  // namespace ochron::test
