#include "head/announcer.h"

#include <QAccessible>
#include <QAccessibleWidget>

#include "document/selection.h"
#include "document/this_desk.h"

namespace ochron {
namespace {

class AnnouncerAccess : public QAccessibleWidget {
 public:
  explicit AnnouncerAccess(Announcer& announcer)
      : QAccessibleWidget(&announcer, QAccessible::AlertMessage), announcer_(announcer) {}
  QString text(QAccessible::Text what) const override {
    return what == QAccessible::Name ? announcer_.said() : QString();
  }

 private:
  const Announcer& announcer_;
};

}  // namespace

Announcer::Announcer(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  setObjectName("announcer");
  setFixedSize(0, 0);
  soon_.setSingleShot(true);
  soon_.setInterval(0);
  connect(&soon_, &QTimer::timeout, this, [this] {
    if (doc_.selection().meant()) say(doc_.thisDesk().words());
  });
  connect(&doc_, &Document::told, this, &Announcer::say);
  doc_.selection().watch(Selection::kAll, this, [this] { soon_.start(); });
}

void Announcer::say(const QString& sentence) {
  if (sentence.isEmpty() || sentence == said_) return;
  said_ = sentence;
  QAccessibleEvent named(this, QAccessible::NameChanged);
  QAccessible::updateAccessibility(&named);
  QAccessibleEvent alert(this, QAccessible::Alert);
  QAccessible::updateAccessibility(&alert);
  emit announced(said_);
}

void tellAnnouncementsToReaders() {
  static const bool once = [] {
    QAccessible::installFactory([](const QString&, QObject* object) -> QAccessibleInterface* {
      auto* announcer = dynamic_cast<Announcer*>(object);
      return announcer ? new AnnouncerAccess(*announcer) : nullptr;
    });
    return true;
  }();
  (void)once;
}

}  // namespace ochron
