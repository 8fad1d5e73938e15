// What is chosen: one thing at a time where commands would be unclear, and nothing that the song does not have.

#include "app/window_fixture.h"
#include "document/fresh.h"
#include "document/pin_desk.h"
#include "edits/clip_edits.h"
#include "edits/hit_edits.h"
#include "edits/mark_edits.h"
#include "edits/pin_edits.h"

namespace ochron {
namespace {

struct Chosen : test::SlicedWindow {
  void SetUp() override {
    SlicedWindow::SetUp();
    QObject::connect(&selection(), &Selection::changed, &selection(), [this](auto parts) { told |= parts; });
  }
  Selection& selection() { return doc().selection(); }
  const ClipList& clips() { return *doc().song().find(selection().set())->clips; }
  HitRef hit(std::size_t i) {
    const auto& h = doc().timingDesk().planned().hits[i];
    return {h.take, h.hit.id};
  }
  /// What was told since the last question.
  Selection::Parts heard() { return std::exchange(told, {}); }

  Selection::Parts told;
};

TEST_F(Chosen, AHitBringsTheSeamOfItsPieceAndASeamTheHitItBeginsWith) {
  selection().chooseHit(hit(5));
  EXPECT_TRUE(heard() & Selection::kPlace);
  ASSERT_TRUE(selection().seam());
  const auto* clip = selection().seamClip();
  ASSERT_NE(clip, nullptr);
  EXPECT_EQ(clip->piece->hit, hit(5).hit);
  selection().chooseSeam(clips()[8].id);
  ASSERT_TRUE(selection().hit());
  EXPECT_EQ(selection().hit()->hit, clips()[8].piece->hit);
  EXPECT_EQ(selection().plannedHit()->hit.id, selection().hit()->hit);
}

TEST_F(Chosen, TheHitStaysWhenThePlanMakesOtherPieces) {
  selection().chooseSeam(clips()[8].id);
  const auto chosen = selection().hit();
  ASSERT_TRUE(chosen);
  auto s = doc().timingDesk().settings();
  s.method = TimingMethod::stretch;
  doc().timingDesk().setSettings("stretch", s);
  EXPECT_EQ(selection().seamClip(), nullptr) << "there is no seam any more";
  EXPECT_EQ(selection().hit(), chosen);
  s.method = TimingMethod::slices;
  doc().timingDesk().setSettings("slices", s);
  ASSERT_NE(selection().seamClip(), nullptr);
  EXPECT_EQ(selection().seamClip()->piece->hit, chosen->hit);
}

TEST_F(Chosen, AnotherSetIsLookedAtAfresh) {
  selection().chooseHit(hit(3));
  auto song = *addMarker(doc().song(), Ticks{0}, Ticks{0}, "m");
  ASSERT_TRUE(doc().edit("marker", song));
  heard();
  selection().chooseSet(selection().set());
  EXPECT_FALSE(heard()) << "it is chosen already";
  EXPECT_TRUE(selection().hit());
}

TEST_F(Chosen, OfClipsAndMarksThereIsOneKindAtATime) {
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), Ticks{0}, Ticks{0}, "m")));
  const auto marker = doc().song().markers.back().id;
  selection().choose({clips()[2].id, clips()[3].id});
  EXPECT_EQ(selection().clipCount(), 2U);
  heard();
  selection().chooseMarker(marker);
  EXPECT_EQ(int(heard()), int(Selection::kClips | Selection::kMark));
  EXPECT_FALSE(selection().hasClips());
  EXPECT_EQ(selection().meant(), Selection::Thing::marker);
  selection().toggle(clips()[4].id);
  EXPECT_FALSE(selection().marker());
  EXPECT_EQ(selection().clips(), ClipIds{clips()[4].id});
  selection().clear();
  EXPECT_FALSE(selection().meant(Selection::Thing::clips | Selection::Thing::marker));
}

TEST_F(Chosen, WhatGoesFromTheSongIsNotChosenAnyMore) {
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), Ticks{0}, Ticks{0}, "m")));
  selection().chooseMarker(doc().song().markers.back().id);
  doc().undo();
  EXPECT_FALSE(selection().marker());
  const auto gone = clips()[4].id;
  selection().choose({gone, clips()[5].id});
  heard();
  ASSERT_TRUE(doc().edit("delete", deleteClips(doc().song(), {gone}, false)));
  EXPECT_TRUE(heard() & Selection::kClips);
  EXPECT_EQ(selection().clips().size(), 1U);
  const EnvelopeRef gain{EnvelopeKind::songGain, {}, {}};
  ASSERT_TRUE(doc().edit("gain", setEnvelope(doc().song(), gain, {{Frames{100}, -3, 0}})));
  selection().choosePoint(PointRef{gain, Frames{100}});
  EXPECT_TRUE(selection().point());
  doc().undo();
  EXPECT_FALSE(selection().point());
}

TEST_F(Chosen, AHitTakesThePlaceOfPins) {
  const auto clip = clips()[6].id;
  const auto take = clips()[6].played().start + Frames{900};
  ASSERT_TRUE(doc().edit("pin", addPins(doc().song(), clip, {take})));
  const auto pinned = doc().pinDesk().placeOf(selection().set(), doc().song().takes[0].id, take);
  ASSERT_TRUE(pinned);
  selection().choosePins({*pinned});
  ASSERT_EQ(selection().pins().size(), 1U);
  heard();
  selection().chooseHit(hit(1));
  EXPECT_TRUE(selection().pins().empty());
  EXPECT_EQ(int(heard()), int(Selection::kPlace | Selection::kPins));
}

/// Ids begin anew with every song: what was chosen in one must not be chosen in the next.
TEST_F(Chosen, NothingIsCarriedIntoAnotherSong) {
  const auto folder = scratch / "same.ochron";
  ASSERT_TRUE(doc().files().save(folder));
  selection().choose({clips()[2].id});
  selection().chooseHit(hit(4));
  selection().setRange({Frames{0}, Frames{1000}});
  selection().chooseNotes({NoteName{}});
  ASSERT_TRUE(doc().files().open(folder));
  doc().jobs().finishAll();
  EXPECT_FALSE(selection().hasClips());
  EXPECT_FALSE(selection().hit());
  EXPECT_TRUE(selection().range().empty());
  EXPECT_TRUE(selection().notes().empty());
}

TEST_F(Chosen, APageThatNobodySeesIsBroughtUpToDateWhenItComesIntoSight) {
  QWidget page(window.get());
  int refreshed = 0;
  auto* fresh = new Fresh(&page, [&] { ++refreshed; });
  fresh->onSong(doc());
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), Ticks{0}, Ticks{0}, "m")));
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), Ticks{9}, Ticks{0}, "n")));
  EXPECT_EQ(refreshed, 0);
  page.show();
  EXPECT_EQ(refreshed, 1);
  page.hide();
  page.show();
  EXPECT_EQ(refreshed, 1) << "nothing has changed since";
  ASSERT_TRUE(doc().edit("marker", addMarker(doc().song(), Ticks{19}, Ticks{0}, "o")));
  EXPECT_EQ(refreshed, 2);
}

}  // namespace
}  // namespace ochron
