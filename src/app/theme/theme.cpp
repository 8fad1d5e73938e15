#include "theme/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QPixmapCache>
#include <QProxyStyle>
#include <QRegularExpression>
#include <QSvgRenderer>
#include <QWidget>
#include <algorithm>
#include <array>
#include <cmath>

// The resources stand in a static library, which has to be asked for them. Must stand outside every namespace.
static void initResources() {
  Q_INIT_RESOURCE(app);
  Q_INIT_RESOURCE(manual);
}

namespace ochron {
namespace {

QString styleSheet(const Sheet& s) {
  QString css = QStringLiteral(R"(
* { font-family: "Orthochron Sans"; font-size: 12px; color: @ink; outline: none; }
QMainWindow, QDialog, QMessageBox { background: @panel; }
QDialog { border: 1px solid @rule; }
QMenuBar { background: @chrome; padding: 2px 8px; border: none; }
QMenuBar::item { padding: 4px 10px; border-radius: 4px; background: transparent; }
QMenuBar::item:selected { background: @selSoft; }
QMenu { background: @field; border: 1px solid @rule; padding: 5px; }
QMenu::item { padding: 5px 26px 5px 12px; border-radius: 4px; }
QMenu::item:selected { background: @selSoft; }
QMenu::item:disabled { color: @note; }
QMenu::separator { height: 1px; background: @hair; margin: 5px 6px; }
QToolTip { background: @ink; color: @paper; border: none; padding: 5px 7px; }
QDialogButtonBox { dialogbuttonbox-buttons-have-icons: 0; }
QPushButton { background: @field; border: 1px solid @edge; border-radius: 5px; padding: 5px 12px; min-height: 16px; }
QPushButton:hover { border-color: @sel; }
QPushButton:focus { border-color: @sel; }
QPushButton:pressed { background: @selSoft; }
QPushButton:disabled { color: @note; border-color: @hair; background: @panel; }
QPushButton[primary="true"] { background: @ink; color: @paper; border-color: @ink; }
QPushButton[primary="true"]:hover { background: @sel; border-color: @sel; }
QPushButton[primary="true"]:disabled { background: @rule; border-color: @rule; color: @panel; }
QToolButton { background: transparent; border: 1px solid transparent; border-radius: 4px; padding: 1px; }
QToolButton:hover { background: @selSoft; }
QToolButton:focus { border-color: @sel; }
QToolButton:checked { background: @selSoft; }
QPushButton[half="true"] { border-radius: 6px; padding: 3px 4px; color: @note; }
QPushButton[half="true"]:checked { background: @ink; color: @paper; border-color: @ink; }
QPushButton[small="true"] { padding: 3px 6px; min-height: 15px; }
QToolButton[fold="true"] { border: none; border-top: 1px solid @hair; border-radius: 0; text-align: left; padding: 3px 0; background: transparent; }
QToolButton[fold="true"]:hover { color: @sel; }
QToolButton[fold="true"]:focus { color: @sel; }
QToolButton[words="true"] { color: @note; padding: 1px 5px; }
QToolButton[words="true"]:hover { color: @sel; background: transparent; }
QToolButton[plain="true"] { background: @field; border: 1px solid @edge; border-radius: 5px; min-width: 20px; min-height: 22px; }
QToolButton[plain="true"]:hover { border-color: @sel; }
QToolButton[plain="true"]:checked { background: @selSoft; border-color: @sel; }
QToolButton[plain="true"]::menu-indicator { image: none; }
QPushButton[field="true"] { padding: 3px 7px; min-height: 18px; text-align: left; }
QPushButton[field="true"]::menu-indicator { subcontrol-position: right center; subcontrol-origin: padding; right: 5px; image: url(:/theme/icons/chevron-@tone.svg); width: 12px; height: 12px; }
QComboBox, QDoubleSpinBox, QSpinBox, QLineEdit { background: @field; border: 1px solid @edge; border-radius: 5px; padding: 3px 7px; min-height: 18px;
  selection-background-color: @sel; selection-color: @paper; }
QComboBox:hover, QDoubleSpinBox:hover, QSpinBox:hover, QLineEdit:hover { border-color: @note; }
QComboBox:focus, QDoubleSpinBox:focus, QSpinBox:focus, QLineEdit:focus { border-color: @sel; }
QComboBox:disabled, QDoubleSpinBox:disabled, QSpinBox:disabled, QLineEdit:disabled { color: @note; background: @panel; border-color: @rule; }
QToolButton[plain="true"]:disabled { color: @note; background: @panel; border-color: @rule; }
QComboBox::drop-down { border: none; width: 20px; }
QComboBox::down-arrow { image: url(:/theme/icons/chevron-@tone.svg); width: 12px; height: 12px; }
QComboBox QAbstractItemView { background: @field; border: 1px solid @rule; selection-background-color: @selSoft; selection-color: @ink; padding: 3px; }
QDoubleSpinBox, QSpinBox { padding-right: 4px; }
QDoubleSpinBox::up-button, QDoubleSpinBox::down-button, QSpinBox::up-button, QSpinBox::down-button { width: 0; border: none; }
QCheckBox { spacing: 7px; }
QCheckBox:focus { color: @sel; }
QCheckBox::indicator, QListView::indicator { width: 14px; height: 14px; border: 1px solid @edge; border-radius: 3px; background: @field; }
QCheckBox::indicator:hover, QCheckBox::indicator:focus { border-color: @sel; }
QCheckBox::indicator:checked, QListView::indicator:checked { background: @sel; border-color: @sel; image: url(:/theme/icons/tick.svg); }
QScrollBar { background: transparent; border: none; }
QScrollBar:vertical { width: 9px; } QScrollBar:horizontal { height: 9px; }
QScrollBar::handle { background: @rule; border-radius: 3px; margin: 1px; }
QScrollBar::handle:hover { background: @note; }
QScrollBar::handle:vertical { min-height: 24px; } QScrollBar::handle:horizontal { min-width: 24px; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: none; border: none; width: 0; height: 0; }
QScrollArea, QAbstractScrollArea { background: transparent; border: none; }
QTableView, QTableWidget, QListView, QTreeView { background: @field; border: 1px solid @rule; border-radius: 5px; gridline-color: @hair; selection-background-color: @selSoft; selection-color: @ink; }
QListWidget { padding: 3px; }
QListWidget::item { padding: 5px 8px; border-radius: 4px; color: @ink; }
QListWidget::item:hover { background: @hair; }
QListWidget::item:selected { background: @selSoft; color: @ink; }
QListWidget::item:disabled { color: @note; }
QListWidget[bare="true"] { background: transparent; border: none; padding: 0; }
QListWidget:focus { border-color: @sel; }
QTextBrowser { background: @field; border: none; border-left: 1px solid @rule; selection-background-color: @sel; selection-color: @paper; }
QTreeView::item { padding: 2px 6px; min-height: 20px; }
QHeaderView::section { background: @panel; color: @note; border: none; border-bottom: 1px solid @rule; padding: 4px 8px; }
QSplitter::handle { background: @rule; }
QSplitter::handle:hover { background: @sel; }
QProgressBar { background: @hair; border: none; border-radius: 3px; min-height: 6px; max-height: 6px; }
QProgressBar::chunk { background: @sel; border-radius: 3px; }
QLabel[note="true"] { color: @note; font-size: 11px; }
)");
  const std::array<std::pair<const char*, QColor>, 10> names{{{"@selSoft", s.selectionSoft},
                                                              {"@sel", s.selection},
                                                              {"@ink", s.ink},
                                                              {"@note", s.note},
                                                              {"@hair", s.hairline},
                                                              {"@rule", s.rule},
                                                              {"@edge", s.edge},
                                                              {"@paper", s.paper},
                                                              {"@panel", s.panel},
                                                              {"@chrome", s.chrome}}};
  css.replace("@field", s.field.name()).replace("@tone", s.dark ? "night" : "light");
  for (const auto& [name, colour] : names) css.replace(name, colour.name());
  return css;
}

}  // namespace

namespace {
QString withTextSize(QString css, double times) {
  static const QRegularExpression size(QStringLiteral(R"(font-size: ([0-9.]+)px)"));
  for (auto found = size.match(css); found.hasMatch(); found = size.match(css, found.capturedEnd())) {
    const auto sized = QStringLiteral("font-size: %1px").arg(std::lround(found.captured(1).toDouble() * times));
    css.replace(found.capturedStart(), found.capturedLength(), sized);
  }
  return css;
}

/// In an open menu, typing the first letters of an entry goes to it.
class TypedMenus : public QProxyStyle {
 public:
  TypedMenus() : QProxyStyle("Fusion") {}
  int styleHint(StyleHint hint, const QStyleOption* option, const QWidget* widget,
                QStyleHintReturn* back) const override {
    return hint == SH_Menu_KeyboardSearch ? 1 : QProxyStyle::styleHint(hint, option, widget, back);
  }
};
}  // namespace

Theme& Theme::get() {
  static Theme theme;
  return theme;
}

Theme::Theme() {
  initResources();
  for (const char* weight : {"Regular", "Medium", "SemiBold"})
    QFontDatabase::addApplicationFont(QStringLiteral(":/theme/fonts/OrthochronSans-%1.otf").arg(weight));
  apply();
}

void Theme::setSheet(SheetKind kind) {
  follows_ = false;
  show(kind);
}

void Theme::followDesktop() {
  follows_ = true;
  show(desktop_.value_or(SheetKind::light));
}

void Theme::setDesktopSheet(std::optional<SheetKind> kind) {
  desktop_ = kind;
  if (follows_) followDesktop();
}

void Theme::setTextSize(double times) {
  textFollows_ = false;
  showText(times);
}

void Theme::followDesktopText() {
  textFollows_ = true;
  showText(desktopText_);
}

void Theme::setDesktopTextSize(double times) {
  desktopText_ = times;
  if (textFollows_) followDesktopText();
}

void Theme::showText(double times) {
  times = std::clamp(times, 1.0, kMostText);
  if (times == textSize_) return;
  textSize_ = times;
  apply();
  emit changed();
}

int Theme::px(double atUsualSize) const { return static_cast<int>(std::lround(atUsualSize * textSize_)); }

void Theme::show(SheetKind kind) {
  if (kind == kind_) return;
  kind_ = kind;
  apply();
  emit changed();
}

void Theme::apply() {
  QApplication::setStyle(new TypedMenus);
  QPalette p;
  p.setColor(QPalette::Window, sheet().panel);
  p.setColor(QPalette::WindowText, sheet().ink);
  p.setColor(QPalette::Base, sheet().field);
  p.setColor(QPalette::Text, sheet().ink);
  p.setColor(QPalette::Button, sheet().panel);
  p.setColor(QPalette::ButtonText, sheet().ink);
  p.setColor(QPalette::Highlight, sheet().selection);
  p.setColor(QPalette::PlaceholderText, sheet().note);
  QApplication::setPalette(p);
  QApplication::setFont(font(12));
  qApp->setStyleSheet(withTextSize(styleSheet(sheet()), textSize_));
}

QFont Theme::font(double px, int weight) const {
  const auto [known, fresh] =
      fonts_.try_emplace({static_cast<int>(px * textSize_), weight}, "Orthochron Sans");
  auto& f = known->second;
  if (fresh) {
    f.setPixelSize(known->first.first);
    f.setWeight(weight >= 600 ? QFont::DemiBold : weight >= 500 ? QFont::Medium : QFont::Normal);
  }
  return f;
}

QPixmap Theme::pixmap(const QString& name, const QColor& colour, int side, double ratio) const {
  const auto key = QStringLiteral("icon %1 %2 %3 %4").arg(name, colour.name()).arg(side).arg(ratio);
  QPixmap pixmap;
  if (QPixmapCache::find(key, &pixmap)) return pixmap;
  QFile file(QStringLiteral(":/theme/icons/%1.svg").arg(name));
  if (!file.open(QIODevice::ReadOnly)) return {};
  QSvgRenderer svg(file.readAll().replace("currentColor", colour.name().toUtf8()));
  pixmap = QPixmap(QSize(side, side) * ratio);
  pixmap.setDevicePixelRatio(ratio);
  pixmap.fill(Qt::transparent);
  QPainter painter(&pixmap);
  svg.render(&painter, QRectF(0, 0, side, side));
  painter.end();
  QPixmapCache::insert(key, pixmap);
  return pixmap;
}

QPixmap Theme::dot(const QColor& colour, double radius, double ratio) const {
  return roundMark({qRgba(0, 0, 0, 0), colour.rgba(), radius, ratio});
}

QPixmap Theme::ring(const QColor& colour, const QColor& inside, double radius, double ratio) const {
  return roundMark({colour.rgba(), inside.rgba(), radius, ratio});
}

QPixmap Theme::roundMark(const RoundMark& mark) const {
  constexpr std::size_t kMost = 64;
  constexpr double kLine = 1.3;
  if (const auto known = marks_.find(mark); known != marks_.end()) return known->second;
  if (marks_.size() >= kMost) marks_.clear();
  const int half = static_cast<int>(std::ceil(mark.radius)) + 1;
  QPixmap pixmap(QSize(2 * half, 2 * half) * mark.ratio);
  pixmap.setDevicePixelRatio(mark.ratio);
  pixmap.fill(Qt::transparent);
  QPainter painter(&pixmap);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(qAlpha(mark.line) == 0 ? QPen(Qt::NoPen) : QPen(QColor::fromRgba(mark.line), kLine));
  painter.setBrush(QColor::fromRgba(mark.inside));
  painter.drawEllipse(QPointF(half, half), mark.radius, mark.radius);
  painter.end();
  return marks_.emplace(mark, std::move(pixmap)).first->second;
}

QIcon Theme::icon(const QString& name) const {
  QIcon icon;
  icon.addPixmap(pixmap(name, sheet().note, 20, 2), QIcon::Normal, QIcon::Off);
  icon.addPixmap(pixmap(name, sheet().selection, 20, 2), QIcon::Normal, QIcon::On);
  return icon;
}

QColor Theme::tab(int i) const {
  static const std::array<QColor, 8> light{"#6f9cc4", "#8fb573", "#c9a34e", "#b57aa0",
                                           "#6fb0a8", "#c08468", "#8a86c4", "#9aa3ad"};
  return light[static_cast<std::size_t>(i) % light.size()];
}

namespace {
template <class Set>
void withText(QWidget& widget, const Set& set) {
  set();
  QObject::connect(&Theme::get(), &Theme::changed, &widget, set);
}
}  // namespace

void fixWidth(QWidget& widget, int pixels) {
  withText(widget, [&widget, pixels] { widget.setFixedWidth(Theme::get().px(pixels)); });
}
void fixHeight(QWidget& widget, int pixels) {
  withText(widget, [&widget, pixels] { widget.setFixedHeight(Theme::get().px(pixels)); });
}
void atLeastWide(QWidget& widget, int pixels) {
  withText(widget, [&widget, pixels] { widget.setMinimumWidth(Theme::get().px(pixels)); });
}

void stamp(QPainter& p, QPointF at, const QPixmap& mark) {
  const double half = mark.deviceIndependentSize().width() / 2;
  p.drawPixmap(QPointF(std::round(at.x() - half), std::round(at.y() - half)), mark);
}

void paintGround(QPainter& p, const QWidget& widget, const QColor& ground) {
  p.fillRect(widget.rect(), ground);
  p.setPen(Theme::get().sheet().rule);
  p.drawLine(0, 0, widget.width(), 0);
}

}  // namespace ochron
