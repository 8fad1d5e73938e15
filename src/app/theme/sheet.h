#pragma once

#include <QColor>
#include <array>
#include <string_view>

namespace ochron {

enum class SheetKind { light, night, contrast };
/// As settings and options name them.
inline constexpr std::array<std::string_view, 3> kSheetNames{"light", "night", "contrast"};

/// The colours of a sheet. Colour means something or is not there: violet early, ochre late, teal selection, red needs
/// a look.
struct Sheet {
  bool dark = false;
  QColor paper;     ///< where sound is drawn
  QColor panel;     ///< columns and lines around it
  QColor chrome;    ///< menu bar, status line
  QColor ink;       ///< text, the dense core of waveforms
  QColor inkSoft;   ///< their outer silhouette
  QColor note;      ///< secondary text
  QColor hairline;  ///< beats, thin rules
  QColor rule;      ///< bars, borders of areas
  QColor edge;      ///< borders of what can be changed
  QColor field;     ///< inside of inputs
  QColor selection;
  QColor selectionSoft;
  QColor early;
  QColor late;
  QColor alarm;
};

const Sheet& sheetOf(SheetKind kind);

}  // namespace ochron
