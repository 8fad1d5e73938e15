#pragma once

#include <memory>
#include <vector>

#include "render/render_plan.h"

namespace ochron {

/// The layer's sounds as it plays them, in their order. Those that are not in the pool have no channels.
std::vector<PlayedSound> playedSounds(const Layer& layer, const MediaPool& pool);
/// What a layer's track plays, one list a channel; two channels when a sound or its pan has two sides. Points into
/// `played`.
std::vector<std::shared_ptr<const SegmentList>> layerSegments(const Song& song, const Layer& layer,
                                                              const std::vector<LayerStroke>& strokes,
                                                              const std::vector<PlayedSound>& played);
/// The recordings and files that a layer plays.
std::vector<std::shared_ptr<const DecodedMedia>> mediaOf(const Layer& layer, const MediaPool& pool);

}  // namespace ochron
