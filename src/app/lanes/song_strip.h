#pragma once

#include <map>
#include <memory>
#include <vector>

#include "canvas/read_items.h"
#include "canvas/row.h"
#include "song/song.h"

namespace ochron {

/// The whole song: tempo over it, the visible window in it. Drag the window, or click to go there.
class SongStrip : public Row, public ReadItems {
  Q_OBJECT
 public:
  SongStrip(Document& document, ViewState& view, QWidget* parent);
  std::vector<ReadItem> readItems() const override;

 protected:
  double playX(Frames at) const override { return songX(at); }
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;

 private:
  /// What one set adds to the picture.
  struct OfSet {
    Shared<ClipList> clips;
    std::vector<TrackId> tracks;
    std::vector<float> level;  ///< for each column
  };
  const std::vector<float>& levels(int columns);
  void addLevel(const MicSet& set, const Clip& clip, std::vector<float>& level) const;
  double songX(Frames f) const;
  Frames songFrame(double x) const;
  std::vector<float> levels_;
  std::shared_ptr<const Song> levelsOf_;
  std::map<SetId, OfSet> ofSets_;
  Frames end_;                              // of the song, as drawn
  std::vector<std::vector<TakeMic>> mics_;  // of all takes, as drawn
  double grip_ = 0;
};

}  // namespace ochron
