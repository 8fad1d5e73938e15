#pragma once

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/result.h"
#include "base/units.h"

namespace ochron {

enum class FileFormat { wav, flac, aiff, ogg, mp3, other };
enum class SampleFormat { pcm16, pcm24, pcm32, float32, compressed };

struct AudioFileInfo {
  int rate = 0;  ///< Hz
  int channels = 0;
  Frames length;  ///< at the file's own rate
  FileFormat format = FileFormat::wav;
  SampleFormat samples = SampleFormat::pcm24;
  std::optional<std::int64_t> timeReference;  ///< BWF (EBU Tech 3285): frames since midnight at the file's rate
  std::string formatName;                     ///< as the library names it
};

struct FileMarker {
  Frames at;
  std::string name;
};

/// Reads WAV, RF64, BWF, FLAC, AIFF, Ogg and MP3 (libsndfile). Files whose size contradicts their header are refused.
class AudioFileReader {
 public:
  static Result<AudioFileReader> open(const std::filesystem::path& path);
  const AudioFileInfo& info() const { return info_; }
  /// Fills `interleaved` (whole frames) and returns the frames read; fewer only at the end.
  /// Fails on NaN or infinite samples and on read errors.
  Result<std::int64_t> read(std::span<float> interleaved);

 private:
  AudioFileReader() = default;
  struct Closer {
    void operator()(void* handle) const;
  };
  std::unique_ptr<void, Closer> handle_;
  AudioFileInfo info_;
  std::filesystem::path path_;
  std::int64_t position_ = 0;
};

struct WriteFormat {
  FileFormat format = FileFormat::wav;
  SampleFormat samples = SampleFormat::pcm24;
  int rate = 48'000;
  int channels = 2;
};

/// Writes beside the target and renames when finish() succeeds; otherwise nothing is left behind. Integer formats round
/// to the nearest step without dither, so that unchanged samples come out unchanged; values beyond full scale clip.
class AudioFileWriter {
 public:
  static Result<AudioFileWriter> create(const std::filesystem::path& path, const WriteFormat& format,
                                        std::optional<std::int64_t> timeReference = {},
                                        std::vector<FileMarker> markers = {});
  ~AudioFileWriter();
  AudioFileWriter(AudioFileWriter&&) noexcept;
  AudioFileWriter& operator=(AudioFileWriter&&) noexcept;
  Result<void> write(std::span<const float> interleaved);
  Result<void> finish();
  std::int64_t clippedSamples() const { return clipped_; }

 private:
  AudioFileWriter() = default;
  struct Closer {
    void operator()(void* handle) const;
  };
  std::unique_ptr<void, Closer> handle_;
  std::filesystem::path target_;
  std::filesystem::path beside_;
  WriteFormat format_;
  std::vector<int> scratch_;
  std::int64_t clipped_ = 0;
};

/// The format a file of this name would have; `other` for endings we do not write.
FileFormat formatForName(const std::filesystem::path& path);
const char* extensionOf(FileFormat format);

}  // namespace ochron
