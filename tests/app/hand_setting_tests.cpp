// What hands do (steps, snapping, silence) is kept by the program, not by a song.

#include <gtest/gtest.h>

#include <QSettings>

#include "document/hand_settings.h"

namespace ochron {
namespace {

template <class Settings, std::size_t N>
void differ(Settings& s, const std::array<Setting<Settings>, N>& all, double share) {
  for (const auto& n : all) s.*n.field = n.range.low + share * (n.range.high - n.range.low);
}

HandSettings unlikeAll(double share) {
  HandSettings s;
  differ(s, kHandNumbers, share);
  differ(s.snap, kSnapNumbers, share);
  differ(s.silence, kSilenceNumbers, share);
  return s;
}

struct HandSettingsKept : ::testing::Test {
  HandSettingsKept() { QSettings().clear(); }
};

TEST_F(HandSettingsKept, EveryNumberAndEverySwitchIsReadBack) {
  for (const double share : {0.0, 0.3, 1.0}) {
    auto s = unlikeAll(share);
    for (bool* flag : {&s.closeGaps, &s.snap.on, &s.snap.grid, &s.snap.hits, &s.snap.edges, &s.snap.markers,
                       &s.snap.playLine, &s.snap.relative}) {
      *flag = !*flag;
      keepHandSettings(s);
      EXPECT_EQ(readHandSettings(), s);
    }
    s.overlap = s.overlap == Overlap::cover ? Overlap::crossfade : Overlap::cover;
    keepHandSettings(s);
    EXPECT_EQ(readHandSettings(), s);
  }
}

TEST_F(HandSettingsKept, WhatSomeoneWroteOutOfRangeComesBackIntoIt) {
  keepHandSettings(unlikeAll(0.5));
  QSettings kept;
  kept.beginGroup("hands");
  for (const auto& n : kHandNumbers) kept.setValue(QString::fromUtf8(n.key.data(), n.key.size()), 1e9);
  const auto s = readHandSettings();
  for (const auto& n : kHandNumbers) EXPECT_EQ(s.*n.field, n.range.high) << n.key;
}

}  // namespace
}  // namespace ochron
