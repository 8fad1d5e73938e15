#pragma once

#include <QColor>
#include <QFont>
#include <QIcon>
#include <QObject>

class QPainter;
class QWidget;

namespace ochron {

/// The colours of a sheet. Colour means something or is not there: violet early, ochre late, teal selection, red needs
/// a look.
struct Sheet {
  bool night = false;
  QColor paper;     ///< where sound is drawn
  QColor panel;     ///< columns and lines around it
  QColor chrome;    ///< menu bar, status line
  QColor ink;       ///< text, the dense core of waveforms
  QColor inkSoft;   ///< their outer silhouette
  QColor note;      ///< secondary text
  QColor hairline;  ///< beats, thin rules
  QColor rule;      ///< bars, borders
  QColor field;     ///< inside of inputs
  QColor selection;
  QColor selectionSoft;
  QColor early;
  QColor late;
  QColor alarm;
};

/// The sheet in force, the shipped fonts and the icons.
class Theme : public QObject {
  Q_OBJECT
 public:
  static Theme& get();
  const Sheet& sheet() const { return sheet_; }
  void setNight(bool night);
  /// Points are those of the design at 96 dpi; weight 400, 500 or 600.
  QFont font(double px, int weight = 400) const;
  QIcon icon(const QString& name) const;
  QPixmap pixmap(const QString& name, const QColor& colour, int side, double ratio) const;
  /// A smooth round dot in the middle of a square of whole pixels, for marks by the thousand.
  QPixmap dot(const QColor& colour, double radius, double ratio) const;
  QColor tab(int colourIndex) const;

 signals:
  void changed();

 private:
  Theme();
  void apply();
  Sheet sheet_;
};

/// Fills a widget with `ground` under a rule along its top edge.
void paintGround(QPainter& p, const QWidget& widget, const QColor& ground);

}  // namespace ochron
