#pragma once

#include <memory>
#include <vector>

#include "render/plan.h"

namespace ochron {

/// What a layer's track plays, one list a channel; two channels when a sound or its pan has two sides. Sounds that are
/// not in the pool are silent.
std::vector<std::shared_ptr<const SegmentList>> layerSegments(const Song& song, const Layer& layer,
                                                              const std::vector<LayerStroke>& strokes,
                                                              const MediaPool& pool);
/// The recordings and files that a layer plays.
std::vector<std::shared_ptr<const DecodedMedia>> mediaOf(const Layer& layer, const MediaPool& pool);

}  // namespace ochron
