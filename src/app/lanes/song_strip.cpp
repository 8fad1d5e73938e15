#include "lanes/song_strip.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "document/document.h"
#include "edits/pieces.h"
#include "theme/theme.h"

namespace ochron {

SongStrip::SongStrip(Document& document, ViewState& view, QWidget* parent) : Row(document, view, parent) {
  setFixedHeight(46);
  setAccessibleName(tr("Song strip"));
  setToolTip(tr("The whole song. Drag the window to move along it"));
  connect(&doc_, &Document::mediaChanged, this, [this] {
    levelsOf_.reset();
    ofSets_.clear();
    update();
  });
}

double SongStrip::songX(Frames f) const {
  const double end = static_cast<double>(std::max<std::int64_t>(1, doc_.song().end().value));
  return kGutterWidth + static_cast<double>(f.value) / end * (width() - kGutterWidth - 8) + 4;
}

Frames SongStrip::songFrame(double x) const {
  const double end = static_cast<double>(std::max<std::int64_t>(1, doc_.song().end().value));
  return Frames{static_cast<std::int64_t>((x - kGutterWidth - 4) / (width() - kGutterWidth - 8) * end)};
}

void SongStrip::addLevel(const MicSet& set, const Clip& clip, std::vector<float>& level) const {
  constexpr double kBin = 64 * 64;
  const auto columns = static_cast<int>(level.size());
  const double perColumn = static_cast<double>(doc_.song().end().value) / columns;
  const auto column = [&](Frames f) { return static_cast<int>(std::ceil(static_cast<double>(f.value) / perColumn)); };
  for (const auto track : set.tracks) {
    const auto* mic = doc_.song().micFor(set, clip, track);
    const auto found = mic ? doc_.pool().find(mic->media) : doc_.pool().end();
    if (found == doc_.pool().end()) continue;
    const auto& bins = found->second->peaks(0).levels[3];
    for (int x = std::max(0, column(clip.start)); x < std::min(columns, column(clip.end())); ++x) {
      const auto f = Frames{static_cast<std::int64_t>(perColumn * x)};
      const auto bin = static_cast<std::int64_t>(static_cast<double>((clip.toTake(f) - mic->offset).value) / kBin);
      if (bin >= 0 && bin < std::ssize(bins))
        level[static_cast<std::size_t>(x)] += static_cast<float>(bins[static_cast<std::size_t>(bin)].rms);
    }
  }
}

/// Loudness of all edited clips at each column, from the coarse peaks. What a set adds is worked out again only when
/// its clips are others.
const std::vector<float>& SongStrip::levels(int columns) {
  if (levelsOf_ == doc_.version() && std::ssize(levels_) == columns) return levels_;
  const auto& song = doc_.song();
  std::vector<std::vector<TakeMic>> mics;
  for (const auto& take : song.takes) mics.push_back(take.mics);
  if (std::ssize(levels_) != columns || end_ != song.end() || mics_ != mics) ofSets_.clear();
  end_ = song.end();
  mics_ = std::move(mics);
  std::map<SetId, OfSet> sets;
  levels_.assign(static_cast<std::size_t>(columns), 0.0f);
  for (const auto& set : song.sets) {
    auto& of = sets[set.id] = std::move(ofSets_[set.id]);
    if (of.level.empty() || !of.clips.sameObject(set.clips) || of.tracks != set.tracks) {
      of = {set.clips, set.tracks, std::vector<float>(levels_.size(), 0.0f)};
      for (const auto& c : withoutPlan(*set.clips)) addLevel(set, c, of.level);
    }
    for (std::size_t x = 0; x < levels_.size(); ++x) levels_[x] += of.level[x];
  }
  ofSets_ = std::move(sets);
  levelsOf_ = doc_.version();
  return levels_;
}

void SongStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.fillRect(rect(), sheet.panel);
  p.setFont(theme.font(10.5));
  p.setPen(sheet.note);
  p.drawText(QPointF(14, 14), tr("tempo"));
  p.drawText(QPointF(14, 34), tr("song"));
  const auto end = doc_.song().end();
  p.setPen(sheet.hairline);
  p.drawLine(0, height() - 1, width(), height() - 1);
  if (end.value == 0) return;
  const int columns = std::max(1, width() - kGutterWidth - 8);
  const auto& level = levels(columns);
  const float top = std::max(1.0f, *std::max_element(level.begin(), level.end()));
  p.setPen(QPen(sheet.inkSoft, 1));
  for (int x = 0; x < columns; ++x) {
    const double h = 1 + 9 * level[static_cast<std::size_t>(x)] / top;
    p.drawLine(QPointF(kGutterWidth + 4 + x + 0.5, 31 - h), QPointF(kGutterWidth + 4 + x + 0.5, 31 + h));
  }
  // Tempo over the song.
  const auto& map = doc_.song().tempo;
  double low = 1e9;
  double high = 0;
  for (const auto& t : map.tempos()) {
    low = std::min(low, t.bpm);
    high = std::max(high, t.bpm);
  }
  QPolygonF curve;
  for (int x = 0; x <= columns; x += 3) {
    const double bpm = map.bpmAt(map.toTicks(songFrame(kGutterWidth + 4 + x)));
    curve << QPointF(kGutterWidth + 4 + x, high > low ? 15 - 9 * (bpm - low) / (high - low) : 10);
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(QPen(sheet.late, 1.3));
  p.drawPolyline(curve);
  const auto seen = view_.visible();
  const QRectF window(songX(std::max(Frames{0}, seen.start)), 3.5, 0, height() - 8);
  QRectF box = window;
  box.setRight(std::max(window.left() + 4, songX(std::min(end, seen.end))));
  auto fill = sheet.selection;
  fill.setAlphaF(0.13F);
  p.setBrush(fill);
  p.setPen(QPen(sheet.selection, 1));
  p.drawRoundedRect(box, 2, 2);
  p.setPen(QPen(sheet.selection, 1.4));
  p.drawLine(QPointF(songX(playLine()), 4), QPointF(songX(playLine()), height() - 5));
}

std::vector<ReadItem> SongStrip::readItems() const {
  const auto& song = doc_.song();
  const auto all = view_.visible();
  const FrameRange seen{std::max(all.start, Frames{}), std::max(std::min(all.end, song.end()), Frames{})};
  const auto bar = [&](Frames at) { return song.tempo.position(song.tempo.toTicks(at)).bar + 1; };
  return {{tr("in sight: bars %1 to %2 of %3").arg(bar(seen.start)).arg(bar(seen.end)).arg(bar(song.end())),
           QRectF(songX(seen.start), 0, songX(seen.end) - songX(seen.start), height()),
           false,
           {}}};
}

void SongStrip::mousePressEvent(QMouseEvent* event) {
  const auto seen = view_.visible();
  const auto at = songFrame(event->position().x());
  if (!seen.contains(at))
    view_.show(static_cast<double>(at.value) - 0.5 * view_.width() * view_.framesPerPixel(), view_.framesPerPixel());
  grip_ = static_cast<double>(at.value) - view_.firstFrame();
}

void SongStrip::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() & Qt::LeftButton)
    view_.show(static_cast<double>(songFrame(event->position().x()).value) - grip_, view_.framesPerPixel());
}

void SongStrip::wheelEvent(QWheelEvent* event) {
  const double x = view_.xOf(songFrame(event->position().x()));
  view_.zoomAt(std::clamp<double>(x, kGutterWidth, kGutterWidth + view_.width()),
               std::pow(0.8, event->angleDelta().y() / 120.0));
  event->accept();
}

}  // namespace ochron
