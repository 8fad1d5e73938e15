#include "steps/takes/takes_bench.h"

#include <QPainter>
#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "document/fresh.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "media/audio_file.h"
#include "panel/bench_table.h"
#include "panel/empty_note.h"
#include "theme/theme.h"

namespace ochron {
namespace {

enum Column { kTrack, kFile, kRate, kDepth, kChannels, kLength, kOffset, kPeak, kState };

QString depthOf(const AudioFileInfo& info) {
  auto format = QString::fromStdString(info.formatName);
  switch (info.samples) {
    case SampleFormat::pcm16: return "16 bit";
    case SampleFormat::pcm24: return "24 bit";
    case SampleFormat::pcm32: return "32 bit";
    case SampleFormat::float32: return "32 bit float";
    case SampleFormat::compressed: return format;
  }
  return format;
}

/// The loudest sample of a recording in dB of full scale.
QString peakOf(const DecodedMedia& media) {
  int most = 0;
  for (int c = 0; c < media.channels(); ++c)
    for (const auto& bin : media.peaks(c).levels.back())
      most = std::max({most, static_cast<int>(bin.high), -static_cast<int>(bin.low)});
  if (most == 0) return QStringLiteral("\u2212\u221e dB");
  const double db = 20 * std::log10(most / 32767.0);
  return (db < -0.05 ? QStringLiteral("\u2212") : QString()) + QString::number(std::abs(db), 'f', 1) + " dB";
}

QString stateOf(const MediaTrouble& trouble) {
  switch (trouble.kind) {
    case MediaTrouble::Kind::missing: return TakesBench::tr("missing");
    case MediaTrouble::Kind::unreadable: return TakesBench::tr("unreadable");
    case MediaTrouble::Kind::replaced: return TakesBench::tr("another file");
    case MediaTrouble::Kind::damaged: return TakesBench::tr("damaged");
  }
  return {};
}

QString seconds(Frames f, int rate) { return QString::number(static_cast<double>(f.value) / rate, 'f', 3) + " s"; }

}  // namespace

TakesBench::TakesBench(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(8, 6, 8, 4);
  table_ = benchTable("recordings table",
                      {tr("Track"), tr("File"), tr("Rate"), tr("Depth"), tr("Channels"), tr("Length"), tr("Offset"),
                       tr("Peak"), tr("State")},
                      this);
  for (const int narrow : {kRate, kDepth, kChannels, kLength, kOffset, kPeak})
    table_->horizontalHeader()->setSectionResizeMode(narrow, QHeaderView::ResizeToContents);
  column->addWidget(table_);
  new EmptyNote(*table_, [] { return tr("Every recording is listed here"); });
  connect(table_, &QTableWidget::itemSelectionChanged, this, [this] {
    const int row = table_->currentRow();
    if (row >= 0 && row < std::ssize(doc_.song().tracks))
      doc_.selection().chooseTrack(doc_.song().tracks[static_cast<std::size_t>(row)].id);
  });
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged)
      .on(doc_.selection(), Selection::kWhere)
      .on(&doc_, &Document::mediaChanged)
      .on(&Theme::get(), &Theme::changed);
}

/// Reads the files' heads in the background, each once.
void TakesBench::readHeads() {
  std::vector<std::string> unread;
  for (const auto& m : doc_.song().media)
    if (!depths_.contains(m.path)) unread.push_back(m.path);
  if (unread.empty()) return;
  for (const auto& p : unread) depths_[p] = {};
  doc_.jobs().start({}, [this, unread, folder = doc_.files().folder()](Progress&) -> Jobs::Finish {
    std::map<std::string, QString> found;
    for (const auto& path : unread) {
      const std::filesystem::path given(path);
      const auto reader = AudioFileReader::open(given.is_absolute() ? given : folder / given, Damaged::accept);
      if (reader) found[path] = depthOf(reader->info());
    }
    return [this, found] {
      for (const auto& [path, text] : found) depths_[path] = text;
      refresh();
    };
  });
}

void TakesBench::refresh() {
  if (!isVisible()) return;  // brought up to date when it is shown
  readHeads();
  const auto& song = doc_.song();
  const QSignalBlocker quiet(table_);
  table_->setRowCount(static_cast<int>(song.tracks.size()));
  for (int row = 0; row < std::ssize(song.tracks); ++row) {
    const auto& t = song.tracks[static_cast<std::size_t>(row)];
    setCell(*table_, row, kTrack, QString::fromStdString(t.name));
    const TakeMic* mic = nullptr;
    for (const auto& take : song.takes)
      if (!mic) mic = song.micOf(take.id, t.id);
    const auto* media = mic ? song.find(mic->media) : nullptr;
    if (!media) {
      for (int c = kFile; c <= kState; ++c)
        setCell(*table_, row, c, c == kFile ? tr("no recording of its own") : QString());
      continue;
    }
    const auto pooled = doc_.pool().find(media->id);
    setCell(*table_, row, kFile, QString::fromStdString(std::filesystem::path(media->path).filename().string()));
    setCell(*table_, row, kRate, QString::number(media->fileRate / 1000.0) + " kHz");
    setCell(*table_, row, kDepth, depths_[media->path]);
    setCell(*table_, row, kChannels,
            media->channels == 1   ? tr("mono")
            : media->channels == 2 ? tr("stereo")
                                   : QString::number(media->channels));
    setCell(*table_, row, kLength, seconds(media->length, song.rate));
    setCell(*table_, row, kOffset, seconds(mic->offset, song.rate));
    setCell(*table_, row, kPeak, pooled == doc_.pool().end() ? QString() : peakOf(*pooled->second));
    const auto& troubles = doc_.recordings().troubles();
    const auto trouble = troubles.find(media->id);
    setCell(*table_, row, kState,
            trouble != troubles.end()      ? stateOf(trouble->second)
            : pooled != doc_.pool().end()  ? tr("ready")
            : doc_.recordings().complete() ? tr("not at hand")
                                           : tr("being read"),
            trouble != troubles.end());
    if (trouble != troubles.end()) table_->item(row, kState)->setToolTip(trouble->second.sentence);
    if (t.id == doc_.selection().track()) table_->selectRow(row);
  }
}

void TakesBench::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintGround(p, *this, Theme::get().sheet().panel);
}

}  // namespace ochron
