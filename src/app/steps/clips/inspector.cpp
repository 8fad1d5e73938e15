#include "steps/clips/inspector.h"

#include <QPainter>
#include <QScrollArea>
#include <QVBoxLayout>
#include <cmath>
#include <map>

#include "canvas/envelope_curve.h"
#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "steps/clips/curve_box.h"
#include "steps/clips/hands_sheet.h"
#include "theme/theme.h"

namespace ochron {
Inspector::Inspector(Document& document, QWidget* parent) : QWidget(parent), doc_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 9, 14, 6);
  column->setSpacing(8);
  title_ = new QLabel(this);
  title_->setObjectName("inspector title");
  title_->setFont(Theme::get().font(12, 600));
  title_->setWordWrap(true);
  auto* head = new QHBoxLayout;
  head->addWidget(title_, 1);
  hint_ = new QLabel(tr("12 sets \u00b7 +3 adds \u00b7 *0.5 scales"), this);
  hint_->setToolTip(tr("What is typed goes to all that is chosen, in ms, s, samples, beats, dB, cents or semitones"));
  hint_->setProperty("note", true);
  head->addWidget(hint_);
  column->addLayout(head);
  auto* scroll = new QScrollArea(this);  // narrow windows scroll the groups across
  scroll->setWidgetResizable(true);
  scroll->setFocusPolicy(Qt::NoFocus);
  form_ = new FieldForm(scroll);
  scroll->setWidget(form_);
  column->addWidget(scroll, 1);
  hands_ = new HandsSheet(this);
  hands_->setObjectName("hands sheet");
  column->addWidget(hands_, 1);
  scroll_ = scroll;
  connect(&doc_.clipDesk(), &ClipDesk::changed, this, &Inspector::refresh);
  doc_.selection().watch(Selection::kClips | Selection::kMark, this, [this] { refresh(); });
  for (auto signal : {&Document::songChanged, &Document::songPreviewed, &Document::stepChanged})
    connect(&doc_, signal, this, &Inspector::refresh);
  showHands(true);
  refresh();
}

void Inspector::paintEvent(QPaintEvent*) {
  QPainter p(this);
  paintGround(p, *this, Theme::get().sheet().panel);
}

Inspector::Shown Inspector::wanted() const {
  const auto& chosen = doc_.selection();
  const auto& song = doc_.song();
  using Thing = Selection::Thing;
  switch (chosen.meant(Thing::point | Thing::span | Thing::marker | Thing::clips).value_or(Thing::range)) {
    case Thing::point: return Shown::point;
    case Thing::span: return Shown::span;
    case Thing::marker: return Shown::marker;
    case Thing::clips: break;
    default: return Shown::nothing;
  }
  const auto ids = chosen.clips();
  const auto* first = ids.empty() ? nullptr : song.find(ids.front());
  if (!first) return Shown::nothing;
  if (first->bundle && first->bundle != chosen.openBundle() && clipsOf(song, first->bundle).size() == ids.size())
    return Shown::bundle;
  return Shown::clips;
}

QString Inspector::title() const {
  switch (shown_) {
    case Shown::clips: return tr("%1 chosen").arg(counted(doc_.selection().clips().size(), "clip", "clips"));
    case Shown::bundle: return tr("Bundle of %1").arg(counted(doc_.selection().clips().size(), "clip", "clips"));
    case Shown::span: return tr("Silent span");
    case Shown::marker: return tr("Marker");
    case Shown::point: return tr("Envelope point");
    default:
      return tr(
          "Nothing chosen. Click a clip, or drag over the lanes: its place, sound, fades and joint stand here as "
          "numbers and "
          "curves.");
  }
}

void Inspector::showHands(bool on) {
  scroll_->setVisible(!on);
  hint_->setVisible(!on);
  hands_->setVisible(on);
}

void Inspector::refresh() {
  if (doc_.step() != Step::clips) return;
  const auto now = wanted();
  if (now != shown_) {
    shown_ = now;
    showHands(now == Shown::nothing);
    std::map<QString, QWidget*> pictures;
    if (now == Shown::clips)
      pictures = {{tr("Fade in"), new FadeBox(doc_, FadeEnd::in, form_)},
                  {tr("Fade out"), new FadeBox(doc_, FadeEnd::out, form_)},
                  {tr("Joint before"), new JointBox(doc_, form_)}};
    form_->setFields(now == Shown::clips    ? inGroups(clipFields())
                     : now == Shown::bundle ? bundleFields()
                     : now == Shown::span   ? spanFields()
                     : now == Shown::marker ? markerFields()
                     : now == Shown::point  ? pointFields()
                                            : std::vector<FieldForm::Field>{},
                     pictures);
  } else {
    form_->refresh();
  }
  title_->setText(title());
}

FieldForm::Field Inspector::clipNumber(
    const QString& name, const QString& tip, Quantity quantity, const std::function<double(const Clip&)>& get,
    const std::function<Result<Song>(const std::function<double(const Clip&)>&)>& set) {
  FieldForm::Field f;
  f.name = name;
  f.tip = tip;
  FieldForm::Typed value;
  value.read = [this, quantity, get] {
    return shared([&](const Clip& c) { return QString::fromStdString(entryText(get(c), quantity, doc_.song().rate)); });
  };
  value.write = [this, name, quantity, get, set](const QString& typed) {
    const auto ids = doc_.selection().clips();
    const auto at = ids.empty() ? Frames{} : doc_.song().find(ids.front())->start;
    const auto entry = parseEntry(typed.toStdString(), quantity, doc_.song().tempo, at);
    if (!entry) return doc_.refuse(entry.error());
    doc_.edit(tr("Set %1 of %2").arg(name.toLower(), counted(ids.size(), "clip", "clips")),
              set([&](const Clip& c) { return entry->applied(get(c)); }));
  };
  f.value = std::move(value);
  return f;
}

FieldForm::Field Inspector::clipFlag(const QString& name, const QString& tip, bool Clip::*flag) {
  FieldForm::Field f;
  f.name = name;
  f.tip = tip;
  f.value =
      FieldForm::Tick{[this, flag] { return shared([&](const Clip& c) { return c.*flag; }); },
                      [this, name, flag](bool on) { doc_.clipDesk().change(name, [&](Clip& c) { c.*flag = on; }); }};
  return f;
}

FieldForm::Field Inspector::number(const QString& name, const QString& tip, Quantity quantity,
                                   const std::function<double()>& get, const std::function<Result<Song>(double)>& set) {
  FieldForm::Field f;
  f.name = name;
  f.tip = tip;
  FieldForm::Typed value;
  value.read = [this, quantity, get] { return QString::fromStdString(entryText(get(), quantity, doc_.song().rate)); };
  value.write = [this, name, quantity, get, set](const QString& typed) {
    const auto entry = parseEntry(typed.toStdString(), quantity, doc_.song().tempo, doc_.transport().cursor());
    if (!entry) return doc_.refuse(entry.error());
    doc_.edit(tr("Set %1").arg(name.toLower()), set(entry->applied(get())));
  };
  f.value = std::move(value);
  return f;
}

FieldForm::Field Inspector::text(const QString& name, const std::function<std::string()>& get,
                                 const std::function<Result<Song>(const std::string&)>& set) {
  FieldForm::Field f;
  f.name = name;
  f.value = FieldForm::Typed{[get] { return QString::fromStdString(get()); },
                             [this, name, set](const QString& typed) {
                               doc_.edit(tr("Set %1").arg(name.toLower()), set(typed.toStdString()));
                             }};
  return f;
}

FieldForm::Field Inspector::holdField(std::function<std::optional<Hold>()> get, std::function<void(Hold)> set) {
  FieldForm::Field f;
  f.name = tr("Keeps to");
  f.tip = tr("What it follows when the tempo changes: the clock, or its bars and beats");
  f.value = choiceOf<Hold>({{Hold::clock, tr("clock")}, {Hold::grid, tr("grid")}}, std::move(get), std::move(set));
  return f;
}

/// The values of clips by what they are about, each group in its order.
std::vector<FieldForm::Field> Inspector::inGroups(std::vector<FieldForm::Field> fields) const {
  struct Place {
    QString group;
    QString name;
    QString label;
  };
  const std::vector<Place> places{{tr("Place"), tr("Start"), tr("start")},
                                  {tr("Place"), tr("Length"), tr("length")},
                                  {tr("Place"), tr("Sound from"), tr("sound at")},
                                  {tr("Place"), tr("Stretch"), tr("stretch")},
                                  {tr("Place"), tr("Stretched as"), tr("method")},
                                  {tr("Place"), tr("Keeps to"), tr("keeps to")},
                                  {tr("Place"), tr("Backwards"), {}},
                                  {tr("Sound"), tr("Gain"), tr("gain")},
                                  {tr("Sound"), tr("Pan"), tr("pan")},
                                  {tr("Sound"), tr("Pitch"), tr("pitch")},
                                  {tr("Sound"), tr("Formants"), tr("formants")},
                                  {tr("Sound"), tr("Name"), tr("name")},
                                  {tr("Sound"), tr("Colour"), tr("colour")},
                                  {tr("Sound"), tr("Muted"), {}},
                                  {tr("Fade in"), tr("Fade in"), tr("length")},
                                  {tr("Fade in"), tr("In runs"), tr("runs")},
                                  {tr("Fade in"), tr("In bend"), tr("bend")},
                                  {tr("Fade out"), tr("Fade out"), tr("length")},
                                  {tr("Fade out"), tr("Out runs"), tr("runs")},
                                  {tr("Fade out"), tr("Out bend"), tr("bend")},
                                  {tr("Joint before"), tr("Crossfade"), tr("length")},
                                  {tr("Joint before"), tr("Cross law"), tr("law")},
                                  {tr("Joint before"), tr("Cross bias"), tr("bias")}};
  std::vector<FieldForm::Field> out;
  for (const auto& place : places)
    for (auto& f : fields) {
      if (f.name != place.name) continue;
      f.group = place.group;
      f.label = place.label;
      out.push_back(std::move(f));
      break;
    }
  return out;
}

std::vector<FieldForm::Field> Inspector::bundleFields() {
  const auto now = [this] {
    const auto* b = doc_.song().find(doc_.song().find(doc_.selection().clips().front())->bundle);
    return b ? *b : Bundle{};
  };
  const auto put = [this](const Bundle& b) { return setBundle(doc_.song(), b); };
  std::vector<FieldForm::Field> out;
  out.push_back(text(
      tr("Name"), [now] { return now().name; },
      [now, put](auto& t) {
        auto b = now();
        b.name = t;
        return put(b);
      }));
  out.push_back(number(
      tr("Start"), tr("All its clips move"), Quantity::position,
      [this] { return static_cast<double>(extentOf(doc_.song(), doc_.selection().clips()).start.value); },
      [this](double v) {
        const auto ids = doc_.selection().clips();
        return moveClips(doc_.song(), ids, frames(v) - extentOf(doc_.song(), ids).start);
      }));
  out.push_back(number(
      tr("Gain"), tr("On top of its clips'"), Quantity::gain, [now] { return now().gainDb; },
      [now, put](double v) {
        auto b = now();
        b.gainDb = v;
        return put(b);
      }));
  for (auto fade : {&Bundle::fadeIn, &Bundle::fadeOut})
    out.push_back(number(
        fade == &Bundle::fadeIn ? tr("Fade in") : tr("Fade out"), tr("Over all its clips"), Quantity::length,
        [now, fade] { return static_cast<double>((now().*fade).length.value); },
        [now, put, fade](double v) {
          auto b = now();
          (b.*fade).length = std::max(Frames{}, frames(v));
          return put(b);
        }));
  return out;
}

std::vector<FieldForm::Field> Inspector::spanFields() {
  const auto now = [this] {
    const auto* s = doc_.selection().span() ? doc_.song().find(*doc_.selection().span()) : nullptr;
    return s ? *s : MuteSpan{};
  };
  const auto put = [this](const MuteSpan& s) { return setSpan(doc_.song(), s); };
  return {text(
              tr("Label"), [now] { return now().label; },
              [now, put](auto& t) {
                auto s = now();
                s.label = t;
                return put(s);
              }),
          number(
              tr("From"), tr("Where it falls silent"), Quantity::position,
              [now] { return static_cast<double>(now().range.start.value); },
              [now, put](double v) {
                auto s = now();
                const auto length = s.range.length();
                s.range = {frames(v), frames(v) + length};
                return put(s);
              }),
          number(
              tr("Length"), {}, Quantity::length, [now] { return static_cast<double>(now().range.length().value); },
              [now, put](double v) {
                auto s = now();
                s.range.end = s.range.start + frames(v);
                return put(s);
              }),
          holdField([now] { return std::optional(now().hold); },
                    [this, now, put](Hold hold) {
                      auto s = now();
                      s.hold = hold;
                      doc_.edit(tr("Keep to the clock or the grid"), put(s));
                    })};
}

std::vector<FieldForm::Field> Inspector::markerFields() {
  const auto now = [this] {
    const auto* m = doc_.selection().marker() ? doc_.song().find(*doc_.selection().marker()) : nullptr;
    return m ? *m : Marker{};
  };
  const auto put = [this](const Marker& m) { return setMarker(doc_.song(), m); };
  const auto& doc = doc_;
  return {text(
              tr("Name"), [now] { return now().name; },
              [now, put](auto& t) {
                auto m = now();
                m.name = t;
                return put(m);
              }),
          number(
              tr("At"), {}, Quantity::position,
              [now, &doc] { return static_cast<double>(doc.song().tempo.toFrames(now().at).value); },
              [now, put, &doc](double v) {
                auto m = now();
                m.at = doc.song().tempo.toTicks(frames(v));
                return put(m);
              }),
          number(
              tr("Length"), tr("0: a marker; longer: a section"), Quantity::length,
              [now, &doc] {
                const auto& map = doc.song().tempo;
                return static_cast<double>((map.toFrames(now().end()) - map.toFrames(now().at)).value);
              },
              [now, put, &doc](double v) {
                auto m = now();
                const auto& map = doc.song().tempo;
                m.length = map.toTicks(map.toFrames(m.at) + std::max(Frames{}, frames(v))) - m.at;
                return put(m);
              }),
          holdField([now] { return std::optional(now().hold); },
                    [this, now, put](Hold hold) {
                      auto m = now();
                      m.hold = hold;
                      doc_.edit(tr("Keep to the clock or the grid"), put(m));
                    })};
}

std::vector<FieldForm::Field> Inspector::pointFields() {
  const auto now = [this] {
    EnvelopePoint found;
    if (const auto p = doc_.selection().point())
      if (const auto* e = envelopeOf(doc_.song(), p->envelope))
        for (const auto& x : *e)
          if (x.at == p->at) found = x;
    return found;
  };
  const auto put = [this](const EnvelopePoint& to) -> Result<Song> {
    const auto p = doc_.selection().point();
    const auto* e = p ? envelopeOf(doc_.song(), p->envelope) : nullptr;
    if (!e) return fail(ErrorKind::notFound, "This envelope point is not in the song any more.");
    Envelope next = *e;
    std::erase_if(next, [&](auto& x) { return x.at == p->at; });
    next = withPoint(std::move(next), to);
    doc_.selection().choosePoint(PointRef{p->envelope, to.at});
    return setEnvelope(doc_.song(), p->envelope, next);
  };
  // The clip whose take time the envelope runs in; null for song time.
  const auto clip = [this] {
    const auto p = doc_.selection().point();
    return p ? doc_.song().find(p->envelope.clip) : nullptr;
  };
  return {number(
              tr("Value"), tr("In the envelope's own unit"), Quantity::plain, [now] { return now().value; },
              [now, put](double v) {
                auto p = now();
                p.value = v;
                return put(p);
              }),
          number(
              tr("At"), tr("Song time"), Quantity::position,
              [now, clip] {
                const auto* c = clip();
                return static_cast<double>((c ? c->toSong(now().at) : now().at).value);
              },
              [now, put, clip](double v) {
                auto p = now();
                const auto* c = clip();
                p.at = c ? c->toTake(frames(v)) : frames(v);
                return put(p);
              }),
          number(
              tr("Bend"), tr("Of the way to the next point"), Quantity::percent, [now] { return now().bend * 100; },
              [now, put](double v) {
                auto p = now();
                p.bend = kBendRange.clamp(v) / 100;
                return put(p);
              }),
          holdField(
              [this] {
                const auto p = doc_.selection().point();
                return p ? envelopeHold(doc_.song(), p->envelope) : std::nullopt;
              },
              [this](Hold hold) {
                if (const auto p = doc_.selection().point())
                  doc_.edit(tr("Keep to the clock or the grid"), holdEnvelopes(doc_.song(), p->envelope, hold));
              })};
}

}  // namespace ochron
