#include "theme/sheet.h"

namespace ochron {

const Sheet& sheetOf(SheetKind kind) {
  static const Sheet light{.dark = false,
                           .paper = "#fcfdfe",
                           .panel = "#f4f8fb",
                           .chrome = "#e8edf2",
                           .ink = "#1b2a41",
                           .inkSoft = "#8c9cb5",
                           .note = "#5e6c7f",
                           .hairline = "#e3eaf0",
                           .rule = "#c3ced9",
                           .edge = "#818f9f",
                           .field = "#ffffff",
                           .selection = "#0e7e80",
                           .selectionSoft = "#d3eaea",
                           .early = "#6d4fb3",
                           .late = "#a1640d",
                           .alarm = "#c8342e"};
  static const Sheet night{.dark = true,
                           .paper = "#10161d",
                           .panel = "#161d26",
                           .chrome = "#0e1319",
                           .ink = "#dfe8f2",
                           .inkSoft = "#6d7e94",
                           .note = "#91a0b2",
                           .hairline = "#1f2933",
                           .rule = "#344250",
                           .edge = "#62758b",
                           .field = "#1b242e",
                           .selection = "#3cc3c0",
                           .selectionSoft = "#173b3f",
                           .early = "#a48be8",
                           .late = "#e0a03c",
                           .alarm = "#f0655c"};
  static const Sheet contrast{.dark = false,
                              .paper = "#ffffff",
                              .panel = "#ffffff",
                              .chrome = "#ffffff",
                              .ink = "#000000",
                              .inkSoft = "#7a7a7a",
                              .note = "#333333",
                              .hairline = "#d5d5d5",
                              .rule = "#5a5a5a",
                              .edge = "#000000",
                              .field = "#ffffff",
                              .selection = "#005a5c",
                              .selectionSoft = "#b4e4e4",
                              .early = "#4a1fa8",
                              .late = "#6b3c00",
                              .alarm = "#a00000"};
  switch (kind) {
    case SheetKind::light: return light;
    case SheetKind::night: return night;
    case SheetKind::contrast: return contrast;
  }
  return light;
}

}  // namespace ochron
