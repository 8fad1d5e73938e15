#pragma once

#include <QPoint>
#include <QWidget>
#include <vector>

#include "document/selection.h"

namespace ochron {

/// The commands that stand in the menu of a thing; "-" parts them.
const std::vector<const char*>& menuOf(Selection::Thing thing);
/// Shows some commands of the window as a menu at a place on the screen. Those that cannot be done now are greyed.
void popUp(QWidget* over, QPoint at, const std::vector<const char*>& commands);

}  // namespace ochron
