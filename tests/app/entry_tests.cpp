#include "entry/entry.h"

#include <gtest/gtest.h>

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QTest>

#include "steps/clips/field_form.h"

namespace ochron {
namespace {

struct TypedRow {
  const char* typed;
  Quantity quantity;
  double old;
  double becomes;
};

std::ostream& operator<<(std::ostream& out, const TypedRow& row) { return out << row.typed << " on " << row.old; }

class Typed : public ::testing::TestWithParam<TypedRow> {};

TEST_P(Typed, IsUnderstood) {
  const auto map = *TempoMap::steady(48'000, 120);
  const auto& row = GetParam();
  const auto entry = parseEntry(row.typed, row.quantity, map, Frames{0});
  ASSERT_TRUE(entry.has_value()) << entry.error().message;
  EXPECT_NEAR(entry->applied(row.old), row.becomes, 1e-6) << row.typed;
}
INSTANTIATE_TEST_SUITE_P(
    Entries, Typed,
    ::testing::Values(TypedRow{"1.5", Quantity::position, 7, 72'000}, TypedRow{"20", Quantity::length, 7, 960},
                      TypedRow{"20 ms", Quantity::position, 7, 960}, TypedRow{"2 beats", Quantity::length, 7, 48'000},
                      TypedRow{"1b", Quantity::position, 7, 24'000}, TypedRow{"12 samples", Quantity::length, 7, 12},
                      TypedRow{"+3", Quantity::gain, -6, -3}, TypedRow{"-3", Quantity::gain, -6, -3},
                      TypedRow{"-=3 dB", Quantity::gain, -6, -9}, TypedRow{"+=1", Quantity::gain, -6, -5},
                      TypedRow{"*0.5", Quantity::length, 480, 240}, TypedRow{"/4", Quantity::length, 480, 120},
                      TypedRow{"\u22123.5 dB", Quantity::gain, 0, -3.5}, TypedRow{"1,5 s", Quantity::length, 0, 72'000},
                      TypedRow{"+10 ms", Quantity::position, 1000, 1480}, TypedRow{"50 %", Quantity::percent, 0, 50},
                      TypedRow{"+=30", Quantity::pitch, 100, 130}, TypedRow{"-2 st", Quantity::pitch, 0, -200},
                      TypedRow{"40 c", Quantity::pitch, 0, 40}));

TEST(Typed, WhatIsNoNumberOrHasAnUnfitUnitIsRefusedWithWhatToDo) {
  const TempoMap map;
  for (const char* bad : {"", "loud", "3 dB", "nan", "inf", "1e999", "+", "*2 ms", "/0"}) {
    const auto entry = parseEntry(bad, Quantity::length, map, Frames{0});
    ASSERT_FALSE(entry.has_value()) << bad;
    EXPECT_NE(entry.error().message.find("Type a number"), std::string::npos) << bad;
  }
  EXPECT_FALSE(parseEntry("5 ms", Quantity::gain, map, Frames{0}));
  EXPECT_FALSE(parseEntry("5 ms", Quantity::pitch, map, Frames{0}));
}

TEST(Typed, WhatIsShownCanBeTypedBack) {
  const TempoMap map;
  for (const auto quantity : {Quantity::position, Quantity::length, Quantity::gain, Quantity::percent})
    for (const double v : {0.0, 48.0, -20.0}) {
      const auto back = parseEntry(entryText(v, quantity, 48'000), quantity, map, Frames{0});
      ASSERT_TRUE(back.has_value());
      EXPECT_NEAR(back->applied(1), v, 2.5);
    }
}

TEST(Typed, EveryValueIsShownWhole) {
  for (const char* text : {"0 %", "1000.00 ms", "80.6154 s", "3599.9999 s", "\u221212.5 dB"}) {
    FieldForm form(nullptr);
    FieldForm::Field field;
    field.name = "value";
    field.value = FieldForm::Typed{[text] { return QString::fromUtf8(text); }, [](const QString&) {}};
    form.setFields({field});
    form.resize(form.minimumSizeHint());
    form.show();
    const auto* line = form.findChild<QLineEdit*>("value");
    ASSERT_NE(line, nullptr);
    EXPECT_GE(line->width() - 16, line->fontMetrics().horizontalAdvance(line->text())) << text;
  }
}

TEST(Typed, FieldsShowWhatTheyReadOrThatItIsMixedAndWriteWhatWasDone) {
  std::optional<bool> on = true;
  std::optional<int> which = 1;
  std::optional<QString> text = QString("3 dB");
  std::vector<FieldForm::Field> fields(3);
  fields[0].name = "tick";
  fields[0].value = FieldForm::Tick{[&] { return on; }, [&](bool v) { on = v; }};
  fields[1].name = "choice";
  fields[1].value = FieldForm::Choice{{"a", "b", "c"}, [&] { return which; }, [&](int v) { which = v; }};
  fields[2].name = "typed";
  fields[2].value = FieldForm::Typed{[&] { return text; }, [&](const QString& v) { text = v; }};
  FieldForm form(nullptr);
  form.setFields(fields);
  form.show();
  auto* tick = form.findChild<QCheckBox*>("tick");
  auto* choice = form.findChild<QComboBox*>("choice");
  auto* line = form.findChild<QLineEdit*>("typed");
  EXPECT_EQ(tick->checkState(), Qt::Checked);
  EXPECT_EQ(choice->currentIndex(), 1);
  EXPECT_EQ(line->text(), "3 dB");
  tick->click();
  EXPECT_EQ(on, false);
  emit choice->activated(2);
  EXPECT_EQ(which, 2);
  QTest::keyClicks(line, "+1");
  QTest::keyClick(line, Qt::Key_Return);
  EXPECT_EQ(text, QString("3 dB+1")) << "as it was typed: what it means is not the form's";
  on.reset(), which.reset(), text.reset();
  form.refresh();
  EXPECT_EQ(tick->checkState(), Qt::PartiallyChecked);
  EXPECT_EQ(choice->currentIndex(), -1);
  EXPECT_TRUE(line->text().isEmpty());
  EXPECT_EQ(line->placeholderText(), "mixed");
}

TEST(Typed, ALongLengthIsWrittenInSecondsAndReadsBack) {
  const auto text = entryText(80.615 * 48'000, Quantity::length, 48'000);
  EXPECT_EQ(text, "80.615 s");
  const auto back = parseEntry(text, Quantity::length, *TempoMap::steady(48'000, 120), Frames{0});
  ASSERT_TRUE(back);
  EXPECT_NEAR(back->applied(0), 80.615 * 48'000, 1);
  EXPECT_EQ(entryText(48'000, Quantity::length, 48'000), "1000.00 ms");
}

}  // namespace
}  // namespace ochron
