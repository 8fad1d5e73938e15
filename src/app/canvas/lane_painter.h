#pragma once

#include <QPainter>

#include "canvas/view_state.h"
#include "canvas/wave.h"
#include "document/document.h"

namespace ochron {

/// Draws one track's clips: ink between thin corner brackets, fades, and where there is no recording.
class LanePainter {
 public:
  LanePainter(Document& document, ViewState& view) : doc_(document), view_(view) {}

  void paint(QPainter& p, const QRectF& box, const Track& track, const MicSet& set, const ClipList& clips,
             const QRect& dirty, double ratio) const;
  /// The sound of a clip in a stretch of song, as a faint ghost: handles, and what lies under a crossfade.
  void paintGhost(QPainter& p, const QRectF& box, const Track& track, const MicSet& set, const Clip& clip,
                  FrameRange stretch, double ratio) const;

 private:
  /// What a clip plays on a track; null where there is nothing, or its recording is not at hand.
  struct Voice {
    const TakeMic* mic = nullptr;
    const DecodedMedia* media = nullptr;
    double gain = 1;  ///< that its wave is drawn with
  };
  Voice voiceOf(const MicSet& set, const Track& track, const Clip& clip) const;
  void drawWave(WaveCanvas& canvas, const Voice& voice, const Clip& clip, const QRectF& lane, double x0, double x1,
                const WaveInk& ink) const;
  void drawSampleLine(QPainter& p, const QRectF& box, const Voice& voice, const Clip& clip, double from, double to,
                      const QColor& ink) const;
  void drawNotes(QPainter& p, const QRectF& box, const Voice& voice, const Clip& clip, FrameRange seen,
                 const QColor& ink) const;
  void drawFades(QPainter& p, const QRectF& box, const Clip& clip) const;
  void drawSilence(QPainter& p, const QRectF& box, const Voice& voice, const Clip& clip) const;
  void drawLabel(QPainter& p, const QRectF& box, const MicSet& set, const Track& track, const Clip& clip) const;

  Document& doc_;
  ViewState& view_;
};

/// Lanes show each recording at its own loudest, so that quiet mics can be read.
double visualGain(const DecodedMedia& media);

}  // namespace ochron
