#include "document/note_out_desk.h"

#include <QSettings>

#include "document/document.h"
#include "document/transport.h"

namespace ochron {
namespace {

constexpr const char* kPortKey = "midi out";

}  // namespace

NoteOutDesk::NoteOutDesk(Document& document) : QObject(&document), doc_(document) {}
NoteOutDesk::~NoteOutDesk() = default;

QStringList NoteOutDesk::ports() {
  QStringList out;
  for (const auto& p : RtMidiOutput::ports()) out << QString::fromStdString(p);
  return out << QString::fromUtf8(SimulatedMidiOutput::kName);
}

QString NoteOutDesk::port() const { return sender_ ? QString::fromStdString(sender_->output().name()) : QString(); }

void NoteOutDesk::use(std::shared_ptr<MidiOutput> output) {
  sender_.reset();  // one at a time takes notes from the stream
  if (output) sender_ = std::make_unique<MidiSender>(doc_.transport().player().notes(), std::move(output));
  emit changed();
}

void NoteOutDesk::usePort(const QString& name) {
  QSettings().setValue(kPortKey, name);
  if (name == port()) return;
  if (name.isEmpty()) return use(nullptr);
  if (name == QLatin1StringView(SimulatedMidiOutput::kName)) return use(std::make_shared<SimulatedMidiOutput>());
  auto output = RtMidiOutput::open(name.toStdString());
  if (!output) {
    use(nullptr);
    return doc_.warn(QString::fromStdString(output.error().message));
  }
  use(std::shared_ptr<MidiOutput>(std::move(*output)));
}

void NoteOutDesk::useKept() {
  if (const auto kept = QSettings().value(kPortKey).toString(); !kept.isEmpty()) usePort(kept);
}

}  // namespace ochron
