#pragma once

#include <QDropEvent>
#include <QMimeData>
#include <QUrl>

namespace ochron {

/// The one file that is dragged or dropped; empty when it is another thing, or more than one.
inline QString droppedSound(const QDropEvent& event) {
  const auto urls = event.mimeData()->urls();
  return urls.size() == 1 ? urls.front().toLocalFile() : QString();
}

}  // namespace ochron
