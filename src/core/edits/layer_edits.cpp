#include "edits/layer_edits.h"

#include <algorithm>

#include "edits/edit_tools.h"
#include "edits/track_edits.h"

namespace ochron {
namespace {

tl::unexpected<Error> layerGone() { return fail(ErrorKind::notFound, "This layer is not in the song any more."); }

template <class F>
Result<Song> withLayer(const Song& song, LayerId id, F&& change) {
  Song next = song;
  for (auto& l : next.layers) {
    if (l.id != id) continue;
    if (auto ok = change(next, l); !ok) return tl::unexpected(ok.error());
    return next;
  }
  return layerGone();
}

/// The track and its set, named as the layer is.
void nameTrack(Song& song, const Layer& layer) {
  for (auto& t : song.tracks)
    if (t.id == layer.track) t.name = layer.name;
  for (auto& s : song.sets)
    if (s.tracks == std::vector{layer.track}) s.name = layer.name;
}

/// A track of its own behind the tracks of a set, and behind those of layers that lie there already.
TrackId addTrack(Song& song, SetId set, const std::string& name) {
  Track track;
  track.id = song.newId<TrackTag>();
  track.name = name;
  const auto belongs = [&](TrackId t) {
    const auto* home = song.setOf(t);
    const auto* layer = song.layerOn(t);
    return (home && home->id == set) || (layer && layer->set == set);
  };
  auto behind = song.tracks.begin();
  for (auto t = song.tracks.begin(); t != song.tracks.end(); ++t)
    if (belongs(t->id)) behind = t + 1, track.colour = t->colour;
  auto setBehind = song.sets.begin();
  for (auto s = song.sets.begin(); s != song.sets.end(); ++s)
    if (belongs(s->tracks.front())) setBehind = s + 1;
  song.tracks.insert(behind, track);
  MicSet own;
  own.id = song.newId<SetTag>();
  own.name = name;
  own.tracks = {track.id};
  song.sets.insert(setBehind, own);
  return track.id;
}

void takeSounds(Song& next, Layer& layer, SoundSet sounds) {
  if (layer.name == layer.sounds->name || layer.sounds->sounds.empty()) {
    layer.name = sounds.name;
    nameTrack(next, layer);
  }
  for (auto it = layer.wishes.begin(); it != layer.wishes.end();) {
    it->second.sound.reset();
    it = it->second == StrokeWish{} ? layer.wishes.erase(it) : std::next(it);
  }
  layer.sounds = std::move(sounds);
}

}  // namespace

Result<Song> addLayer(const Song& song, SetId set, std::optional<DrumClass> drum, const std::string& name) {
  const auto* source = song.find(set);
  if (!source) return setGone();
  if (name.empty()) return fail(ErrorKind::badInput, "A layer needs a name.");
  if (song.layerOn(source->tracks.front()))
    return fail(ErrorKind::refused, "\"" + source->name + "\" is a layer itself. Choose the drum's tracks.");
  Song next = song;
  Layer layer;
  layer.id = next.newId<LayerTag>();
  layer.name = name;
  layer.set = set;
  layer.drum = drum;
  layer.track = addTrack(next, set, name);
  next.layers.push_back(std::move(layer));
  return next;
}

Result<Song> setLayerSounds(const Song& song, LayerId id, const IncomingSoundSet& incoming) {
  auto next = withLayer(song, id, [&](Song& s, Layer& layer) -> Result<void> {
    if (incoming.sounds.empty())
      return fail(ErrorKind::badInput, "\"" + incoming.name + "\" holds no sound. Choose another file.");
    SoundSet set;
    set.name = incoming.name;
    set.origin = incoming.origin;
    std::vector<MediaId> ids;
    for (const auto& f : incoming.files) ids.push_back(takeIn(s, f));
    for (const auto& in : incoming.sounds) {
      auto sound = in.sound;
      sound.media = ids.at(in.file);
      set.sounds.push_back(std::move(sound));
    }
    takeSounds(s, layer, std::move(set));
    return {};
  });
  if (next) dropUnusedMedia(*next);
  return next;
}

Result<Song> setLayerSounds(const Song& song, LayerId id, SoundSet sounds) {
  auto next = withLayer(song, id, [&](Song& s, Layer& layer) -> Result<void> {
    takeSounds(s, layer, std::move(sounds));
    return {};
  });
  if (next) dropUnusedMedia(*next);
  return next;
}

Result<Song> setLayer(const Song& song, const Layer& layer) {
  return withLayer(song, layer.id, [&](Song& next, Layer& l) -> Result<void> {
    if (layer.name.empty()) return fail(ErrorKind::badInput, "A layer needs a name.");
    if (auto ok = checkRanges(layer.settings, kLayerNumbers); !ok) return ok;
    const bool renamed = l.name != layer.name;
    l = layer;
    if (renamed) nameTrack(next, l);
    return {};
  });
}

Result<Song> setLayerHeard(const Song& song, const Layer& heard) {
  return withLayer(song, heard.id, [&](Song&, Layer& l) -> Result<void> {
    if (l.set != heard.set || l.drum != heard.drum) return {};
    l.heard = heard.heard;
    const auto& was = l.sounds->sounds;
    const auto& now = heard.sounds->sounds;
    const bool same = was.size() == now.size() && std::equal(was.begin(), was.end(), now.begin(), [](auto& a, auto& b) {
                        return a.media == b.media && a.range == b.range;
                      });
    if (same) l.sounds = heard.sounds;
    return {};
  });
}

Result<Song> removeLayer(const Song& song, LayerId id) {
  const auto* layer = song.find(id);
  if (!layer) return layerGone();
  return removeTracks(song, {layer->track});
}

Result<Song> duplicateLayer(const Song& song, LayerId id) {
  const auto* layer = song.find(id);
  if (!layer) return layerGone();
  auto next = addLayer(song, layer->set, layer->drum, layer->name + " 2");
  if (!next) return next;
  auto& copy = next->layers.back();
  const auto own = copy;
  copy = *layer;
  copy.id = own.id;
  copy.name = own.name;
  copy.track = own.track;
  return next;
}

Result<Song> setStrokeWish(const Song& song, LayerId id, const std::vector<HitId>& strokes, const StrokeWish& wish) {
  return withLayer(song, id, [&](Song&, Layer& l) -> Result<void> {
    if (strokes.empty()) return fail(ErrorKind::refused, "No stroke is chosen. Click one on the layer's lane.");
    if (!kStrokeGainRange.accepts(wish.gainDb))
      return fail(ErrorKind::badInput, "The level of a stroke goes from -60 to 24 dB.");
    if (wish.sound && *wish.sound >= l.sounds->sounds.size())
      return fail(ErrorKind::badInput, "The layer has no such sound.");
    for (const auto hit : strokes)
      if (wish == StrokeWish{})
        l.wishes.erase(hit);
      else
        l.wishes[hit] = wish;
    return {};
  });
}

}  // namespace ochron
