#include "canvas/lane_cache.h"

#include <algorithm>
#include <cmath>

#include "edits/differing.h"

namespace ochron {
namespace {
constexpr int kBeyond = 3;  // pixels that a clip's corners and its smooth edges may reach over
}

void LaneCache::keepOnly(const std::set<TrackId>& tracks) {
  std::erase_if(drawn_, [&](const auto& d) { return !tracks.contains(d.first); });
}

void LaneCache::begin() {
  const auto& takes = doc_.song().takes;
  if (std::equal(takes.begin(), takes.end(), mics_.begin(), mics_.end(),
                 [](const Take& take, const auto& mics) { return take.mics == mics; }))
    return;
  forget();
  mics_.clear();
  for (const auto& take : takes) mics_.push_back(take.mics);
}

void LaneCache::paint(QPainter& p, const QRect& box, const Track& track, const MicSet& set,
                      const Shared<ClipList>& clips, double ratio) {
  const auto place = std::find(set.tracks.begin(), set.tracks.end(), track.id) - set.tracks.begin();
  const Look look{view_.firstFrame(), view_.framesPerPixel(), box.size(), ratio, track.muted, place};
  auto& drawn = drawn_[track.id];
  const QRect whole(QPoint(), box.size());
  if (drawn.look != look) {
    const auto pixels = box.size() * ratio;
    if (drawn.image.size() != pixels) drawn.image = QImage(pixels, QImage::Format_ARGB32_Premultiplied);
    drawn.image.setDevicePixelRatio(ratio);
    drawn.look = look;
    drawn.clips = clips;
    draw(drawn, whole, track, set);
  } else if (!drawn.clips.sameObject(clips)) {
    const auto changed = differing(*drawn.clips, *clips);
    drawn.clips = clips;
    const auto pixel = [&](Frames f) { return std::clamp(view_.xOf(f), -1e6, 1e6) - box.left(); };
    const QRect part(QPoint(static_cast<int>(std::floor(pixel(changed.start))) - kBeyond, 0),
                     QPoint(static_cast<int>(std::ceil(pixel(changed.end))) + kBeyond, box.height() - 1));
    const bool wholePixels = ratio == std::floor(ratio);
    if (!changed.empty()) draw(drawn, wholePixels ? part & whole : whole, track, set);
  }
  p.drawImage(QPointF(box.topLeft()), drawn.image);
}

void LaneCache::draw(Drawn& drawn, const QRect& part, const Track& track, const MicSet& set) const {
  if (part.isEmpty()) return;
  QPainter p(&drawn.image);
  p.setClipRect(part);
  p.setCompositionMode(QPainter::CompositionMode_Clear);
  p.fillRect(part, Qt::transparent);
  p.setCompositionMode(QPainter::CompositionMode_SourceOver);
  p.translate(-kGutterWidth, 0);
  const QRectF lane(QPointF(kGutterWidth, 0), QSizeF(drawn.look.size));
  painter_.paint(p, lane, track, set, *drawn.clips, part.translated(kGutterWidth, 0), drawn.look.ratio);
}

}  // namespace ochron
