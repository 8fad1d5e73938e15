#pragma once

#include <QObject>
#include <filesystem>
#include <memory>

#include "play/engine.h"
#include "render/made_store.h"
#include "song/song.h"

namespace ochron {

class Document;
struct TunedPool;

/// From the song to what plays: compiled in the background after every change, with the sound that has to be made
/// first, both versions equally loud.
class Sounding : public QObject {
  Q_OBJECT
 public:
  explicit Sounding(Document& document);

  /// Other effects are at work: what plays goes through them from now on.
  void playAgain();
  /// What plays now; null before the first song is ready.
  std::shared_ptr<const PlayPlan> playPlan() const { return playPlan_; }
  /// Plays something else than the song until null is given; what the song compiles to meanwhile waits.
  void hearInstead(const std::shared_ptr<const PlayPlan>& plan);
  std::shared_ptr<const PlayPlan> heardInstead() const { return instead_; }
  /// The store of what has to be computed before it can be heard.
  std::shared_ptr<MadeStore> made() const { return made_; }
  /// The recordings as they play, pitch plans carried out; null before the first song is ready.
  std::shared_ptr<const TunedPool> tuned() const { return tunedPool_; }
  /// Whether the original is heard as loud as the edited version, and by how many dB it is raised for that.
  bool matchesLoudness() const { return matchesLoudness_; }
  void matchLoudness(bool on);
  double originalGainDb() const { return originalGainDb_; }
  /// How alike both sides of the joint before a clip are on a track, as its crossfade plays; the middle of what there
  /// is while that is not known.
  double jointLikeness(TrackId track, const Clip& later) const;

  void compile();
  /// What is shown while something is dragged, for the ear: with the sound that is made already, else as slices play.
  void compileShown();
  /// The play line is elsewhere: what is missing there is made first.
  void makeNearPlayLine();
  /// Another song is open.
  void beginSong();
  /// Nothing that was compiled holds any more.
  void forgetPlan() { playPlan_.reset(); }
  /// Where the song's made sound is kept, unless that is known.
  void keepIn(const std::filesystem::path& cacheFolder);

 signals:
  void changed();
  void planChanged();
  /// Something else than the song is heard, or the song again.
  void insteadChanged();

 private:
  void playFirst(const std::shared_ptr<const Song>& song, const MediaPool& pool, MadeStore* made, Frames from);
  void play(const std::shared_ptr<const PlayPlan>& plan);
  void give(const PlayPlan& plan);
  void measureLoudness();
  void makeSound(bool anew = false);

  Document& doc_;
  std::shared_ptr<const PlayPlan> playPlan_;
  std::shared_ptr<const PlayPlan> instead_;     ///< what is heard in its place
  std::shared_ptr<const TunedPool> tunedPool_;  ///< what it plays
  std::shared_ptr<MadeStore> made_;             ///< of the song that is open
  std::shared_ptr<const Song> makingFor_;
  bool matchesLoudness_ = true;
  double originalGainDb_ = 0;
};

}  // namespace ochron
