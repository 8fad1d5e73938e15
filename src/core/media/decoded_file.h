#pragma once

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/result.h"
#include "files/content_id.h"
#include "media/mapped_file.h"
#include "media/peaks.h"

namespace ochron {

/// A recording of which only a part could be read.
struct Damage {
  std::int64_t from = 0;  ///< frames that are good, at the decoded rate
  std::string what;       ///< a sentence for the user

  bool operator==(const Damage&) const = default;
};

/// What stands at the head of a decoded copy. The copy is each channel's samples one after the other, then for each
/// channel the levels of its peaks, finest first. Of a recording that is read where it lies there are only the peaks.
struct DecodedHeader {
  int rate = 48'000;  ///< Hz
  int channels = 1;
  std::int64_t frames = 0;
  std::optional<Damage> damage;
};

/// Writes a decoded copy while sound comes in; disk space is taken as it arrives, whatever length was claimed.
class DecodedFileWriter {
 public:
  /// `claimed`: frames that will come at most; more is dropped.
  static Result<DecodedFileWriter> create(const std::filesystem::path& target, int rate, int channels,
                                          std::int64_t claimed);
  ~DecodedFileWriter();
  DecodedFileWriter(DecodedFileWriter&& other) noexcept;
  DecodedFileWriter& operator=(DecodedFileWriter&&) = delete;
  Result<void> add(std::span<const float> interleaved);
  std::int64_t frames() const { return done_; }
  /// Whether a file must survive a power cut once it is in place.
  enum class Sync { now, later };
  /// Adds silence up to `frames`, then peaks, checksums and head; in place afterwards. With `damage` the copy is as
  /// long as what came in.
  Result<void> finish(std::int64_t frames, const std::optional<Damage>& damage, Sync sync = Sync::now);
  /// The peaks alone, of a recording of `frames` frames that is read where it lies; a builder for each channel.
  static Result<void> writePeaks(const std::filesystem::path& target, int rate, std::int64_t frames,
                                 std::vector<PeakBuilder> peaks);

 private:
  DecodedFileWriter() = default;
  bool put(const void* bytes, std::size_t size, std::int64_t at);
  bool closeUp();
  Result<void> close(bool samples, const std::optional<Damage>& damage, Sync sync);
  tl::unexpected<Error> failed() const;

  std::filesystem::path target_;
  std::filesystem::path part_;
  int fd_ = -1;
  int rate_ = 0;
  std::int64_t claimed_ = 0;
  std::int64_t done_ = 0;
  std::int64_t unsettled_ = 0;  // bytes written since the disk was last told to take them
  std::vector<float> planar_;
  std::vector<ContentHash> hashes_;
  std::vector<PeakBuilder> peaks_;
};

/// A decoded copy mapped for reading, checked against its checksums.
struct DecodedFile {
  DecodedHeader header;
  std::unique_ptr<MappedFile> map;
  std::vector<std::span<const float>> channels;  ///< none when the file holds only peaks
  std::vector<PeakPyramid> peaks;

  /// Whether samples and peaks are held against their checksums: not needed right after this process wrote them.
  enum class Check { all, headOnly };
  /// Fails on anything but an undamaged copy of this version.
  static Result<DecodedFile> open(const std::filesystem::path& file, Check check = Check::all);
  /// Whether what is mapped of such a file is still what its checksums say.
  static bool unharmed(const MappedFile& map);
};

}  // namespace ochron
