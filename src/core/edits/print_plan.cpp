#include "edits/print_plan.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <utility>

#include "edits/clip_edits.h"
#include "edits/edit_tools.h"
#include "song/insert_place.h"

namespace ochron {
namespace {

/// Stretches in which clips touch, of those that some clips lie in; without any named, all. In a range: what of them
/// lies in it.
std::vector<FrameRange> runsOf(const ClipList& clips, const ClipIds& chosen, const std::optional<FrameRange>& within) {
  struct Run {
    FrameRange range;
    bool wanted;
  };
  std::vector<Run> runs;
  for (const auto& c : clips) {
    if (within && !within->contains(c.start)) continue;
    const bool wanted = chosen.empty() || std::find(chosen.begin(), chosen.end(), c.id) != chosen.end();
    if (runs.empty() || runs.back().range.end != c.start) runs.push_back({c.range(), false});
    runs.back().range.end = c.end();
    runs.back().wanted = runs.back().wanted || wanted;
  }
  std::vector<FrameRange> out;
  for (const auto& r : runs)
    if (r.wanted) out.push_back(r.range);
  return out;
}

/// Stretches that sound otherwise when they are cut in two: crossfades, fades, bundles that fade; and the pieces of a
/// plan that hang together, which its next run would lay anew.
std::vector<FrameRange> wholeStretches(const Song& song, const ClipList& clips) {
  std::vector<FrameRange> out;
  std::map<BundleId, FrameRange> bundles;
  FrameRange pieces;
  for (const auto& c : clips) {
    if (c.piece) {
      if (pieces.end != c.start) out.push_back(std::exchange(pieces, {c.start, c.start}));
      pieces.end = c.end();
    }
    out.push_back({c.start, c.start + c.fadeIn.length});
    out.push_back({c.end() - c.fadeOut.length, c.end()});
    out.push_back({c.start - c.seam.before, c.start + c.seam.after});
    const auto* b = song.find(c.bundle);
    if (!b || (b->fadeIn.length.value == 0 && b->fadeOut.length.value == 0)) continue;
    auto& whole = bundles.try_emplace(c.bundle, c.range()).first->second;
    whole = {std::min(whole.start, c.start), std::max(whole.end, c.end())};
  }
  out.push_back(pieces);
  for (const auto& [id, whole] : bundles) out.push_back(whole);
  std::erase_if(out, [](const FrameRange& r) { return r.empty(); });
  return out;
}

/// A range that begins and ends inside of none of them.
FrameRange around(FrameRange range, const std::vector<FrameRange>& whole) {
  for (bool grew = true; grew;) {
    grew = false;
    for (const auto& w : whole) {
      if (w.start < range.start && range.start < w.end) range.start = w.start, grew = true;
      if (w.start < range.end && range.end < w.end) range.end = w.end, grew = true;
    }
  }
  return range;
}

/// Ranges in order that do not touch each other, each around what cannot be cut.
std::vector<FrameRange> apart(std::vector<FrameRange> ranges, const std::vector<FrameRange>& whole) {
  for (auto& r : ranges) r = around(r, whole);
  std::sort(ranges.begin(), ranges.end(), [](const auto& a, const auto& b) { return a.start < b.start; });
  std::vector<FrameRange> out;
  for (const auto& r : ranges) {
    if (!out.empty() && r.start <= out.back().end)
      out.back().end = std::max(out.back().end, r.end);
    else
      out.push_back(r);
  }
  return out;
}

/// A range of a set as it is printed.
struct Within {
  FrameRange range;
  std::optional<Clip> cutBefore;  ///< as in Print
  std::optional<Clip> cutAfter;
};

/// What a print that lies beside a place was cut out of there.
std::optional<Clip> cutByPrint(const Song& song, SetId id, Frames at, bool before) {
  for (const auto& c : *song.find(id)->clips)
    for (const auto& p : song.prints)
      if (p.take == c.take && (before ? c.end() == at : c.start == at)) return before ? p.cutAfter : p.cutBefore;
  return std::nullopt;
}

/// The song is cut at the ends of a range of a set.
Result<Within> cutOut(Song& song, SetId id, FrameRange range) {
  const auto around = [&](Frames at) {
    const auto& clips = *song.find(id)->clips;
    const auto found =
        std::find_if(clips.begin(), clips.end(), [&](const Clip& c) { return c.start < at && at < c.end(); });
    return found == clips.end() ? std::nullopt : std::optional(*found);
  };
  Within out{range, around(range.start), around(range.end)};
  std::vector<Frames> places;
  if (out.cutBefore) places.push_back(range.start);
  if (out.cutAfter) places.push_back(range.end);
  // Beside another print it is that one's clip that was cut, here and there.
  if (auto cut = cutByPrint(song, id, out.cutBefore ? out.cutBefore->end() : range.start, !out.cutBefore); cut)
    out.cutBefore = std::move(cut);
  if (auto cut = cutByPrint(song, id, out.cutAfter ? out.cutAfter->start : range.end, out.cutAfter.has_value()); cut)
    out.cutAfter = std::move(cut);
  if (places.empty()) return out;
  auto cut = splitAt(song, id, places, Frames{});
  if (!cut) return tl::unexpected(cut.error());
  song = *std::move(cut);
  return out;
}

/// How many channels a track has over all that its clips play.
int channelsOf(const Song& song, const MicSet& set, TrackId track, PrintDepth depth) {
  int channels = 1;
  for (const auto& c : *set.clips) {
    if (c.pan != 0) return 2;
    const auto* mic = song.micFor(set, c, track);
    const auto* media = mic ? song.find(mic->media) : nullptr;
    if (media) channels = std::max(channels, std::min(2, media->channels));
  }
  const auto* t = song.find(track);
  return depth == PrintDepth::track && t && (t->pan != 0 || !t->panEnvelope->empty() || !insertsOf(song, track).empty())
             ? 2
             : channels;
}

void addRuns(const Song& song, const MicSet& set, const PrintAsk& ask, const std::optional<Within>& within,
             std::vector<PrintRow>& rows) {
  auto runs = runsOf(*set.clips, ask.clips, within ? std::optional(within->range) : std::nullopt);
  if (ask.depth == PrintDepth::track && !runs.empty()) {
    const Frames tail{std::llround(ask.manner.tailSeconds * song.rate)};
    runs = {{set.clips->front().start, set.clips->back().end() + tail}};
  }
  for (const auto& run : runs)
    for (const auto track : set.tracks) {
      PrintRow row{ask.depth, set.id, track, song.find(track)->name, channelsOf(song, set, track, ask.depth), run};
      row.manner = ask.manner;
      if (within && run.start == within->range.start) row.cutBefore = within->cutBefore;
      if (within && run.end == within->range.end) row.cutAfter = within->cutAfter;
      rows.push_back(std::move(row));
    }
}

/// What of each recording any clip plays, of the song or of what was printed, with handles.
void addTrims(const Song& song, const MicSet& set, const PrintAsk& ask, std::vector<PrintRow>& rows) {
  const Frames handle{static_cast<std::int64_t>(kTrimHandleSeconds * song.rate)};
  std::map<MediaId, FrameRange> used;  // frames of the recording
  const auto use = [&](const MicSet& s, const ClipList& clips) {
    for (const auto& c : clips)
      for (const auto track : s.tracks)
        if (const auto* mic = song.micFor(s, c, track)) {
          const FrameRange played{c.played().start - mic->offset, c.played().end - mic->offset};
          auto& range = used.try_emplace(mic->media, played).first->second;
          range = {std::min(range.start, played.start), std::max(range.end, played.end)};
        }
  };
  for (const auto& s : song.sets) use(s, *s.clips);
  for (const auto& p : song.prints) use(*song.find(p.set), *p.clips);
  std::set<MediaId> done;
  for (const auto& take : song.takes)
    for (const auto& mic : take.mics) {
      if (std::find(set.tracks.begin(), set.tracks.end(), mic.track) == set.tracks.end()) continue;
      const auto found = used.find(mic.media);
      const auto* media = song.find(mic.media);
      if (found == used.end() || !media || !done.insert(mic.media).second) continue;
      const FrameRange kept{std::max(Frames{}, found->second.start - handle),
                            std::min(media->length, found->second.end + handle)};
      if (kept.empty() || kept == FrameRange{Frames{}, media->length}) continue;
      rows.push_back({PrintDepth::trim,
                      set.id,
                      mic.track,
                      song.find(mic.track)->name,
                      media->channels,
                      kept,
                      take.id,
                      mic.media,
                      {ask.manner.samples, {}, {}}});
    }
}

}  // namespace

std::string bakedBy(PrintDepth depth) {
  switch (depth) {
    case PrintDepth::trim: return "nothing; recordings are cut to what is used";
    case PrintDepth::clip: return "timing, stretch, pitch, fades, clip gain";
    case PrintDepth::track: return "all of that, and the track's effects, gain, pan and envelopes";
  }
  return {};
}

std::string adjustableAfter(PrintDepth depth) {
  switch (depth) {
    case PrintDepth::trim: return "everything";
    case PrintDepth::clip: return "place, mix, envelopes";
    case PrintDepth::track: return "place; the mix begins anew";
  }
  return {};
}

Result<PrintPlan> planPrint(const Song& song, const PrintAsk& ask) {
  PrintPlan out{song, {}};
  if (!ask.ranges.empty() && ask.depth != PrintDepth::clip)
    return fail(ErrorKind::refused, "A range is printed as clips: recordings and tracks are printed whole.");
  if (std::any_of(ask.ranges.begin(), ask.ranges.end(), [](const FrameRange& r) { return r.empty(); }))
    return fail(ErrorKind::refused, "No range is chosen, so there is nothing to print. Drag over the ruler.");
  std::vector<SetId> sets = ask.sets;
  for (const auto id : ask.clips) {
    const auto* set = song.setOf(id);
    if (!set) return clipGone();
    if (std::find(sets.begin(), sets.end(), set->id) == sets.end()) sets.push_back(set->id);
  }
  for (const auto id : sets) {
    const auto* set = song.find(id);
    if (!set) return setGone();
    if (song.layerOn(set->tracks.front()))
      return fail(ErrorKind::refused, "\"" + set->name + "\" is a layer. Print it in the Kit step.");
    if (ask.depth == PrintDepth::trim) {
      addTrims(song, *set, ask, out.rows);
      continue;
    }
    for (const auto& l : song.layers)
      if (l.set == id && l.on)
        return fail(ErrorKind::refused, "The layer \"" + l.name + "\" lies on strokes of \"" + set->name +
                                            "\", which would be gone. Print the layer first, or switch it off.");
    if (ask.ranges.empty()) addRuns(out.song, *set, ask, {}, out.rows);
    for (const auto& range : apart(ask.ranges, wholeStretches(song, *set->clips))) {
      const auto within = cutOut(out.song, id, range);
      if (!within) return tl::unexpected(within.error());
      addRuns(out.song, *out.song.find(id), ask, *within, out.rows);
    }
  }
  if (out.rows.empty())
    return fail(ErrorKind::refused, ask.depth == PrintDepth::trim
                                        ? "There is nothing to trim: the recordings are used whole."
                                        : "There is nothing to print: no clip is there.");
  return out;
}

}  // namespace ochron
