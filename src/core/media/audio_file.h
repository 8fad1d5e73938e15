#pragma once

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "base/units.h"
#include "dsp/samples.h"
#include "files/outputs.h"

namespace ochron {

enum class FileFormat { wav, flac, aiff, ogg, opus, mp3, other };
enum class SampleFormat { pcm16, pcm24, pcm32, float32, compressed };
/// Endings of the files that are read, notes as MIDI last: what dialogs offer and what is looked for in folders. A file
/// of another name is read all the same when it is one of these formats.
inline constexpr std::array<std::string_view, 18> kReadEndings{"wav", "wave", "bwf",  "w64", "rf64", "caf",
                                                               "au",  "snd",  "flac", "aif", "aiff", "aifc",
                                                               "ogg", "oga",  "opus", "mp3", "mid",  "midi"};
/// What can be written, as files and options name it.
inline constexpr std::array<std::string_view, 6> kFileFormatNames{"wav", "flac", "aiff", "ogg", "opus", "mp3"};
inline constexpr std::array<std::string_view, 4> kSampleFormatNames{"16", "24", "32", "float"};

/// Sound that lies in a file as it can be read from memory: frame after frame, no packing, lowest byte first.
struct SoundInPlace {
  std::uint64_t at = 0;  ///< byte of the first sample
  SampleCoding coding = SampleCoding::float32;

  bool operator==(const SoundInPlace&) const = default;
};

struct AudioFileInfo {
  int rate = 0;  ///< Hz
  int channels = 0;
  Frames length;  ///< at the file's own rate
  FileFormat format = FileFormat::wav;
  SampleFormat samples = SampleFormat::pcm24;
  std::optional<std::int64_t> timeReference;  ///< BWF (EBU Tech 3285): frames since midnight at the file's rate
  std::optional<double> bpm;                  ///< as its tempo chunk or its tags say
  std::string formatName;                     ///< as the library names it
  /// What is wrong with the file, in a sentence, when it holds less than its header promises. `length` is then what its
  /// size can hold at most.
  std::optional<std::string> damage;
  std::optional<SoundInPlace> inPlace;  ///< none of a damaged file, and where samples lie otherwise
};

struct FileMarker {
  Frames at;
  std::string name;
};

/// A key that a file tells.
struct FileKey {
  int tonic = 0;  ///< semitones above C, 0 to 11
  bool minor = false;
};

/// What is put into a file's tags.
struct FileTags {
  std::optional<double> bpm;
  std::optional<FileKey> key;
  std::vector<FileMarker> chapters;  ///< at the file's rate

  bool empty() const { return !bpm && !key && chapters.empty(); }
};

/// What to do with a file that holds less than its header promises.
enum class Damaged { refuse, accept };

class PlainTones;

/// Reads WAV, RF64, BWF, W64, FLAC, AIFF, AU, CAF, Ogg and MP3 (libsndfile). A header is held against the size of the
/// file: what cannot be true is refused, or said in info().damage when damaged files are accepted. A MIDI file is read
/// as sound too: its notes by plain tones.
class AudioFileReader {
 public:
  static Result<AudioFileReader> open(const std::filesystem::path& path, Damaged damaged = Damaged::refuse);
  const AudioFileInfo& info() const { return info_; }
  /// Fills `interleaved` (whole frames) and returns the frames read; fewer only at the end.
  /// Fails (ErrorKind::damaged) on read errors and, unless damaged files are accepted, on samples that are not numbers;
  /// accepted, these are 0.
  Result<std::int64_t> read(std::span<float> interleaved);
  /// What read() has put 0 for so far.
  struct NotNumbers {
    std::int64_t count = 0;  ///< samples
    Frames first;            ///< at the file's own rate
    Frames last;
  };
  const NotNumbers& notNumbers() const { return notNumbers_; }

 private:
  AudioFileReader() = default;
  struct Closer {
    void operator()(void* handle) const;
  };
  static Result<AudioFileReader> openNotes(const std::filesystem::path& path);
  void silenceNotNumbers(std::span<float> interleaved);
  std::unique_ptr<void, Closer> handle_;
  std::shared_ptr<PlainTones> tones_;  ///< of a MIDI file, in the handle's place
  AudioFileInfo info_;
  std::filesystem::path path_;
  Damaged damaged_ = Damaged::refuse;
  NotNumbers notNumbers_;
  std::int64_t position_ = 0;
};

struct WriteFormat {
  FileFormat format = FileFormat::wav;
  SampleFormat samples = SampleFormat::pcm24;
  int rate = 48'000;  ///< Hz; one that the format can have (rateFor)
  int channels = 2;
  /// What will be written, as far as it is known: a WAV file that may pass 4 GiB is an RF64 file (EBU Tech 3306) from
  /// the start.
  Frames length = {};
  /// Fixed-point samples that do not lie on a step get triangular noise of two steps before they are rounded
  /// (Lipshitz, Wannamaker, Vanderkooy: Quantization and Dither, 1992); those that do stay as they are.
  bool dither = false;
  double quality = 90;  ///< of packed formats, 0 to 100: how much is kept
};

/// Whether a format packs sound with losses, so that it has a quality and no depth.
bool isPacked(FileFormat format);
/// The rate that is nearest to `wanted` (Hz), the higher of two, among those that a format can have.
int rateFor(FileFormat format, int wanted);
/// Channels that a file of this format can hold.
int mostChannels(FileFormat format);

/// What a file tells besides its sound.
struct WriteNotes {
  std::optional<std::int64_t> timeReference;  ///< BWF, in frames; WAV only
  std::vector<FileMarker> markers;            ///< cue points with their names; chapters in FLAC, Ogg, Opus and MP3
  std::optional<double> bpm = {};   ///< the one tempo of what is written: in the chunk of loops ("acid"), or a tag
  std::optional<FileKey> key = {};  ///< a tag; in the chunk of loops its tonic
  std::string title = {};           ///< what it is; WAV files with a time reference only
};

/// Writes as one of `outputs`, whose commit() puts the file in place; or on its own, in place when finish() succeeds.
/// Integer formats round to the nearest step, without dither unless it is asked for; values
/// beyond full scale clip. A file that its format cannot hold (AIFF and WAV of unknown length end at 4 GiB) is refused
/// as soon as that is known.
class AudioFileWriter {
 public:
  static Result<AudioFileWriter> create(Outputs& outputs, const std::filesystem::path& path, const WriteFormat& format,
                                        const WriteNotes& notes = {});
  static Result<AudioFileWriter> create(const std::filesystem::path& path, const WriteFormat& format,
                                        const WriteNotes& notes = {});
  ~AudioFileWriter();
  AudioFileWriter(AudioFileWriter&&) noexcept;
  AudioFileWriter& operator=(AudioFileWriter&&) = delete;
  Result<void> write(std::span<const float> interleaved);
  /// The same of channels of one length, as many as the file has.
  Result<void> writeChannels(std::span<const Samples> channels);
  /// Ends the file and makes sure that all of it can be read again.
  Result<void> finish();
  std::int64_t clippedSamples() const { return clipped_; }
  const WriteFormat& format() const { return format_; }
  /// After finish(): false when tempo or chapters could not be put into the file's tags; its sound is whole.
  bool tempoTold() const { return tempoTold_; }

 private:
  AudioFileWriter() = default;
  struct Closer {
    void operator()(void* handle) const;
  };
  std::unique_ptr<void, Closer> handle_;
  std::filesystem::path target_;
  std::filesystem::path part_;
  std::optional<Outputs> own_;
  WriteFormat format_;
  FileTags tagged_;  ///< what is written once the sound is
  bool tempoTold_ = true;
  std::uint64_t noise_ = 0x9E37'79B9'7F4A'7C15;
  std::vector<int> scratch_;
  std::vector<float> room_;
  std::int64_t frames_ = 0;
  std::int64_t mostFrames_ = 0;  ///< that the file's format can hold
  std::int64_t clipped_ = 0;
};

/// The format a file of this name would have; `other` for endings we do not write.
FileFormat formatForName(const std::filesystem::path& path);
const char* extensionOf(FileFormat format);

}  // namespace ochron
