#include "lanes/lanes_access.h"

#include <QAccessibleWidget>
#include <QPointer>
#include <map>

#include "document/selection.h"
#include "document/thing_words.h"
#include "document/timing_desk.h"
#include "document/wording.h"
#include "lanes/lanes_view.h"

namespace ochron {
namespace {

QString words(const char* text) { return QCoreApplication::translate("LanesAccess", text); }

/// Something that is painted on the lanes. It is asked for by its number and answers from the song as it is now: what
/// has gone meanwhile is invalid.
class Painted : public QAccessibleInterface, public QAccessibleActionInterface {
 public:
  Painted(LanesView& lanes, Document& doc, QAccessibleInterface* parent) : lanes_(&lanes), doc_(doc), parent_(parent) {}
  bool isValid() const override { return !lanes_.isNull(); }
  QObject* object() const override { return nullptr; }
  QWindow* window() const override { return parent_->window(); }
  QAccessibleInterface* parent() const override { return parent_; }
  QAccessibleInterface* childAt(int x, int y) const override {
    for (int i = 0; i < childCount(); ++i)
      if (auto* c = child(i); c && c->rect().contains(x, y)) return c;
    return nullptr;
  }
  void setText(QAccessible::Text, const QString&) override {}
  void* interface_cast(QAccessible::InterfaceType type) override {
    return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
  }
  QStringList actionNames() const override { return {pressAction()}; }
  QStringList keyBindingsForAction(const QString&) const override { return {}; }
  void doAction(const QString& name) override {
    if (name == pressAction() && isValid()) choose();
  }

 protected:
  virtual void choose() = 0;
  QRect onScreen(const QRectF& box) const {
    return {lanes_->mapToGlobal(box.topLeft().toPoint()), box.size().toSize()};
  }

  QPointer<LanesView> lanes_;
  Document& doc_;
  QAccessibleInterface* parent_;
};

class ClipItem : public Painted {
 public:
  ClipItem(LanesView& lanes, Document& doc, QAccessibleInterface* parent, TrackId track, std::size_t number)
      : Painted(lanes, doc, parent), track_(track), number_(number) {}
  bool isValid() const override { return Painted::isValid() && clip(); }
  QAccessible::Role role() const override { return QAccessible::ListItem; }
  QAccessible::State state() const override {
    QAccessible::State s;
    s.selectable = true;
    s.selected = clip() && doc_.selection().isChosen(clip()->id);
    return s;
  }
  QString text(QAccessible::Text what) const override {
    return what == QAccessible::Name && clip() ? clipWords(doc_.song(), *clip(), number_) : QString();
  }
  QRect rect() const override {
    if (!clip()) return {};
    auto box = lanes_->layout().laneBox(lanes_->layout().laneOf(track_));
    box.setLeft(lanes_->xOf(clip()->start));
    box.setRight(lanes_->xOf(clip()->start + clip()->length));
    return onScreen(box);
  }
  int childCount() const override { return 0; }
  QAccessibleInterface* child(int) const override { return nullptr; }
  int indexOfChild(const QAccessibleInterface*) const override { return -1; }

 private:
  const Clip* clip() const {
    const auto* set = doc_.song().setOf(track_);
    return set && number_ < set->clips->size() ? &(*set->clips)[number_] : nullptr;
  }
  void choose() override {
    if (clip()) doc_.selection().choose({clip()->id});
  }
  TrackId track_;
  std::size_t number_;
};

class HitItem : public Painted {
 public:
  HitItem(LanesView& lanes, Document& doc, QAccessibleInterface* parent, TrackId track, std::size_t number)
      : Painted(lanes, doc, parent), track_(track), number_(number) {}
  bool isValid() const override { return Painted::isValid() && hit(); }
  QAccessible::Role role() const override { return QAccessible::ListItem; }
  QAccessible::State state() const override {
    QAccessible::State s;
    s.selectable = true;
    const auto* chosen = doc_.selection().plannedHit();
    s.selected = hit() && chosen && chosen->hit.id == hit()->hit.id && chosen->take == hit()->take;
    return s;
  }
  QString text(QAccessible::Text what) const override {
    return what == QAccessible::Name && hit() ? hitWords(doc_.song(), *hit()) : QString();
  }
  QRect rect() const override {
    if (!hit()) return {};
    auto box = lanes_->layout().laneBox(lanes_->layout().laneOf(track_));
    const double x = lanes_->xOf(hit()->now);
    constexpr double kHalf = 5;
    box.setLeft(x - kHalf);
    box.setRight(x + kHalf);
    return onScreen(box);
  }
  int childCount() const override { return 0; }
  QAccessibleInterface* child(int) const override { return nullptr; }
  int indexOfChild(const QAccessibleInterface*) const override { return -1; }

 private:
  const PlannedHit* hit() const {
    const auto* set = doc_.song().setOf(track_);
    if (!set) return nullptr;
    const auto& hits = doc_.timingDesk().plannedOf(set->id).hits;
    return number_ < hits.size() ? &hits[number_] : nullptr;
  }
  void choose() override {
    if (!hit()) return;
    const HitRef ref{hit()->take, hit()->hit.id};
    doc_.selection().chooseTrack(track_);
    doc_.selection().chooseHit(ref);
  }
  TrackId track_;
  std::size_t number_;
};

class TrackItem : public Painted {
 public:
  TrackItem(LanesView& lanes, Document& doc, QAccessibleInterface* parent, TrackId track)
      : Painted(lanes, doc, parent), track_(track) {}
  ~TrackItem() override {
    for (const auto& [number, id] : made_) QAccessible::deleteAccessibleInterface(id);
  }
  bool isValid() const override { return Painted::isValid() && doc_.song().find(track_); }
  QAccessible::Role role() const override { return QAccessible::List; }
  QAccessible::State state() const override {
    QAccessible::State s;
    s.selectable = true;
    s.selected = doc_.selection().track() == track_;
    return s;
  }
  QString text(QAccessible::Text what) const override {
    const auto* t = doc_.song().find(track_);
    if (!t) return {};
    if (what == QAccessible::Name) return QString::fromStdString(t->name);
    if (what != QAccessible::Description) return {};
    QStringList parts{counted(clips(), "clip", "clips"), counted(hits(), "hit", "hits")};
    if (t->guide) parts << words("guide");
    if (t->muted) parts << words("muted");
    if (t->solo) parts << words("solo");
    if (const auto* set = doc_.song().setOf(track_); set && set->locked) parts << words("locked");
    return parts.join(QStringLiteral(", "));
  }
  QRect rect() const override { return onScreen(lanes_->layout().laneBox(lanes_->layout().laneOf(track_))); }
  int childCount() const override { return static_cast<int>(clips() + hits()); }
  QAccessibleInterface* child(int index) const override {
    if (index < 0 || index >= childCount()) return nullptr;
    const auto known = made_.find(index);
    if (known != made_.end()) return QAccessible::accessibleInterface(known->second);
    auto* self = const_cast<TrackItem*>(this);
    const auto number = static_cast<std::size_t>(index);
    // Numbers of hits follow those of clips, so they are made anew when there are other clips.
    if (clips_ != clips()) self->forget();
    QAccessibleInterface* made =
        number < clips() ? static_cast<QAccessibleInterface*>(new ClipItem(*lanes_, doc_, self, track_, number))
                         : new HitItem(*lanes_, doc_, self, track_, number - clips());
    made_[index] = QAccessible::registerAccessibleInterface(made);
    return made;
  }
  int indexOfChild(const QAccessibleInterface* child) const override {
    for (const auto& [index, id] : made_)
      if (QAccessible::accessibleInterface(id) == child) return index;
    return -1;
  }

 private:
  std::size_t clips() const {
    const auto* set = doc_.song().setOf(track_);
    return set ? set->clips->size() : 0;
  }
  std::size_t hits() const {
    const auto* set = doc_.song().setOf(track_);
    return set ? doc_.timingDesk().plannedOf(set->id).hits.size() : 0;
  }
  void forget() {
    for (const auto& [number, id] : made_) QAccessible::deleteAccessibleInterface(id);
    made_.clear();
    clips_ = clips();
  }
  void choose() override { doc_.selection().chooseTrack(track_); }

  TrackId track_;
  mutable std::map<int, QAccessible::Id> made_;
  std::size_t clips_ = 0;
};

/// The lanes: after the widgets on them (heads of tracks) one child for each track.
class LanesAccess : public QAccessibleWidget {
 public:
  explicit LanesAccess(LanesView& lanes)
      : QAccessibleWidget(&lanes, QAccessible::Canvas, words("Lanes")), lanes_(lanes) {}
  ~LanesAccess() override {
    for (const auto& [track, id] : made_) QAccessible::deleteAccessibleInterface(id);
  }
  int childCount() const override { return QAccessibleWidget::childCount() + static_cast<int>(tracks().size()); }
  QAccessibleInterface* child(int index) const override {
    const int widgets = QAccessibleWidget::childCount();
    if (index < widgets) return QAccessibleWidget::child(index);
    const auto at = static_cast<std::size_t>(index - widgets);
    if (at >= tracks().size()) return nullptr;
    const auto track = tracks()[at].id;
    auto known = made_.find(track);
    if (known == made_.end()) {
      auto* item = new TrackItem(lanes_, lanes_.document(), const_cast<LanesAccess*>(this), track);
      known = made_.emplace(track, QAccessible::registerAccessibleInterface(item)).first;
    }
    return QAccessible::accessibleInterface(known->second);
  }
  int indexOfChild(const QAccessibleInterface* child) const override {
    const int widgets = QAccessibleWidget::childCount();
    for (std::size_t i = 0; i < tracks().size(); ++i) {
      const auto known = made_.find(tracks()[i].id);
      if (known != made_.end() && QAccessible::accessibleInterface(known->second) == child)
        return widgets + static_cast<int>(i);
    }
    return QAccessibleWidget::indexOfChild(child);
  }

 private:
  const std::vector<Track>& tracks() const { return lanes_.document().song().tracks; }
  LanesView& lanes_;
  mutable std::map<TrackId, QAccessible::Id> made_;
};

}  // namespace

void tellLanesToReaders() {
  static const bool once = [] {
    QAccessible::installFactory([](const QString&, QObject* object) -> QAccessibleInterface* {
      auto* lanes = qobject_cast<LanesView*>(object);
      return lanes ? new LanesAccess(*lanes) : nullptr;
    });
    return true;
  }();
  (void)once;
}

}  // namespace ochron
