#pragma once

#include <QPainter>
#include <functional>
#include <memory>
#include <optional>
#include <utility>

#include "canvas/gesture.h"
#include "canvas/view_state.h"
#include "document/document.h"

namespace ochron {

class LaneLayout;

/// A press on the lanes: where, with which keys, and whom what is dragged tells its sentence.
struct Press {
  QPointF at;
  Qt::KeyboardModifiers modifiers;
  std::function<void(const QString&)> tell;
};

/// One kind of thing that lies on the lanes: it is drawn there, found under the pointer, chosen and taken hold of. The
/// lanes have theirs in one order: the pointer reaches the first that has something there, and the first is drawn last.
class Overlay {
 public:
  /// What the pointer shows over a thing.
  struct Look {
    Qt::CursorShape cursor = Qt::ArrowCursor;
    QString tip;
  };

  Overlay(Document& document, ViewState& view, const LaneLayout& lanes) : doc_(document), view_(view), lanes_(lanes) {}
  virtual ~Overlay() = default;
  Overlay(const Overlay&) = delete;
  Overlay& operator=(const Overlay&) = delete;

  /// Under the tracks' sound.
  virtual void paintUnder(QPainter&) const {}
  /// On the tracks' sound, under all that can be taken hold of.
  virtual void paintOnSound(QPainter&) const {}
  virtual void paint(QPainter& p) const = 0;

  virtual bool has(QPointF at) const = 0;
  /// The pointer is at a place, or over nothing of this kind; true when the picture changes with that.
  virtual bool point(std::optional<QPointF> at) = 0;
  /// Of what the pointer is over; none over nothing.
  virtual std::optional<Look> look() const = 0;
  /// Chooses what lies at a place; false when nothing does.
  virtual bool choose(QPointF at) = 0;
  /// Takes hold of what lies at a place, choosing it: what is dragged from there, or null where it is chosen only.
  virtual std::unique_ptr<Gesture> press(const Press& press) = 0;
  /// Pins stay chosen when something of this kind is pressed.
  virtual bool keepsPins() const { return false; }
  /// The press is over. `clicked`: nothing was dragged.
  virtual void release(bool /*clicked*/, Qt::KeyboardModifiers) {}
  /// False when a double click there is nothing to it.
  virtual bool doubleClick(QPointF) { return false; }

 protected:
  /// What of the song is to be painted anew, with room for marks that reach over their place. While it plays that is a
  /// strip of few pixels.
  FrameRange exposed(const QPainter& p) const;
  /// Something of the set's lanes is.
  bool exposes(const QPainter& p, const MicSet& set) const;

  Document& doc_;
  ViewState& view_;
  const LaneLayout& lanes_;
};

/// An overlay whose things are told apart by a `Spot`.
template <class Spot>
class SpotOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  virtual std::optional<Spot> at(QPointF point) const = 0;

  bool has(QPointF place) const final { return at(place).has_value(); }
  bool point(std::optional<QPointF> place) final {
    auto spot = place ? at(*place) : std::nullopt;
    if (spot == hovered_) return false;
    hovered_ = std::move(spot);
    return true;
  }
  std::optional<Look> look() const final { return hovered_ ? std::optional(lookOf(*hovered_)) : std::nullopt; }
  bool choose(QPointF place) final {
    const auto spot = at(place);
    if (spot) chooseSpot(*spot);
    return spot.has_value();
  }
  std::unique_ptr<Gesture> press(const Press& press) final {
    const auto spot = at(press.at);
    return spot ? take(*spot, press) : nullptr;
  }

 protected:
  virtual Look lookOf(const Spot& spot) const = 0;
  virtual void chooseSpot(const Spot& spot) = 0;
  virtual std::unique_ptr<Gesture> take(const Spot& spot, const Press& press) = 0;

  std::optional<Spot> hovered_;
};

}  // namespace ochron
