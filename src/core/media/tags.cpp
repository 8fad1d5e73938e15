#include "media/tags.h"

#include <aifffile.h>
#include <flacfile.h>
#include <mpegfile.h>
#include <tpropertymap.h>
#include <vorbisfile.h>
#include <wavfile.h>

#include <cmath>
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
    case FileFormat::aiff: return std::make_unique<TagLib::RIFF::AIFF::File>(name, kProperties);
    case FileFormat::mp3: return std::make_unique<TagLib::MPEG::File>(name, kProperties);
    case FileFormat::wav: return std::make_unique<TagLib::RIFF::WAV::File>(name, kProperties);
    default: return nullptr;
  }
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

bool tagBpm(const std::filesystem::path& file, FileFormat format, double bpm) {
  const auto tags = openTags(file, format);
  if (!tags || !tags->isValid()) return false;
  auto all = tags->properties();
  // ID3 holds whole numbers only (ID3v2.4, TBPM).
  const auto text = written(bpm, format == FileFormat::aiff);
  all.replace("BPM", TagLib::StringList(TagLib::String(text, TagLib::String::UTF8)));
  tags->setProperties(all);
  return tags->save();
}

}  // namespace ochron
