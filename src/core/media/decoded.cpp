#include "media/decoded.h"

#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cmath>
#include <cstring>
#include <fstream>
#include <optional>

#include "dsp/resample.h"

namespace ochron {
namespace {

// Layout: header, then each channel's samples, then for each channel the levels of its pyramid, finest first.
struct CacheHeader {
  std::array<char, 8> magic{'O', 'C', 'H', 'R', 'D', 'E', 'C', '2'};
  std::int32_t rate = 0;
  std::int32_t channels = 0;
  std::int64_t frames = 0;
  std::array<char, 40> unused{};
};
static_assert(sizeof(CacheHeader) == 64);

std::size_t peakBytes(std::int64_t frames) {
  std::size_t n = 0;
  for (int level = 0; level < kPeakLevels; ++level) n += peakCount(frames, level) * sizeof(Peak);
  return n;
}

std::size_t fileBytes(std::int64_t frames, int channels) {
  return sizeof(CacheHeader) +
         static_cast<std::size_t>(channels) * (static_cast<std::size_t>(frames) * sizeof(float) + peakBytes(frames));
}

tl::unexpected<Error> cacheFailed(const std::filesystem::path& file) {
  return fail(ErrorKind::ioFailed,
              "The decoded copy " + file.string() + " cannot be written. Make room on the disk and try again.",
              std::strerror(errno));
}

/// A file of known size mapped for writing; removed again unless kept.
class WritableMap {
 public:
  static std::optional<WritableMap> create(const std::filesystem::path& file, std::size_t bytes) {
    WritableMap m;
    m.file_ = file;
    m.bytes_ = bytes;
    const int fd = ::open(file.c_str(), O_RDWR | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (fd < 0) return std::nullopt;
    const bool sized = ::posix_fallocate(fd, 0, static_cast<off_t>(bytes)) == 0;
    m.at_ = sized ? ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_SHARED, fd, 0) : MAP_FAILED;
    ::close(fd);
    if (m.at_ == MAP_FAILED) return ::unlink(file.c_str()), std::nullopt;
    return m;
  }
  WritableMap(WritableMap&& o) noexcept : file_(std::move(o.file_)), at_(o.at_), bytes_(o.bytes_) {
    o.at_ = MAP_FAILED;
  }
  WritableMap& operator=(WritableMap&&) = delete;
  ~WritableMap() {
    if (at_ == MAP_FAILED) return;
    ::munmap(at_, bytes_);
    ::unlink(file_.c_str());
  }
  char* bytes() { return static_cast<char*>(at_); }
  bool keepAs(const std::filesystem::path& target) {
    ::munmap(at_, bytes_);
    at_ = MAP_FAILED;
    return ::rename(file_.c_str(), target.c_str()) == 0;
  }

 private:
  WritableMap() = default;
  std::filesystem::path file_;
  void* at_ = MAP_FAILED;
  std::size_t bytes_ = 0;
};

std::vector<PeakPyramid> pyramidsAt(const char* at, std::int64_t frames, int channels) {
  std::vector<PeakPyramid> all(static_cast<std::size_t>(channels));
  for (auto& p : all)
    for (int level = 0; level < kPeakLevels; ++level) {
      const auto n = peakCount(frames, level);
      p.levels.emplace_back(reinterpret_cast<const Peak*>(at), n);
      at += n * sizeof(Peak);
    }
  return all;
}

/// Receives interleaved blocks at the song's rate; writes planar samples and peaks.
class PlanarSink {
 public:
  PlanarSink(char* file, std::int64_t frames, int channels)
      : base_(reinterpret_cast<float*>(file + sizeof(CacheHeader))),
        frames_(frames),
        peaks_(static_cast<std::size_t>(channels)) {}
  void add(std::span<const float> interleaved) {
    const auto channels = peaks_.size();
    const auto n = std::min<std::int64_t>(static_cast<std::int64_t>(interleaved.size() / channels), frames_ - done_);
    for (std::size_t c = 0; c < channels; ++c) {
      float* to = base_ + static_cast<std::int64_t>(c) * frames_ + done_;
      for (std::int64_t i = 0; i < n; ++i) to[i] = interleaved[static_cast<std::size_t>(i) * channels + c];
      peaks_[c].add({to, static_cast<std::size_t>(n)});
    }
    done_ += n;
  }
  void writePeaks() {
    const std::vector<float> silence(static_cast<std::size_t>(frames_ - done_), 0.0f);
    char* at = reinterpret_cast<char*>(base_ + frames_ * static_cast<std::int64_t>(peaks_.size()));
    for (auto& builder : peaks_) {
      builder.add(silence);
      for (const auto& level : builder.finish()) {
        std::memcpy(at, level.data(), level.size() * sizeof(Peak));
        at += level.size() * sizeof(Peak);
      }
    }
  }

 private:
  float* base_;
  std::int64_t frames_;
  std::int64_t done_ = 0;
  std::vector<PeakBuilder> peaks_;
};

Result<void> decodeInto(AudioFileReader& reader, int rate, PlanarSink& sink, Progress& progress) {
  const auto& info = reader.info();
  std::optional<Resampler> resampler;
  if (info.rate != rate) {
    auto made = Resampler::make(info.rate, rate, info.channels);
    if (!made) return tl::unexpected(made.error());
    resampler.emplace(std::move(*made));
  }
  std::vector<float> block(static_cast<std::size_t>(16'384 * info.channels));
  std::vector<float> converted;
  std::int64_t done = 0;
  for (;;) {
    if (progress.cancelled()) return cancelledError();
    auto got = reader.read(block);
    if (!got) return tl::unexpected(got.error());
    if (*got == 0) break;
    const std::span<const float> fresh(block.data(), static_cast<std::size_t>(*got * info.channels));
    if (resampler) {
      converted.clear();
      resampler->push(fresh, converted);
      sink.add(converted);
    } else {
      sink.add(fresh);
    }
    done += *got;
    progress.report(static_cast<double>(done) / static_cast<double>(info.length.value));
  }
  if (resampler) {
    converted.clear();
    resampler->finish(converted);
    sink.add(converted);
  }
  if (done < info.length.value)
    return fail(ErrorKind::badInput, "the header says " + std::to_string(info.length.value) +
                                         " frames, the file holds " + std::to_string(done) +
                                         ". It is cut short; copy it again from its source.");
  return {};
}

}  // namespace

DecodedMedia::~DecodedMedia() {
  if (mapping_) ::munmap(mapping_, mappedBytes_);
}

Result<std::shared_ptr<const DecodedMedia>> DecodedMedia::map(const std::filesystem::path& file) {
  const auto refuse = [&] {
    return fail(ErrorKind::ioFailed,
                file.string() + " is not a decoded copy of this version. Delete it; it will be made again.");
  };
  const int fd = ::open(file.c_str(), O_RDONLY | O_CLOEXEC);
  if (fd < 0) return fail(ErrorKind::notFound, file.string() + ": there is no such file.");
  struct stat st {};
  CacheHeader header;
  const CacheHeader expected;
  if (::fstat(fd, &st) != 0 || ::pread(fd, &header, sizeof header, 0) != sizeof header ||
      header.magic != expected.magic || header.channels < 1 || header.channels > 64 || header.frames < 0 ||
      header.frames > (std::int64_t{1} << 40) ||
      static_cast<std::size_t>(st.st_size) != fileBytes(header.frames, header.channels)) {
    ::close(fd);
    return refuse();
  }
  void* at = ::mmap(nullptr, static_cast<std::size_t>(st.st_size), PROT_READ, MAP_SHARED, fd, 0);
  ::close(fd);
  if (at == MAP_FAILED) return refuse();
  std::shared_ptr<DecodedMedia> m(new DecodedMedia);
  m->mapping_ = at;
  m->mappedBytes_ = static_cast<std::size_t>(st.st_size);
  m->rate_ = header.rate;
  m->length_ = Frames{header.frames};
  const auto* samples = reinterpret_cast<const float*>(static_cast<const char*>(at) + sizeof(CacheHeader));
  for (int c = 0; c < header.channels; ++c)
    m->data_.emplace_back(samples + c * header.frames, static_cast<std::size_t>(header.frames));
  m->peaks_ = pyramidsAt(reinterpret_cast<const char*>(samples + header.channels * header.frames), header.frames,
                         header.channels);
  return m;
}

std::shared_ptr<const DecodedMedia> DecodedMedia::fromSamples(int rate, std::vector<std::vector<float>> channels) {
  std::shared_ptr<DecodedMedia> m(new DecodedMedia);
  m->rate_ = rate;
  m->owned_ = std::move(channels);
  m->length_ = Frames{static_cast<std::int64_t>(m->owned_.empty() ? 0 : m->owned_.front().size())};
  for (const auto& c : m->owned_) {
    m->data_.emplace_back(c);
    PeakBuilder builder;
    builder.add(c);
    m->ownedPeaks_.push_back(builder.finish());
  }
  for (const auto& channel : m->ownedPeaks_) m->peaks_.push_back({{channel.begin(), channel.end()}});
  return m;
}

Result<std::string> fingerprint(const std::filesystem::path& file) {
  std::ifstream in(file, std::ios::binary | std::ios::ate);
  if (!in) return fail(ErrorKind::notFound, file.string() + ": there is no such file. Check the name and the folder.");
  const auto size = static_cast<std::int64_t>(in.tellg());
  constexpr std::int64_t kSample = 256 * 1024;
  std::uint64_t hash = 14695981039346656037ull;  // FNV-1a, 64 bits
  std::vector<char> block(kSample);
  for (const auto at : {std::int64_t{0}, std::max<std::int64_t>(0, size - kSample)}) {
    in.clear();
    in.seekg(at);
    in.read(block.data(), kSample);
    for (std::streamsize i = 0; i < in.gcount(); ++i)
      hash = (hash ^ static_cast<unsigned char>(block[static_cast<std::size_t>(i)])) * 1099511628211ull;
  }
  char text[40];
  std::snprintf(text, sizeof text, "%016llx-%llx", static_cast<unsigned long long>(hash),
                static_cast<unsigned long long>(size));
  return std::string(text);
}

Result<std::shared_ptr<const DecodedMedia>> decodeMedia(const std::filesystem::path& source,
                                                        const std::filesystem::path& cacheFolder, int rate,
                                                        Progress& progress) {
  auto print = fingerprint(source);
  if (!print) return tl::unexpected(print.error());
  const auto target = cacheFolder / (*print + "-" + std::to_string(rate) + ".decoded");
  if (auto there = DecodedMedia::map(target)) return there;

  auto reader = AudioFileReader::open(source);
  if (!reader) return tl::unexpected(reader.error());
  const auto& info = reader->info();
  const auto frames =
      info.rate == rate
          ? info.length.value
          : static_cast<std::int64_t>(std::llround(static_cast<double>(info.length.value) * rate / info.rate));
  std::error_code ec;
  std::filesystem::create_directories(cacheFolder, ec);
  const auto beside = target.string() + ".part" + std::to_string(::getpid()) + "-" +
                      std::to_string(reinterpret_cast<std::uintptr_t>(&progress));
  auto file = WritableMap::create(beside, fileBytes(frames, info.channels));
  if (!file) return cacheFailed(target);
  CacheHeader header;
  header.rate = rate;
  header.channels = info.channels;
  header.frames = frames;
  std::memcpy(file->bytes(), &header, sizeof header);
  PlanarSink sink(file->bytes(), frames, info.channels);
  if (auto ok = decodeInto(*reader, rate, sink, progress); !ok) {
    auto error = ok.error();
    if (error.kind == ErrorKind::badInput && error.message.find(source.filename().string()) == std::string::npos)
      error.message = source.filename().string() + ": " + error.message;
    return tl::unexpected(std::move(error));
  }
  sink.writePeaks();
  if (!file->keepAs(target)) return cacheFailed(target);
  return DecodedMedia::map(target);
}

}  // namespace ochron
