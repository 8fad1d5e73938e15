#include "document/effect_desk.h"

#include "document/document.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "edits/insert_edits.h"
#include "effects/catalog.h"

namespace ochron {
namespace {
constexpr int kWatchMs = 60;
}

EffectDesk::EffectDesk(Document& document) : QObject(&document), doc_(document) {
  timer_.setInterval(kWatchMs);
  connect(&timer_, &QTimer::timeout, this, &EffectDesk::watch);
  connect(&doc_, &Document::songChanged, this, &EffectDesk::follow);
  connect(&doc_, &Document::songPreviewed, this, &EffectDesk::follow);
}

void EffectDesk::forget() {
  place_ = {};
  chosen_ = {};
  shown_ = {};
  told_.clear();
}

std::optional<EffectInfo> EffectDesk::infoOf(const Insert& insert) const {
  const auto* found = live_.find(insert.effect);
  return found ? std::optional(found->atRate(doc_.song().rate)) : std::nullopt;
}

void EffectDesk::look(bool asked) {
  if (looked_ == Looked::yes || (looked_ == Looked::inVain && !asked)) return;
  looked_ = Looked::yes;
  doc_.jobs().start(
      tr("looking for effects"),
      [this](Progress&) -> Jobs::Finish {
        auto found = listEffects();
        return [this, found = std::move(found)] {
          if (!found) {
            looked_ = Looked::inVain;
            return doc_.warn(QString::fromStdString(found.error().message));
          }
          live_.know(*found);
          follow();
          emit changed();
        };
      },
      QStringLiteral("effects"), Jobs::Scope::files, Jobs::Kind::follow);
}

const Song& EffectDesk::followed() const { return instead_ ? *instead_ : doc_.song(); }

void EffectDesk::followInstead(const std::shared_ptr<const Song>& song) {
  if (song == instead_) return;
  instead_ = song;
  follow();
}

void EffectDesk::follow() {
  const auto& song = followed();
  const bool any = anyInserts(song);
  if (any) look();
  const auto before = live_.racks();
  live_.follow(song);
  if (live_.racks() != before) doc_.sounding().playAgain();
  if (any && !timer_.isActive()) timer_.start();
  if (!any) timer_.stop();
}

void EffectDesk::watch() {
  if (live_.watch(followed())) doc_.sounding().playAgain();
  bool other = false;
  const auto each = [&](const InsertList& inserts) {
    for (const auto& i : inserts) {
      const auto now = live_.told(i.id);
      const auto [was, fresh] = told_.try_emplace(i.id, now.state);
      if (!fresh && was->second == now.state) continue;
      other = true;
      was->second = now.state;
      if (now.state == LiveRacks::State::stopped) doc_.warn(QString::fromStdString(now.trouble));
    }
  };
  for (const auto& t : doc_.song().tracks) each(*t.inserts);
  for (const auto& s : doc_.song().sets) each(*s.inserts);
  each(*doc_.song().inserts);
  if (other) emit changed();
}

void EffectDesk::choosePlace(const InsertPlace& place) {
  if (place == place_) return;
  place_ = place;
  chosen_ = {};
  emit changed();
}

const Insert* EffectDesk::chosen() const {
  const auto& here = insertsIn(doc_.song(), place_);
  for (const auto& i : here)
    if (i.id == chosen_) return &i;
  return here.empty() ? nullptr : &here.front();
}

void EffectDesk::choose(InsertId insert) {
  chosen_ = insert;
  emit changed();
}

void EffectDesk::add(const EffectInfo& effect) {
  const auto next = addInsert(doc_.song(), place_, {{}, effect.uri, effect.name, true, {}});
  if (doc_.edit(tr("Add %1").arg(QString::fromStdString(effect.name)), next))
    choose(insertsIn(doc_.song(), place_).back().id);
}

void EffectDesk::remove(InsertId insert) {
  const auto* i = findInsert(doc_.song(), insert);
  if (!i) return;
  const auto name = QString::fromStdString(i->name);
  if (doc_.edit(tr("Remove %1").arg(name), removeInsert(doc_.song(), insert))) emit changed();
}

void EffectDesk::move(InsertId insert, int by) {
  if (doc_.edit(tr("Move an effect"), moveInsert(doc_.song(), insert, by))) choose(insert);
}

void EffectDesk::setOn(InsertId insert, bool on) {
  doc_.edit(on ? tr("Switch an effect on") : tr("Switch an effect off"), setInsertOn(doc_.song(), insert, on));
}

void EffectDesk::setValue(InsertId insert, const std::string& symbol, double value) {
  const EnvelopeRef ref{EnvelopeKind::effectControl, {}, {}, insert, symbol};
  const auto* moved = envelopeOf(doc_.song(), ref);
  doc_.edit(tr("Set an effect"),
            moved ? setEnvelope(doc_.song(), ref, withPoint(*moved, {playLine(), value, 0}))
                  : setInsertValues(doc_.song(), insert, {{symbol, value}}),
            QStringLiteral("effect %1 %2").arg(insert.value).arg(QString::fromStdString(symbol)));
}

Frames EffectDesk::playLine() const { return doc_.transport().heardSoon().start; }

double EffectDesk::valueOf(const Insert& insert, const EffectControl& control) const {
  if (const auto moved = insert.moved.find(control.symbol); moved != insert.moved.end())
    return moved->second.at(playLine());
  const auto found = insert.values.find(control.symbol);
  return found == insert.values.end() ? control.fallback : found->second;
}

void EffectDesk::moveAlong(InsertId insert, const EffectControl& c) {
  const auto* is = findInsert(doc_.song(), insert);
  if (!is) return;
  const EnvelopeRef ref{EnvelopeKind::effectControl, {}, {}, insert, c.symbol};
  if (is->moved.contains(c.symbol)) {
    shown_ = shownControl() == ref ? std::nullopt : std::optional(ref);
    emit changed();
    return;
  }
  const auto way = c.toggled || c.whole || c.chosen ? EnvelopeWay::steps
                   : c.logarithmic && c.low > 0     ? EnvelopeWay::octaves
                                                    : EnvelopeWay::even;
  const double low = std::min(c.low, c.high);
  const double high = std::max(c.low, c.high);
  if (low == high) return doc_.tell(tr("This control has no range to move in."));
  const double now = std::clamp(valueOf(*is, c), low, high);
  const auto name = c.group.empty() ? c.name : c.group + ", " + c.name;
  MovedControl moved{name, c.unit, low, high, way, {{playLine(), now, 0}}};
  if (!doc_.edit(tr("Let %1 move along the song").arg(QString::fromStdString(name)),
                 moveControl(doc_.song(), insert, c.symbol, std::move(moved))))
    return;
  shown_ = ref;
  emit changed();
}

void EffectDesk::holdStill(InsertId insert, const std::string& symbol) {
  const auto* is = findInsert(doc_.song(), insert);
  if (!is || !is->moved.contains(symbol)) return;
  const auto& moved = is->moved.at(symbol);
  auto next = setInsertValues(doc_.song(), insert, {{symbol, moved.at(playLine())}});
  if (next) next = moveControl(*next, insert, symbol, {});
  if (doc_.edit(tr("Hold %1 still").arg(QString::fromStdString(moved.name)), next)) emit changed();
}

std::vector<EnvelopeRef> EffectDesk::moving() const {
  std::vector<EnvelopeRef> out;
  const auto add = [&](const InsertList& inserts) {
    for (const auto& i : inserts)
      for (const auto& [symbol, moved] : i.moved) out.push_back({EnvelopeKind::effectControl, {}, {}, i.id, symbol});
  };
  const auto& song = doc_.song();
  for (const auto& t : song.tracks) add(*t.inserts);
  for (const auto& s : song.sets) add(*s.inserts);
  add(*song.inserts);
  return out;
}

void EffectDesk::showNextControl() {
  const auto all = moving();
  const auto shown = shownControl();
  auto next = all.begin();
  if (shown) {
    next = std::find(all.begin(), all.end(), *shown);
    if (next != all.end()) ++next;
  }
  shown_ = next == all.end() ? std::nullopt : std::optional(*next);
  if (shown_) {
    if (const auto place = placeOf(doc_.song(), shown_->insert)) place_ = *place;
    chosen_ = shown_->insert;
  }
  emit changed();
}

std::optional<EnvelopeRef> EffectDesk::shownControl() const {
  return shown_ && envelopeOf(doc_.song(), *shown_) ? shown_ : std::nullopt;
}

void EffectDesk::usePreset(InsertId insert, const EffectPreset& preset) {
  const auto what = tr("Use \"%1\"").arg(QString::fromStdString(preset.name));
  const auto* is = findInsert(doc_.song(), insert);
  if (is && !preset.state) {
    doc_.edit(what, is->state->missing() ? setInsertState(doc_.song(), insert, preset.values, {})
                                         : setInsertValues(doc_.song(), insert, preset.values));
    return;
  }
  const auto* info = is ? live_.find(is->effect) : nullptr;
  if (!info) return;
  doc_.jobs().start(
      tr("using %1").arg(QString::fromStdString(preset.name)),
      [this, what, insert, info = *info, preset](Progress&) -> Jobs::Finish {
        auto state = stateOf(info, preset);
        return [this, what, insert, values = preset.values, state = std::move(state)] {
          if (!state) return doc_.warn(QString::fromStdString(state.error().message));
          doc_.edit(what, setInsertState(doc_.song(), insert, values, *state));
        };
      },
      QStringLiteral("preset"), Jobs::Scope::edits);
}

std::vector<std::pair<QString, double>> EffectDesk::readings(InsertId insert) const {
  std::vector<std::pair<QString, double>> out;
  const auto* effect = live_.playing(insert);
  if (!effect) return out;
  const auto& all = effect->info().readings;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (!all[i].hidden) out.emplace_back(QString::fromStdString(all[i].name), effect->reading(i));
  return out;
}

void EffectDesk::restart(InsertId insert) {
  if (const auto* is = findInsert(doc_.song(), insert); is && is->state->missing()) {
    doc_.edit(tr("Restart %1 as new").arg(QString::fromStdString(is->name)),
              setInsertState(doc_.song(), insert, {}, {}));
    return;
  }
  if (auto ok = live_.restart(insert); !ok) doc_.warn(QString::fromStdString(ok.error().message));
}

}  // namespace ochron
