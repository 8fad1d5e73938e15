#include "loupe/mic_strips.h"

#include <algorithm>
#include <cmath>

#include "canvas/wave.h"
#include "loupe/mic_name.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr double kLinesBelow = 6;  // frames a pixel
constexpr float kLeastPeak = 1e-4F;
}  // namespace

std::vector<MicStrips::Piece> MicStrips::pieces(const MicSet& set, const ClipList& clips, TrackId track) const {
  const Frames half{static_cast<std::int64_t>(plot_.width() / 2 * perPixel_)};
  const FrameRange seen{middle_ - half, middle_ + half};
  std::vector<Piece> out;
  auto c =
      std::upper_bound(clips.begin(), clips.end(), seen.start, [](Frames f, const Clip& x) { return f < x.end(); });
  for (; c != clips.end() && c->start < seen.end; ++c) {
    const auto* mic = doc_.song().micFor(set, *c, track);
    const auto media = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
    if (media == doc_.pool().end()) continue;
    for (const auto& even : c->pieces()) {
      const FrameRange range{std::max(seen.start, even.range.start), std::min(seen.end, even.range.end)};
      if (range.empty()) continue;
      out.push_back({media->second.get(), range,
                     static_cast<double>((even.take - mic->offset).value) +
                         static_cast<double>((range.start - even.range.start).value) * even.speed,
                     even.speed});
    }
  }
  return out;
}

void MicStrips::paint(QPainter& p, const MicSet& set, const ClipList& clips) const {
  const auto& sheet = Theme::get().sheet();
  const double tall = plot_.height() / static_cast<double>(std::max<std::size_t>(1, set.tracks.size()));
  for (std::size_t i = 0; i < set.tracks.size(); ++i) {
    const QRectF strip(plot_.left(), plot_.top() + tall * static_cast<double>(i), plot_.width(), tall - 2);
    p.fillRect(strip, sheet.paper);
    const auto all = pieces(set, clips, set.tracks[i]);
    float peak = kLeastPeak;
    for (const auto& piece : all) {
      const auto x = piece.media->channel(0);
      const auto end = piece.at + piece.speed * static_cast<double>(piece.range.length().value);
      const auto a = std::clamp<std::int64_t>(static_cast<std::int64_t>(std::min(piece.at, end)), 0, std::ssize(x));
      const auto b = std::clamp<std::int64_t>(static_cast<std::int64_t>(std::max(piece.at, end)), 0, std::ssize(x));
      for (auto k = a; k < b; ++k) peak = std::max(peak, std::abs(x[static_cast<std::size_t>(k)]));
    }
    for (const auto& piece : all) {
      const QRectF box(xOf(piece.range.start), strip.top() + 1, xOf(piece.range.end) - xOf(piece.range.start),
                       strip.height() - 2);
      if (perPixel_ > kLinesBelow) {
        WaveCanvas canvas(
            QSize(std::max(1, static_cast<int>(std::ceil(box.width()))), std::max(1, static_cast<int>(box.height()))),
            p.device()->devicePixelRatioF());
        canvas.draw(*piece.media, 0, piece.at, perPixel_ * piece.speed, 0, box.width(), 0, box.height(), 0.95 / peak,
                    {sheet.ink, sheet.ink});
        p.drawImage(box.topLeft(), canvas.image());
      } else {
        drawSamples(p, *piece.media, 0, piece.at, perPixel_ * piece.speed, box, 0.95 / peak, sheet.ink);
      }
    }
    paintMicName(p, strip, QString::fromStdString(doc_.song().find(set.tracks[i])->name), scaleOf(peak));
  }
}

}  // namespace ochron
