#include "files/content_id.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <xxhash.h>

#include <array>
#include <cstdio>
#include <cstring>
#include <memory>
#include <utility>
#include <vector>

#include "files/atomic_file.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr std::size_t kBlock = std::size_t{1} << 20;
constexpr std::size_t kMostEntries = 20'000;
constexpr std::size_t kLargestIndex = std::size_t{1} << 26;
constexpr const char* kStart = "xxh3-";

std::string stateOf(const struct stat& st) {
  std::array<char, 160> text{};
  std::snprintf(text.data(), text.size(), "%lld %lld.%09ld %lld.%09ld %llu", static_cast<long long>(st.st_size),
                static_cast<long long>(st.st_mtim.tv_sec), st.st_mtim.tv_nsec,
                static_cast<long long>(st.st_ctim.tv_sec), st.st_ctim.tv_nsec,
                static_cast<unsigned long long>(st.st_ino));
  return text.data();
}

std::string nameOf(XXH128_hash_t hash, std::uint64_t size) {
  std::array<char, 64> text{};
  std::snprintf(text.data(), text.size(), "%s%016llx%016llx-%llx", kStart, static_cast<unsigned long long>(hash.high64),
                static_cast<unsigned long long>(hash.low64), static_cast<unsigned long long>(size));
  return text.data();
}

}  // namespace

Result<std::string> contentId(const fs::path& file, Progress& progress) {
  if (auto ok = checkReadable(file); !ok) return tl::unexpected(ok.error());
  const auto failed = [&] {
    return fail(ErrorKind::ioFailed, file.string() + " could not be read. Check its rights and the disk.",
                std::strerror(errno));
  };
  const int fd = ::open(file.c_str(), O_RDONLY | O_CLOEXEC);
  if (fd < 0) return failed();
  struct stat st {};
  ::fstat(fd, &st);
  const std::unique_ptr<XXH3_state_t, XXH_errorcode (*)(XXH3_state_t*)> state(XXH3_createState(), XXH3_freeState);
  XXH3_128bits_reset(state.get());
  std::vector<char> block(kBlock);
  std::uint64_t size = 0;
  for (;;) {
    if (progress.cancelled()) {
      ::close(fd);
      return cancelledError();
    }
    const auto n = ::read(fd, block.data(), block.size());
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) {
      ::close(fd);
      return failed();
    }
    if (n == 0) break;
    XXH3_128bits_update(state.get(), block.data(), static_cast<std::size_t>(n));
    size += static_cast<std::uint64_t>(n);
    progress.report(static_cast<double>(size) / static_cast<double>(std::max<std::int64_t>(1, st.st_size)));
  }
  ::close(fd);
  return nameOf(XXH3_128bits_digest(state.get()), size);
}

std::string contentId(std::span<const char> bytes) {
  return nameOf(XXH3_128bits(bytes.data(), bytes.size()), bytes.size());
}

bool isContentId(const std::string& text) {
  constexpr std::size_t kHashDigits = 32;
  const std::string_view start = kStart;
  const auto dash = start.size() + kHashDigits;
  if (!text.starts_with(start) || text.size() < dash + 2 || text[dash] != '-') return false;
  return text.find_first_not_of("0123456789abcdef-", start.size()) == std::string::npos;
}

ContentHash::ContentHash() : state_(XXH3_createState()) { XXH3_64bits_reset(static_cast<XXH3_state_t*>(state_)); }
ContentHash::~ContentHash() { XXH3_freeState(static_cast<XXH3_state_t*>(state_)); }
ContentHash::ContentHash(ContentHash&& other) noexcept : state_(std::exchange(other.state_, nullptr)) {}
void ContentHash::add(const void* bytes, std::size_t size) {
  XXH3_64bits_update(static_cast<XXH3_state_t*>(state_), bytes, size);
}
std::uint64_t ContentHash::value() const { return XXH3_64bits_digest(static_cast<const XXH3_state_t*>(state_)); }

std::uint64_t hashOf(const void* bytes, std::size_t size) { return XXH3_64bits(bytes, size); }

ContentIndex::ContentIndex(fs::path file) : file_(std::move(file)), known_(read()) {}

// One line a file: state, id and path, parted by tabs.
std::map<std::string, ContentIndex::Entry> ContentIndex::read() const {
  std::map<std::string, Entry> out;
  const auto text = readWholeFile(file_, kLargestIndex);
  if (!text) return out;
  std::size_t at = 0;
  while (at < text->size() && out.size() < kMostEntries) {
    const auto end = std::min(text->find('\n', at), text->size());
    const auto line = text->substr(at, end - at);
    at = end + 1;
    const auto first = line.find('\t');
    const auto second = first == std::string::npos ? first : line.find('\t', first + 1);
    if (second == std::string::npos) continue;
    Entry e{line.substr(0, first), line.substr(first + 1, second - first - 1)};
    if (isContentId(e.id)) out[line.substr(second + 1)] = std::move(e);
  }
  return out;
}

Result<std::string> ContentIndex::of(const fs::path& file, Progress& progress) {
  const auto path = absolutePath(file).string();
  struct stat st {};
  const bool there = ::stat(path.c_str(), &st) == 0;
  const auto state = stateOf(st);
  {
    const std::scoped_lock lock(mutex_);
    const auto known = known_.find(path);
    if (there && known != known_.end() && known->second.state == state) return known->second.id;
  }
  auto id = contentId(file, progress);
  if (!id) return id;
  // What was changed while it was read is not remembered.
  struct stat after {};
  if (::stat(path.c_str(), &after) == 0 && stateOf(after) == state && path.find('\n') == std::string::npos) {
    const std::scoped_lock lock(mutex_);
    known_[path] = {state, *id};
    changed_ = true;
  }
  return id;
}

void ContentIndex::keep() {
  const std::scoped_lock lock(mutex_);
  if (file_.empty() || !changed_) return;
  auto all = read();  // another process may have added some
  for (const auto& [path, entry] : known_) all[path] = entry;
  std::string text;
  std::size_t left = kMostEntries;
  for (const auto& [path, entry] : all) {
    if (left-- == 0) break;
    text += entry.state + "\t" + entry.id + "\t" + path + "\n";
  }
  std::error_code ec;
  fs::create_directories(file_.parent_path(), ec);
  if (writeAtomically(file_, text)) changed_ = false;
}

}  // namespace ochron
