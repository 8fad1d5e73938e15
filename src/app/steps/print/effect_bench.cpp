#include "steps/print/effect_bench.h"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "actions/actions.h"
#include "document/effect_desk.h"
#include "document/fresh.h"
#include "panel/bench.h"
#include "panel/controls.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kCellWidth = 212;
constexpr int kAlong = 22;  // side of the button in front of a control
constexpr int kCellHeight = 46;
constexpr int kHeadingHeight = 22;
constexpr int kBetween = 16;
constexpr int kSteps = 1000;  // of a slider
constexpr int kReadingsMs = 80;

/// Where a value lies on a slider, 0 to 1, and the other way round.
double shareOf(const EffectControl& c, double value) {
  if (c.high <= c.low) return 0;
  if (c.logarithmic) return std::log(std::max(value, c.low) / c.low) / std::log(c.high / c.low);
  return (value - c.low) / (c.high - c.low);
}
double valueOf(const EffectControl& c, double share) {
  const double v = c.logarithmic ? c.low * std::pow(c.high / c.low, share) : c.low + share * (c.high - c.low);
  return c.whole ? std::round(v) : v;
}

QString nameOf(const EffectControl& c) {
  return QStringLiteral("effect control %1").arg(QString::fromStdString(c.symbol));
}

int decimalsOf(const EffectControl& c) {
  if (c.whole) return 0;
  const double span = c.high - c.low;
  return span >= 500 ? 0 : span >= 20 ? 1 : span >= 2 ? 2 : 3;
}

}  // namespace

EffectBench::EffectBench(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 8, 10, 4);
  column->setSpacing(6);
  auto* head = new QHBoxLayout;
  title_ = new QLabel(this);
  title_->setObjectName("effect title");
  head->addWidget(title_);
  readings_ = new QLabel(this);
  readings_->setProperty("note", true);
  readings_->setMinimumWidth(1);  // cut to what there is room for
  head->addWidget(readings_, 1);
  presets_ = new QComboBox(this);
  presets_->setObjectName("effect presets");
  presets_->setAccessibleName(tr("Presets"));
  presets_->setMinimumWidth(170);
  head->addWidget(presets_);
  restart_ = new QPushButton(tr("Restart"), this);
  restart_->setObjectName("effect restart");
  head->addWidget(restart_);
  column->addLayout(head);
  scroll_ = new QScrollArea(this);
  scroll_->setFrameShape(QFrame::NoFrame);
  scroll_->setWidgetResizable(false);
  scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  inside_ = new QWidget;
  scroll_->setWidget(inside_);
  column->addWidget(scroll_, 1);
  empty_ = noteLabel(tr("Add an effect in the panel: its controls stand here."), this);
  empty_->setAlignment(Qt::AlignCenter);
  column->addWidget(empty_, 1);
  Actions::bind(restart_, "print.restart");
  connect(presets_, &QComboBox::activated, this, [this](int i) {
    const auto* insert = doc_.effectDesk().chosen();
    const auto info = insert ? doc_.effectDesk().infoOf(*insert) : std::nullopt;
    if (info && i > 0) doc_.effectDesk().usePreset(insert->id, info->presets[static_cast<std::size_t>(i - 1)]);
    presets_->setCurrentIndex(0);
  });
  timer_.setInterval(kReadingsMs);
  connect(&timer_, &QTimer::timeout, this, &EffectBench::showReadings);
  timer_.start();
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->onSong(doc_).on(&doc_.effectDesk(), &EffectDesk::changed);
  refresh();
}

void EffectBench::refresh() {
  const auto* insert = doc_.effectDesk().chosen();
  const auto info = insert ? doc_.effectDesk().infoOf(*insert) : std::nullopt;
  empty_->setVisible(!info);
  scroll_->setVisible(info.has_value());
  empty_->setText(
      !insert
          ? tr("Add an effect in the panel: its controls stand here.")
          : tr("%1 is not on this machine, so its controls are not known.").arg(QString::fromStdString(insert->name)));
  title_->setVisible(insert != nullptr);
  presets_->setVisible(info && !info->presets.empty());
  restart_->setVisible(insert && doc_.effectDesk().told(insert->id).state == LiveRacks::State::stopped);
  if (!insert) return readings_->clear();
  title_->setText(QStringLiteral("<b>%1</b>").arg(QString::fromStdString(insert->name).toHtmlEscaped()));
  if (!info) return;
  if (built_ != insert->id || builtAt_ != doc_.song().rate || shown_.empty()) build(*info, insert->id);
  showValues();
  const auto course = doc_.effectDesk().shownControl();
  const auto& sheet = Theme::get().sheet();
  for (const auto& s : shown_) {
    const auto& symbol = info->controls[s.control].symbol;
    const bool moves = insert->moved.contains(symbol);
    s.along->setChecked(course && course->insert == insert->id && course->control == symbol);
    s.along->setIcon(QIcon(Theme::get().pixmap("course", moves ? sheet.selection : sheet.note, kAlong - 6, 2)));
    s.along->setToolTip(moves ? tr("Moves along the song: click to see its course, right-click for more")
                              : tr("Let it move along the song"));
  }
}

void EffectBench::showValues() {
  const auto* insert = doc_.effectDesk().chosen();
  const auto info = insert ? doc_.effectDesk().infoOf(*insert) : std::nullopt;
  if (!info || insert->id != built_) return;
  for (const auto& s : shown_) s.show(doc_.effectDesk().valueOf(*insert, info->controls[s.control]));
}

QToolButton* EffectBench::makeAlong(const EffectControl& c, InsertId insert, QWidget* parent) {
  auto* button = new QToolButton(parent);
  button->setObjectName(QStringLiteral("effect along %1").arg(QString::fromStdString(c.symbol)));
  button->setAccessibleName(tr("%1 along the song").arg(QString::fromStdString(c.name)));
  button->setCheckable(true);
  button->setProperty("plain", true);
  button->setFixedSize(kAlong, kAlong);
  button->setContextMenuPolicy(Qt::ActionsContextMenu);
  auto* still = new QAction(tr("Hold it still at the value it has here"), button);
  button->addAction(still);
  connect(button, &QToolButton::clicked, this, [this, insert, c, button] {
    doc_.effectDesk().moveAlong(insert, c);
    const auto shown = doc_.effectDesk().shownControl();
    button->setChecked(shown && shown->insert == insert && shown->control == c.symbol);
  });
  connect(still, &QAction::triggered, this,
          [this, insert, symbol = c.symbol] { doc_.effectDesk().holdStill(insert, symbol); });
  return button;
}

void EffectBench::build(const EffectInfo& info, InsertId insert) {
  for (const auto& s : shown_) s.widget->deleteLater();
  for (auto* h : headings_) h->deleteLater();
  shown_.clear();
  headings_.clear();
  built_ = insert;
  builtAt_ = doc_.song().rate;
  presets_->clear();
  presets_->addItem(tr("Presets"));
  for (const auto& p : info.presets) presets_->addItem(QString::fromStdString(p.name));
  for (std::size_t i = 0; i < info.controls.size(); ++i)
    if (!info.controls[i].hidden) shown_.push_back(make(info, i, insert));
  std::stable_sort(shown_.begin(), shown_.end(),
                   [](const Shown& a, const Shown& b) { return a.group.isEmpty() && !b.group.isEmpty(); });
  layOut();
}

EffectBench::Shown EffectBench::make(const EffectInfo& info, std::size_t control, InsertId insert) {
  const auto& c = info.controls[control];
  Shown out{control, new QWidget(inside_), QString::fromStdString(c.group), {}};
  out.widget->resize(kCellWidth, kCellHeight);
  auto* row = new QHBoxLayout(out.widget);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(8);
  out.along = makeAlong(c, insert, out.widget);
  row->addWidget(out.along, 0, Qt::AlignTop);
  auto* inside = new QWidget(out.widget);
  row->addWidget(inside, 1);
  auto* column = new QVBoxLayout(inside);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  const auto set = [this, insert, symbol = c.symbol](double v) { doc_.effectDesk().setValue(insert, symbol, v); };
  out.show = c.toggled                       ? makeToggle(c, *column, set)
             : c.chosen && !c.points.empty() ? makeChoice(c, *column, set)
                                             : makeNumber(c, *column, set);
  out.widget->show();
  return out;
}

EffectBench::Show EffectBench::makeToggle(const EffectControl& c, QVBoxLayout& to, const Set& set) {
  auto* box = new QCheckBox(QString::fromStdString(c.name), to.parentWidget());
  box->setObjectName(nameOf(c));
  to.addWidget(box);
  connect(box, &QCheckBox::clicked, this, [set, c](bool on) { set(on ? c.high : c.low); });
  return [box, c](double v) { box->setChecked(v > (c.low + c.high) / 2); };
}

EffectBench::Show EffectBench::makeChoice(const EffectControl& c, QVBoxLayout& to, const Set& set) {
  const auto name = QString::fromStdString(c.name);
  auto* box = new QComboBox(to.parentWidget());
  box->setObjectName(nameOf(c));
  box->setAccessibleName(name);
  for (const auto& p : c.points) box->addItem(QString::fromStdString(p.label));
  to.addWidget(noteLabel(name, to.parentWidget()));
  to.addWidget(box);
  connect(box, &QComboBox::activated, this, [set, c](int i) { set(c.points[static_cast<std::size_t>(i)].value); });
  return [box, c](double v) {
    const auto nearest = std::min_element(c.points.begin(), c.points.end(), [&](const auto& a, const auto& b) {
      return std::abs(a.value - v) < std::abs(b.value - v);
    });
    box->setCurrentIndex(static_cast<int>(nearest - c.points.begin()));
  };
}

EffectBench::Show EffectBench::makeNumber(const EffectControl& c, QVBoxLayout& to, const Set& set) {
  constexpr int kNumberWidth = 92;
  const auto name = QString::fromStdString(c.name);
  auto* row = new QHBoxLayout;
  row->setSpacing(6);
  auto* title = new QLabel(name, to.parentWidget());
  title->setToolTip(name);
  auto* number = new NumberBox(to.parentWidget());
  number->setObjectName(nameOf(c));
  number->setAccessibleName(name);
  number->setRange(std::min(c.low, c.high), std::max(c.low, c.high));
  number->setDecimals(decimalsOf(c));
  number->setSingleStep(c.whole ? 1 : (c.high - c.low) / 100);
  if (!c.unit.empty()) number->setSuffix(' ' + QString::fromStdString(c.unit));
  fixWidth(*number, kNumberWidth);
  row->addWidget(title, 1);
  row->addWidget(number);
  to.addLayout(row);
  auto* slider =
      new LineSlider(0, kSteps, static_cast<int>(std::lround(kSteps * shareOf(c, c.fallback))), to.parentWidget());
  slider->setAccessibleName(name);
  to.addWidget(slider);
  connect(number, &QDoubleSpinBox::valueChanged, this, set);
  connect(slider, &QAbstractSlider::valueChanged, this,
          [set, c](int v) { set(valueOf(c, static_cast<double>(v) / kSteps)); });
  const auto hold = holdingWhile(doc_);
  connect(slider, &QAbstractSlider::sliderPressed, this, [hold] { hold(true); });
  connect(slider, &QAbstractSlider::sliderReleased, this, [hold] { hold(false); });
  return [number, slider, c](double v) {
    const QSignalBlocker a(number);
    const QSignalBlocker b(slider);
    if (!number->hasFocus()) number->setValue(v);
    if (!slider->isSliderDown()) slider->setValue(static_cast<int>(std::lround(kSteps * shareOf(c, v))));
  };
}

/// Controls in as many columns as there is room for, each group under its heading.
void EffectBench::layOut() {
  for (auto* h : headings_) h->deleteLater();
  headings_.clear();
  const int room = std::max(kCellWidth, scroll_->viewport()->width());
  const int columns = std::max(1, (room + kBetween) / (kCellWidth + kBetween));
  int at = 0;
  int y = 0;
  QString group;
  for (const auto& s : shown_) {
    if (s.group != group) {
      if (at > 0) y += kCellHeight + 4;
      at = 0;
      group = s.group;
      auto* heading = noteLabel(group, inside_);
      heading->setGeometry(0, y, room, kHeadingHeight);
      heading->show();
      headings_.push_back(heading);
      y += kHeadingHeight;
    }
    s.widget->setGeometry(at * (kCellWidth + kBetween), y, kCellWidth, kCellHeight);
    if (++at == columns) {
      at = 0;
      y += kCellHeight + 4;
    }
  }
  inside_->resize(room, y + (at > 0 ? kCellHeight : 0) + 6);
}

void EffectBench::resizeEvent(QResizeEvent*) { layOut(); }

void EffectBench::showReadings() {
  if (!isVisible()) return;
  const auto* insert = doc_.effectDesk().chosen();
  if (!insert) return;
  const auto told = doc_.effectDesk().told(insert->id);
  QStringList parts;
  switch (told.state) {
    case LiveRacks::State::missing: parts << tr("not on this machine"); break;
    case LiveRacks::State::starting: parts << tr("starting\u2026"); break;
    case LiveRacks::State::stopped: parts << QString::fromStdString(told.trouble); break;
    case LiveRacks::State::ready: break;
  }
  if (!insert->moved.empty()) showValues();
  if (told.state == LiveRacks::State::ready)
    for (const auto& [name, value] : doc_.effectDesk().readings(insert->id))
      parts << QStringLiteral("%1 %2").arg(name).arg(value, 0, 'f', 1);
  if (told.latency.value > 0) parts << tr("%1 frames late").arg(told.latency.value);
  if (told.missed > 0) parts << tr("%1 blocks missed").arg(told.missed);
  const auto text = parts.join(QStringLiteral(" \u00b7 "));
  readings_->setText(readings_->fontMetrics().elidedText(text, Qt::ElideRight, readings_->width()));
  readings_->setToolTip(readings_->text() == text ? QString() : text);
}

void EffectBench::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintGround(p, *this, Theme::get().sheet().panel);
}

}  // namespace ochron
