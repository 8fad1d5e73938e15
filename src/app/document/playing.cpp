#include <QTimer>
#include <algorithm>
#include <cmath>

#include "document/document.h"
#include "document/wording.h"
#include "edits/edit_tools.h"
#include "edits/pieces.h"
#include "edits/speed_edits.h"
#include "feel/plan.h"
#include "files/file_names.h"
#include "play/click.h"
#include "render/loudness.h"
#include "render/made_store.h"
#include "render/tuned_takes.h"
#include "store/midi_file.h"
#include "store/project.h"

namespace ochron {
namespace fs = std::filesystem;

namespace {

constexpr double kMostDb = 12;      // between the versions
constexpr double kUnheardDb = 0.1;  // is no difference

float gainOf(double db) { return static_cast<float>(std::pow(10.0, db / 20)); }

}  // namespace

// The sound device ----------------------------------------------------------------------------------------------------

void Document::useSoundDevice() {
  auto device = RtAudioDevice::open({});
  auto played = device ? player_.useDevice(std::move(*device)) : Result<void>();
  if (!device || !played) (void)player_.useDevice(std::make_unique<SimulatedDevice>());
  if (!played)
    QTimer::singleShot(0, this, [this, why = QString::fromStdString(played.error().message)] {
      warn(tr("%1 Nothing is heard until then.").arg(why), tr("Try again"), "transport.device");
    });
  auto* timer = new QTimer(this);
  connect(timer, &QTimer::timeout, this, &Document::watchSound);
  timer->start(33);
}

void Document::trySoundDevice() {
  auto device = RtAudioDevice::open({});
  if (!device) return warn(QString::fromStdString(device.error().message), tr("Try again"), "transport.device");
  if (auto ok = player_.useDevice(std::move(*device)); !ok) {
    (void)player_.useDevice(std::make_unique<SimulatedDevice>());
    return warn(QString::fromStdString(ok.error().message), tr("Try again"), "transport.device");
  }
  emit told(tr("Playing by %1.").arg(deviceName()));
  emit transportChanged();
}

/// The engine runs at the song's rate.
void Document::useSongRate() {
  if (player_.rate() == song_->rate) return;
  auto ok = player_.setRate(song_->rate);
  if (!ok) {
    const auto why = QString::fromStdString(ok.error().message);
    (void)player_.useDevice(std::make_unique<SimulatedDevice>());
    warn(tr("%1 Nothing is heard until then.").arg(why), tr("Try again"), "transport.device");
  }
  dropOutsTold_ = 0;
  playPlan_.reset();
  player_.engine().setClick(click_, clickLevelDb_);
  player_.engine().setOriginal(original_);
}

void Document::watchSound() {
  player_.tick();
  const auto now = dropOuts();
  if (now == dropOutsTold_) return;
  dropOutsTold_ = now;
  emit transportChanged();
}

std::int64_t Document::dropOuts() const {
  auto* device = const_cast<Document*>(this)->player_.device();
  return device ? device->dropOuts() : 0;
}

FrameRange Document::heardSoon() {
  constexpr std::int64_t kSeconds = 4;
  const auto from = player_.engine().playing() ? player_.engine().position() : cursor_;
  return {from, from + Frames{kSeconds * song_->rate}};
}

void Document::compile() {
  jobs_.start(
      {},
      [this, song = song_, pool = recordings_.pool(), before = playPlan_, made = made_, was = tunedPool_,
       near = heardSoon()](Progress& progress) -> Jobs::Finish {
        auto plan = std::make_shared<PlayPlan>();
        if (!before) playFirst(song, pool, made.get(), near.start);
        const auto tuned =
            std::make_shared<const TunedPool>(tunedAtHand(*song, pool, *made, was ? &was->pool : nullptr));
        makeQuickly(*song, tuned->pool, *made, near);
        plan->edited = compilePlan(*song, tuned->pool, before ? &before->edited : nullptr, made.get());
        plan->edited.preview = plan->edited.preview || tuned->missing;
        if (progress.cancelled()) return {};
        plan->original = compilePlan(withoutPlans(*song), pool, before ? &before->original : nullptr, made.get());
        const auto end = std::max(plan->edited.end, plan->original.end) + Frames{song->rate * 600ll};
        plan->clicks = clicksOf(song->tempo, {song->tempo.origin() - Frames{song->rate * 60ll}, end});
        return [this, plan, song, tuned] {
          tunedPool_ = tuned;
          plan->originalGain = matchesLoudness_ ? gainOf(originalGainDb_) : 1.0F;
          playPlan_ = plan;
          if (!instead_) player_.setPlan(plan);
          measureLoudness();
          if (song == song_ && (plan->edited.preview || plan->original.preview)) makeSound();
        };
      },
      "compile");
}

/// Of a song that has just been opened, what plays first, while the rest is compiled. On a worker's thread.
void Document::playFirst(const std::shared_ptr<const Song>& song, const MediaPool& pool, MadeStore* made, Frames from) {
  constexpr std::int64_t kSeconds = 20;
  auto first = std::make_shared<PlayPlan>();
  const auto part = onlyIn(*song, {from, from + Frames{kSeconds * song->rate}});
  first->edited = compilePlan(part, pool, nullptr, made);
  first->original = compilePlan(withoutPlans(part), pool, nullptr, made);
  first->edited.preview = true;
  QMetaObject::invokeMethod(
      this,
      [this, first, song] {
        if (playPlan_ || instead_ || song != song_) return;
        playPlan_ = first;
        player_.setPlan(first);
      },
      Qt::QueuedConnection);
}

void Document::compileShown() {
  if (!playPlan_) return;
  jobs_.start(
      {},
      [this, song = song_, pool = tunedPool_ ? tunedPool_->pool : recordings_.pool(), before = playPlan_, made = made_,
       near = heardSoon()](Progress&) -> Jobs::Finish {
        auto plan = std::make_shared<PlayPlan>(*before);
        makeQuickly(*song, pool, *made, near);
        plan->edited = compilePlan(*song, pool, &before->edited, made.get());
        return [this, plan] {
          if (!previewing_ || instead_) return;
          playPlan_ = plan;
          player_.setPlan(plan);
        };
      },
      "compile");
}

void Document::hearInstead(const std::shared_ptr<const PlayPlan>& plan) {
  if (plan == instead_) return;
  instead_ = plan;
  if (plan)
    player_.setPlan(plan);
  else if (playPlan_)
    player_.setPlan(playPlan_);
}

/// Both versions, over what is played; the original is raised or lowered to the edited one.
void Document::measureLoudness() {
  if (!matchesLoudness_ || playPlan_->edited.preview) return;
  jobs_.start(
      {},
      [this, plan = playPlan_, range = looping_ && !range_.empty() ? range_ : FrameRange{{}, song_->end()}](
          Progress& progress) -> Jobs::Finish {
        const auto edited = loudnessOf(plan->edited, range, progress);
        const auto original = loudnessOf(plan->original, range, progress);
        if (!edited || !original) return {};
        return [this, plan, db = std::clamp(*edited - *original, -kMostDb, kMostDb)] {
          if (plan != playPlan_ || std::abs(db - originalGainDb_) < kUnheardDb) return;
          originalGainDb_ = db;
          matchLoudness(matchesLoudness_);
        };
      },
      "loudness");
}

void Document::matchLoudness(bool on) {
  const bool begins = on && !matchesLoudness_;
  matchesLoudness_ = on;
  if (playPlan_) {
    auto plan = std::make_shared<PlayPlan>(*playPlan_);
    plan->originalGain = on ? gainOf(originalGainDb_) : 1.0F;
    playPlan_ = plan;
    if (!instead_) player_.setPlan(plan);
    if (begins) measureLoudness();
  }
  emit transportChanged();
}

/// Makes what a preview stands in for, nearest to the play line first. What is at hand is heard as it comes.
void Document::makeSound(bool anew) {
  if (!anew && makingFor_ == song_ && jobs_.runs("stretch")) return;
  makingFor_ = song_;
  jobs_.start(
      tr("making sound"),
      [this, song = song_, pool = recordings_.pool(), made = made_,
       near = heardSoon().start](Progress& progress) -> Jobs::Finish {
        const auto heardNow = [this] {
          QMetaObject::invokeMethod(
              this,
              [this] {
                if (!jobs_.runs("compile")) compile();
              },
              Qt::QueuedConnection);
        };
        if (!makeTuned(*song, pool, *made, near, progress, heardNow)) return {};
        const auto tuned = tunedAtHand(*song, pool, *made);
        if (!makeMissing(*song, tuned.pool, *made, near, progress, heardNow)) return {};
        if (!makeMissing(withoutPlans(*song), pool, *made, near, progress, heardNow)) return {};
        return [this] {
          compile();
          trimCaches();
        };
      },
      "stretch");
}

void Document::makeNearPlayLine() {
  if (jobs_.runs("stretch")) makeSound(true);
}

// Playing
// ---------------------------------------------------------------------------------------------------------------

void Document::playStop() {
  if (player_.engine().playing()) {
    player_.engine().stop();
  } else {
    if (looping_ && !range_.empty())
      player_.seek(range_.start);
    else
      player_.seek(cursor_);
    player_.engine().play();
  }
  emit transportChanged();
}

void Document::playFrom(Frames at) {
  setCursor(at);
  player_.seek(at);
  player_.engine().play();
  emit transportChanged();
}

void Document::setCursor(Frames at) {
  cursor_ = at;
  if (!player_.engine().playing()) player_.seek(at);
  makeNearPlayLine();
  emit transportChanged();
}

void Document::setLooping(bool on) {
  looping_ = on;
  player_.engine().setLoop(on ? range_ : FrameRange{});
  emit transportChanged();
}

void Document::setClick(bool on) {
  click_ = on;
  player_.engine().setClick(on, clickLevelDb_);
  emit transportChanged();
}

void Document::setClickLevelDb(double db) {
  clickLevelDb_ = db;
  player_.engine().setClick(click_, db);
  emit transportChanged();
}

void Document::setOriginal(bool on) {
  if (on == original_) return;
  original_ = on;
  player_.engine().setOriginal(on);
  if (on && matchesLoudness_ && std::abs(originalGainDb_) >= kUnheardDb)
    tell(tr("As recorded, %1 dB %2 to be as loud as edited.")
             .arg(std::abs(originalGainDb_), 0, 'f', 1)
             .arg(originalGainDb_ > 0 ? tr("louder") : tr("softer")));
  emit transportChanged();
}

QString Document::deviceName() const {
  auto* device = const_cast<Document*>(this)->player_.device();
  return device ? QString::fromStdString(device->name()) : tr("no sound device");
}

namespace {

/// The click and the MIDI file that go with an export.
Result<void> exportBeside(const Song& song, const MediaPool& pool, const ExportSettings& s, const fs::path& target,
                          Outputs& outputs, ExportReport& report, Progress& progress) {
  const bool mix = s.what == ExportWhat::mix;
  const auto beside = [&](const std::string& word, const std::string& ending) {
    auto name = mix ? target.stem().string() + " " + word : fileNameFor(word);
    return (mix ? target.parent_path() : target) / (name + ending);
  };
  if (s.click) {
    const auto file = beside("click", extensionOf(s.format));
    if (auto ok = exportClick(song, s, file, outputs, progress); !ok) return ok;
    report.files.push_back(file);
  }
  if (!s.midi) return {};
  std::map<SetId, TimingResult> timing;
  for (const auto& set : song.sets) timing[set.id] = planTiming(song, set.id);
  const auto file = beside("map", ".mid");
  const auto tempo = song.speedManner.exported ? playedTempo(song) : song.tempo;
  if (auto ok = writeSongMidi(song, timing, pool, tempo, s.range.start, file, outputs); !ok) return ok;
  report.files.push_back(file);
  return {};
}

}  // namespace

void Document::exportTo(const ExportSettings& settings, const fs::path& target) {
  if (!recordings_.complete())
    return warn(
        tr("The recordings are still being read, so the export would have holes. Export again when they are in."));
  for (const auto& m : song_->media)
    if (!recordings_.pool().contains(m.id))
      return warn(tr("The export would have holes: %1 is not at hand.").arg(QString::fromStdString(m.path)),
                  tr("Look\u2026"), "song.recordings");
  const auto song = song_;
  const auto pool = recordings_.pool();
  jobs_.start(
      tr("exporting"),
      [this, song, pool, made = made_, settings, target](Progress& progress) -> Jobs::Finish {
        const auto failed = [this](const Error& e) -> Jobs::Finish {
          if (e.kind == ErrorKind::cancelled) return {};
          return [this, text = QString::fromStdString(e.message)] { warn(text); };
        };
        const auto tuned = tunedWhole(*song, pool, *made, progress);
        if (!tuned) return failed(tuned.error());
        if (auto ok = makeMissing(*song, *tuned, *made, settings.range.start, progress); !ok) return failed(ok.error());
        auto outputs = outputsOf(*song);
        auto report =
            exportSong(*song, compilePlan(*song, *tuned, nullptr, made.get()), settings, target, outputs, progress);
        if (!report) return failed(report.error());
        if (auto ok = exportBeside(*song, pool, settings, target, outputs, *report, progress); !ok)
          return failed(ok.error());
        for (const auto& [id, media] : pool)
          if (media->broken())
            return failed({ErrorKind::ioFailed,
                           "The decoded copy of a recording was damaged while it was in use, so "
                           "nothing was exported. Export again.",
                           {}});
        if (auto ok = outputs.commit(); !ok) return failed(ok.error());
        QString text =
            tr("Exported %1 to %2.")
                .arg(counted(report->files.size(), "file", "files"), QString::fromStdString(target.string()));
        if (report->clippedSamples > 0)
          text += tr(" %1 samples were beyond full scale and clipped.").arg(report->clippedSamples);
        return [this, text] { emit told(text); };
      },
      {}, Jobs::Scope::files);
}

}  // namespace ochron
