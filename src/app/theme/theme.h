#pragma once

#include <QFont>
#include <QIcon>
#include <QObject>
#include <compare>
#include <map>
#include <optional>
#include <utility>

#include "theme/sheet.h"

class QPainter;
class QWidget;

namespace ochron {

/// The sheet in force, the shipped fonts and the icons.
class Theme : public QObject {
  Q_OBJECT
 public:
  static Theme& get();
  const Sheet& sheet() const { return sheetOf(kind_); }
  SheetKind kind() const { return kind_; }
  /// By the user's choice: it stays, whatever the desktop says.
  void setSheet(SheetKind kind);
  /// From now on the sheet is the one that the desktop asks for; light where it does not say.
  void followDesktop();
  bool followsDesktop() const { return follows_; }
  /// What the desktop asks for.
  void setDesktopSheet(std::optional<SheetKind> kind);
  /// How large text is, against that of the design: 1 to kMostText.
  double textSize() const { return textSize_; }
  /// By the user's choice: it stays, whatever the desktop says.
  void setTextSize(double times);
  /// What the desktop asks for, where it does not enlarge windows as a whole.
  void setDesktopTextSize(double times);
  void followDesktopText();
  bool followsDesktopText() const { return textFollows_; }
  /// A length in which text lies, pixels, at the size of text.
  int px(double atUsualSize) const;
  /// Points are those of the design at 96 dpi and the usual size of text; weight 400, 500 or 600.
  QFont font(double px, int weight = 400) const;
  QIcon icon(const QString& name) const;
  QPixmap pixmap(const QString& name, const QColor& colour, int side, double ratio) const;
  /// A smooth round dot in the middle of a square of whole pixels, for marks by the thousand.
  QPixmap dot(const QColor& colour, double radius, double ratio) const;
  /// The same as a ring of a pixel and a half, filled with another colour.
  QPixmap ring(const QColor& colour, const QColor& inside, double radius, double ratio) const;
  QColor tab(int colourIndex) const;

 signals:
  void changed();

 private:
  struct RoundMark {
    QRgb line;
    QRgb inside;
    double radius;
    double ratio;
    auto operator<=>(const RoundMark&) const = default;
  };

  Theme();
  QPixmap roundMark(const RoundMark& mark) const;
  void apply();
  void show(SheetKind kind);
  void showText(double times);
  SheetKind kind_ = SheetKind::light;
  bool follows_ = true;
  double textSize_ = 1;
  double desktopText_ = 1;
  bool textFollows_ = true;
  std::optional<SheetKind> desktop_;
  mutable std::map<RoundMark, QPixmap> marks_;
  mutable std::map<std::pair<int, int>, QFont> fonts_;  ///< by pixels and weight: each finds its engine once
};

inline constexpr double kMostText = 1.5;

/// A widget's width or height, pixels at the usual size of text, that goes with the size.
void fixWidth(QWidget& widget, int pixels);
void fixHeight(QWidget& widget, int pixels);
void atLeastWide(QWidget& widget, int pixels);

/// Puts a mark's middle on the pixel that is nearest.
void stamp(QPainter& p, QPointF at, const QPixmap& mark);

/// Fills a widget with `ground` under a rule along its top edge.
void paintGround(QPainter& p, const QWidget& widget, const QColor& ground);

}  // namespace ochron
