#include "theme/kept_look.h"

#include <QSettings>
#include <array>

#include "theme/theme.h"

namespace ochron {
namespace {
constexpr const char* kSheet = "look/sheet";
constexpr const char* kText = "look/text";
constexpr std::array kSheets{std::pair{SheetKind::light, "light"}, std::pair{SheetKind::night, "night"},
                             std::pair{SheetKind::contrast, "contrast"}};
}  // namespace

void keepLook() {
  QSettings kept;
  const auto& theme = Theme::get();
  kept.remove(kSheet);
  kept.remove(kText);
  if (!theme.followsDesktop())
    for (const auto& [kind, word] : kSheets)
      if (kind == theme.kind()) kept.setValue(kSheet, word);
  if (!theme.followsDesktopText()) kept.setValue(kText, theme.textSize());
}

void useKeptLook() {
  const QSettings kept;
  auto& theme = Theme::get();
  const auto sheet = kept.value(kSheet).toString();
  for (const auto& [kind, word] : kSheets)
    if (sheet == QLatin1String(word)) theme.setSheet(kind);
  if (const auto text = kept.value(kText); text.isValid()) theme.setTextSize(text.toDouble());
}

}  // namespace ochron
