#pragma once

#include <QStringList>

namespace ochron {

/// Patterns of the names of what a layer can play: sounds and instruments.
const QStringList& soundPatterns();
/// Patterns of the names of what can be imported: *.wav and so on.
const QStringList& recordingPatterns();

/// The files themselves; in place of a folder that is no song, the recordings that lie in it, by name. Folders in it
/// are not looked into; one that holds no recording stays.
QStringList withoutFolders(const QStringList& files);

}  // namespace ochron
