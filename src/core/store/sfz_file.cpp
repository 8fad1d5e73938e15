#include "store/sfz_file.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <set>

#include "base/numbers.h"
#include "base/text.h"
#include "files/atomic_file.h"
#include "files/file_names.h"
#include "terms/general_midi.h"

namespace ochron {

namespace fs = std::filesystem;

namespace {

constexpr std::size_t kLargestSfz = std::size_t{8} << 20;
constexpr std::size_t kMostRegions = 4096;
constexpr double kMostVelocity = 127;

/// What is read, and what says nothing about a sound that is played once.
constexpr std::array<std::string_view, 26> kRead{
    "sample",       "default_path", "lovel",        "hivel", "lorand",          "hirand",    "seq_length",
    "seq_position", "key",          "lokey",        "hikey", "pitch_keycenter", "transpose", "tune",
    "volume",       "pan",          "offset",       "end",   "group",           "off_by",    "off_mode",
    "loop_mode",    "trigger",      "amp_veltrack", "gain",  "pitch_keytrack"};

bool isNameByte(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' || c == '$';
}

/// Without what follows //, and without /* */.
std::string withoutComments(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size(); ++i) {
    if (text.substr(i, 2) == "//") {
      while (i < text.size() && text[i] != '\n') ++i;
      out += '\n';
    } else if (text.substr(i, 2) == "/*") {
      const auto end = text.find("*/", i + 2);
      if (end == std::string_view::npos) break;
      i = end + 1;
    } else {
      out += text[i];
    }
  }
  return out;
}

/// A line's "#define $NAME value" takes effect in the lines below.
class Definitions {
 public:
  bool define(std::string_view line) {
    line = trimmed(line);
    if (!line.starts_with("#define")) return false;
    line = trimmed(line.substr(7));
    const auto blank = line.find_first_of(" \t");
    if (blank != std::string_view::npos && line.starts_with('$'))
      values_[std::string(line.substr(0, blank))] = std::string(trimmed(line.substr(blank)));
    return true;
  }
  std::string filledIn(std::string_view line) const {
    std::string out(line);
    // Longer names first: $KEYS is not $KEY with an S.
    for (auto d = values_.rbegin(); d != values_.rend(); ++d)
      for (auto at = out.find(d->first); at != std::string::npos && out.size() < kLongestLine;
           at = out.find(d->first, at + d->second.size()))
        out.replace(at, d->first.size(), d->second);
    return out;
  }

 private:
  static constexpr std::size_t kLongestLine = 65'536;
  std::map<std::string, std::string> values_;
};

/// Where the next "name=" or "<" begins in a line, from a place on.
std::size_t nextWord(std::string_view line, std::size_t from) {
  for (auto i = from; i < line.size(); ++i) {
    if (line[i] == '<') return i;
    if (line[i] != '=') continue;
    auto begin = i;
    while (begin > from && isNameByte(line[begin - 1])) --begin;
    if (begin < i && begin > from && (line[begin - 1] == ' ' || line[begin - 1] == '\t')) return begin;
  }
  return line.size();
}

double numberOf(const SfzRegion& r, const char* key, double fallback) {
  const auto found = r.find(key);
  return found == r.end() ? fallback : parseNumber(found->second).value_or(fallback);
}

/// A key by its number or name (c4 is 60).
int keyOf(const SfzRegion& r, const char* key, int fallback) {
  const auto found = r.find(key);
  if (found == r.end() || found->second.empty()) return fallback;
  if (const auto n = parseNumber(found->second)) return static_cast<int>(std::clamp(*n, -1.0, 127.0));
  constexpr std::array<int, 7> kSteps{9, 11, 0, 2, 4, 5, 7};
  const auto& text = found->second;
  const char letter = static_cast<char>(text[0] | 0x20);
  if (letter < 'a' || letter > 'g') return fallback;
  int step = kSteps[static_cast<std::size_t>(letter - 'a')];
  std::size_t at = 1;
  if (at < text.size() && (text[at] == '#' || text[at] == 'b')) step += text[at++] == '#' ? 1 : -1;
  const auto octave = parseNumber(text.substr(at));
  return octave ? static_cast<int>(std::clamp(12 * (*octave + 1) + step, 0.0, 127.0)) : fallback;
}

struct Keys {
  int low, high;
};
Keys keysOf(const SfzRegion& r) {
  const int key = keyOf(r, "key", -1);
  return {keyOf(r, "lokey", key >= 0 ? key : 0), keyOf(r, "hikey", key >= 0 ? key : 127)};
}

/// The key that a drum is played by in these regions.
int playedKey(const std::vector<SfzRegion>& regions, std::optional<DrumClass> drum) {
  int lowest = 127;
  for (const auto& r : regions) lowest = std::min(lowest, keysOf(r).low);
  if (drum)
    for (int key = 0; key < 128; ++key)
      if (drumOfKey(key) == *drum)
        for (const auto& r : regions)
          if (keysOf(r).low <= key && key <= keysOf(r).high) return key;
  return lowest;
}

bool sounds(const SfzRegion& r) {
  const auto trigger = r.find("trigger");
  return r.contains("sample") && (trigger == r.end() || trigger->second == "attack" || trigger->second == "first");
}

/// Backslashes are folders there.
fs::path samplePath(const fs::path& file, const SfzRegion& r) {
  std::string name;
  if (const auto folder = r.find("default_path"); folder != r.end()) name = folder->second;
  name += r.at("sample");
  std::replace(name.begin(), name.end(), '\\', '/');
  return (file.parent_path() / name).lexically_normal();
}

double bounded(const SettingRange& range, double v) { return range.clamp(v); }

SoundSetFile::Entry entryOf(const SfzRegion& r, int key) {
  SoundSetFile::Entry e;
  e.from = Frames{static_cast<std::int64_t>(std::clamp(numberOf(r, "offset", 0), 0.0, 1e9))};
  const double end = numberOf(r, "end", 0);
  e.to = Frames{end > 0 ? static_cast<std::int64_t>(std::min(end, 1e9)) + 1 : 0};
  auto& s = e.sound;
  s.name = fs::path(r.at("sample")).stem().string();
  const double low = numberOf(r, "lovel", 0);
  s.low = std::clamp((low <= 1 ? 0 : low) / kMostVelocity, 0.0, 1.0);
  s.high = std::clamp(numberOf(r, "hivel", kMostVelocity) / kMostVelocity, s.low, 1.0);
  s.gainDb = bounded(kStrokeGainRange, numberOf(r, "volume", 0) + numberOf(r, "gain", 0));
  s.pan = bounded(kPanRange, numberOf(r, "pan", 0));
  const double centre = keyOf(r, "pitch_keycenter", keyOf(r, "key", key));
  const double track = numberOf(r, "pitch_keytrack", 100);
  s.cents =
      bounded(kLayerPitchRange, track * (key - centre) + 100 * numberOf(r, "transpose", 0) + numberOf(r, "tune", 0));
  return e;
}

}  // namespace

std::vector<SfzRegion> sfzRegions(std::string_view text) {
  constexpr std::array<std::string_view, 5> kLevels{"control", "global", "master", "group", "region"};
  std::array<SfzRegion, kLevels.size()> levels;
  std::size_t level = 0;
  std::vector<SfzRegion> out;
  bool open = false;
  const auto close = [&] {
    if (!open || out.size() >= kMostRegions) return;
    SfzRegion whole;
    for (const auto& l : levels)
      for (const auto& [key, value] : l) whole[key] = value;
    out.push_back(std::move(whole));
    open = false;
  };
  const auto begin = [&](std::string_view header) {
    close();
    const auto found = std::find(kLevels.begin(), kLevels.end(), header);
    if (found == kLevels.end()) {
      level = kLevels.size();  // of something else: its words are not for regions
      return;
    }
    level = static_cast<std::size_t>(found - kLevels.begin());
    for (auto l = level; l < levels.size(); ++l)
      if (l > 0 || level == 0) levels[l].clear();
    open = level == kLevels.size() - 1;
  };
  Definitions definitions;
  const auto plain = withoutComments(text);
  std::string_view rest = plain;
  while (!rest.empty()) {
    const auto end = std::min(rest.find('\n'), rest.size());
    const auto raw = rest.substr(0, end);
    rest.remove_prefix(std::min(end + 1, rest.size()));
    if (definitions.define(raw)) continue;
    const auto line = definitions.filledIn(raw);
    std::string_view todo = trimmed(line);
    while (!todo.empty()) {
      if (todo.front() == '<') {
        const auto stop = todo.find('>');
        if (stop == std::string_view::npos) break;
        begin(todo.substr(1, stop - 1));
        todo = trimmed(todo.substr(stop + 1));
        continue;
      }
      const auto next = nextWord(todo, 1);
      const auto word = trimmed(todo.substr(0, next));
      const auto equals = word.find('=');
      if (equals != std::string_view::npos && level < levels.size())
        levels[level][std::string(trimmed(word.substr(0, equals)))] = std::string(trimmed(word.substr(equals + 1)));
      todo = todo.substr(std::min(next, todo.size()));
    }
  }
  close();
  return out;
}

Result<SoundSetFile> readSoundSet(const fs::path& file, std::optional<DrumClass> drum) {
  SoundSetFile out;
  out.name = file.stem().string();
  out.origin = file.string();
  if (endingOf(file) != ".sfz") {
    out.files.push_back(file);
    auto& only = out.entries.emplace_back();
    only.sound.name = out.name;
    return out;
  }
  const auto text = readWholeFile(file, kLargestSfz);
  if (!text) return tl::unexpected(text.error());
  auto regions = sfzRegions(*text);
  std::erase_if(regions, [](const SfzRegion& r) { return !sounds(r); });
  if (regions.empty())
    return fail(ErrorKind::badInput,
                shownPath(file) + ": there is no region with a sample in it. Choose another instrument.");
  const int key = playedKey(regions, drum);
  std::set<std::string> unknown;
  std::map<fs::path, std::size_t> known;
  for (const auto& r : regions) {
    for (const auto& [word, value] : r)
      if (std::find(kRead.begin(), kRead.end(), word) == kRead.end()) unknown.insert(word);
    if (keysOf(r).low > key || keysOf(r).high < key) continue;
    auto e = entryOf(r, key);
    const auto sample = samplePath(file, r);
    std::error_code none;
    if (!fs::is_regular_file(sample, none))
      return fail(ErrorKind::notFound, shownPath(file) + ": its sample " + shownPath(sample) +
                                           " is not there. Put it back, or choose another instrument.");
    const auto [at, fresh] = known.try_emplace(sample, out.files.size());
    if (fresh) out.files.push_back(sample);
    e.file = at->second;
    out.entries.push_back(std::move(e));
  }
  out.notUnderstood.assign(unknown.begin(), unknown.end());
  return out;
}

std::string sfzText(const std::vector<SfzSound>& sounds) {
  std::string out = "// One region for each sound.\n<control>\n<global>\nloop_mode=one_shot\n";
  for (const auto& s : sounds) {
    out += "\n<region>\nsample=" + s.sample + "\nkey=" + std::to_string(s.key) + "\n";
    if (s.lowVelocity != 1 || s.highVelocity != static_cast<int>(kMostVelocity))
      out += "lovel=" + std::to_string(s.lowVelocity) + "\nhivel=" + std::to_string(s.highVelocity) + "\n";
    if (s.gainDb != 0) out += "volume=" + fixed(s.gainDb, 2) + "\n";
    if (s.pan != 0) out += "pan=" + fixed(s.pan, 1) + "\n";
    if (s.cents != 0) out += "tune=" + fixed(s.cents, 0) + "\n";
    if (s.choke > 0) out += "group=" + std::to_string(s.choke) + "\noff_by=" + std::to_string(s.choke) + "\n";
  }
  return out;
}

}  // namespace ochron
