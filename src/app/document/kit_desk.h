#pragma once

#include <QObject>
#include <QStringList>
#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <vector>

#include "document/document.h"
#include "document/selection.h"
#include "document/song_memory.h"
#include "song/layer_strokes.h"

namespace ochron {

struct LoadedSounds;

/// Layers of the open song: which one is worked on, its sounds, its strokes; and what has to be listened to for them.
class KitDesk : public QObject, public SongMemory {
  Q_OBJECT
 public:
  explicit KitDesk(Document& document);

  /// The layer that is worked on: the chosen one, else the first of the drum set's; null when there is none.
  const Layer* layer() const;
  void choose(LayerId layer);
  /// The mic set whose strokes are worked on: the active one, or that of the active layer.
  SetId set() const;
  /// The drum that new layers lie on.
  DrumClass drum() const { return drum_; }
  void setDrum(DrumClass drum);
  std::vector<const Layer*> layers() const;

  /// A new layer of a sound file or an SFZ instrument.
  void add(const std::filesystem::path& file);
  /// A new layer of the take's own clean strokes.
  void addOwn();
  /// Other sounds for the layer that is worked on, as loud as those before.
  void swap(const std::filesystem::path& file);
  /// The next (1) or previous (-1) file of the folder that its sounds came from.
  void swapBy(int by);
  /// Those files, in order; empty when the sounds are the take's own.
  static std::vector<std::filesystem::path> folderOf(const Layer& layer);
  void remove();
  void duplicate();
  void change(const QString& name, const std::function<void(Layer&)>& change, const QString& gesture = {});

  /// The strokes of a layer as the song has them now.
  const std::vector<LayerStroke>& strokesOf(LayerId layer);
  /// The stroke that is looked at: that of the chosen hit; null when there is none.
  const LayerStroke* stroke();
  /// Steps to the next (1) or previous (-1) stroke.
  void step(int by);
  /// The chosen stroke by so many dB.
  void louder(double db);
  void wish(const QString& name, HitId hit, const std::function<void(StrokeWish&)>& change,
            const QString& gesture = {});
  /// The layer's sound as a recording on a track of its own; the layer is switched off.
  void printAsTrack();
  void writeMidi(const std::filesystem::path& file);
  /// Strokes or sounds are being listened to.
  bool listening() const;
  void forget() override;

 signals:
  void changed();

 private:
  void load(const std::filesystem::path& file, LayerId into);
  void take(const LoadedSounds& loaded, const Layer& heard, LayerId into, const QString& note);
  void look();

  Document& doc_;
  LayerId chosen_;
  DrumClass drum_ = DrumClass::snare;
  std::shared_ptr<const Song> known_;
  std::map<LayerId, std::vector<LayerStroke>> strokes_;
};

}  // namespace ochron
