#pragma once

#include <array>
#include <memory>

#include "canvas/read_items.h"
#include "canvas/row.h"
#include "document/selection.h"
#include "feel/plan_timing.h"

namespace ochron {

/// Each hit's deviation from its grid place in ms, before (ring) and after (dot), along the lanes' time axis; the drift
/// curve, the tolerance band, and a histogram of both; or the pocket over one bar. A hit dragged up or down gets its
/// target that far off its line.
class TimingGraph : public Row, public ReadItems {
  Q_OBJECT
 public:
  TimingGraph(Document& document, ViewState& view, QWidget* parent);

  std::vector<ReadItem> readItems() const override;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  bool dragging() const override { return dragging_; }
  void dragEnded() override;

 private:
  static constexpr int kBins = 21;
  /// What is drawn, worked out once for each version of the song.
  struct Model {
    std::shared_ptr<const Song> song;
    SetId set;
    const TimingResult* planned = nullptr;
    TimingStats stats;
    double reachMs = 0;
    std::array<int, kBins> before{};  ///< of the histogram
    std::array<int, kBins> after{};
    int most = 1;
    bool on = false;
  };
  const Model& model() const;
  double reachMs() const;
  QRectF plot() const;
  double yOf(double ms) const;
  void paintHistogram(QPainter& p);
  void paintHits(QPainter& p, const QRectF& exposed);
  void paintPocket(QPainter& p);
  QRectF pocketToggle() const;
  const PlannedHit* hitAt(QPointF point) const;

  mutable Model model_;
  bool pocket_ = false;  // one bar's pocket is shown instead of the song
  std::optional<HitRef> grabbed_;
  Ticks line_;
  QPointF pressed_;
  bool dragging_ = false;
  double heldReach_ = 0;  // the scale stays while something is dragged
};

}  // namespace ochron
