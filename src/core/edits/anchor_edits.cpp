#include "edits/anchor_edits.h"

#include <algorithm>
#include <cmath>

#include "edits/tempo_edits.h"

namespace ochron {
namespace {

Result<Song> withAnchors(const Song& song, const TempoAnchors& anchors, const AnchorSettings& settings) {
  auto map = mapThrough(anchors, settings, song.tempo);
  if (!map) return tl::unexpected(map.error());
  auto next = setTempoMap(song, *map);
  if (!next) return next;
  next->anchors = anchors;
  next->anchorSettings = settings;
  return next;
}

void put(TempoAnchors& anchors, TempoAnchor a) {
  const auto here =
      std::lower_bound(anchors.begin(), anchors.end(), a.at, [](const TempoAnchor& x, Ticks at) { return x.at < at; });
  if (here != anchors.end() && here->at == a.at)
    here->frame = a.frame;
  else
    anchors.insert(here, a);
}

}  // namespace

Result<Song> setAnchor(const Song& song, Ticks at, Frames frame) {
  TempoAnchors anchors = *song.anchors;
  if (anchors.empty() && at != Ticks{}) put(anchors, {Ticks{}, song.tempo.origin()});
  put(anchors, {at, frame});
  return withAnchors(song, anchors, song.anchorSettings);
}

Result<Song> setAnchors(const Song& song, const TempoAnchors& more) {
  TempoAnchors anchors = *song.anchors;
  for (const auto& a : more) put(anchors, a);
  return withAnchors(song, anchors, song.anchorSettings);
}

Result<Song> removeAnchors(const Song& song, const std::vector<Ticks>& at) {
  TempoAnchors anchors = *song.anchors;
  std::erase_if(anchors, [&](const TempoAnchor& a) { return std::find(at.begin(), at.end(), a.at) != at.end(); });
  return withAnchors(song, anchors, song.anchorSettings);
}

Result<Song> setAnchorSettings(const Song& song, const AnchorSettings& settings) {
  if (auto ok = checkRanges(settings, kAnchorNumbers); !ok) return tl::unexpected(ok.error());
  return withAnchors(song, *song.anchors, settings);
}

Result<Song> shiftBars(const Song& song, Ticks at, Frames frame) {
  const auto by = frame - song.tempo.toFrames(at);
  const auto map = TempoMap::make(song.rate, song.tempo.origin() + by, song.tempo.tempos(), song.tempo.meters());
  if (!map) return tl::unexpected(map.error());
  auto next = setTempoMap(song, *map);
  if (!next) return next;
  TempoAnchors anchors = *song.anchors;
  for (auto& a : anchors) a.frame += by;
  next->anchors = anchors;
  return next;
}

double anchorsOffMs(const Song& song) {
  double most = 0;
  for (const auto& a : *song.anchors)
    most = std::max(most, std::abs(msFromFrames(song.tempo.toFrames(a.at) - a.frame, song.rate)));
  return most;
}

}  // namespace ochron
