#include "steps/pitch/key_row.h"

#include <QHBoxLayout>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QSettings>
#include <QSignalBlocker>
#include <QToolTip>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "actions/actions.h"
#include "document/document.h"
#include "panel/controls.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr int kLowest = -5;
constexpr const char* kKeyboardKey = "pitch/keyboard";
constexpr int kInRow = 6;
constexpr double kGap = 4;
constexpr SettingRange kTriedCentsRange{"cents", "cents", -99, 99, 1, 0};

/// The key of twelve that stands for a transposition, and the octave it lies in.
int keyOf(int semitones) { return ((semitones - kLowest) % 12 + 12) % 12 + kLowest; }

QString signedText(int n) {
  return n > 0 ? QStringLiteral("+%1").arg(n) : n < 0 ? QStringLiteral("\u2212%1").arg(-n) : QStringLiteral("0");
}

}  // namespace

KeyRow::KeyRow(Document& document, QWidget* parent) : QWidget(parent), doc_(document), desk_(document.keyDesk()) {
  setObjectName("keys");
  setAccessibleName(tr("Keys to try"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  connect(&desk_, &KeyDesk::changed, this, qOverload<>(&QWidget::update));
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

QRectF KeyRow::boxOf(int semitones) const {
  const int i = semitones - kLowest;
  const double wide = (width() - (kInRow - 1) * kGap) / kInRow;
  const double high = (height() - kGap) / 2;
  const int row = i / kInRow;
  return {(i % kInRow) * (wide + kGap), row * (high + kGap), wide, high};
}

std::optional<int> KeyRow::keyAt(QPointF point) const {
  for (int n = kLowest; n < kLowest + 12; ++n)
    if (boxOf(n).contains(point)) return n;
  return {};
}

void KeyRow::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  p.setRenderHint(QPainter::Antialiasing);
  const auto& fits = desk_.fits();
  const double best = fits ? *std::max_element(fits->begin(), fits->end()) : 0;
  for (int n = kLowest; n < kLowest + 12; ++n) {
    const auto box = boxOf(n).adjusted(0.5, 0.5, -0.5, -0.5);
    const bool tried = desk_.trying() && keyOf(desk_.semitones()) == n;
    const bool near = hovered_ == n || (hasFocus() && tried);
    p.setPen(QPen(tried || near ? sheet.selection : sheet.rule, tried ? 1.6 : 1));
    p.setBrush(tried ? sheet.selectionSoft : sheet.field);
    p.drawRoundedRect(box, 5, 5);
    p.setFont(theme.font(12, n == 0 ? 700 : 500));
    p.setPen(sheet.ink);
    p.drawText(box.adjusted(0, 0, 0, -8), Qt::AlignCenter, signedText(n));
    if (!fits) continue;
    const double fit = (*fits)[static_cast<std::size_t>((n % 12 + 12) % 12)];
    const QRectF line(box.left() + 5, box.bottom() - 7, box.width() - 10, 3);
    p.setPen(Qt::NoPen);
    p.setBrush(sheet.hairline);
    p.drawRoundedRect(line, 1.5, 1.5);
    if (fit <= 0) continue;
    p.setBrush(fit == best ? sheet.selection : sheet.inkSoft);
    p.drawRoundedRect(QRectF(line.topLeft(), QSizeF(std::max(3.0, line.width() * fit), 3)), 1.5, 1.5);
  }
}

bool KeyRow::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    const auto key = keyAt(help->pos());
    if (!key) return QWidget::event(event);
    QToolTip::showText(help->globalPos(), wordsOf(*key), this);
    return true;
  }
  // While the keys have the focus, letters are keys and no commands.
  if (event->type() == QEvent::ShortcutOverride) {
    const auto* key = static_cast<QKeyEvent*>(event);
    const bool letter = key->modifiers() == Qt::NoModifier && !key->text().isEmpty() && key->key() != Qt::Key_Space;
    const bool arrow = key->key() >= Qt::Key_Left && key->key() <= Qt::Key_Down;
    if (letter || arrow) {
      event->accept();
      return true;
    }
  }
  return QWidget::event(event);
}

QString KeyRow::wordsOf(int semitones) const {
  auto text = semitones == 0 ? tr("As it was recorded") : tr("%1 semitones").arg(signedText(semitones));
  if (const auto& fits = desk_.fits())
    text += tr(", fits the other tracks to %1 %")
                .arg(std::lround(100 * std::max(0.0, (*fits)[static_cast<std::size_t>((semitones % 12 + 12) % 12)])));
  return text;
}

std::vector<ReadItem> KeyRow::readItems() const {
  std::vector<ReadItem> out;
  for (int n = kLowest; n < kLowest + 12; ++n)
    out.push_back({wordsOf(n), boxOf(n), desk_.trying() && keyOf(desk_.semitones()) == n,
                   [self = const_cast<KeyRow*>(this), n] { self->press(n); }});
  return out;
}

void KeyRow::press(int semitones) {
  const int octave = desk_.semitones() - keyOf(desk_.semitones());
  desk_.tryKey(semitones + octave, desk_.cents());
}

void KeyRow::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  setFocus();
  if (const auto key = keyAt(event->position())) press(*key);
}

void KeyRow::mouseMoveEvent(QMouseEvent* event) {
  const auto key = keyAt(event->position());
  setCursor(key ? Qt::PointingHandCursor : Qt::ArrowCursor);
  if (key == hovered_) return;
  hovered_ = key;
  update();
}

void KeyRow::leaveEvent(QEvent*) {
  hovered_.reset();
  update();
}

void KeyRow::keyPressEvent(QKeyEvent* event) {
  const QString letters = QStringLiteral("zsxdcvgbhnjm");
  const int now = desk_.trying() ? desk_.semitones() : 0;
  switch (event->key()) {
    case Qt::Key_Left: return desk_.tryKey(now - 1, desk_.cents());
    case Qt::Key_Right: return desk_.tryKey(now + 1, desk_.cents());
    case Qt::Key_Up: return desk_.tryKey(now + 12, desk_.cents());
    case Qt::Key_Down: return desk_.tryKey(now - 12, desk_.cents());
    case Qt::Key_0: return desk_.asRecorded();
    case Qt::Key_Return:
    case Qt::Key_Enter: return desk_.keep();
    default: break;
  }
  const auto at = event->text().isEmpty() ? -1 : letters.indexOf(event->text().toLower());
  if (at < 0) return QWidget::keyPressEvent(event);
  if (desk_.playSimulated(kLowest + static_cast<int>(at))) return;
  press(kLowest + static_cast<int>(at));
}

KeyBox::KeyBox(Document& document, QWidget* parent) : QWidget(parent), doc_(document), desk_(document.keyDesk()) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  column->addWidget(new KeyRow(document, this));
  auto* line = new QHBoxLayout;
  line->setSpacing(6);
  const auto octave = [&](const QString& text, const char* name, int by) {
    auto* b = new QPushButton(text, this);
    b->setObjectName(name);
    b->setProperty("small", true);
    Actions::bind(b, by < 0 ? "pitch.octavedown" : "pitch.octaveup");
    line->addWidget(b, 1);
  };
  octave(tr("\u2212 oct."), "octave down", -12);
  octave(tr("+ oct."), "octave up", 12);
  cents_ = numberField(kTriedCentsRange, tr("Cents to try"), this);
  cents_->setSuffix(tr(" c"));
  fixWidth(*cents_, 66);
  connect(cents_, &QDoubleSpinBox::valueChanged, this,
          [this](double v) { desk_.tryKey(desk_.trying() ? desk_.semitones() : 0, v); });
  line->addWidget(cents_);
  column->addLayout(line);
  auto* buttons = new QHBoxLayout;
  buttons->setSpacing(6);
  asRecorded_ = new QPushButton(tr("As recorded"), this);
  asRecorded_->setObjectName("key as recorded");
  keep_ = new QPushButton(tr("Keep"), this);
  keep_->setObjectName("keep key");
  keep_->setProperty("primary", true);
  keep_->setToolTip(tr("The chosen clips, else the whole track, are transposed; at full quality"));
  buttons->addWidget(asRecorded_, 1);
  buttons->addWidget(keep_, 1);
  Actions::bind(asRecorded_, "pitch.asrecorded");
  Actions::bind(keep_, "pitch.keepkey");
  column->addLayout(buttons);
  keyboards_ = new QComboBox(this);
  keyboards_->setObjectName("keyboard");
  keyboards_->setAccessibleName(tr("MIDI keyboard"));
  keyboards_->setToolTip(tr("Keys of a MIDI keyboard are tried, middle C as recorded"));
  keyboards_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  keyboards_->setMinimumContentsLength(8);
  connect(keyboards_, &QComboBox::activated, this, [this](int i) {
    const auto name = keyboards_->itemData(i).toString();
    desk_.chooseKeyboard(name);
    QSettings().setValue(kKeyboardKey, name);
  });
  column->addWidget(keyboards_);
  connect(&desk_, &KeyDesk::changed, this, &KeyBox::refresh);
  refresh();
}

/// The keyboards there are now; the one that was used last is used again.
void KeyBox::showEvent(QShowEvent*) {
  desk_.hearFits();
  const QSignalBlocker quiet(keyboards_);
  keyboards_->clear();
  keyboards_->addItem(tr("No MIDI keyboard"), QString());
  for (const auto& port : RtMidiInput::ports())
    keyboards_->addItem(QString::fromStdString(port), QString::fromStdString(port));
  keyboards_->addItem(tr("Simulated keyboard"), QString(SimulatedKeyboard::kName));
  const auto last = QSettings().value(kKeyboardKey).toString();
  if (!desk_.keyboard() && !last.isEmpty() && keyboards_->findData(last) >= 0) desk_.chooseKeyboard(last);
  refresh();
}

void KeyBox::refresh() {
  const QSignalBlocker quiet(cents_);
  cents_->setValue(desk_.cents());
  asRecorded_->setEnabled(desk_.trying());
  keep_->setEnabled(desk_.trying());
  const auto* keyboard = desk_.keyboard();
  keyboards_->setCurrentIndex(
      std::max(0, keyboards_->findData(keyboard ? QString::fromStdString(keyboard->name()) : QString())));
  if (isVisible()) desk_.hearFits();
}

}  // namespace ochron
