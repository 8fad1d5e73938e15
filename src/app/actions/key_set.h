#pragma once

#include <QMap>
#include <QString>

#include "base/result.h"

namespace ochron {

/// Keys by command, of those commands that do not have the key they were shipped with; an empty one: none.
using KeySet = QMap<QString, QString>;

/// Ready sets; their names are shown.
enum class ReadyKeys {
  shipped,
  leftHand,  ///< what is pressed most lies under the left hand, while the right one holds the mouse
};
const KeySet& readyKeys(ReadyKeys which);

/// A set as a file: JSON, one line for each command.
QString keysAsText(const KeySet& keys);
/// Fails on what is no set of keys, and on a key that there is not, which it names.
Result<KeySet> keysFromText(const QByteArray& text, const QString& fileName);

}  // namespace ochron
