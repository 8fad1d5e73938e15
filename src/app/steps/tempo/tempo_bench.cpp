#include "steps/tempo/tempo_bench.h"

#include <QSignalBlocker>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "document/fresh.h"
#include "document/selection.h"
#include "document/tempo_desk.h"
#include "document/wording.h"
#include "panel/bench_table.h"
#include "panel/empty_note.h"
#include "steps/tempo/tempo_graph.h"

namespace ochron {
namespace {

enum TempoColumn { kSet, kOwn, kOthers, kDownbeat, kBeats, kFileSays, kBecomes };

QString bpmText(double bpm) { return QString::number(bpm, 'f', 2); }

}  // namespace

TempoBench::TempoBench(Document& document, ViewState& view, QWidget* parent) : QStackedWidget(parent), doc_(document) {
  addWidget(new TempoGraph(document, view, this));
  auto* page = new QWidget(this);
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(8, 6, 8, 4);
  table_ = benchTable(
      "take tempos",
      {tr("Take"), tr("Its tempo"), tr("Or"), tr("First downbeat"), tr("Beats"), tr("File says"), tr("Becomes")}, page);
  for (const int narrow : {kOwn, kDownbeat, kBeats, kFileSays, kBecomes})
    table_->horizontalHeader()->setSectionResizeMode(narrow, QHeaderView::ResizeToContents);
  column->addWidget(table_);
  new EmptyNote(*table_, [] { return tr("Every take\u2019s own tempo is listed here"); });
  addWidget(page);
  connect(table_, &QTableWidget::itemSelectionChanged, this, [this] {
    const int row = table_->currentRow();
    if (row >= 0 && row < std::ssize(doc_.song().sets))
      doc_.selection().chooseSet(doc_.song().sets[static_cast<std::size_t>(row)].id);
  });
  auto* fresh = new Fresh(this, [this] { refresh(); });
  fresh->on(&doc_, &Document::songChanged)
      .on(doc_.selection(), Selection::kWhere)
      .on(&doc_.tempoDesk(), &TempoDesk::changed)
      .on(&Theme::get(), &Theme::changed);
  refresh();
}

void TempoBench::fill(int row, const MicSet& set) {
  const auto& desk = doc_.tempoDesk();
  const auto& song = doc_.song();
  const auto* heard = desk.heardIn(set.id);
  const auto source = desk.sourceOf(set.id);
  const auto put = [&](int column, const QString& text, bool alarm = false) {
    setCell(*table_, row, column, text, alarm);
  };
  put(kSet, QString::fromStdString(set.name));
  const bool settled = !set.clips->empty() && song.find(set.clips->front().take)->tempo.has_value();
  const auto sure = heard ? tr(", %1 % sure").arg(100 * heard->tempo.confidence, 0, 'f', 0) : QString();
  put(kOwn,
      source  ? tr("%1 BPM%2").arg(bpmText(source->bpm), settled ? QString() : sure)
      : heard ? tr("%1, wandering").arg(heard->tempo.bpm, 0, 'f', 1)
              : tr("not listened to"),
      heard && !desk.isSure(set.id));
  QStringList others;
  if (heard)
    for (std::size_t i = 1; i < std::min<std::size_t>(4, heard->tempo.candidates.size()); ++i)
      others << QString::number(heard->tempo.candidates[i].bpm, 'f', 1);
  put(kOthers, others.join(", "));
  QString downbeat;
  QString beats;
  QString becomes;
  if (source && !set.clips->empty()) {
    downbeat = tr("%1 s").arg(static_cast<double>(source->firstDownbeat.value) / song.rate, 0, 'f', 3);
    const auto& clip = set.clips->front();
    const double quarters = static_cast<double>(song.takeLength(clip).value) / song.rate * source->bpm / 60;
    beats = QString::number(quarters, 'f', std::abs(quarters - std::round(quarters)) < 0.02 ? 0 : 1);
    becomes = tr("%1 %").arg(100 * source->bpm / song.tempo.bpmAt(song.tempo.toTicks(clip.start)), 0, 'f', 1);
  }
  put(kDownbeat, downbeat);
  put(kBeats, beats);
  put(kBecomes, becomes);
  const auto* mic = set.clips->empty() ? nullptr : song.micOf(set.clips->front().take, set.tracks.front());
  const auto* media = mic ? song.find(mic->media) : nullptr;
  const bool said = media && media->bpm;
  put(kFileSays, said ? bpmText(*media->bpm) : QString(), said && source && std::abs(*media->bpm - source->bpm) > 0.5);
}

void TempoBench::refresh() {
  const bool table = doc_.tempoDesk().recordingFollows() && !doc_.song().sets.empty();
  setCurrentIndex(table ? 1 : 0);
  if (!table) return;
  const QSignalBlocker quiet(table_);
  const auto& sets = doc_.song().sets;
  table_->setRowCount(static_cast<int>(sets.size()));
  for (int i = 0; i < std::ssize(sets); ++i) {
    fill(i, sets[static_cast<std::size_t>(i)]);
    if (sets[static_cast<std::size_t>(i)].id == doc_.selection().set()) table_->selectRow(i);
  }
}

}  // namespace ochron
