// Words of what is no widget: painters, gestures, overlays.
#pragma once

#include <QCoreApplication>
#include <QString>

inline QString say(const char* text) { return QCoreApplication::translate("Canvas", text); }
