#pragma once

#include <QLabel>
#include <QWidget>
#include <cmath>

#include "document/clip_desk.h"
#include "document/document.h"
#include "document/selection.h"
#include "edits/fade_edits.h"
#include "entry/entry.h"
#include "steps/clips/field_form.h"

namespace ochron {

class HandsSheet;

/// Every value of what is chosen, as numbers and text: clips, a bundle, a silent span, a marker or an envelope point.
/// What is typed goes to the whole selection.
class Inspector : public QWidget {
  Q_OBJECT
 public:
  Inspector(Document& document, QWidget* parent);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  static Frames frames(double v) { return Frames{std::llround(v)}; }
  enum class Shown { nothing, clips, bundle, span, marker, point };
  Shown wanted() const;
  void refresh();
  void showHands(bool on);
  QString title() const;
  std::vector<FieldForm::Field> clipFields();
  std::vector<FieldForm::Field> inGroups(std::vector<FieldForm::Field> fields) const;
  std::vector<FieldForm::Field> pitchFields();
  std::vector<FieldForm::Field> fadeFields(FadeEnd end);
  std::vector<FieldForm::Field> crossfadeFields();
  std::vector<FieldForm::Field> bundleFields();
  std::vector<FieldForm::Field> spanFields();
  std::vector<FieldForm::Field> markerFields();
  std::vector<FieldForm::Field> pointFields();

  /// A number that all chosen clips have: shown when they agree, set for each by what is typed.
  FieldForm::Field clipNumber(const QString& name, const QString& tip, Quantity quantity,
                              const std::function<double(const Clip&)>& get,
                              const std::function<Result<Song>(const std::function<double(const Clip&)>&)>& set);
  /// What something keeps to when the tempo changes; `get` gives none where it is mixed or has no say.
  FieldForm::Field holdField(std::function<std::optional<Hold>()> get, std::function<void(Hold)> set);
  FieldForm::Field clipFlag(const QString& name, const QString& tip, bool Clip::*flag);
  FieldForm::Field number(const QString& name, const QString& tip, Quantity quantity,
                          const std::function<double()>& get, const std::function<Result<Song>(double)>& set);
  FieldForm::Field text(const QString& name, const std::function<std::string()>& get,
                        const std::function<Result<Song>(const std::string&)>& set);
  /// What `of` gives for all chosen clips alike; none when they differ.
  template <class Of>
  auto shared(Of of) const -> std::optional<std::decay_t<decltype(of(std::declval<const Clip&>()))>> {
    std::optional<std::decay_t<decltype(of(std::declval<const Clip&>()))>> value;
    for (const auto& s : doc_.song().sets)
      for (const auto& c : *s.clips) {
        if (!doc_.selection().isChosen(c.id)) continue;
        auto here = of(c);
        if (value && *value != here) return {};
        value = std::move(here);
      }
    return value;
  }

  Document& doc_;
  QLabel* title_;
  FieldForm* form_;
  QLabel* hint_;
  QWidget* scroll_;
  HandsSheet* hands_;
  Shown shown_ = Shown::nothing;
};

}  // namespace ochron
