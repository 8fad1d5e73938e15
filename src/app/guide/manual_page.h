#pragma once

#include <QString>

class QObject;
class QTextDocument;

namespace ochron {

/// A page of Markdown set in the sheet's colours and our type; pictures are looked for beside `folder` in the manual.
QTextDocument* manualPage(const QString& markdown, const QString& folder, QObject* parent);

}  // namespace ochron
