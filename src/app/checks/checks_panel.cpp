#include "checks/checks_panel.h"

#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>

#include "checks/fix.h"
#include "document/attention.h"
#include "document/pitch_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/thing_words.h"
#include "document/transport.h"
#include "theme/theme.h"

namespace ochron {
namespace {
constexpr int kTitle = 36;
constexpr int kButtons = 26;  // under the current row
int rowHeight() { return Theme::get().px(38); }
}  // namespace

ChecksPanel::ChecksPanel(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setMinimumHeight(110);
  setFocusPolicy(Qt::TabFocus);
  setAccessibleName(tr("To look at"));
  setMouseTracking(true);
  connect(&doc_, &Document::songChanged, this, &ChecksPanel::refresh);
  doc_.selection().watch(Selection::kWhere | Selection::kNotes, this, [this] { refresh(); });
  connect(&doc_.seamDesk(), &SeamDesk::measured, this, &ChecksPanel::refresh);
  connect(&doc_, &Document::mediaChanged, this, &ChecksPanel::refresh);
  connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

bool ChecksPanel::isCurrent(const Check& check) const {
  if (check.note) {
    const auto chosen = doc_.pitchDesk().chosen();
    return chosen.size() == 1 && chosen.front().name == *check.note;
  }
  if (check.bar) return false;
  const auto now = doc_.selection().hit();
  return now && check.hit == now->hit;
}

void ChecksPanel::refresh() {
  const auto was = current() ? std::optional(*current()) : std::nullopt;
  checks_ = doc_.attention().checks();
  all_ = checks_.size();
  std::erase_if(checks_, [&](const Check& c) {
    return (group_ && groupOf(c.kind) != *group_) || (ofSet_ && c.set && c.set != doc_.selection().set());
  });
  current_ = -1;
  for (std::size_t i = 0; i < checks_.size() && current_ < 0; ++i)
    if (was && (was->bar ? was->sameAs(checks_[i]) : was->sameAs(checks_[i]) && isCurrent(checks_[i])))
      current_ = static_cast<int>(i);
  for (std::size_t i = 0; i < checks_.size() && current_ < 0; ++i)
    if (isCurrent(checks_[i])) current_ = static_cast<int>(i);
  scroll_ = std::clamp(scroll_, 0,
                       std::max(0, static_cast<int>(checks_.size()) * rowHeight() + kButtons - (height() - kTitle)));
  update();
}

void ChecksPanel::go(int index) {
  if (index < 0 || index >= std::ssize(checks_)) return;
  const auto c = checks_[static_cast<std::size_t>(index)];
  scroll_ =
      std::clamp(scroll_, std::min(index * rowHeight(), (index + 1) * rowHeight() + kButtons - (height() - kTitle)),
                 index * rowHeight());
  scroll_ = std::max(0, scroll_);
  if (c.set) doc_.selection().chooseSet(c.set);
  if (c.note)
    doc_.selection().chooseNotes({*c.note});
  else if (c.hit)
    doc_.selection().chooseHit(HitRef{c.take, c.hit});
  current_ = index;
  doc_.transport().setCursor(c.at);
  if (doc_.transport().hearing().whileStepping) doc_.transport().hear();
  update();
}

QRectF ChecksPanel::filterBox() const {
  const auto& theme = Theme::get();
  return {static_cast<double>(theme.px(92)), 9, static_cast<double>(theme.px(88)), static_cast<double>(theme.px(19))};
}

QString ChecksPanel::filterName() const {
  const auto kind = group_ ? QString::fromUtf8(kCheckGroupNames[static_cast<std::size_t>(*group_)]) : tr("all");
  return ofSet_ ? tr("%1, this set").arg(kind) : kind;
}

void ChecksPanel::showOnly(std::optional<CheckGroup> group, bool activeSet) {
  group_ = group;
  ofSet_ = activeSet;
  scroll_ = 0;
  refresh();
}

void ChecksPanel::chooseFilter() {
  QMenu menu(this);
  const auto add = [&](const QString& text, bool on, auto choose) {
    auto* a = menu.addAction(text, this, choose);
    a->setCheckable(true);
    a->setChecked(on);
  };
  add(tr("All"), !group_, [this] { showOnly({}, ofSet_); });
  for (std::size_t i = 0; i < kCheckGroupNames.size(); ++i) {
    const auto group = static_cast<CheckGroup>(i);
    const auto& all = doc_.attention().checks();
    const auto count = std::count_if(all.begin(), all.end(), [&](const Check& c) { return groupOf(c.kind) == group; });
    add(tr("%1 (%2)").arg(QString::fromUtf8(kCheckGroupNames[i])).arg(count), group_ == group,
        [this, group] { showOnly(group, ofSet_); });
  }
  menu.addSeparator();
  add(tr("Of this set only"), ofSet_, [this] { showOnly(group_, !ofSet_); });
  menu.exec(mapToGlobal(filterBox().bottomLeft().toPoint()));
}

const Check* ChecksPanel::current() const {
  return current_ < 0 || current_ >= std::ssize(checks_) ? nullptr : &checks_[static_cast<std::size_t>(current_)];
}

void ChecksPanel::accept() {
  const auto at = current_;
  if (!current()) return doc_.tell(tr("Step to a check first (N)."));
  doc_.attention().accept(Check(*current()));
  settle(at);
}

void ChecksPanel::fix() {
  const auto at = current_;
  if (!current()) return doc_.tell(tr("Step to a check first (N)."));
  const Check check = *current();
  if (!doc_.edit(tr("Fix \"%1\"").arg(QString::fromStdString(check.title)),
                 fixCheck(doc_.song(), check.set, check, doc_.pool())))
    return;
  doc_.tell(tr("Done: %1. Undo takes it back.").arg(QString::fromStdString(fixName(check.kind))));
  settle(at);
}

/// The list goes on with what stands where the settled check stood.
void ChecksPanel::settle(int at) {
  if (checks_.empty()) return doc_.tell(tr("Nothing needs a look any more."));
  go(std::min(at, static_cast<int>(checks_.size()) - 1));
}

QRectF ChecksPanel::buttonBox(int index, bool fixButton) const {
  const double y = rowTop(index) + rowHeight() - 2;
  const double right = width() - 14.0;
  return fixButton ? QRectF(30, y, right - 30 - 58, 20) : QRectF(right - 52, y, 52, 20);
}

/// An empty list says that nothing needs a look only when that is known.
QString ChecksPanel::emptyText() const {
  if (!doc_.recordings().complete()) return tr("Not known yet: the recordings are still being read");
  if (!doc_.song().sets.empty() && !doc_.seamDesk().known()) return tr("Not known yet: the seams are being measured");
  return tr("Nothing needs a look");
}

void ChecksPanel::step(int by) {
  if (checks_.empty()) return doc_.tell(emptyText() + ".");
  go(std::clamp(current_ + by, 0, static_cast<int>(checks_.size()) - 1));
}

void ChecksPanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const auto& theme = Theme::get();
  const auto& sheet = theme.sheet();
  paintGround(p, *this, sheet.panel);
  p.setFont(theme.font(13, 600));
  p.setPen(sheet.ink);
  p.drawText(QPointF(14, 23), tr("To look at"));
  p.setPen(checks_.empty() ? sheet.note : sheet.alarm);
  const bool some = group_ || ofSet_;
  p.drawText(QRectF(0, 8, width() - 14, 20), Qt::AlignRight | Qt::AlignVCenter,
             some ? tr("%1 of %2").arg(checks_.size()).arg(all_) : QString::number(checks_.size()));
  if (all_ > 0 || some) {
    const auto box = filterBox();
    const bool hovered = box.contains(pointer_);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(hovered || some ? sheet.selection : sheet.rule, 1));
    p.setBrush(some ? sheet.selectionSoft : sheet.panel);
    p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    p.setFont(theme.font(11, 500));
    p.setPen(some ? sheet.selection : sheet.note);
    p.drawText(box.adjusted(8, 0, -16, 0), Qt::AlignVCenter, filterName());
    const QPointF tip(box.right() - 9, box.center().y() + 2);
    p.setPen(QPen(some ? sheet.selection : sheet.inkSoft, 1.4));
    p.drawPolyline(QPolygonF{tip + QPointF(-3, -3), tip, tip + QPointF(3, -3)});
    p.setRenderHint(QPainter::Antialiasing, false);
  }
  if (checks_.empty()) {
    p.setFont(theme.font(12));
    p.setPen(sheet.note);
    p.drawText(QRectF(14, kTitle, width() - 28, 40), Qt::AlignLeft | Qt::TextWordWrap,
               some && all_ > 0 ? tr("Nothing of this kind needs a look") : emptyText());
    return;
  }
  p.setRenderHint(QPainter::Antialiasing);
  p.setClipRect(0, kTitle, width(), height() - kTitle);
  const auto& map = doc_.song().tempo;
  for (int i = 0; i < std::ssize(checks_); ++i) {
    const QRectF row(6, rowTop(i), width() - 12, rowHeight() - 2 + (i == current_ ? kButtons : 0));
    if (row.bottom() < kTitle || row.top() > height()) continue;
    const auto& c = checks_[static_cast<std::size_t>(i)];
    if (i == current_) {
      p.setPen(Qt::NoPen);
      p.setBrush(sheet.selectionSoft);
      p.drawRoundedRect(row, 4, 4);
    }
    if (i == current_) {
      const auto button = [&](const QRectF& box, const QString& text) {
        p.setPen(QPen(box.contains(pointer_) ? sheet.selection : sheet.rule, 1));
        p.setBrush(sheet.paper);
        p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
        p.setPen(sheet.ink);
        p.setFont(theme.font(11, 500));
        p.drawText(box, Qt::AlignCenter, text);
      };
      button(buttonBox(i, true), QString::fromStdString(fixName(c.kind)));
      button(buttonBox(i, false), tr("good"));
    }
    p.setPen(Qt::NoPen);
    p.setBrush(sheet.alarm);
    p.drawEllipse(QPointF(row.left() + 12, row.top() + theme.px(11)), 3.5, 3.5);
    const auto at = map.position(c.at);
    p.setPen(sheet.ink);
    p.setFont(theme.font(12, 500));
    p.drawText(QRectF(row.left() + 24, row.top() + 2, row.width() - 28, theme.px(17)), Qt::AlignVCenter,
               QStringLiteral("%1.%2  %3").arg(at.bar + 1).arg(at.beat + 1).arg(QString::fromStdString(c.title)));
    p.setPen(sheet.note);
    p.setFont(theme.font(11));
    p.drawText(QRectF(row.left() + 24, row.top() + theme.px(18), row.width() - 28, theme.px(16)), Qt::AlignVCenter,
               p.fontMetrics().elidedText(detailOf(c), Qt::ElideRight, static_cast<int>(row.width()) - 28));
  }
}

/// With the set's name where the song has several.
QString ChecksPanel::detailOf(const Check& check) const {
  const auto& song = doc_.song();
  const auto detail = QString::fromStdString(check.detail);
  const auto* set = song.find(check.set);
  return set && song.sets.size() > 1 && check.set != doc_.selection().set()
             ? QString::fromStdString(set->name) + ": " + detail
             : detail;
}

std::vector<ReadItem> ChecksPanel::readItems() const {
  std::vector<ReadItem> out;
  for (int i = 0; i < std::ssize(checks_); ++i) {
    const auto& c = checks_[static_cast<std::size_t>(i)];
    out.push_back(
        {QStringLiteral("%1, %2, %3").arg(QString::fromStdString(c.title), placeWords(doc_.song(), c.at), detailOf(c)),
         QRectF(6, rowTop(i), width() - 12, rowHeight()), i == current_,
         [self = const_cast<ChecksPanel*>(this), i] { self->go(i); }});
  }
  if (out.empty()) out.push_back({emptyText(), QRectF(rect()), false, {}});
  return out;
}

double ChecksPanel::rowTop(int index) const {
  return kTitle + index * rowHeight() - scroll_ + (current_ >= 0 && index > current_ ? kButtons : 0);
}

void ChecksPanel::mousePressEvent(QMouseEvent* event) {
  const auto point = event->position();
  if (filterBox().contains(point)) return chooseFilter();
  if (point.y() < kTitle) return;
  if (current() && buttonBox(current_, true).contains(point)) return fix();
  if (current() && buttonBox(current_, false).contains(point)) return accept();
  for (int i = 0; i < std::ssize(checks_); ++i)
    if (point.y() >= rowTop(i) && point.y() < rowTop(i) + rowHeight()) return go(i);
}

void ChecksPanel::mouseMoveEvent(QMouseEvent* event) {
  pointer_ = event->position();
  update();
}

void ChecksPanel::wheelEvent(QWheelEvent* event) {
  scroll_ = std::clamp(scroll_ - event->angleDelta().y() / 2, 0,
                       std::max(0, static_cast<int>(checks_.size()) * rowHeight() + kButtons - (height() - kTitle)));
  update();
}

void ChecksPanel::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Down)
    step(1);
  else if (event->key() == Qt::Key_Up)
    step(-1);
  else
    QWidget::keyPressEvent(event);
}

}  // namespace ochron
