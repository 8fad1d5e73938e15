#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>

#include "edits/follow_edits.h"
#include "panel/controls.h"
#include "panel/step_page.h"

namespace ochron {

class TempoDesk;

/// The song's tempo: heard in a take and used as it is, a map tied to the recording bar by bar, or the recording
/// stretched to the song's.
class TempoStep : public StepPage {
  Q_OBJECT
 public:
  TempoStep(Document& document, QWidget* parent);
  QWidget* makeBench(ViewState& view, QWidget* parent) override;
  StepState state() const override;

 private:
  QWidget* buildSongFollows();
  QWidget* buildRecordingFollows();
  void addSearch(QVBoxLayout* column);
  void refresh();
  void showCandidates();
  SourceTempo source() const;
  void settle();

  TempoDesk& desk_;
  QPushButton* songFollows_;
  QPushButton* recordingFollows_;
  QStackedWidget* pages_;
  QVBoxLayout* candidates_;
  QLabel* bars_;  ///< which were heard
  QPushButton* listen_;
  QPushButton* listenAll_;
  QPushButton* fit_;
  QPushButton* fitRange_;
  QPushButton* fitAll_;
  QDoubleSpinBox* slowest_;
  QDoubleSpinBox* fastest_;
  QLabel* map_;
  SettingControl* within_;
  SettingControl* smooth_;
  QCheckBox* ramps_;
  QPushButton* anchor_;
  QPushButton* forget_;
  SettingControl* steady_;
  QPushButton* makeSteady_;
  QDoubleSpinBox* sourceBpm_;
  QDoubleSpinBox* downbeat_;
  QDoubleSpinBox* beats_;
  QComboBox* manner_;
  QLabel* fits_;
  SetId shownSet_;
  bool typed_ = false;  // the recording's tempo, by hand
};

}  // namespace ochron
