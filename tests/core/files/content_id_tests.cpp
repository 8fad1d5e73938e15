#include "files/content_id.h"

#include <gtest/gtest.h>

#include <fstream>
#include <random>

#include "base/text.h"
#include "files/file_names.h"
#include "support/scratch.h"

namespace ochron {
namespace {
using test::Scratch;

std::string idOf(const std::filesystem::path& file) {
  Progress progress;
  const auto id = contentId(file, progress);
  EXPECT_TRUE(id);
  return id.value_or("");
}

TEST(ContentId, AnyByteAnywhereMakesAnotherOne) {
  const Scratch scratch;
  std::string bytes(3 << 20, '\0');  // silent at both ends, as stems from bar 1 are
  const auto put = [&] { std::ofstream(scratch / "a", std::ios::binary) << bytes; };
  put();
  const auto first = idOf(scratch / "a");
  EXPECT_TRUE(isContentId(first)) << first;
  for (const std::size_t at : {std::size_t{0}, std::size_t{300'000}, std::size_t{1'500'000}, bytes.size() - 1}) {
    bytes[at] = 1;
    put();
    EXPECT_NE(idOf(scratch / "a"), first) << at;
    bytes[at] = 0;
  }
  put();
  std::filesystem::rename(scratch / "a", scratch / "b");
  EXPECT_EQ(idOf(scratch / "b"), first) << "a name is no content";
}

TEST(ContentId, OlderNamesAreTold) {
  for (const char* old : {"", "8f3a", "xxh3-", "xxh3-12-3", "sha-00112233445566778899aabbccddeeff-10"})
    EXPECT_FALSE(isContentId(old)) << old;
}

TEST(ContentId, CancelAndMissingFilesAreErrors) {
  const Scratch scratch;
  std::ofstream(scratch / "a") << std::string(1 << 20, 'x');
  Progress progress;
  progress.cancel();
  const auto r = contentId(scratch / "a", progress);
  ASSERT_FALSE(r);
  EXPECT_EQ(r.error().kind, ErrorKind::cancelled);
  Progress fresh;
  EXPECT_FALSE(contentId(scratch / "none", fresh));
  EXPECT_FALSE(contentId(scratch.path(), fresh));
}

TEST(ContentHash, DoesNotDependOnHowTheBytesAreCut) {
  std::mt19937 dice(5);
  std::string bytes(100'000, 0);
  for (auto& b : bytes) b = static_cast<char>(dice());
  for (const std::size_t cut : {1u, 7u, 4096u, 99'999u}) {
    ContentHash hash;
    for (std::size_t at = 0; at < bytes.size(); at += cut)
      hash.add(bytes.data() + at, std::min(cut, bytes.size() - at));
    EXPECT_EQ(hash.value(), hashOf(bytes.data(), bytes.size())) << cut;
  }
}

TEST(ContentIndex, RemembersWhatHasNotChangedAndNoticesWhatHas) {
  const Scratch scratch;
  const auto file = scratch / "a.wav";
  std::ofstream(file) << std::string(50'000, 'x');
  Progress progress;
  std::string id;
  {
    ContentIndex index(scratch / "index");
    id = *index.of(file, progress);
    index.keep();
  }
  EXPECT_TRUE(std::filesystem::exists(scratch / "index"));
  // Read from the index alone: the progress is cancelled, so reading the file would fail.
  Progress none;
  none.cancel();
  ContentIndex index(scratch / "index");
  const auto known = index.of(file, none);
  ASSERT_TRUE(known);
  EXPECT_EQ(*known, id);
  std::ofstream(file) << std::string(50'000, 'y');  // same size
  const auto changed = index.of(file, progress);
  ASSERT_TRUE(changed);
  EXPECT_NE(*changed, id);
}

TEST(ContentIndex, ADamagedIndexCountsAsEmpty) {
  const Scratch scratch;
  std::ofstream(scratch / "a") << "content";
  Progress progress;
  for (const char* text : {"", "{", "[]", R"({"files": 7})", "\xff"}) {
    std::ofstream(scratch / "index") << text;
    ContentIndex index(scratch / "index");
    const auto id = index.of(scratch / "a", progress);
    ASSERT_TRUE(id) << text;
    EXPECT_EQ(*id, idOf(scratch / "a"));
  }
}

TEST(FileNames, HoldNothingThatAFileSystemRefuses) {
  const std::vector<std::string> texts{
      "../kick", "a/b\\c", "..", "", "/", std::string("nul\0byte", 8), std::string(400, 'x'), "new\nline", "\xff\xfe"};
  for (const auto& text : texts) {
    const auto name = fileNameFor(text);
    EXPECT_FALSE(name.empty());
    EXPECT_LE(name.size(), 120u);
    EXPECT_FALSE(name.starts_with("."));
    EXPECT_EQ(name.find_first_of(std::string("/\\\0\n", 4)), std::string::npos) << name;
  }
}

TEST(FileNames, KnowMidiHoweverItIsWritten) {
  for (const char* name : {"a.mid", "a.MID", "a.midi", "A.Midi"}) EXPECT_TRUE(isMidiName(name)) << name;
  for (const char* name : {"a.json", "mid", "a.mid.json", ".mid"}) EXPECT_FALSE(isMidiName(name)) << name;
}

TEST(FileNames, BytesThatAreNoTextCanBeShown) {
  EXPECT_TRUE(isUtf8(shownPath("/tmp/\xff\xfe/caf\xc3\xa9")));
  EXPECT_FALSE(isUtf8("\xc0\xaf"));
  EXPECT_FALSE(isUtf8("\xed\xa0\x80"));
  EXPECT_TRUE(isUtf8("caf\xc3\xa9"));
}

}  // namespace
}  // namespace ochron
