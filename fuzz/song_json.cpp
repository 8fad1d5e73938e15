// Fuzzes the reader of song.json. Property: what is read keeps every rule, and written and read again is equal.
// Build with: clang++ -std=c++20 -fsanitize=fuzzer,address -Isrc/core fuzz/song_json.cpp and the core's sources.
// The corpus is replayed by the ordinary tests (tests/core/store/fuzz_replay_tests.cpp).

#include <cstdint>
#include <cstdlib>
#include <string_view>

#include "store/song_json.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto song = ochron::songFromJson({reinterpret_cast<const char*>(data), size}, "fuzz");
  if (!song) return 0;
  if (!ochron::brokenRules(*song).empty()) std::abort();
  const auto again = ochron::songFromJson(ochron::songToJson(*song), "fuzz");
  if (!again || !(*again == *song)) std::abort();
  return 0;
}
