// What a screen reader is told of the lanes.

#include <QAccessible>

#include "app/window_fixture.h"
#include "edits/clip_edits.h"
#include "edits/track_edits.h"
#include "lanes/lanes_view.h"

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

}  // namespace
}  // namespace ochron
