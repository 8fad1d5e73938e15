// What a screen reader is told of the lanes.

#include <QAccessible>
#include <QSet>

#include "app/window_fixture.h"
#include "document/cells_desk.h"
#include "document/this_desk.h"
#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "edits/track_edits.h"
#include "head/announcer.h"
#include "lanes/lanes_view.h"
#include "lanes/ruler.h"
#include "loupe/loupe_view.h"
#include "panel/step_panel.h"
#include "steps/kit/cell_grid.h"
#include "steps/tempo/tempo_graph.h"
#include "steps/timing/timing_graph.h"

namespace ochron {
namespace {

struct Reader : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
    lanes = QAccessible::queryAccessibleInterface(&window->lanes());
    ASSERT_NE(lanes, nullptr);
  }
  QAccessibleInterface* named(QAccessibleInterface* in, const QString& name, QAccessible::Role role) {
    for (int i = 0; i < in->childCount(); ++i)
      if (auto* c = in->child(i); c && c->role() == role && c->text(QAccessible::Name).contains(name)) return c;
    return nullptr;
  }
  QAccessibleInterface* track(const QString& name) { return named(lanes, name, QAccessible::List); }

  QAccessibleInterface* lanes = nullptr;
};

TEST_F(Reader, HearsEveryTrackWithItsClipsAndHits) {
  EXPECT_EQ(lanes->text(QAccessible::Name), "Lanes");
  for (const auto& t : doc().song().tracks) {
    auto* row = track(QString::fromStdString(t.name));
    ASSERT_NE(row, nullptr) << t.name;
    EXPECT_EQ(row->parent(), lanes);
    EXPECT_EQ(lanes->child(lanes->indexOfChild(row)), row);
  }
  auto* snare = track("Snare Top");
  const auto& hits = doc().timingDesk().planned().hits;
  EXPECT_EQ(snare->childCount(), static_cast<int>(doc().song().sets[0].clips->size() + hits.size()));
  EXPECT_TRUE(snare->text(QAccessible::Description).contains("hits"));
  EXPECT_TRUE(snare->child(0)->text(QAccessible::Name).startsWith("clip 1, bar"));
}

TEST_F(Reader, HearsWhereAHitLiesHowLateItIsAndWhereItGoes) {
  auto s = doc().timingDesk().settings();
  s.on = true;
  s.strength = 100;
  doc().timingDesk().setSettings("on", s);
  doc().jobs().finishAll();
  auto* row = track("Kick In");
  const auto& hits = doc().timingDesk().planned().hits;
  const auto late = std::find_if(hits.begin(), hits.end(),
                                 [](const PlannedHit& h) { return h.line && h.beforeMs > 1 && h.move.value != 0; });
  ASSERT_NE(late, hits.end());
  const auto clips = static_cast<int>(doc().song().sets[0].clips->size());
  auto* item = row->child(clips + static_cast<int>(late - hits.begin()));
  ASSERT_NE(item, nullptr);
  const auto said = item->text(QAccessible::Name);
  EXPECT_TRUE(said.contains(QStringLiteral("%1 ms late").arg(late->beforeMs, 0, 'f', 1))) << said.toStdString();
  EXPECT_TRUE(said.contains("bar ")) << said.toStdString();
  EXPECT_TRUE(said.contains("goes to")) << said.toStdString();
  EXPECT_FALSE(item->state().selected);
  item->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
  EXPECT_TRUE(item->state().selected) << "a reader's press chooses it";
  ASSERT_NE(doc().selection().plannedHit(), nullptr);
  EXPECT_EQ(doc().selection().plannedHit()->hit.id, late->hit.id);
}

TEST_F(Reader, HearsTheSongAsItIsNowAndNothingThatIsGone) {
  const auto set = doc().song().sets[0].id;
  auto s = doc().timingDesk().settings();
  s.on = false;
  doc().timingDesk().setSettings("off", s);
  doc().setStep(Step::clips);
  auto* row = track("Overhead");
  auto* clip = row->child(0);
  ASSERT_NE(clip, nullptr);
  const auto before = row->childCount();
  ASSERT_TRUE(doc().edit("split", splitAt(doc().song(), set, {Frames{60'000}}, Frames{48})));
  doc().jobs().finishAll();
  EXPECT_NE(row->childCount(), before);
  EXPECT_TRUE(row->child(1)->isValid());
  EXPECT_TRUE(row->child(1)->rect().width() > 0);
  const auto gone = doc().song().tracks.back();
  auto* last = track(QString::fromStdString(gone.name));
  ASSERT_TRUE(doc().edit("remove", removeTracks(doc().song(), {gone.id})));
  EXPECT_FALSE(last->isValid());
  EXPECT_EQ(track(QString::fromStdString(gone.name)), nullptr);
  EXPECT_TRUE(last->text(QAccessible::Name).isEmpty());
}

/// Whether a reader has to be told what something is: it takes keys, or is an empty canvas.
bool needsName(QAccessibleInterface* i) {
  switch (i->role()) {
    case QAccessible::Button:
    case QAccessible::CheckBox:
    case QAccessible::RadioButton:
    case QAccessible::ComboBox:
    case QAccessible::SpinBox:
    case QAccessible::Slider:
    case QAccessible::Dial:
    case QAccessible::Canvas:
    case QAccessible::List:
    case QAccessible::Table:
    case QAccessible::Tree:
    case QAccessible::EditableText: return true;
    default: break;
  }
  const auto* w = qobject_cast<QWidget*>(i->object());
  return w && w->focusPolicy() != Qt::NoFocus;
}

/// Parts of a control have its name.
bool isPart(QAccessibleInterface* parent) {
  return parent && (parent->role() == QAccessible::ComboBox || parent->role() == QAccessible::SpinBox ||
                    parent->role() == QAccessible::Table || parent->role() == QAccessible::List ||
                    parent->role() == QAccessible::ScrollBar);
}

void walk(QAccessibleInterface* i, const QString& path, std::size_t& seen, QStringList& nameless) {
  if (!i || !i->isValid() || i->state().invisible) return;
  ++seen;
  const auto name = i->text(QAccessible::Name);
  const auto* o = i->object();
  const auto here =
      path + '/' + (o ? QString::fromUtf8(o->metaObject()->className()) + ' ' + o->objectName() : QString());
  if (needsName(i) && !isPart(i->parent()) && name.trimmed().isEmpty()) nameless << here;
  // Of a table and of the lanes' hits a few are enough.
  for (int k = 0; k < std::min(i->childCount(), 60); ++k) walk(i->child(k), here, seen, nameless);
}

TEST_F(Reader, IsToldWhatEveryControlOfEveryStepIs) {
  for (int step = 1; step <= 9; ++step) {
    ASSERT_TRUE(run(qPrintable(QStringLiteral("step.%1").arg(step))));
    doc().jobs().finishAll();
    QCoreApplication::processEvents();
    std::size_t seen = 0;
    QStringList nameless;
    walk(QAccessible::queryAccessibleInterface(window.get()), {}, seen, nameless);
    EXPECT_GT(seen, 100U);
    EXPECT_TRUE(nameless.isEmpty()) << "step " << step << "\n" << nameless.join('\n').toStdString();
  }
}

TEST_F(Reader, IsToldOnceWhatWasChosenAndWhatACommandDid) {
  QStringList announced;
  QObject::connect(window->findChild<Announcer*>(), &Announcer::announced, window.get(),
                   [&](const QString& s) { announced << s; });
  doc().setStep(Step::timing);
  const auto& h = doc().timingDesk().planned().hits[5];
  doc().selection().chooseHit(HitRef{h.take, h.hit.id});
  QCoreApplication::processEvents();
  ASSERT_EQ(announced.size(), 1);
  EXPECT_TRUE(announced[0].contains("bar ")) << announced[0].toStdString();
  doc().selection().setRange({Frames{0}, Frames{48'000}});
  QCoreApplication::processEvents();
  EXPECT_EQ(announced.size(), 1) << "the hit is still what is meant";
  doc().tell("Done.");
  EXPECT_EQ(announced.back(), "Done.");
}

TEST_F(Reader, KeysGoFromPartToPartAndTabStaysInside) {
  window->activateWindow();
  window->lanes().setFocus();
  QSet<QWidget*> parts;
  for (int i = 0; i < 12; ++i) {
    ASSERT_TRUE(run("view.nextpart"));
    auto* at = window->focusWidget();
    ASSERT_NE(at, nullptr);
    parts << at;
  }
  EXPECT_GE(parts.size(), 5);
  window->lanes().setFocus();
  ASSERT_TRUE(run("view.nextpart"));
  ASSERT_TRUE(run("view.previouspart"));
  EXPECT_EQ(window->focusWidget(), &window->lanes()) << "what had the keys has them again";
  auto* ring = find<QWidget>("keys here");
  EXPECT_TRUE(ring->isVisible());
  EXPECT_EQ(ring->size(), window->lanes().size()) << "where the keys are is seen";
  ASSERT_TRUE(run("view.previouspart"));
  EXPECT_NE(ring->size(), window->lanes().size());
  QTest::mouseClick(&window->lanes(), Qt::LeftButton, {}, QPoint(kGutterWidth + 50, 5));
  EXPECT_FALSE(ring->isVisible()) << "the mouse shows it by itself";
  window->lanes().setFocus();
  ASSERT_TRUE(run("view.previouspart"));
  auto* panel = find<StepPanel>({});
  for (int i = 0; i < 40; ++i) {
    QTest::keyClick(window->focusWidget(), Qt::Key_Tab);
    ASSERT_TRUE(panel->isAncestorOf(window->focusWidget())) << i;
  }
}

/// A view that paints things of its own, as a reader finds it.
struct ViewReader : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
  }
  template <class View>
  QAccessibleInterface* view() {
    auto* widget = window->findChild<View*>();
    EXPECT_NE(widget, nullptr);
    EXPECT_TRUE(widget->isVisible());
    return QAccessible::queryAccessibleInterface(widget);
  }
  static QString nameOf(QAccessibleInterface* item) { return item->text(QAccessible::Name); }
  static void press(QAccessibleInterface* item) {
    ASSERT_NE(item->actionInterface(), nullptr);
    item->actionInterface()->doAction(QAccessibleActionInterface::pressAction());
  }
};

TEST_F(ViewReader, IsToldWhatTheLoupeShowsAndWhatEachMicHears) {
  run("step.3");
  ASSERT_TRUE(run("hits.next"));
  auto* loupe = view<LoupeView>();
  ASSERT_GT(loupe->childCount(), 1);
  EXPECT_TRUE(nameOf(loupe->child(0)).contains("bar")) << nameOf(loupe->child(0)).toStdString();
  QStringList mics;
  for (int i = 1; i < loupe->childCount(); ++i) mics << nameOf(loupe->child(i));
  EXPECT_TRUE(mics.join(';').contains("Snare Top")) << mics.join(';').toStdString();
  EXPECT_TRUE(mics.join(';').contains("hears it at")) << mics.join(';').toStdString();
  EXPECT_EQ(loupe->child(1)->parent(), loupe);
  EXPECT_EQ(loupe->indexOfChild(loupe->child(1)), 1);
}

TEST_F(ViewReader, IsToldTheHitsOfTheTimingGraphAndChoosesOne) {
  run("step.4");
  auto* graph = view<TimingGraph>();
  ASSERT_GT(graph->childCount(), 5);
  auto* third = graph->child(2);
  EXPECT_TRUE(nameOf(third).contains("late") || nameOf(third).contains("early") || nameOf(third).contains("line"));
  EXPECT_FALSE(third->state().selected);
  press(third);
  QTest::qWait(60);
  EXPECT_TRUE(graph->child(2)->state().selected);
  EXPECT_EQ(doc().thisDesk().words(), nameOf(graph->child(2)));
  EXPECT_TRUE(graph->rect().contains(graph->child(2)->rect().center()));
}

TEST_F(ViewReader, IsToldBarsMarkersAndTempos) {
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), doc().song().tempo.barStart(1), Ticks{0}, "verse")));
  QTest::qWait(60);
  auto* ruler = view<Ruler>();
  EXPECT_EQ(nameOf(ruler->child(0)), "marker verse, bar 2 beat 1");
  press(ruler->child(0));
  EXPECT_EQ(doc().selection().marker(), doc().song().markers.front().id);
  ASSERT_GT(ruler->childCount(), 2);
  EXPECT_TRUE(nameOf(ruler->child(1)).startsWith("bar "));
  press(ruler->child(2));
  EXPECT_EQ(doc().song().tempo.position(doc().song().tempo.toTicks(doc().transport().cursor())).beat, 0);
  run("step.2");
  EXPECT_TRUE(nameOf(view<TempoGraph>()->child(0)).startsWith("tempo "))
      << nameOf(view<TempoGraph>()->child(0)).toStdString();
}

TEST_F(ViewReader, IsToldCellsAndStrikesThem) {
  doc().setStep(Step::clips);
  ASSERT_TRUE(run("clips.splithits"));
  doc().jobs().finishAll();
  run("step.7");
  QTest::qWait(60);
  auto* cells = view<CellGrid>();
  ASSERT_EQ(cells->childCount(), CellsDesk::kCells);
  EXPECT_TRUE(nameOf(cells->child(2)).startsWith("cell 3, "));
  EXPECT_TRUE(nameOf(cells->child(2)).contains("key E"));
  press(cells->child(2));
  EXPECT_EQ(doc().cellsDesk().struckLast(), 2);
}

TEST_F(ViewReader, WhatHasGoneIsNoItemAnyMore) {
  doc().edit("marker", addMarker(doc().song(), doc().song().tempo.barStart(1), Ticks{0}, "verse"));
  auto* ruler = view<Ruler>();
  auto* last = ruler->child(ruler->childCount() - 1);
  ASSERT_NE(last, nullptr);
  EXPECT_TRUE(last->isValid());
  doc().undo();
  QTest::qWait(60);
  EXPECT_FALSE(last->isValid()) << "one item less";
  EXPECT_TRUE(nameOf(last).isEmpty());
}

}  // namespace
}  // namespace ochron
