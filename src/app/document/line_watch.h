#pragma once

#include <QObject>
#include <map>
#include <string>

#include "song/song.h"

namespace ochron {

class Document;

/// Sees to it that a voice sounds alike by whichever door it is transposed: where a clip is and nobody listened for its
/// line, it is listened to in the background and what was heard is noted with the take, outside the steps that are
/// undone. What is no single line is left, as is what has a manner of its own.
class LineWatch : public QObject {
  Q_OBJECT
 public:
  explicit LineWatch(Document& document);

 private:
  struct Place {
    TakeId take;
    SetId set;
    std::string recordings;  ///< their contents
    auto operator<=>(const Place&) const = default;
  };
  Place placeOf(TakeId take, const MicSet& set) const;
  bool wanted(const MicSet& set, const Clip& clip) const;
  void look();
  void listen(const Place& place);
  void note(const Place& place, const SungLine& line);

  Document& doc_;
  std::map<Place, Shared<SungLine>> known_;  ///< what was heard; without notes: it is no line
};

}  // namespace ochron
