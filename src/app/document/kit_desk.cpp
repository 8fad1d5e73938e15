#include "document/kit_desk.h"

#include <QDir>
#include <algorithm>

#include "document/recording_files.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/sound_reads.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/insert_edits.h"
#include "edits/layer_edits.h"
#include "edits/take_edits.h"
#include "files/file_names.h"
#include "kit/line_up.h"
#include "kit/load_sounds.h"
#include "kit/own_sounds.h"
#include "render/export.h"
#include "render/made_store.h"
#include "render/tuned_takes.h"
#include "render/whole_sound.h"
#include "store/midi_file.h"
#include "store/project.h"
#include "store/sfz_file.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

const QString kLoadSlot = QStringLiteral("layer sounds");
const QString kLineUpSlot = QStringLiteral("line up");

/// A song with sounds laid on a layer, or on a new one.
struct Laid {
  Song song;
  LayerId layer;
};
Result<Laid> laid(const Song& song, SetId set, std::optional<DrumClass> drum, LayerId into,
                  const IncomingSoundSet& sounds) {
  Result<Song> next = song;
  auto id = into;
  if (!into) {
    next = addLayer(song, set, drum, sounds.name.empty() ? "layer" : sounds.name);
    if (next) id = next->layers.back().id;
  }
  if (next) next = setLayerSounds(*next, id, sounds);
  if (!next) return tl::unexpected(next.error());
  return Laid{std::move(*next), id};
}

MediaPool poolWith(const Song& song, MediaPool pool, const LoadedSounds& loaded) {
  for (const auto& [id, read] : readsOf(song, loaded)) pool[id] = read.media;
  return pool;
}

/// What was heard of the same layer, on names that may be other ones by now.
Layer withWhatWasHeard(Layer layer, const Layer& heard) {
  auto sounds = *layer.sounds;
  for (std::size_t i = 0; i < std::min(sounds.sounds.size(), heard.sounds->sounds.size()); ++i) {
    const auto media = sounds.sounds[i].media;
    sounds.sounds[i] = heard.sounds->sounds[i];
    sounds.sounds[i].media = media;
  }
  sounds.fullDb = heard.sounds->fullDb;
  layer.sounds = std::move(sounds);
  layer.heard = heard.heard;
  return layer;
}

}  // namespace

KitDesk::KitDesk(Document& document) : QObject(&document), doc_(document) {
  connect(&document, &Document::songChanged, this, &KitDesk::look);
  connect(&document, &Document::mediaChanged, this, &KitDesk::look);
}

void KitDesk::forget() {
  chosen_ = {};
  known_.reset();
  strokes_.clear();
}

SetId KitDesk::set() const {
  const auto active = doc_.selection().set();
  const auto* set = doc_.song().find(active);
  if (!set) return {};
  const auto* layer = doc_.song().layerOn(set->tracks.front());
  return layer ? layer->set : active;
}

std::vector<const Layer*> KitDesk::layers() const {
  std::vector<const Layer*> out;
  for (const auto& l : doc_.song().layers)
    if (l.set == set()) out.push_back(&l);
  return out;
}

const Layer* KitDesk::layer() const {
  if (const auto* chosen = doc_.song().find(chosen_); chosen && chosen->set == set()) return chosen;
  const auto all = layers();
  return all.empty() ? nullptr : all.front();
}

void KitDesk::choose(LayerId layer) {
  if (layer == chosen_) return;
  chosen_ = layer;
  if (const auto* l = doc_.song().find(layer)) {
    doc_.selection().chooseSet(l->set);
    if (l->drum) drum_ = *l->drum;
  }
  emit changed();
}

void KitDesk::setDrum(DrumClass drum) {
  drum_ = drum;
  emit changed();
}

void KitDesk::add(const fs::path& file) { load(file, {}); }

void KitDesk::swap(const fs::path& file) {
  if (const auto* l = layer()) load(file, l->id);
}

/// Reads the sounds, listens to them against the drum, and lays them: one step to undo.
void KitDesk::load(const fs::path& file, LayerId into) {
  if (!doc_.song().find(set())) return doc_.tell(tr("Import recordings first."));
  const auto* known = doc_.song().find(into);
  const auto drum = known ? known->drum : std::optional(drum_);
  doc_.jobs().start(
      tr("reading %1").arg(QString::fromStdString(shownPath(file.filename()))),
      [this, file, into, drum, song = doc_.version(), recorded = doc_.pool(), set = set(),
       cache = doc_.files().cacheFolder()](Progress& progress) -> Jobs::Finish {
        const auto rate = song->rate;
        const auto read = readSoundSet(file, drum);
        if (!read) return doc_.failed(read.error());
        auto loaded = loadSounds(*read, rate, cache, progress);
        if (!loaded) return doc_.failed(loaded.error());
        QString note;
        for (const auto& word : read->notUnderstood) note += " " + QString::fromStdString(word);
        auto with = laid(*song, set, drum, into, loaded->set);
        if (!with) return doc_.failed(with.error());
        auto heard =
            linedUp(with->song, *with->song.find(with->layer), poolWith(with->song, recorded, *loaded), progress);
        if (!heard) return doc_.failed(heard.error());
        return [this, loaded = std::move(*loaded), heard = std::move(*heard), into, note, rate] {
          if (doc_.song().rate != rate)
            return doc_.warn(tr("The song runs at another rate now than when these were read. Choose them again."));
          take(loaded, heard, into, note);
        };
      },
      kLoadSlot, Jobs::Scope::edits);
}

void KitDesk::take(const LoadedSounds& loaded, const Layer& heard, LayerId into, const QString& note) {
  const auto name = QString::fromStdString(loaded.set.name);
  const auto* known = doc_.song().find(into);
  if (into && !known) return doc_.tell(tr("This layer is not in the song any more."));
  auto with = laid(doc_.song(), heard.set, heard.drum, into, loaded.set);
  if (!with) return doc_.warn(QString::fromStdString(with.error().message));
  // A new sound is as loud as the drum; one that is compared, as what was there before.
  auto lined = withWhatWasHeard(*with->song.find(with->layer), heard);
  auto sounds = *lined.sounds;
  if (known && !known->sounds->sounds.empty())
    sounds.fullDb = known->sounds->fullDb;
  else if (!lined.heard->takes.empty())
    sounds.fullDb = lined.heard->fullDb;
  lined.sounds = std::move(sounds);
  const auto next = setLayerHeard(with->song, lined);
  if (!next) return doc_.warn(QString::fromStdString(next.error().message));
  for (const auto& [id, read] : readsOf(*next, loaded)) doc_.recordings().put(id, read);
  if (!doc_.edit(into ? tr("Sound %1").arg(name) : tr("Add layer %1").arg(name), next)) return;
  choose(with->layer);
  emit doc_.mediaChanged();
  const auto strokes = strokesOf(with->layer).size();
  const auto said = strokes == 0
                        ? tr("\"%1\" has no %2 strokes to lie on yet. Find hits first.").arg(name, drumName(drum_))
                        : tr("\"%1\" on %2.").arg(name, counted(strokes, "stroke", "strokes"));
  doc_.tell(note.isEmpty() ? said : tr("%1 Not read:%2.").arg(said, note));
  emit changed();
}

void KitDesk::addOwn() {
  if (!doc_.song().find(set())) return doc_.tell(tr("Import recordings first."));
  if (!doc_.recordings().complete())
    return doc_.tell(tr("The recordings are still being read. Add the layer when they are in."));
  auto next = addLayer(doc_.song(), set(), drum_, tr("own %1").arg(drumName(drum_)).toStdString());
  if (!next) return doc_.warn(QString::fromStdString(next.error().message));
  doc_.jobs().start(
      tr("listening to the %1").arg(drumName(drum_)),
      [this, with = std::move(*next), pool = doc_.pool(), drum = drum_,
       set = set()](Progress& progress) -> Jobs::Finish {
        auto lined = linedUp(with, with.layers.back(), pool, progress);
        if (!lined) return doc_.failed(lined.error());
        const auto own = ownSounds(with, *lined, pool);
        if (!own) return doc_.failed(own.error());
        lined->sounds = *own;
        lined = linedUp(with, *lined, pool, progress);
        if (!lined) return doc_.failed(lined.error());
        return [this, heard = *lined, drum, set] {
          auto edited = addLayer(doc_.song(), set, drum, heard.name);
          if (!edited) return doc_.warn(QString::fromStdString(edited.error().message));
          auto layer = heard;
          layer.id = edited->layers.back().id;
          layer.track = edited->layers.back().track;
          edited = setLayer(*edited, layer);
          if (!doc_.edit(tr("Add layer %1").arg(QString::fromStdString(layer.name)), edited)) return;
          choose(layer.id);
          doc_.tell(tr("%1 of the take's own, on %2.")
                        .arg(counted(layer.sounds->sounds.size(), "sound", "sounds"),
                             counted(strokesOf(layer.id).size(), "stroke", "strokes")));
          emit changed();
        };
      },
      kLoadSlot, Jobs::Scope::edits);
}

std::vector<fs::path> KitDesk::folderOf(const Layer& layer) {
  std::vector<fs::path> out;
  if (layer.sounds->origin.empty()) return out;
  const fs::path origin(layer.sounds->origin);
  const auto ending = endingOf(origin);
  std::error_code none;
  for (const auto& e : fs::directory_iterator(origin.parent_path(), none))
    if (e.is_regular_file(none) && QDir::match(soundPatterns(), QString::fromStdString(e.path().filename().string())) &&
        (endingOf(e.path()) == ".sfz") == (ending == ".sfz"))
      out.push_back(e.path());
  std::sort(out.begin(), out.end());
  return out;
}

void KitDesk::swapBy(int by) {
  const auto* l = layer();
  if (!l) return doc_.tell(tr("There is no layer. Add one first."));
  const auto files = folderOf(*l);
  if (files.size() < 2)
    return doc_.tell(l->sounds->origin.empty()
                         ? tr("These are the take's own strokes. Choose a file to go through its folder.")
                         : tr("There is no other sound in the folder of \"%1\".").arg(QString::fromStdString(l->name)));
  const auto now = std::find(files.begin(), files.end(), fs::path(l->sounds->origin));
  const auto count = std::ssize(files);
  const auto at = now == files.end() ? 0 : ((now - files.begin() + by) % count + count) % count;
  load(files[static_cast<std::size_t>(at)], l->id);
}

void KitDesk::remove() {
  const auto* l = layer();
  if (!l) return;
  doc_.edit(tr("Remove layer %1").arg(QString::fromStdString(l->name)), removeLayer(doc_.song(), l->id));
  emit changed();
}

void KitDesk::duplicate() {
  const auto* l = layer();
  if (!l) return;
  const auto next = duplicateLayer(doc_.song(), l->id);
  if (!doc_.edit(tr("Duplicate layer %1").arg(QString::fromStdString(l->name)), next)) return;
  choose(doc_.song().layers.back().id);
}

void KitDesk::change(const QString& name, const std::function<void(Layer&)>& change, const QString& gesture) {
  const auto* l = layer();
  if (!l) return;
  auto next = *l;
  change(next);
  doc_.edit(name, setLayer(doc_.song(), next), gesture);
}

const std::vector<LayerStroke>& KitDesk::strokesOf(LayerId id) {
  if (known_ != doc_.version()) {
    known_ = doc_.version();
    strokes_.clear();
  }
  const auto [found, added] = strokes_.try_emplace(id);
  if (added)
    if (const auto* l = doc_.song().find(id)) found->second = ochron::strokesOf(doc_.song(), *l);
  return found->second;
}

const LayerStroke* KitDesk::stroke() {
  const auto* l = layer();
  const auto hit = doc_.selection().hit();
  if (!l || !hit) return nullptr;
  for (const auto& s : strokesOf(l->id))
    if (s.hit == hit->hit && s.take == hit->take) return &s;
  return nullptr;
}

void KitDesk::step(int by) {
  const auto* l = layer();
  if (!l) return;
  const auto& all = strokesOf(l->id);
  if (all.empty()) return doc_.tell(tr("This layer has no strokes."));
  const auto* now = stroke();
  auto& transport = doc_.transport();
  std::ptrdiff_t at = 0;
  if (now)
    at = now - all.data() + by;
  else
    at = std::lower_bound(all.begin(), all.end(), transport.cursor(),
                          [](const LayerStroke& s, Frames f) { return s.at < f; }) -
         all.begin() + (by < 0 ? -1 : 0);
  const auto& next = all[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(at, 0, std::ssize(all) - 1))];
  doc_.selection().chooseSet(l->set);
  doc_.selection().chooseHit(HitRef{next.take, next.hit});
  transport.setCursor(next.at);
  if (transport.hearing().whileStepping) transport.hear();
}

void KitDesk::louder(double db) {
  if (!stroke()) return;
  wish(tr("Change the level of a stroke"), stroke()->hit,
       [db](StrokeWish& w) { w.gainDb = kStrokeGainRange.clamp(w.gainDb + db); });
}

void KitDesk::wish(const QString& name, HitId hit, const std::function<void(StrokeWish&)>& change,
                   const QString& gesture) {
  const auto* l = layer();
  if (!l) return;
  const auto found = l->wishes.find(hit);
  auto wish = found == l->wishes.end() ? StrokeWish{} : found->second;
  change(wish);
  doc_.edit(name, setStrokeWish(doc_.song(), l->id, {hit}, wish), gesture);
}

void KitDesk::printAsTrack() {
  const auto* l = layer();
  if (!l) return;
  if (strokesOf(l->id).empty()) return doc_.tell(tr("This layer has no strokes to print."));
  const auto folder = doc_.files().folder() / "media";
  if (doc_.files().folder().empty())
    return doc_.warn(tr("Save the song first: what is printed is kept in its folder."));
  doc_.jobs().start(
      tr("printing %1").arg(QString::fromStdString(l->name)),
      [this, song = doc_.version(), pool = doc_.pool(), made = doc_.sounding().made(), id = l->id, track = l->track,
       folder, cache = doc_.files().cacheFolder()](Progress& progress) -> Jobs::Finish {
        // Past the track's effects, which the print's own track has again.
        const auto whole = drySound(*song, pool, *made, Frames{}, progress);
        if (!whole) return doc_.failed(whole.error());
        const auto& tracks = whole->plan.tracks;
        const auto found = std::ranges::find(tracks, track, &TrackPlan::track);
        if (found == tracks.end()) return {};
        const auto name = song->find(id)->name;
        const auto file = freeFile(folder, fileNameFor(name, "layer"), ".wav");
        Outputs outputs = outputsOf(*song);
        // Float: nothing is lost, whatever the level.
        const WriteFormat format{FileFormat::wav, SampleFormat::float32, song->rate,
                                 static_cast<int>(found->channels.size()), song->end()};
        auto clipped = exportTrack(*found, format, {Frames{}, song->end()}, {}, file, {}, outputs, progress);
        if (!clipped) return doc_.failed(clipped.error());
        if (const auto asRead = whole->holds(pool, *made); !asRead) return doc_.failed(asRead.error());
        if (auto ok = outputs.commit(); !ok) return doc_.failed(ok.error());
        auto read = doc_.recordings().read(file, cache, song->rate, Damaged::refuse, progress);
        if (!read) return doc_.failed(read.error());
        return [this, id, name, read = std::move(*read)] {
          const auto* layer = doc_.song().find(id);
          if (!layer) return doc_.tell(tr("This layer is not in the song any more. Its print is kept as a file."));
          auto off = *layer;
          off.on = false;
          auto next = setLayer(doc_.song(), off);
          ImportSettings settings;
          settings.takeName = name + " print";
          if (next)
            next = importTake(*next,
                              {{name + " print",
                                read.found.path,
                                read.found.fingerprint,
                                read.found.channels,
                                read.found.fileRate,
                                read.found.length,
                                {},
                                MicRole::none}},
                              settings);
          if (next) {
            for (auto& m : next->media)
              if (m.path == read.found.path)
                for (const auto& s : layer->sounds->sounds) m.printedFrom.push_back(s.media);
            doc_.recordings().put(next->takes.back().mics.front().media, read);
            next = mixAlike(*next, layer->track, next->tracks.back().id);
          }
          if (!doc_.edit(tr("Print layer %1").arg(QString::fromStdString(name)), next)) return;
          emit doc_.mediaChanged();
          doc_.tell(tr("\"%1\" is a recording on a track of its own now; the layer is switched off.")
                        .arg(QString::fromStdString(name)));
        };
      },
      kLoadSlot, Jobs::Scope::edits);
}

void KitDesk::writeMidi(const fs::path& file) {
  const auto* l = layer();
  if (!l) return;
  auto outputs = outputsOf(doc_.song());
  auto done = writeLayerMidi(doc_.song(), *l, file, outputs);
  if (done) done = outputs.commit();
  if (!done) return doc_.warn(QString::fromStdString(done.error().message));
  doc_.tell(tr("%1 written to %2.")
                .arg(counted(strokesOf(l->id).size(), "stroke", "strokes"), QString::fromStdString(file.string())));
}

bool KitDesk::listening() const { return doc_.jobs().runs(kLineUpSlot) || doc_.jobs().runs(kLoadSlot); }

/// Strokes that were added, or found anew, have their attacks listened for: it is known from then on, and no step that
/// is undone.
void KitDesk::look() {
  emit changed();
  if (!doc_.recordings().complete() || doc_.jobs().runs(kLineUpSlot)) return;
  const auto& layers = doc_.song().layers;
  const bool needed =
      std::any_of(layers.begin(), layers.end(), [&](const Layer& l) { return needsLiningUp(doc_.song(), l); });
  if (!needed) return;
  doc_.jobs().start(
      {},
      [this, song = doc_.version(), pool = doc_.pool()](Progress& progress) -> Jobs::Finish {
        std::vector<Layer> heard;
        for (const auto& layer : song->layers) {
          if (!needsLiningUp(*song, layer)) continue;
          auto lined = linedUp(*song, layer, pool, progress);
          if (!lined) return doc_.failed(lined.error());
          if (!needsLiningUp(*song, *lined)) heard.push_back(std::move(*lined));
        }
        if (heard.empty()) return {};
        return [this, heard = std::move(heard)] {
          Result<Song> next = doc_.song();
          for (const auto& l : heard)
            if (next && next->find(l.id)) next = setLayerHeard(*next, l);
          if (next && *next != doc_.song()) doc_.learn(std::move(*next));
        };
      },
      kLineUpSlot, Jobs::Scope::edits, Jobs::Kind::follow);
}

}  // namespace ochron
