#include "document/sound_desk.h"

#include <QSettings>
#include <QTimer>
#include <algorithm>
#include <utility>

#include "document/document.h"

namespace ochron {
namespace {

constexpr const char* kApiKey = "sound/by";
constexpr const char* kNameKey = "sound/output";
constexpr const char* kBlockKey = "sound/block";
constexpr const char* kSlot = "sound outputs";
constexpr int kStill = 60;           // looks without a block, two seconds: it does not answer any more
constexpr int kLookAgainMs = 3'000;  // for what is waited for

SoundChoice keptChoice() {
  const QSettings kept;
  SoundChoice choice{kept.value(kApiKey).toString().toStdString(), kept.value(kNameKey).toString().toStdString(),
                     kept.value(kBlockKey, SoundChoice{}.blockFrames).toInt()};
  if (std::ranges::find(kBlockSizes, choice.blockFrames) == kBlockSizes.end())
    choice.blockFrames = SoundChoice{}.blockFrames;
  return choice;
}

void keep(const SoundChoice& choice) {
  QSettings kept;
  kept.setValue(kApiKey, QString::fromStdString(choice.api));
  kept.setValue(kNameKey, QString::fromStdString(choice.name));
  kept.setValue(kBlockKey, choice.blockFrames);
}

}  // namespace

SoundDesk::SoundDesk(Document& document, Player& player)
    : doc_(document), player_(player), machine_{openSound, soundOutputs}, choice_(keptChoice()) {
  waiting_ = new QTimer(this);
  waiting_->setInterval(kLookAgainMs);
  connect(waiting_, &QTimer::timeout, this, &SoundDesk::lookForIt);
  use();
}

SoundDesk::~SoundDesk() = default;

bool SoundDesk::use() {
  blocks_ = 0, stillFor_ = 0, dropOutsTold_ = 0;
  auto device = machine_.open(choice_);
  auto played = device ? player_.useDevice(std::move(*device), choice_.blockFrames)
                       : Result<void>(tl::unexpected(device.error()));
  if (played) {
    waitsFor_.clear();
    silent_ = false;
    waiting_->stop();
    return true;
  }
  const bool chosen = !choice_.api.empty();
  auto any = chosen ? machine_.open({{}, {}, choice_.blockFrames}) : fail(ErrorKind::notFound, "");
  const bool other = any && player_.useDevice(std::move(*any), choice_.blockFrames);
  if (!other) goOnSilently();
  silent_ = !other;
  // Nothing was chosen and there is none: that is how machines without sound are, and no news.
  if (!chosen && !device) return false;
  if (chosen) wait(QString::fromStdString(choice_.name));
  if (device) waiting_->stop();  // it is there and refuses: that it comes back is nothing to wait for
  const auto why = QString::fromStdString(played.error().message);
  const auto meanwhile = other ? tr("Playing by %1 until then.").arg(name()) : tr("Nothing is heard until then.");
  QTimer::singleShot(0, this, [this, sentence = why + " " + meanwhile] {
    doc_.warn(sentence, tr("Choose\u2026"), "transport.output");
  });
  return false;
}

void SoundDesk::choose(const SoundChoice& choice) {
  choice_ = choice;
  keep(choice);
  again();
}

void SoundDesk::again() {
  if (use()) {
    doc_.tell(tr("Playing by %1.").arg(name()));
  } else if (waitsFor_.isEmpty()) {
    doc_.warn(tr("No sound device answers. Connect one or start the sound server; until then nothing is heard."),
              tr("Try again"), "transport.device");
  }
  emit changed();
}

void SoundDesk::followRate() {
  dropOutsTold_ = 0, blocks_ = 0, stillFor_ = 0;
  if (auto ok = player_.setRate(doc_.song().rate); !ok) use();
}

void SoundDesk::wait(const QString& name) {
  waitsFor_ = name.isEmpty() ? tr("the sound device") : name;
  waiting_->start();
}

void SoundDesk::lost() {
  const auto was = name();
  player_.engine().stop();  // obeyed with the next block, which another device has to ask for
  goOnSilently();
  wait(was);
  doc_.warn(tr("%1 does not answer any more; playing has stopped. Connect it again or choose another one.").arg(was),
            tr("Choose\u2026"), "transport.output");
  emit changed();
}

void SoundDesk::goOnSilently() {
  (void)player_.useDevice(std::make_unique<SimulatedDevice>(), choice_.blockFrames);
  silent_ = true;
}

void SoundDesk::lookForIt() {
  if (isHeardByAnother()) return;  // which is not taken away meanwhile
  ask(Jobs::Kind::refresh, [this] {
    const bool there = std::ranges::any_of(outputs_, [this](const SoundOutput& o) { return choice_.fits(o); });
    if (waitsFor_.isEmpty() || !there || isHeardByAnother() || !machine_.open(choice_)) return;
    if (use()) doc_.tell(tr("%1 is back.").arg(name()));
    emit changed();
  });
}

void SoundDesk::list() {
  ask(Jobs::Kind::follow, [this] { emit changed(); });
}

void SoundDesk::ask(Jobs::Kind kind, std::function<void()> then) {
  doc_.jobs().start(
      {},
      [this, find = machine_.outputs, then = std::move(then)](Progress&) -> Jobs::Finish {
        return [this, then, found = find()] {
          outputs_ = found;
          then();
        };
      },
      kSlot, Jobs::Scope::files, kind);
}

void SoundDesk::tick() {
  const auto now = runs();
  if (now.rate > 0 && isChosenHeard()) {
    stillFor_ = now.blocks == blocks_ ? stillFor_ + 1 : 0;
    blocks_ = now.blocks;
    if (stillFor_ == kStill) lost();
  }
  const auto drops = dropOuts();
  if (drops == dropOutsTold_) return;
  dropOutsTold_ = drops;
  emit changed();
}

QString SoundDesk::name() const {
  auto* device = player_.device();
  return device ? QString::fromStdString(device->name()) : tr("no sound device");
}

DeviceRun SoundDesk::runs() const { return player_.device() ? player_.device()->runs() : DeviceRun{}; }

std::int64_t SoundDesk::dropOuts() const { return player_.device() ? player_.device()->dropOuts() : 0; }

}  // namespace ochron
