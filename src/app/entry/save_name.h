#pragma once

#include <QString>

class QWidget;

namespace ochron {

/// Asks where to save. The name gets the ending of the kind that was chosen in the dialog when it has none of those
/// offered ("MIDI (*.mid);;Table (*.csv)"); when that makes it another name, and something lies there, that is asked
/// about, too. Empty when nothing was chosen.
QString askWhereToSave(QWidget* parent, const QString& title, const QString& suggestion, const QString& kinds);

/// `name` with the ending of `kind`, unless it has one of those in `kinds`. As it is when `kind` offers all files.
QString withEnding(const QString& name, const QString& kind, const QString& kinds);

}  // namespace ochron
