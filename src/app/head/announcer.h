#pragma once

#include <QTimer>
#include <QWidget>

#include "document/document.h"

namespace ochron {

/// Tells readers of the screen what is chosen and what a command did, once each: a notice that nobody sees.
class Announcer : public QWidget {
  Q_OBJECT
 public:
  Announcer(Document& document, QWidget* parent);
  const QString& said() const { return said_; }

 signals:
  void announced(const QString& sentence);

 private:
  void say(const QString& sentence);

  Document& doc_;
  QString said_;
  QTimer soon_;  ///< what is chosen is said when it has settled
};

/// From here on readers are told what announcers say.
void tellAnnouncementsToReaders();

}  // namespace ochron
