#include "entry/save_name.h"

#include <QFileDialog>
#include <QMessageBox>
#include <QPushButton>
#include <QRegularExpression>

namespace ochron {
namespace {

/// The endings of some kinds: ".mid", ".csv".
QStringList endingsOf(const QString& kinds) {
  static const QRegularExpression pattern(R"(\*(\.\w+))");
  QStringList out;
  for (auto at = pattern.globalMatch(kinds); at.hasNext();) out << at.next().captured(1);
  return out;
}

}  // namespace

QString withEnding(const QString& name, const QString& kind, const QString& kinds) {
  const auto all = endingsOf(kinds);
  for (const auto& ending : all)
    if (name.endsWith(ending, Qt::CaseInsensitive)) return name;
  const auto own = endingsOf(kind);
  return own.isEmpty() ? name : name + own.front();
}

QString askWhereToSave(QWidget* parent, const QString& title, const QString& suggestion, const QString& kinds) {
  QString kind = kinds.section(";;", 0, 0);
  const auto typed = QFileDialog::getSaveFileName(parent, title, suggestion, kinds, &kind);
  if (typed.isEmpty()) return {};
  const auto name = withEnding(typed, kind, kinds);
  if (name == typed || !QFileInfo::exists(name)) return name;
  QMessageBox box(QMessageBox::NoIcon, title,
                  QObject::tr("\"%1\" is there already. Replace it?").arg(QFileInfo(name).fileName()),
                  QMessageBox::Cancel, parent);
  box.setObjectName("question");
  const QAbstractButton* replace = box.addButton(QObject::tr("Replace it"), QMessageBox::AcceptRole);
  box.exec();
  return box.clickedButton() == replace ? name : QString();
}

}  // namespace ochron
