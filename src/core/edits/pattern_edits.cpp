#include "edits/pattern_edits.h"

#include <algorithm>
#include <cmath>
#include <random>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

tl::unexpected<Error> patternGone() { return fail(ErrorKind::notFound, "This pattern is not in the song any more."); }

/// A clip on its way to a place.
struct Laid {
  Frames at;
  Clip clip;
};

/// Lays clips one after the other, each until the next one begins. False when none has any length.
bool layAll(Song& next, MicSet& set, std::vector<Laid> all, FrameRange over, BundleId bundle = {}) {
  std::vector<Clip> laid;
  for (std::size_t i = 0; i < all.size(); ++i) {
    auto& [at, clip] = all[i];
    const auto end = i + 1 < all.size() ? all[i + 1].at : over.end;
    if (end <= at) continue;  // struck again at the same frame: the later one counts
    clip.id = next.newId<ClipTag>();
    clip.start = at;
    if (clip.reversed && clip.length > end - at) clip.source += clip.length - (end - at);
    clip.length = std::min(clip.length, end - at);
    clip.piece.reset();
    clip.bundle = bundle;
    clip.seam = {};
    fitFades(clip);
    laid.push_back(std::move(clip));
  }
  if (laid.empty()) return false;
  ClipList clips = *set.clips;
  clearRange(next, clips, {over.start, std::max(over.end, laid.back().end())});
  for (const auto& clip : laid) placeClip(next, clips, clip);
  tidySeams(next, clips);
  set.clips = std::move(clips);
  return true;
}

/// A pattern's strokes by their drums, and how hard each is.
struct Drum {
  DrumClass drum = DrumClass::other;
  double strength = 0;
};
std::vector<Drum> drumsOf(const Song& song, const Pattern& pattern) {
  std::vector<Drum> out;
  const auto* set = song.find(pattern.set);
  for (const auto& s : *pattern.strokes) {
    const auto hit = set ? song.hitAtStart(*set, s.clip) : std::nullopt;
    out.push_back(hit ? Drum{hit->drum, hit->strength} : Drum{});
  }
  return out;
}

template <class F>
Result<Song> withPattern(const Song& song, PatternId id, F&& change) {
  Song next = song;
  for (auto& p : next.patterns)
    if (p.id == id) {
      change(p);
      return next;
    }
  return patternGone();
}

}  // namespace

Result<Song> layStruck(const Song& song, SetId id, std::vector<Struck> struck, Frames until) {
  if (struck.empty()) return fail(ErrorKind::refused, "Nothing was struck.");
  std::stable_sort(struck.begin(), struck.end(), [](const Struck& a, const Struck& b) { return a.at < b.at; });
  return withSet(song, id, [&](Song& next, MicSet& set) -> Result<void> {
    std::vector<Laid> all;
    for (const auto& s : struck) {
      const auto* from = song.find(s.clip);
      if (!from || song.setOf(s.clip)->id != id) return clipGone();
      if (!kGainRange.accepts(from->gainDb + s.gainDb))
        return fail(ErrorKind::badInput, "The gain of a clip goes from -60 to 24 dB.");
      all.push_back({s.at, *from});
      all.back().clip.gainDb += s.gainDb;
      all.back().clip.muted = false;
    }
    const FrameRange over{all.front().at, until};
    if (!layAll(next, set, std::move(all), over)) return fail(ErrorKind::refused, "Nothing was struck.");
    return {};
  });
}

Result<Song> keepPattern(const Song& song, SetId id, FrameRange range, const std::string& name) {
  if (name.empty()) return fail(ErrorKind::badInput, "A pattern needs a name.");
  if (range.empty()) return fail(ErrorKind::refused, "Choose a range of the song first: it becomes the pattern.");
  const auto* set = song.find(id);
  if (!set) return setGone();
  const auto begin = song.tempo.toTicks(range.start);
  PatternStrokes strokes;
  for (auto clip : partsIn(*set->clips, range)) {
    if (clip.muted) continue;
    const auto at = song.tempo.toTicks(clip.start) - begin;
    clip.start = Frames{};
    clip.piece.reset();
    clip.bundle = {};
    clip.seam = {};
    strokes.push_back({at, std::move(clip)});
  }
  if (strokes.empty())
    return fail(ErrorKind::refused, "\"" + set->name + "\" plays nothing there: there is no pattern to keep.");
  Song next = song;
  const auto pattern = next.newId<PatternTag>();
  next.patterns.push_back({pattern, name, id, song.tempo.toTicks(range.end) - begin, std::move(strokes)});
  return next;
}

Result<Song> beginPattern(const Song& song, ClipId id, Ticks length, const std::string& name) {
  const auto* clip = song.find(id);
  if (!clip) return clipGone();
  Song next = song;
  const auto pattern = next.newId<PatternTag>();
  next.patterns.push_back(
      drawn({pattern, name, song.setOf(id)->id, std::max(Ticks{1}, length), {}}, *clip, Ticks{0}, Ticks{0}));
  return next;
}

Frames patternEnd(const Song& song, const Pattern& pattern, Frames at, int times) {
  return song.tempo.toFrames(song.tempo.toTicks(at) + Ticks{pattern.length.value * times});
}

Result<Song> layPattern(const Song& song, PatternId id, Frames at, int times) {
  constexpr int kMostTimes = 1'000;
  const auto* pattern = song.find(id);
  if (!pattern) return patternGone();
  if (times < 1 || times > kMostTimes) return fail(ErrorKind::badInput, "A pattern is laid 1 to 1000 times.");
  return withSet(song, pattern->set, [&](Song& next, MicSet& set) -> Result<void> {
    const auto from = song.tempo.toTicks(at);
    for (int t = 0; t < times; ++t) {
      const auto begin = from + Ticks{pattern->length.value * t};
      std::vector<Laid> all;
      for (const auto& s : *pattern->strokes) all.push_back({song.tempo.toFrames(begin + s.at), s.clip});
      const auto bundle = next.newId<BundleTag>();
      next.bundles.push_back({bundle, pattern->name, {}, {}, 0});
      const FrameRange over{t == 0 ? at : song.tempo.toFrames(begin), song.tempo.toFrames(begin + pattern->length)};
      if (!layAll(next, set, std::move(all), over, bundle))
        return fail(ErrorKind::refused, "At this tempo the pattern is shorter than a frame.");
    }
    return {};
  });
}

Result<Song> changePattern(const Song& song, const Pattern& pattern) {
  return withPattern(song, pattern.id, [&](Pattern& p) { p = pattern; });
}

Result<Song> renamePattern(const Song& song, PatternId id, const std::string& name) {
  if (name.empty()) return fail(ErrorKind::badInput, "A pattern needs a name.");
  return withPattern(song, id, [&](Pattern& p) { p.name = name; });
}

Result<Song> duplicatePattern(const Song& song, PatternId id) {
  const auto* pattern = song.find(id);
  if (!pattern) return patternGone();
  Song next = song;
  auto copy = *pattern;
  copy.id = next.newId<PatternTag>();
  copy.name += " copy";
  next.patterns.push_back(std::move(copy));
  return next;
}

Result<Song> removePattern(const Song& song, PatternId id) {
  Song next = song;
  if (std::erase_if(next.patterns, [&](const Pattern& p) { return p.id == id; }) == 0) return patternGone();
  return next;
}

Pattern drawn(Pattern pattern, Clip clip, Ticks at, Ticks reach) {
  auto strokes = *pattern.strokes;
  std::erase_if(strokes, [&](const PatternStroke& s) { return s.at >= at - reach && s.at <= at + reach; });
  clip.start = Frames{};
  clip.piece.reset();
  clip.bundle = {};
  clip.seam = {};
  clip.muted = false;
  const auto after = std::find_if(strokes.begin(), strokes.end(), [&](const PatternStroke& s) { return s.at > at; });
  strokes.insert(after, {at, std::move(clip)});
  pattern.strokes = std::move(strokes);
  return pattern;
}

Result<Pattern> erased(Pattern pattern, std::size_t stroke) {
  auto strokes = *pattern.strokes;
  if (stroke >= strokes.size()) return fail(ErrorKind::notFound, "This stroke is not in the pattern any more.");
  if (strokes.size() == 1)
    return fail(ErrorKind::refused, "A pattern holds at least one stroke. Draw another one first, or remove it.");
  strokes.erase(strokes.begin() + static_cast<std::ptrdiff_t>(stroke));
  pattern.strokes = std::move(strokes);
  return pattern;
}

Pattern withGain(Pattern pattern, std::size_t stroke, double gainDb) {
  auto strokes = *pattern.strokes;
  if (stroke < strokes.size()) strokes[stroke].clip.gainDb = std::clamp(gainDb, kGainRange.low, kGainRange.high);
  pattern.strokes = std::move(strokes);
  return pattern;
}

Result<Pattern> ofLength(Pattern pattern, Ticks length) {
  if (length.value < 1) return fail(ErrorKind::refused, "A pattern cannot be shorter than that.");
  auto strokes = *pattern.strokes;
  std::erase_if(strokes, [&](const PatternStroke& s) { return s.at >= length; });
  if (strokes.empty())
    return fail(ErrorKind::refused, "All its strokes lie behind that. Move one to its beginning first.");
  pattern.strokes = std::move(strokes);
  pattern.length = length;
  return pattern;
}

Pattern shuffled(Pattern pattern, std::uint32_t drawing) {
  auto strokes = *pattern.strokes;
  std::mt19937 dice(drawing);
  for (auto left = strokes.size(); left > 1; --left) std::swap(strokes[left - 1].clip, strokes[dice() % left].clip);
  pattern.strokes = std::move(strokes);
  return pattern;
}

Pattern varied(const Song& song, Pattern pattern, const Grid& grid, std::uint32_t drawing) {
  constexpr double kAboutAsLoud = 1.6;  // times
  const auto before = pattern.strokes;
  const auto drums = drumsOf(song, pattern);
  const auto count = before->size();
  std::vector<Ticks> line(count);
  std::vector<Ticks> off(count);
  for (std::size_t i = 0; i < count; ++i) {
    line[i] = nearestLine(song.tempo, grid, (*before)[i].at).at;
    off[i] = (*before)[i].at - line[i];
  }
  auto strokes = *before;
  std::mt19937 dice(drawing);
  for (std::size_t i = 0; i < count; ++i) {
    strokes[i].at = std::clamp(line[i] + off[dice() % count], Ticks{0}, pattern.length - Ticks{1});
    std::vector<std::size_t> others;
    for (std::size_t k = 0; k < count; ++k)
      if (drums[k].drum == drums[i].drum && drums[k].strength <= drums[i].strength * kAboutAsLoud &&
          drums[i].strength <= drums[k].strength * kAboutAsLoud)
        others.push_back(k);
    const auto& other = (*before)[others[dice() % others.size()]].clip;
    // It lasts as long as the one that it stands for: what rings on would be cut, what is short would leave a gap.
    if (other.length >= strokes[i].clip.length) {
      const auto length = strokes[i].clip.length;
      strokes[i].clip = other;
      if (other.reversed) strokes[i].clip.source += other.length - length;
      strokes[i].clip.length = length;
      fitFades(strokes[i].clip);
    }
  }
  std::stable_sort(strokes.begin(), strokes.end(), [](auto& a, auto& b) { return a.at < b.at; });
  pattern.strokes = std::move(strokes);
  return pattern;
}

}  // namespace ochron
