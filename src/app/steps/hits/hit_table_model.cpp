#include "steps/hits/hit_table_model.h"

#include <algorithm>
#include <cmath>

#include "document/selection.h"
#include "document/timing_desk.h"
#include "document/wording.h"

namespace ochron {
namespace {
constexpr int kSortRole = Qt::UserRole;
}  // namespace

HitTableModel::HitTableModel(Document& document, QObject* parent) : QAbstractTableModel(parent), doc_(document) {
  refresh();
}

void HitTableModel::refresh() {
  beginResetModel();
  hits_ = doc_.timingDesk().planned().hits;
  endResetModel();
}

int HitTableModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(hits_.size());
}

int HitTableModel::rowOf(const HitRef& ref) const {
  const auto at = std::find_if(hits_.begin(), hits_.end(),
                               [&](const PlannedHit& h) { return h.hit.id == ref.hit && h.take == ref.take; });
  return at == hits_.end() ? -1 : static_cast<int>(at - hits_.begin());
}

QString HitTableModel::text(const PlannedHit& h, int column) const {
  const double by = h.movedMs(doc_.song().rate);
  switch (column) {
    case place: {
      const auto& map = doc_.song().tempo;
      const auto p = map.position(h.line ? h.line->at : map.toTicks(h.home));
      return QStringLiteral("%1.%2.%3")
          .arg(p.bar + 1)
          .arg(p.beat + 1)
          .arg(static_cast<int>(p.rest.value * 100 / map.meterOfBar(p.bar).beatLength().value), 2, 10, QChar('0'));
    }
    case drum: {
      QStringList drums;
      for (const auto& s : strokesOf(h.hit)) drums << drumName(s.drum);
      return drums.join(" + ");
    }
    case guide: {
      if (h.hit.heardBy.empty()) return tr("by hand");
      const auto* t = doc_.song().find(h.hit.heardBy.front().track);
      return t ? QString::fromStdString(t->name) : QString();
    }
    case strength: return QString::number(20 * std::log10(std::max(1e-4, h.hit.strength)), 'f', 1);
    case confidence: return QString::number(std::lround(100 * h.hit.confidence));
    case before: return h.line ? signedMs(h.beforeMs) : tr("no place");
    case move: return signedMs(by);
    case after: return h.line ? signedMs(h.beforeMs + by) : QString();
    default: return {};
  }
}

QVariant HitTableModel::key(const PlannedHit& h, int column) const {
  switch (column) {
    case place: return static_cast<qlonglong>(h.home.value);
    case strength: return h.hit.strength;
    case confidence: return h.hit.confidence;
    case before: return h.line ? std::abs(h.beforeMs) : 1e9;
    case move: return std::abs(h.movedMs(doc_.song().rate));
    case after: return h.line ? std::abs(h.beforeMs + h.movedMs(doc_.song().rate)) : 1e9;
    default: return text(h, column);
  }
}

QVariant HitTableModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || index.row() >= rowCount()) return {};
  const auto& h = hit(index.row());
  if (role == Qt::DisplayRole) return text(h, index.column());
  if (role == kSortRole) return key(h, index.column());
  if (role == Qt::TextAlignmentRole)
    return QVariant(index.column() >= strength ? Qt::AlignRight | Qt::AlignVCenter : Qt::AlignLeft | Qt::AlignVCenter);
  return {};
}

QVariant HitTableModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  switch (section) {
    case place: return tr("Place");
    case drum: return tr("Class");
    case guide: return tr("Guide");
    case strength: return tr("Level dB");
    case confidence: return tr("Sure %");
    case before: return tr("Before ms");
    case move: return tr("Move ms");
    case after: return tr("After ms");
    default: return {};
  }
}

bool HitFilter::filterAcceptsRow(int row, const QModelIndex&) const {
  const auto& h = static_cast<const HitTableModel*>(sourceModel())->hit(row);
  if (want_.drum && h.hit.drum != *want_.drum) return false;
  if (want_.guide &&
      std::none_of(h.hit.heardBy.begin(), h.hit.heardBy.end(), [&](const Heard& g) { return g.track == *want_.guide; }))
    return false;
  return h.hit.confidence <= want_.confidenceAtMost && std::abs(h.movedMs(rate_)) >= want_.moveAtLeastMs;
}

}  // namespace ochron
