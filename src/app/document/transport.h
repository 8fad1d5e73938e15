#pragma once

#include <QObject>
#include <QString>
#include <cstdint>

#include "document/sound_desk.h"
#include "play/player.h"

namespace ochron {

class Document;

/// Playing: the play line, the loop, the click, which version is heard.
class Transport : public QObject {
  Q_OBJECT
 public:
  explicit Transport(Document& document);
  ~Transport() override;

  Player& player() { return player_; }
  /// By what it is heard.
  SoundDesk& sound() { return sound_; }
  void playStop();
  void playFrom(Frames at);
  Frames cursor() const { return cursor_; }
  void setCursor(Frames at);
  bool looping() const { return looping_; }
  void setLooping(bool on);
  bool click() const { return click_; }
  void setClick(bool on);
  double clickLevelDb() const { return clickLevelDb_; }
  void setClickLevelDb(double db);
  bool original() const { return original_; }
  void setOriginal(bool on);
  /// What plays next, or would.
  FrameRange heardSoon();

  /// Plays a short piece around the current seam (in a loop) or hit (once); stops when it is playing already.
  void hear();
  /// What hear() adds: the click, and quiet material raised by 20 dB.
  struct Hearing {
    bool click = false;
    bool lift = false;
    bool whileStepping = false;  ///< each hit is heard when it is stepped to
  };
  const Hearing& hearing() const { return hearing_; }
  void setHearing(const Hearing& hearing);

  /// Another song is open: stops, at its beginning and at its rate.
  void beginSong();
  /// When the song runs at another rate now, all places of the window go along with it.
  void followRate();
  /// The chosen range is another one: the loop follows.
  void rangeChanged();

 signals:
  void changed();

 private:
  /// The engine runs at the song's rate.
  void useSongRate();
  void watchSound();

  Document& doc_;
  Player player_{48'000};
  SoundDesk sound_;
  Frames cursor_;
  bool looping_ = false;
  bool click_ = false;
  bool original_ = false;
  double clickLevelDb_ = -9;
  Hearing hearing_;
};

}  // namespace ochron
