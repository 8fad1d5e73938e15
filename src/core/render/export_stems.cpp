#include "render/export_stems.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "base/numbers.h"
#include "files/file_names.h"
#include "song/insert_place.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

using Words = std::map<std::string, std::string>;

std::string knownWords() {
  std::string out;
  for (const auto word : kNameWords) out += (out.empty() ? "{" : ", {") + std::string(word) + "}";
  return out;
}

Result<std::string> filled(const std::string& pattern, const Words& words) {
  std::string out;
  for (std::size_t at = 0; at < pattern.size(); ++at) {
    if (pattern[at] != '{') {
      out += pattern[at];
      continue;
    }
    const auto end = pattern.find('}', at);
    const auto word = pattern.substr(at + 1, end == std::string::npos ? end : end - at - 1);
    if (end == std::string::npos || std::find(kNameWords.begin(), kNameWords.end(), word) == kNameWords.end())
      return fail(ErrorKind::badInput, "\"" + pattern + "\" is no pattern for names: {" + word +
                                           " stands for nothing. What does: " + knownWords() + ".");
    if (const auto known = words.find(word); known != words.end()) out += known->second;
    at = end;
  }
  return out;
}

std::string twoDigits(std::size_t n) { return (n < 10 ? "0" : "") + std::to_string(n); }

/// Names of files in one folder, each once.
class Names {
 public:
  Names(const Song& song, const ExportSettings& settings, fs::path folder)
      : settings_(settings), folder_(std::move(folder)) {
    words_["song"] = song.name;
    words_["tempo"] = fixed(song.tempo.bpmAt(song.tempo.toTicks(settings.range.start)), 2);
    while (words_["tempo"].back() == '0') words_["tempo"].pop_back();
    if (words_["tempo"].back() == '.') words_["tempo"].pop_back();
    words_["rate"] = std::to_string(settings.rate > 0 ? settings.rate : song.rate);
  }
  Result<void> give(ExportStem& stem, const Words& own, const std::string& usual) {
    auto words = words_;
    words["number"] = twoDigits(++given_);
    for (const auto& [word, text] : own) words[word] = text;
    auto name = filled(settings_.names.empty() ? usual : settings_.names, words);
    if (!name) return tl::unexpected(name.error());
    const auto safe = fileNameFor(*name);
    auto once = safe;
    for (int n = 2; !used_.insert(once).second; ++n) once = safe + " " + std::to_string(n);
    stem.files.push_back({settings_.format, folder_ / (once + extensionOf(settings_.format))});
    for (const auto format : settings_.also)
      if (format != settings_.format) stem.files.push_back({format, folder_ / (once + extensionOf(format))});
    return {};
  }

 private:
  const ExportSettings& settings_;
  fs::path folder_;
  Words words_;
  std::set<std::string> used_;
  std::size_t given_ = 0;
};

struct Section {
  FrameRange range;
  std::string name;
};

/// The sections in a range; where there are none, what lies from marker to marker.
std::vector<Section> sectionsIn(const Song& song, FrameRange range) {
  std::vector<Section> out;
  auto marks = song.markers;
  std::stable_sort(marks.begin(), marks.end(), [](const Marker& a, const Marker& b) { return a.at < b.at; });
  const bool sections = std::any_of(marks.begin(), marks.end(), [](const Marker& m) { return m.length.value > 0; });
  for (std::size_t i = 0; i < marks.size(); ++i) {
    const auto& m = marks[i];
    if (sections && m.length.value == 0) continue;
    const auto end = sections               ? song.tempo.toFrames(m.end())
                     : i + 1 < marks.size() ? song.tempo.toFrames(marks[i + 1].at)
                                            : range.end;
    const FrameRange part{std::max(range.start, song.tempo.toFrames(m.at)), std::min(range.end, end)};
    if (part.start < part.end) out.push_back({part, m.name});
  }
  return out;
}

bool isMeant(const Clip& clip, const ExportSettings& s) {
  return s.clips.empty() ? s.range.contains(clip.start)
                         : std::find(s.clips.begin(), s.clips.end(), clip.id) != s.clips.end();
}

ExportStem sideBySide(const Song& song, const MicSet& set, FrameRange range) {
  ExportStem stem{set.tracks, range, 0, {}};
  for (const auto t : set.tracks) stem.channels += channelsOf(song, t);
  return stem;
}

}  // namespace

int channelsOf(const Song& song, TrackId track) {
  int wide = 1;
  if (!insertsOf(song, track).empty()) return 2;
  if (const auto* layer = song.layerOn(track)) {
    if (layer->settings.pan != 0) return 2;
    for (const auto& sound : layer->sounds->sounds) {
      const auto* media = song.find(sound.media);
      if (sound.pan != 0 || (media && media->channels > 1)) return 2;
    }
    return 1;
  }
  if (const auto* set = song.setOf(track))
    for (const auto& c : *set->clips) {
      if (c.pan != 0) return 2;
      const auto* mic = song.micFor(*set, c, track);
      const auto* media = mic ? song.find(mic->media) : nullptr;
      if (media) wide = std::max(wide, std::min(2, media->channels));
    }
  return wide;
}

Result<std::vector<ExportStem>> exportStems(const Song& song, const ExportSettings& s, const fs::path& target) {
  if (s.range.empty())
    return fail(ErrorKind::badInput, "There is nothing to export: the range is empty. Choose a longer range.");
  std::vector<ExportStem> out;
  Names names(song, s, target);
  const auto add = [&](ExportStem stem, const Words& words, const std::string& usual) -> Result<void> {
    if (auto ok = names.give(stem, words, usual); !ok) return ok;
    out.push_back(std::move(stem));
    return {};
  };
  const int mixed = s.mono ? 1 : 2;
  switch (s.what) {
    case ExportWhat::mix: {
      ExportStem mix{{}, s.range, mixed, {{s.format, target}}};
      for (const auto format : s.also)
        if (format != s.format) mix.files.push_back({format, fs::path(target).replace_extension(extensionOf(format))});
      out.push_back(std::move(mix));
      break;
    }
    case ExportWhat::tracks:
      for (const auto& t : song.tracks) {
        const auto* set = song.setOf(t.id);
        if (!set) continue;
        const int wide = s.mono ? 1 : channelsOf(song, t.id);
        if (auto ok = add({{t.id}, s.range, wide, {}}, {{"track", t.name}, {"set", set->name}}, "{track}"); !ok)
          return tl::unexpected(ok.error());
      }
      break;
    case ExportWhat::sets:
      for (const auto& set : song.sets) {
        if (set.tracks.empty()) continue;
        if (auto ok = add(sideBySide(song, set, s.range), {{"set", set.name}}, "{set}"); !ok)
          return tl::unexpected(ok.error());
      }
      break;
    case ExportWhat::sections:
      for (const auto& [range, name] : sectionsIn(song, s.range))
        if (auto ok = add({{}, range, mixed, {}}, {{"section", name}}, "{number} {section}"); !ok)
          return tl::unexpected(ok.error());
      if (out.empty())
        return fail(ErrorKind::badInput,
                    "There are no sections or markers in this range. Set some over the lanes, or export the mix.");
      break;
    case ExportWhat::clips:
      for (const auto& set : song.sets) {
        if (set.tracks.empty()) continue;
        auto stem = sideBySide(song, set, {});
        for (const auto& c : *set.clips) {
          if (c.muted || !isMeant(c, s)) continue;
          stem.range = c.range();
          const Words words{{"set", set.name}, {"clip", c.extras->name.empty() ? set.name : c.extras->name}};
          if (auto ok = add(stem, words, "{clip} {number}"); !ok) return tl::unexpected(ok.error());
        }
      }
      if (out.empty())
        return fail(ErrorKind::badInput, "No clip that is heard begins in this range. Choose a longer one.");
      break;
  }
  if (out.empty()) return fail(ErrorKind::badInput, "There is nothing to export: the song has no tracks.");
  for (auto& stem : out) stem.tail = Frames{std::llround(s.tailSeconds * song.rate)};
  return out;
}

WriteFormat formatOf(const ExportSettings& s, const ExportStem& stem, FileFormat format, int songRate) {
  return {format,        s.samples, rateFor(format, s.rate > 0 ? s.rate : songRate),
          stem.channels, {},        s.dither && s.samples != SampleFormat::pcm32,
          s.quality};
}

}  // namespace ochron
