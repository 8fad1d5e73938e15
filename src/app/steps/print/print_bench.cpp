#include "steps/print/print_bench.h"

#include <QPainter>
#include <QVBoxLayout>

#include "document/fresh.h"
#include "files/file_names.h"
#include "panel/bench_table.h"
#include "panel/empty_note.h"
#include "render/export.h"
#include "render/song_speed.h"
#include "theme/theme.h"

namespace ochron {
namespace {

enum PrintColumn { kOutput, kSound, kPlays, kSize };

int bytesOf(SampleFormat samples) {
  switch (samples) {
    case SampleFormat::pcm16: return 2;
    case SampleFormat::pcm24: return 3;
    default: return 4;
  }
}

QString depthName(SampleFormat samples) {
  switch (samples) {
    case SampleFormat::pcm16: return "16 bit";
    case SampleFormat::pcm24: return "24 bit";
    case SampleFormat::pcm32: return "32 bit";
    default: return "32 bit float";
  }
}

}  // namespace

PrintBench::PrintBench(Document& document, std::function<ExportSettings()> settings,
                       std::function<std::optional<PrintAsk>()> ask, QWidget* parent)
    : QWidget(parent), doc_(document), settings_(std::move(settings)), ask_(std::move(ask)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(8, 6, 8, 4);
  table_ = benchTable("export table", {tr("File"), tr("Sound"), tr("Length"), tr("Size")}, this);
  column->addWidget(table_);
  new EmptyNote(*table_, [] { return tr("What will be written is listed here"); });
  note_ = new QLabel(this);
  note_->setObjectName("print note");
  note_->setProperty("note", true);
  note_->setWordWrap(true);
  note_->setContentsMargins(6, 0, 6, 0);
  column->addWidget(note_);
  prints_ = benchTable("print table", {tr("File"), tr("Sound"), tr("Length"), tr("Size")}, this);
  column->addWidget(prints_, 1);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged).on(doc_.selection(), Selection::kWhere | Selection::kClips);
}

void PrintBench::refresh() {
  if (!isVisible()) return;  // brought up to date when it is shown
  const auto ask = ask_();
  table_->setVisible(!ask);
  prints_->setVisible(ask.has_value());
  note_->setVisible(ask.has_value());
  if (ask) return listPrint(*ask);
  const auto& song = doc_.song();
  const auto s = settings_();
  if (s.range.empty()) return table_->setRowCount(0);
  const auto frames = playedLength(song, s.range);
  const auto lengthText = QString::number(static_cast<double>(frames.value) / song.rate, 'f', 1) + " s";
  const auto row = [&](int at, const QString& name, int wide) {
    setCell(*table_, at, kOutput, name + QString::fromStdString(extensionOf(s.format)));
    const auto width = wide == 1 ? tr("mono") : tr("stereo");
    const bool compressed = s.format == FileFormat::ogg;
    setCell(*table_, at, kSound,
            compressed ? tr("%1, %2 kHz, Vorbis").arg(width).arg(song.rate / 1000.0)
                       : tr("%1, %2 kHz, %3").arg(width).arg(song.rate / 1000.0).arg(depthName(s.samples)));
    setCell(*table_, at, kPlays, lengthText);
    const double megabytes =
        static_cast<double>(frames.value) * wide * (compressed ? 0.3 : bytesOf(s.samples)) / 1'000'000;
    const bool exact = s.format == FileFormat::wav || s.format == FileFormat::aiff;
    setCell(*table_, at, kSize, (exact ? QString() : tr("about ")) + QString::number(megabytes, 'f', 1) + " MB");
  };
  const int beside = (s.click ? 1 : 0) + (s.midi ? 1 : 0);
  const auto rowsBeside = [&](int at, const QString& before) {
    if (s.click) row(at++, before + "click", 1);
    if (!s.midi) return;
    setCell(*table_, at, kOutput, before + "map.mid");
    setCell(*table_, at, kSound, tr("tempo map, markers, hits, notes"));
    setCell(*table_, at, kPlays, lengthText);
    setCell(*table_, at, kSize, QStringLiteral("\u2013"));
  };
  if (s.what == ExportWhat::mix) {
    table_->setRowCount(1 + beside);
    row(0, QString::fromStdString(fileNameFor(song.name)), 2);
    return rowsBeside(1, QString::fromStdString(fileNameFor(song.name)) + " ");
  }
  table_->setRowCount(static_cast<int>(song.tracks.size()) + beside);
  for (int i = 0; i < std::ssize(song.tracks); ++i) {
    const auto& t = song.tracks[static_cast<std::size_t>(i)];
    int wide = 1;
    for (const auto& take : song.takes)
      if (const auto* mic = song.micOf(take.id, t.id))
        if (const auto* media = song.find(mic->media)) wide = std::max(wide, std::min(2, media->channels));
    row(i, QString::fromStdString(fileNameFor(t.name)), wide);
  }
  rowsBeside(static_cast<int>(song.tracks.size()), {});
}

void PrintBench::listPrint(const PrintAsk& ask) {
  const auto rows = printRows(doc_.song(), ask);
  prints_->setVisible(rows.has_value());
  if (!rows) return note_->setText(QString::fromStdString(rows.error().message));
  note_->setText(
      tr("Becomes audio: %1. Stays adjustable: %2. The level is not changed, and nothing beyond full scale is "
         "lost. The files come into the song's folder; it can all be taken back.")
          .arg(tr(bakedBy(ask.depth).c_str()), tr(adjustableAfter(ask.depth).c_str())));
  prints_->setRowCount(static_cast<int>(rows->size()));
  const int rate = doc_.song().rate;
  for (int i = 0; i < std::ssize(*rows); ++i) {
    const auto& r = (*rows)[static_cast<std::size_t>(i)];
    const auto frames = r.range.length().value;
    setCell(*prints_, i, kOutput, QString::fromStdString(fileNameFor(r.name + " print")) + ".wav");
    setCell(*prints_, i, kSound,
            tr("%1, %2 kHz, 32 bit float").arg(r.channels == 1 ? tr("mono") : tr("stereo")).arg(rate / 1000.0));
    setCell(*prints_, i, kPlays, QString::number(static_cast<double>(frames) / rate, 'f', 1) + " s");
    setCell(*prints_, i, kSize,
            QString::number(static_cast<double>(frames) * r.channels * bytesOf(SampleFormat::float32) / 1e6, 'f', 1) +
                " MB");
  }
}

void PrintBench::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintGround(p, *this, Theme::get().sheet().panel);
}

}  // namespace ochron
