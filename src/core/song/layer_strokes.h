#pragma once

#include <vector>

#include "song/song.h"

namespace ochron {

/// One stroke of a drum as a layer answers it.
struct LayerStroke {
  HitId hit;
  TakeId take;
  Frames inTake;  ///< where its attack lies in the take
  Frames at;      ///< song time of that
  double strength = 0;
  std::size_t sound = 0;  ///< of the layer's set
  double gainDb = 0;      ///< of the sound as it is
  bool turned = false;
  bool byHand = false;
  bool heard = true;  ///< false: switched off by hand, or softer than the threshold

  bool operator==(const LayerStroke&) const = default;
};

/// Level that a layer has at a strength, before its gain: dB.
double curveDb(const Layer& layer, double strength);
/// How much softer than a full stroke one of a strength is: dB.
double strengthDb(double strength);
/// Whether a stroke sounds: as the user decided, else as the threshold says.
bool isHeard(const Layer& layer, HitId hit, double strength);
/// What was heard of a stroke; null while it was not listened for.
const StrokeAttack* knownAttack(const Layer& layer, TakeId take, Frames stroke);
/// Where the attack of a stroke lies to the sample, as far as it was listened for; else the stroke itself.
Frames attackOf(const Layer& layer, TakeId take, Frames stroke);
/// The drum's strokes in a set's takes that count, on take time: of every hit those of the layer's drum.
struct TakeStroke {
  HitId hit;
  Frames at;
  double strength = 0;
  bool byHand = false;  ///< placed or moved by the user: it stands where it stands
};
std::vector<TakeStroke> takeStrokes(const Song& song, const Layer& layer, TakeId take, FrameRange within);
/// All strokes of a layer along the song, in order, wherever its set's clips play them. Clips that are muted, and those
/// that are turned round, have none. Without sounds there are none.
std::vector<LayerStroke> strokesOf(const Song& song, const Layer& layer);

/// A note of a layer that is sent while the song plays.
struct LayerNote {
  Frames at;     ///< song time
  int key = 60;  ///< of the percussion map (General MIDI)
  double strength = 1;

  bool operator==(const LayerNote&) const = default;
};
/// Those of all layers that are sent, whether they sound here or not, in order.
std::vector<LayerNote> layerNotes(const Song& song);

}  // namespace ochron
