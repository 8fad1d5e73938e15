#pragma once

#include <QAbstractTableModel>
#include <QSortFilterProxyModel>
#include <optional>

#include "document/document.h"
#include "document/selection.h"

namespace ochron {

/// The active set's hits, one a row, in the order of the song.
class HitTableModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { place, drum, guide, strength, confidence, before, move, after, columns };

  HitTableModel(Document& document, QObject* parent);
  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : columns; }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  const PlannedHit& hit(int row) const { return hits_[static_cast<std::size_t>(row)]; }
  int rowOf(const HitRef& ref) const;
  void refresh();

 private:
  QString text(const PlannedHit& h, int column) const;
  QVariant key(const PlannedHit& h, int column) const;
  Document& doc_;
  std::vector<PlannedHit> hits_;
};

/// Rows that pass all of: a drum class, a guide, at most a confidence, at least a move.
class HitFilter : public QSortFilterProxyModel {
  Q_OBJECT
 public:
  using QSortFilterProxyModel::QSortFilterProxyModel;
  struct Want {
    std::optional<DrumClass> drum;
    std::optional<TrackId> guide;
    double confidenceAtMost = 1;
    double moveAtLeastMs = 0;
  };
  void want(const Want& w) { want_ = w, invalidateFilter(); }
  void setRate(int rate) { rate_ = rate; }

 protected:
  bool filterAcceptsRow(int row, const QModelIndex& parent) const override;

 private:
  Want want_;
  int rate_ = 48'000;
};

}  // namespace ochron
