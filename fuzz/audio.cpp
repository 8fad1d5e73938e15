// Audio headers through our reader: no claim is believed that the file cannot keep, and reading ends.
#include <stdlib.h>
#include <unistd.h>

#include <cmath>
#include <string>
#include <vector>

#include "fuzz/check.h"
#include "media/audio_file.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const std::string file = "/tmp/ochron-fuzz-audio-" + std::to_string(::getpid());
  FILE* f = std::fopen(file.c_str(), "wb");
  OCHRON_HOLDS(f);
  std::fwrite(data, 1, size, f);
  std::fclose(f);
  for (const auto damaged : {Damaged::refuse, Damaged::accept}) {
    auto reader = AudioFileReader::open(file, damaged);
    if (!reader) {
      OCHRON_HOLDS(!reader.error().message.empty());
      continue;
    }
    const auto& info = reader->info();
    OCHRON_HOLDS(info.channels > 0 && info.rate > 0 && info.length.value >= 0);
    // FLAC packs a constant block of 65535 frames into some 12 bytes.
    OCHRON_HOLDS(info.length.value / 65'536 <= static_cast<std::int64_t>(size) / 8 + 2);
    std::vector<float> block(static_cast<std::size_t>(info.channels) * 1024);
    std::int64_t frames = 0;
    for (;;) {
      const auto got = reader->read(block);
      if (!got || *got == 0) break;
      for (const float s : block) OCHRON_HOLDS(std::isfinite(s));
      frames += *got;
      if (frames > 1 << 22) break;
    }
  }
  ::unlink(file.c_str());
  return 0;
}
