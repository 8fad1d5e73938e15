// Whatever hands do in the window: keys, commands, clicks, drags and typed values at random, always the same ones. No
// rule is broken, every plan is what running it anew gives, the song saves and opens equal, and undo gives the first
// song.

#include <QAbstractSpinBox>
#include <QComboBox>
#include <QLineEdit>
#include <chrono>
#include <cstdlib>
#include <random>

#include "app/window_fixture.h"
#include "document/selection.h"
#include "lanes/lanes_view.h"
#include "store/song_json.h"

namespace ochron {
namespace {

/// How long it goes on: a minute in the tests, OCHRON_HANDS_SECONDS otherwise (./run fuzz-window).
double seconds() {
  const char* asked = std::getenv("OCHRON_HANDS_SECONDS");
  return asked ? std::atof(asked) : 60;
}

class AnyHands : public test::Window {
 protected:
  /// Every question is answered with no, as it comes.
  void dismissSheets() {
    auto* poll = new QTimer(window.get());
    QObject::connect(poll, &QTimer::timeout, poll, [] {
      if (auto* popup = QApplication::activePopupWidget()) popup->close();
      if (auto* sheet = qobject_cast<QDialog*>(QApplication::activeModalWidget())) sheet->reject();
    });
    poll->start(1);
  }
  QString command() {
    static const QStringList leaves{"song.quit",   "song.new",     "song.open",       "song.openlast",
                                    "song.import", "song.kept",    "song.export",     "view.full",
                                    "help.keys",   "print.export", "print.commitnow", "print.handovernow"};
    const auto ids = window->actions().ids();
    const auto id = ids[static_cast<int>(roll(static_cast<std::uint64_t>(ids.size())))];
    return leaves.contains(id) ? QString() : id;
  }
  std::uint64_t roll(std::uint64_t n) { return n == 0 ? 0 : dice() % n; }
  QPointF anywhere(const QWidget* w) {
    return {static_cast<double>(roll(static_cast<std::uint64_t>(std::max(1, w->width())))),
            static_cast<double>(roll(static_cast<std::uint64_t>(std::max(1, w->height()))))};
  }
  QString act();
  void type(QWidget* field);

  std::mt19937_64 dice{20261130};
};

void AnyHands::type(QWidget* field) {
  static const char* values[] = {"0",   "1,5", "-3", "1e10",         "1e300",   "nan",     "+4800", "/0", "*0.5",
                                 "4/4", "7/8", "x",  "999999999999", "-1e17 s", "2 beats", "A4",    ""};
  field->setFocus();
  if (auto* box = qobject_cast<QAbstractSpinBox*>(field)) box->selectAll();
  if (auto* line = qobject_cast<QLineEdit*>(field)) line->selectAll();
  QTest::keyClicks(field, values[roll(std::size(values))]);
  QTest::keyClick(field, roll(4) == 0 ? Qt::Key_Escape : Qt::Key_Return);
}

QString AnyHands::act() {
  switch (roll(8)) {
    case 0:
    case 1:
    case 2: {
      const auto id = command();
      if (!id.isEmpty()) window->actions().trigger(id);
      return "command " + id;
    }
    case 3: {
      static const Qt::Key keys[] = {Qt::Key_Delete, Qt::Key_Left, Qt::Key_Right, Qt::Key_Escape, Qt::Key_N,
                                     Qt::Key_P,      Qt::Key_X,    Qt::Key_Up,    Qt::Key_Down,   Qt::Key_Y};
      static const Qt::KeyboardModifiers with[] = {{}, Qt::ShiftModifier, Qt::ControlModifier, Qt::AltModifier};
      const auto key = keys[roll(std::size(keys))];
      QTest::keyClick(window.get(), key, with[roll(std::size(with))]);
      return "key " + QKeySequence(key).toString();
    }
    case 4: {
      auto& lanes = window->lanes();
      const bool release = roll(6) != 0;
      drag(&lanes, anywhere(&lanes), anywhere(&lanes), roll(3) == 0 ? Qt::ShiftModifier : Qt::NoModifier, release);
      if (!release) QTest::keyClick(&lanes, Qt::Key_Escape);
      if (!release) QTest::mouseRelease(&lanes, Qt::LeftButton);
      return "drag over the lanes";
    }
    case 5: {
      std::vector<QWidget*> fields;
      for (auto* w : window->findChildren<QWidget*>())
        if (w->isVisible() && w->isEnabled() && (qobject_cast<QAbstractSpinBox*>(w) || qobject_cast<QLineEdit*>(w)))
          fields.push_back(w);
      if (fields.empty()) return "no field";
      auto* field = fields[roll(fields.size())];
      const auto name = field->objectName();
      type(field);
      return "typed into " + name;
    }
    case 6: {
      std::vector<QWidget*> all;
      for (auto* w : window->findChildren<QWidget*>())
        if (w->isVisible() && w->isEnabled()) all.push_back(w);
      auto* on = all[roll(all.size())];
      if (on->objectName() == "import" || on->inherits("QMenuBar")) return "nothing";
      const QString name = QString(on->metaObject()->className()) + " " + on->objectName();
      QTest::mouseClick(on, Qt::LeftButton, {}, anywhere(on).toPoint());
      return "click on " + name;
    }
    default: {
      const auto& sets = doc().song().sets;
      if (!sets.empty()) doc().selection().chooseSet(sets[roll(sets.size())].id);
      if (roll(3) == 0) doc().setStep(static_cast<Step>(roll(8)));
      return "another set";
    }
  }
}

TEST_F(AnyHands, BreakNothingAndLoseNothing) {
  import();
  dismissSheets();
  const Song first = doc().song();
  const auto until = std::chrono::steady_clock::now() + std::chrono::duration<double>(seconds());
  QStringList last;
  int acts = 0;
  while (std::chrono::steady_clock::now() < until) {
    last << act();
    if (last.size() > 12) last.removeFirst();
    QApplication::processEvents();
    if (++acts % 25 != 0) continue;
    doc().jobs().finishAll();
    const auto broken = brokenRules(doc().song());
    ASSERT_TRUE(broken.empty()) << broken.front() << " after " << last.join("; ").toStdString();
    const auto back = songFromJson(songToJson(doc().song()), "song.json");
    ASSERT_TRUE(back) << back.error().message << " after " << last.join("; ").toStdString();
    ASSERT_EQ(*back, doc().song()) << last.join("; ").toStdString();
  }
  RecordProperty("acts", acts);
  doc().jobs().finishAll();
  doc().setStep(Step::takes);
  const Song end = doc().song();
  int undone = 0;
  while (!doc().undoName().isEmpty() && undone < 100'000) doc().undo(), ++undone;
  EXPECT_EQ(doc().song().sets.size(), 0U) << "from the empty song on all is undone";
  while (!doc().redoName().isEmpty()) doc().redo();
  EXPECT_EQ(doc().song().sets.size(), end.sets.size());
  for (std::size_t i = 0; i < std::min(end.sets.size(), doc().song().sets.size()); ++i)
    EXPECT_EQ(*doc().song().sets[i].clips, *end.sets[i].clips) << end.sets[i].name;
  EXPECT_GT(acts, 100);
}

}  // namespace
}  // namespace ochron
