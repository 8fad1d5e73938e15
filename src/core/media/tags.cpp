#include "media/tags.h"

#include <aifffile.h>
#include <chapterframe.h>
#include <flacfile.h>
#include <id3v2tag.h>
#include <mpegfile.h>
#include <opusfile.h>
#include <tableofcontentsframe.h>
#include <textidentificationframe.h>
#include <tpropertymap.h>
#include <vorbisfile.h>
#include <wavfile.h>

#include <array>
#include <cmath>
#include <cstdio>
#include <memory>
#include <sstream>

#include "base/numbers.h"

namespace ochron {
namespace {

/// By what the file is, not by its name; without its sound's properties, which are known already.
std::unique_ptr<TagLib::File> openTags(const std::filesystem::path& path, FileFormat format) {
  const auto* name = path.c_str();
  constexpr bool kProperties = false;
  switch (format) {
    case FileFormat::flac: return std::make_unique<TagLib::FLAC::File>(name, kProperties);
    case FileFormat::ogg: return std::make_unique<TagLib::Ogg::Vorbis::File>(name, kProperties);
    case FileFormat::opus: return std::make_unique<TagLib::Ogg::Opus::File>(name, kProperties);
    case FileFormat::aiff: return std::make_unique<TagLib::RIFF::AIFF::File>(name, kProperties);
    case FileFormat::mp3: return std::make_unique<TagLib::MPEG::File>(name, kProperties);
    case FileFormat::wav: return std::make_unique<TagLib::RIFF::WAV::File>(name, kProperties);
    default: return nullptr;
  }
}

/// As ID3 has it (ID3v2.4, TKEY): "Bb", "F#m".
std::string written(const FileKey& key) {
  constexpr std::array kTonics{"C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"};
  return std::string(kTonics[static_cast<std::size_t>(key.tonic) % kTonics.size()]) + (key.minor ? "m" : "");
}

std::string written(double bpm, bool whole) {
  std::ostringstream out;
  out.imbue(std::locale::classic());
  out << (whole ? std::round(bpm) : std::round(bpm * 1000) / 1000);
  return out.str();
}

}  // namespace

std::optional<double> taggedBpm(const std::filesystem::path& file, FileFormat format) {
  const auto tags = openTags(file, format);
  if (!tags || !tags->isValid()) return {};
  const auto all = tags->properties();
  for (const char* key : {"BPM", "TEMPO"}) {
    const auto found = all.find(key);
    if (found == all.end() || found->second.isEmpty()) continue;
    const auto bpm = parseNumber(found->second.front().to8Bit(true));
    if (bpm && *bpm >= kLowestTaggedBpm && *bpm <= kHighestTaggedBpm) return bpm;
  }
  return {};
}

namespace {

TagLib::String utf8(const std::string& text) { return {text, TagLib::String::UTF8}; }

/// "00:01:02.345", as chapter comments have it.
std::string clockText(double seconds) {
  const auto ms = std::llround(seconds * 1000);
  std::array<char, 32> text{};
  std::snprintf(text.data(), text.size(), "%02lld:%02lld:%02lld.%03lld", ms / 3'600'000, ms / 60'000 % 60,
                ms / 1000 % 60, ms % 1000);
  return text.data();
}

void putChapterComments(TagLib::PropertyMap& all, const std::vector<FileMarker>& chapters, int rate) {
  for (std::size_t i = 0; i < chapters.size(); ++i) {
    std::array<char, 32> key{};
    std::snprintf(key.data(), key.size(), "CHAPTER%03zu", i + 1);
    const TagLib::String name(key.data());
    all.replace(name, TagLib::StringList(clockText(static_cast<double>(chapters[i].at.value) / rate)));
    all.replace(name + "NAME", TagLib::StringList(utf8(chapters[i].name)));
  }
}

/// Each chapter ends where the next begins.
void putChapterFrames(TagLib::ID3v2::Tag& to, const std::vector<FileMarker>& chapters, int rate, Frames length) {
  namespace id3 = TagLib::ID3v2;
  constexpr unsigned kNoBytes = 0xFFFF'FFFF;
  const auto ms = [&](Frames at) { return static_cast<unsigned>(at.value * 1000 / rate); };
  TagLib::ByteVectorList ids;
  for (std::size_t i = 0; i < chapters.size(); ++i) {
    const auto id = TagLib::ByteVector(("chapter " + std::to_string(i + 1)).c_str());
    const auto end = i + 1 < chapters.size() ? chapters[i + 1].at : length;
    auto* title = new id3::TextIdentificationFrame("TIT2", TagLib::String::UTF8);
    title->setText(utf8(chapters[i].name));
    id3::FrameList inside;
    inside.append(title);
    to.addFrame(new id3::ChapterFrame(id, ms(chapters[i].at), ms(end), kNoBytes, kNoBytes, inside));
    ids.append(id);
  }
  auto* table = new id3::TableOfContentsFrame("contents", ids);
  table->setIsTopLevel(true);
  table->setIsOrdered(true);
  to.addFrame(table);
}

}  // namespace

bool writeTags(const std::filesystem::path& file, FileFormat format, const FileTags& told, int rate, Frames length) {
  const auto tags = openTags(file, format);
  if (!tags || !tags->isValid()) return false;
  auto all = tags->properties();
  // ID3 holds whole numbers only (ID3v2.4, TBPM).
  const bool id3 = format == FileFormat::aiff || format == FileFormat::mp3;
  if (told.bpm) all.replace("BPM", TagLib::StringList(utf8(written(*told.bpm, id3))));
  if (told.key) all.replace("INITIALKEY", TagLib::StringList(utf8(written(*told.key))));
  if (!id3) putChapterComments(all, told.chapters, rate);
  tags->setProperties(all);
  if (auto* mpeg = dynamic_cast<TagLib::MPEG::File*>(tags.get()); mpeg && !told.chapters.empty())
    putChapterFrames(*mpeg->ID3v2Tag(true), told.chapters, rate, length);
  return tags->save();
}

}  // namespace ochron
