#include "steps/print/print_bench.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>

#include "base/numbers.h"
#include "document/fresh.h"
#include "document/print_desk.h"
#include "document/wording.h"
#include "edits/print_plan.h"
#include "files/file_names.h"
#include "panel/bench_table.h"
#include "panel/empty_note.h"
#include "render/export.h"
#include "render/song_speed.h"
#include "steps/print/effect_bench.h"
#include "steps/print/loudness_view.h"
#include "theme/theme.h"

namespace ochron {
namespace {

constexpr double kPackedBytes = 0.35;  // a sample, about, at full quality

enum PrintColumn { kOutput, kSound, kPlays, kSize };
enum CommitColumn { kPrint, kKept, kLevel, kLasts, kTakes };

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
                       std::function<std::optional<PrintAsk>()> ask, std::function<bool()> effects, QWidget* parent)
    : QWidget(parent),
      doc_(document),
      settings_(std::move(settings)),
      ask_(std::move(ask)),
      showsEffects_(std::move(effects)) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(8, 6, 8, 4);
  auto* beside = new QHBoxLayout;
  beside->setSpacing(14);
  table_ = benchTable("export table", {tr("File"), tr("Sound"), tr("Length"), tr("Size")}, this);
  for (const int narrow : {kPlays, kSize})
    table_->horizontalHeader()->setSectionResizeMode(narrow, QHeaderView::ResizeToContents);
  beside->addWidget(table_, 5);
  loudness_ = new LoudnessView(doc_, settings_, this);
  beside->addWidget(loudness_, 3);
  column->addLayout(beside);
  new EmptyNote(*table_, [] { return tr("What will be written is listed here"); });
  effects_ = new EffectBench(doc_, this);
  column->addWidget(effects_, 1);
  note_ = new QLabel(this);
  note_->setObjectName("print note");
  note_->setProperty("note", true);
  note_->setWordWrap(true);
  note_->setContentsMargins(6, 0, 6, 0);
  column->addWidget(note_);
  prints_ = benchTable("print table", {tr("File"), tr("Sound"), tr("Level"), tr("Length"), tr("Size")}, this);
  for (const int narrow : {kLasts, kTakes})
    prints_->horizontalHeader()->setSectionResizeMode(narrow, QHeaderView::ResizeToContents);
  column->addWidget(prints_, 1);
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged).on(doc_.selection(), Selection::kWhere | Selection::kClips);
  fresh->on(&doc_.printDesk(), &PrintDesk::levelled).on(&doc_, &Document::mediaChanged);
}

void PrintBench::refresh() {
  if (!isVisible()) return;  // brought up to date when it is shown
  const auto ask = ask_();
  const bool effects = showsEffects_();
  effects_->setVisible(effects);
  table_->setVisible(!ask && !effects);
  loudness_->setVisible(!ask && !effects);
  prints_->setVisible(ask.has_value());
  note_->setVisible(ask.has_value());
  if (ask) return listPrint(*ask);
  listExport();
}

void PrintBench::listExport() {
  const auto& song = doc_.song();
  const auto s = settings_();
  const auto stems = exportStems(song, s, fileNameFor(song.name) + extensionOf(s.format));
  if (!stems) return table_->setRowCount(0);
  const auto seconds = [&](FrameRange range) {
    return static_cast<double>(playedLength(song, range).value) / song.rate;
  };
  int at = 0;
  const auto row = [&](const std::filesystem::path& file, const QString& sound, double length, const QString& size) {
    if (table_->rowCount() <= at) table_->setRowCount(at + 1);
    setCell(*table_, at, kOutput, QString::fromStdString(shownPath(file.filename())));
    setCell(*table_, at, kSound, sound);
    setCell(*table_, at, kPlays, QString::number(length, 'f', 1) + " s");
    setCell(*table_, at++, kSize, size);
  };
  const auto sound = [&](const ExportStem& stem, FileFormat format, const std::filesystem::path& file) {
    const auto f = formatOf(s, stem, format, song.rate);
    const auto width = f.channels == 1   ? tr("mono")
                       : f.channels == 2 ? tr("stereo")
                                         : tr("%1 channels").arg(f.channels);
    const auto depth =
        isPacked(format) ? tr("quality %1").arg(f.quality)
        : f.dither && bytesOf(f.samples) < 4
            ? tr("%1, dithered").arg(depthName(f.samples))
            : depthName(format == FileFormat::flac && bytesOf(f.samples) > 3 ? SampleFormat::pcm24 : f.samples);
    const double bytes = seconds(stem.whole()) * f.rate * f.channels *
                         (isPacked(format) ? kPackedBytes * f.quality / 100 : bytesOf(f.samples));
    const bool exact = format == FileFormat::wav || format == FileFormat::aiff;
    row(file, tr("%1, %2, %3").arg(width, rateText(f.rate), depth), seconds(stem.whole()),
        (exact ? QString() : tr("about ")) + QString::number(bytes / 1e6, 'f', 1) + " MB");
  };
  for (const auto& stem : *stems)
    for (const auto& [format, file] : stem.files) sound(stem, format, file);
  const auto before = s.what == ExportWhat::mix ? fileNameFor(song.name) + " " : std::string();
  if (s.click) sound({{}, s.range, 1, {}}, s.format, before + "click" + extensionOf(s.format));
  if (s.midi)
    row(before + "map.mid", tr("tempo map, markers, hits, notes"), seconds(s.range), QStringLiteral("\u2013"));
  table_->setRowCount(at);
}

void PrintBench::listPrint(const PrintAsk& ask) {
  const auto plan = planPrint(doc_.song(), ask);
  prints_->setVisible(plan.has_value());
  if (!plan) return note_->setText(QString::fromStdString(plan.error().message));
  const auto* levels = doc_.printDesk().levelsFor(ask, *plan);
  const auto at = [&](int i) { return levels ? (*levels)[static_cast<std::size_t>(i)] : PrintLevel{}; };
  prints_->setRowCount(static_cast<int>(plan->rows.size()));
  const int rate = doc_.song().rate;
  int kept = 0;
  for (int i = 0; i < std::ssize(plan->rows); ++i) {
    const auto& r = plan->rows[static_cast<std::size_t>(i)];
    const auto level = at(i);
    const auto samples = levels ? level.samples : ask.manner.samples;
    kept += samples != ask.manner.samples ? 1 : 0;
    const auto frames = r.range.length().value;
    const auto format = formatOf(samples);
    const auto depth = samples == PrintSamples::float32 ? depthName(format) : tr("%1, dithered").arg(depthName(format));
    setCell(*prints_, i, kPrint, QString::fromStdString(fileNameFor(r.name + " print")) + ".wav");
    setCell(*prints_, i, kKept,
            tr("%1, %2 kHz, %3").arg(r.channels == 1 ? tr("mono") : tr("stereo")).arg(rate / 1000.0).arg(depth));
    setCell(*prints_, i, kLevel,
            !levels             ? tr("not known yet")
            : level.gainDb == 0 ? tr("unchanged")
                                : tr("%1 dB, clip %2")
                                      .arg(QString::fromStdString(signedFixed(level.gainDb, 1)),
                                           QString::fromStdString(signedFixed(-level.gainDb, 1))));
    setCell(*prints_, i, kLasts, QString::number(static_cast<double>(frames) / rate, 'f', 1) + " s");
    setCell(*prints_, i, kTakes,
            QString::number(static_cast<double>(frames) * r.channels * bytesOf(format) / 1e6, 'f', 1) + " MB");
  }
  auto text = tr("Becomes audio: %1. Stays adjustable: %2.")
                  .arg(tr(bakedBy(ask.depth).c_str()), tr(adjustableAfter(ask.depth).c_str()));
  text += ask.manner.peakDb ? tr(" The printed clip's gain makes up for the level.") : tr(" The level is not changed.");
  if (kept > 0)
    text += tr(" %1 would be over full scale and stays float.").arg(counted(kept, "file", "files"));
  else if (ask.manner.samples == PrintSamples::float32)
    text += tr(" Nothing beyond full scale is lost.");
  note_->setText(text + tr(" The files come into the song's folder; it can all be taken back."));
}

void PrintBench::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintGround(p, *this, Theme::get().sheet().panel);
}

}  // namespace ochron
