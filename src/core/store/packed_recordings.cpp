#include "store/packed_recordings.h"

#include <algorithm>
#include <vector>

#include "files/file_names.h"
#include "media/audio_file.h"

namespace ochron {
namespace {

namespace fs = std::filesystem;

constexpr std::int64_t kBlock = 1 << 14;  // frames

bool holds(const AudioFileInfo& info) {
  return (info.format == FileFormat::wav || info.format == FileFormat::aiff) &&
         (info.samples == SampleFormat::pcm16 || info.samples == SampleFormat::pcm24) &&
         rateFor(FileFormat::flac, info.rate) == info.rate && info.channels <= mostChannels(FileFormat::flac);
}

/// Whether both hold the same samples.
Result<bool> compare(AudioFileReader& a, AudioFileReader& b) {
  const auto room = static_cast<std::size_t>(kBlock * a.info().channels);
  std::vector<float> x(room);
  std::vector<float> y(room);
  if (a.info().channels != b.info().channels) return false;
  while (true) {
    const auto n = a.read(x);
    if (!n) return tl::unexpected(n.error());
    const auto m = b.read(y);
    if (!m) return tl::unexpected(m.error());
    const auto samples = static_cast<std::ptrdiff_t>(*n * a.info().channels);
    if (*n != *m || !std::equal(x.begin(), x.begin() + samples, y.begin())) return false;
    if (*n == 0) return true;
  }
}

}  // namespace

Result<bool> packAsFlac(const fs::path& recording, const fs::path& flac, Progress& progress) {
  auto from = AudioFileReader::open(recording);
  if (!from) return tl::unexpected(from.error());
  const auto info = from->info();
  if (!holds(info)) return false;
  auto writer = AudioFileWriter::create(flac, {FileFormat::flac, info.samples, info.rate, info.channels, info.length});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<float> room(static_cast<std::size_t>(kBlock * info.channels));
  std::int64_t done = 0;
  while (true) {
    if (progress.cancelled()) return cancelledError();
    const auto n = from->read(room);
    if (!n) return tl::unexpected(n.error());
    if (*n == 0) break;
    if (auto ok = writer->write(std::span(room).first(static_cast<std::size_t>(*n * info.channels))); !ok)
      return tl::unexpected(ok.error());
    done += *n;
    progress.report(static_cast<double>(done) / static_cast<double>(std::max<std::int64_t>(1, info.length.value)));
  }
  if (auto ok = writer->finish(); !ok) return tl::unexpected(ok.error());
  auto first = AudioFileReader::open(recording);
  auto packed = AudioFileReader::open(flac);
  if (!first) return tl::unexpected(first.error());
  if (!packed) return tl::unexpected(packed.error());
  const auto same = compare(*first, *packed);
  if (!same) return tl::unexpected(same.error());
  if (!*same)
    return fail(ErrorKind::ioFailed, shownPath(recording) +
                                         " came back otherwise from FLAC. Archive the song with its recordings as they "
                                         "are.");
  return true;
}

}  // namespace ochron
