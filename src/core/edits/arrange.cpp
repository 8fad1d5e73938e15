#include "edits/arrange.h"

#include <algorithm>
#include <map>

#include "edits/edit_tools.h"

namespace ochron {
namespace {

constexpr int kMostCopies = 1000;

void keepBundles(const Song& song, CopiedClips& copied) {
  for (const auto& b : song.bundles)
    for (const auto& part : copied.parts)
      if (std::any_of(part.clips.begin(), part.clips.end(), [&](const Clip& c) { return c.bundle == b.id; })) {
        copied.bundles.push_back(b);
        break;
      }
}

Result<void> take(CopiedClips& copied, SetId set, ClipList clips) {
  for (auto& c : clips) {
    c.piece.reset();
    c.start -= copied.start;
  }
  if (!clips.empty()) copied.parts.push_back({set, std::move(clips)});
  return {};
}

/// What of the copy lies before `end` of its own time.
CopiedClips cutShort(CopiedClips copied, Frames end) {
  for (auto& part : copied.parts) {
    ClipList kept;
    for (const auto& c : part.clips)
      if (c.start < end) kept.push_back(c.end() > end ? partOf(c, {c.start, end}) : c);
    part.clips = std::move(kept);
  }
  std::erase_if(copied.parts, [](auto& p) { return p.clips.empty(); });
  return copied;
}

}  // namespace

FrameRange extentOf(const Song& song, const ClipIds& ids) {
  const ChosenClips chosen(ids.begin(), ids.end());
  std::optional<FrameRange> out;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (chosen.contains(c.id))
        out = out ? FrameRange{std::min(out->start, c.start), std::max(out->end, c.end())} : c.range();
  return out.value_or(FrameRange{});
}

Result<CopiedClips> copyClips(const Song& song, const ClipIds& ids) {
  const ChosenClips chosen(ids.begin(), ids.end());
  const auto extent = extentOf(song, ids);
  CopiedClips out;
  out.start = extent.start;
  out.length = extent.length();
  std::size_t found = 0;
  for (const auto& s : song.sets) {
    ClipList clips;
    for (const auto& c : *s.clips) {
      if (!chosen.contains(c.id)) continue;
      clips.push_back(c);
      const auto before = &c - s.clips->data();
      if (before == 0 || !chosen.contains((*s.clips)[static_cast<std::size_t>(before - 1)].id)) clips.back().seam = {};
    }
    found += clips.size();
    if (auto ok = take(out, s.id, std::move(clips)); !ok) return tl::unexpected(ok.error());
  }
  if (found == 0) return fail(ErrorKind::refused, "No clip is chosen. Click one, or drag over some.");
  if (found != chosen.size()) return clipGone();
  keepBundles(song, out);
  return out;
}

Result<CopiedClips> copyRange(const Song& song, const std::vector<SetId>& sets, FrameRange range) {
  CopiedClips out;
  out.start = range.start;
  out.length = range.length();
  for (const auto id : sets) {
    const auto* s = song.find(id);
    if (!s) return setGone();
    auto clips = partsIn(*s->clips, range);
    if (!clips.empty()) clips.front().seam = {};
    if (auto ok = take(out, id, std::move(clips)); !ok) return tl::unexpected(ok.error());
  }
  if (out.empty()) return fail(ErrorKind::refused, "The range holds no clip. Drag over the lanes to choose another.");
  keepBundles(song, out);
  return out;
}

Result<Placed> pasteClips(const Song& song, const CopiedClips& copied, Frames at, Overlap overlap,
                          std::optional<SetId> to) {
  Song named = song;
  ClipIds all;
  std::map<BundleId, BundleId> bundles;
  for (auto b : copied.bundles) {
    const auto fresh = named.newId<BundleTag>();
    bundles[b.id] = fresh;
    b.id = fresh;
    named.bundles.push_back(b);
  }
  Result<Song> next = std::move(named);
  for (const auto& part : copied.parts) {
    const auto* from = song.find(part.set);
    const auto* target = to && copied.parts.size() == 1 ? song.find(*to) : from;
    if (!from || !target) return setGone();
    ClipIds fresh;
    const auto kept = next->bundles;
    next = withSet(*next, target->id, [&](Song& s, MicSet& set) -> Result<void> {
      ClipList clips = *set.clips;
      // Old names are never given out again: what was copied goes in as new, and is then moved into place.
      const auto aside = (clips.empty() ? Frames{} : clips.back().end()) + copied.length + Frames{1};
      for (const auto& c : part.clips) {
        auto there = onSet(song, c, *from, *target);
        if (!there) return tl::unexpected(there.error());
        there->id = s.newId<ClipTag>();
        there->start += aside;
        const auto b = bundles.find(there->bundle);
        there->bundle = b == bundles.end() ? BundleId{} : b->second;
        fresh.push_back(there->id);
        clips.push_back(std::move(*there));
      }
      set.clips = std::move(clips);
      Song placed = s;
      placed.bundles = kept;
      auto done = moveClips(placed, fresh, at - aside, overlap);
      if (!done) return tl::unexpected(done.error());
      set.clips = done->find(set.id)->clips;
      s.lastId = done->lastId;
      return {};
    });
    if (!next) return tl::unexpected(next.error());
    next->bundles = kept;  // those of parts still to come are not empty
    all.insert(all.end(), fresh.begin(), fresh.end());
  }
  dropEmptyBundles(*next);
  return Placed{std::move(*next), std::move(all)};
}

Result<Placed> duplicateClips(const Song& song, const ClipIds& ids, int times) {
  if (times < 1 || times > kMostCopies)
    return fail(ErrorKind::badInput, "Duplicate between 1 and " + std::to_string(kMostCopies) + " times.");
  const auto extent = extentOf(song, ids);
  return repeatClips(song, ids, extent.end + extent.length() * times);
}

Result<Placed> repeatClips(const Song& song, const ClipIds& ids, Frames until) {
  auto copied = copyClips(song, ids);
  if (!copied) return tl::unexpected(copied.error());
  if ((until - copied->start).value / copied->length.value > kMostCopies + 1)
    return fail(ErrorKind::badInput,
                "That would be more than " + std::to_string(kMostCopies) + " copies. Choose a shorter length.");
  Placed out{song, {}};
  for (auto at = copied->start + copied->length; at < until; at += copied->length) {
    auto next =
        pasteClips(out.song, until - at < copied->length ? cutShort(*copied, until - at) : *copied, at, Overlap::cover);
    if (!next) return next;
    out.song = std::move(next->song);
    out.clips.insert(out.clips.end(), next->clips.begin(), next->clips.end());
  }
  return out;
}

Result<Song> bundleClips(const Song& song, const ClipIds& ids, const std::string& name) {
  Song named = song;
  const auto id = named.newId<BundleTag>();
  named.bundles.push_back({id, name, {}, {}, 0});
  return changeClips(named, ids, [&](Clip& c) { c.bundle = id; });
}

Result<Song> unbundle(const Song& song, BundleId bundle) {
  return changeClips(song, clipsOf(song, bundle), [](Clip& c) { c.bundle = {}; });
}

Result<Song> setBundle(const Song& song, const Bundle& bundle) {
  if (!kGainRange.accepts(bundle.gainDb)) return fail(ErrorKind::badInput, "Gain goes from -60 to 24 dB.");
  Song next = song;
  for (auto& b : next.bundles)
    if (b.id == bundle.id) {
      b = bundle;
      return next;
    }
  return fail(ErrorKind::notFound, "This bundle is not in the song any more.");
}

ClipIds clipsOf(const Song& song, BundleId bundle) {
  ClipIds out;
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips)
      if (bundle && c.bundle == bundle) out.push_back(c.id);
  return out;
}

}  // namespace ochron
