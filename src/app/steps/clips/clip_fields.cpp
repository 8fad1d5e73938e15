#include <cmath>
#include <tuple>

#include "document/clip_desk.h"
#include "document/selection.h"
#include "document/wording.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/pitch_edits.h"
#include "edits/stretch_edits.h"
#include "steps/clips/inspector.h"

namespace ochron {

std::vector<FieldForm::Field> Inspector::clipFields() {
  using Value = std::function<double(const Clip&)>;
  std::vector<FieldForm::Field> out;
  const auto ids = [this] { return doc_.selection().clips(); };
  FieldForm::Field name;
  name.name = tr("Name");
  name.tip = tr("Shown on the lane");
  name.value = FieldForm::Typed{
      [this] { return shared([](const Clip& c) { return QString::fromStdString(c.extras->name); }); },
      [this](const QString& typed) {
        doc_.clipDesk().change(tr("Name clips"),
                               [&](Clip& c) { changeExtras(c, [&](ClipExtras& e) { e.name = typed.toStdString(); }); });
      }};
  out.push_back(name);
  FieldForm::Field colour;
  colour.name = tr("Colour");
  colour.tip = tr("A small tab at the clip's start");
  QStringList colours{tr("track")};
  for (int i = 1; i <= 8; ++i) colours << tr("tab %1").arg(i);
  colour.value = FieldForm::Choice{
      colours, [this] { return shared([](const Clip& c) { return c.extras->colour ? *c.extras->colour + 1 : 0; }); },
      [this](int i) {
        doc_.clipDesk().change(tr("Colour clips"), [&](Clip& c) {
          changeExtras(c, [&](ClipExtras& e) { e.colour = i > 0 ? std::optional(i - 1) : std::nullopt; });
        });
      }};
  out.push_back(colour);
  out.push_back(clipNumber(
      tr("Start"), tr("Song time; +20 ms or -=1 beats moves all by that"), Quantity::position,
      [](const Clip& c) { return static_cast<double>(c.start.value); },
      [this](const Value& to) {
        std::vector<std::pair<ClipId, Frames>> moves;
        for (const auto id : doc_.selection().clips()) {
          const auto* c = doc_.song().find(id);
          moves.emplace_back(id, frames(to(*c)) - c->start);
        }
        return moveEach(doc_.song(), moves, doc_.clipDesk().settings().overlap);
      }));
  out.push_back(clipNumber(
      tr("Length"), tr("Trims or pulls out the end, as far as there is recording"), Quantity::length,
      [](const Clip& c) { return static_cast<double>(c.length.value); },
      [this, ids](const Value& to) {
        return trimEnds(
            doc_.song(), ids(), [&](const Clip& c) { return frames(to(c)) - c.length; },
            doc_.clipDesk().settings().closeGaps);
      }));
  out.push_back(clipNumber(
      tr("Sound from"), tr("Where in the take the clip begins: slips the sound inside it"), Quantity::position,
      [](const Clip& c) { return static_cast<double>(c.source.value); },
      [this, ids](const Value& to) {
        return slipClips(doc_.song(), ids(), [&](const Clip& c) {
          const auto by = frames(to(c)) - c.source;
          return c.reversed ? by : -by;
        });
      }));
  const auto stretchOf = [](const Clip& c) {
    const auto played = c.played().length().value;
    return played > 0 ? 100.0 * static_cast<double>(c.length.value) / static_cast<double>(played) : 100.0;
  };
  out.push_back(
      clipNumber(tr("Stretch"),
                 tr("Length against what was recorded; attacks stay as they are, what rings between them is stretched"),
                 Quantity::percent, stretchOf, [this, ids, stretchOf](const Value& to) {
                   Result<Song> next = doc_.song();
                   for (const auto id : ids())
                     if (next)
                       if (const auto* c = next->find(id)) next = stretchAtHits(*next, id, to(*c) / stretchOf(*c));
                   return next;
                 }));
  const auto plain = [this, ids](double Clip::*value) {
    return [this, ids, value](const Value& to) {
      return changeClips(doc_.song(), ids(), [&](Clip& c) { c.*value = to(c); });
    };
  };
  out.push_back(clipNumber(
      tr("Gain"), tr("-60 to 24 dB"), Quantity::gain, [](const Clip& c) { return c.gainDb; }, plain(&Clip::gainDb)));
  out.push_back(clipNumber(
      tr("Pan"), tr("-100 left to 100 right"), Quantity::percent, [](const Clip& c) { return c.pan; },
      plain(&Clip::pan)));
  for (auto& f : pitchFields()) out.push_back(std::move(f));
  for (const auto end : {FadeEnd::in, FadeEnd::out})
    for (auto& f : fadeFields(end)) out.push_back(std::move(f));
  for (auto& f : crossfadeFields()) out.push_back(std::move(f));
  out.push_back(clipFlag(tr("Muted"), tr("Not heard"), &Clip::muted));
  FieldForm::Field back;
  back.name = tr("Backwards");
  back.tip = tr("Plays the recording from its end");
  back.value = FieldForm::Tick{[this] { return shared([](const Clip& c) { return c.reversed; }); },
                               [this](bool) { doc_.clipDesk().reverse(); }};
  out.push_back(back);
  FieldForm::Field method;
  method.name = tr("Stretched as");
  method.tip = tr("How it is stretched when it is; as the track: by what it is, or as the Timing step says");
  using Method = std::optional<StretchMethod>;
  method.value = choiceOf<Method>(  // short words: a narrow box
      {{std::nullopt, tr("track's")},
       {StretchMethod::drums, tr("drums")},
       {StretchMethod::single, tr("single")},
       {StretchMethod::chords, tr("chords")},
       {StretchMethod::tape, tr("tape")}},
      [this] { return shared([](const Clip& c) { return c.extras->method; }); },
      [this](const Method& to) {
        doc_.edit(tr("Change how clips are stretched"), setStretchMethod(doc_.song(), doc_.selection().clips(), to));
      });
  out.push_back(method);
  out.push_back(holdField([this] { return shared([](const Clip& c) { return c.hold; }); },
                          [this](Hold hold) {
                            doc_.clipDesk().change(tr("Keep to the clock or the grid"),
                                                   [&](Clip& c) { c.hold = hold; });
                          }));
  return out;
}

/// Where the pitch envelope moves, the pitch shown is that of the clip's start, and what is typed moves all of it.
std::vector<FieldForm::Field> Inspector::pitchFields() {
  using Value = std::function<double(const Clip&)>;
  const auto pitchOf = [](const Clip& c) { return valueAt(c.extras->pitch, c.played().start, 0); };
  std::vector<FieldForm::Field> out;
  out.push_back(clipNumber(tr("Pitch"), tr("Cents, or semitones (2 st), up or down; the length stays"), Quantity::pitch,
                           pitchOf, [this, pitchOf](const Value& to) {
                             Result<Song> next = doc_.song();
                             for (const auto id : doc_.selection().clips())
                               if (next)
                                 if (const auto* c = next->find(id); c && to(*c) != pitchOf(*c))
                                   next = transposeClips(*next, {id}, to(*c) - pitchOf(*c));
                             return next;
                           }));
  FieldForm::Field formants;
  formants.name = tr("Formants");
  formants.tip =
      tr("Where the pitch is changed: \"stay\", \"along\" (they move with it), or cents up or down of their own; "
         "\"auto\": those of single notes stay, all others go along");
  FieldForm::Typed typedFormants;
  typedFormants.read = [this] {
    return shared([](const Clip& c) {
      const auto& f = c.extras->formants;
      return !f              ? tr("auto")
             : f->along      ? tr("along")
             : f->cents == 0 ? tr("stay")
                             : QString::fromStdString(entryText(f->cents, Quantity::pitch, 0));
    });
  };
  typedFormants.write = [this](const QString& typed) {
    std::optional<Formants> to;
    const auto word = typed.trimmed().toLower();
    if (word == tr("along")) {
      to = Formants{true, 0};
    } else if (word == tr("stay")) {
      to = Formants{};
    } else if (word != tr("auto") && !word.isEmpty()) {
      const auto entry = parseEntry(word.toStdString(), Quantity::pitch, doc_.song().tempo, {});
      if (!entry) return doc_.refuse(entry.error());
      to = Formants{false, entry->applied(0)};
    }
    doc_.edit(tr("Set formants"), setFormants(doc_.song(), doc_.selection().clips(), to));
  };
  formants.value = std::move(typedFormants);
  out.push_back(formants);
  return out;
}

std::vector<FieldForm::Field> Inspector::fadeFields(FadeEnd end) {
  using Value = std::function<double(const Clip&)>;
  const bool in = end == FadeEnd::in;
  const auto of = [in](const Clip& c) -> const Fade& { return in ? c.fadeIn : c.fadeOut; };
  const auto change = [this, end](const std::function<Fade(const Clip&, Fade)>& f) {
    return changeFades(doc_.song(), doc_.selection().clips(), end, f);
  };
  std::vector<FieldForm::Field> out;
  out.push_back(clipNumber(
      in ? tr("Fade in") : tr("Fade out"), tr("Its length; 0 removes it"), Quantity::length,
      [of](const Clip& c) { return static_cast<double>(of(c).length.value); },
      [change](const Value& to) {
        return change([&](const Clip& c, Fade f) { return f.length = std::max(Frames{}, frames(to(c))), f; });
      }));
  FieldForm::Field shape;
  shape.name = in ? tr("In runs") : tr("Out runs");
  shape.tip = tr("Straight or smooth changes the level; tape changes speed and pitch, as a reel that starts or stops");
  using Runs = std::pair<FadeShape, FadeKind>;
  shape.value = choiceOf<Runs>(
      {{{FadeShape::line, FadeKind::gain}, tr("straight")},
       {{FadeShape::sCurve, FadeKind::gain}, tr("smooth")},
       {{FadeShape::line, FadeKind::tape}, tr("tape")},
       {{FadeShape::sCurve, FadeKind::tape}, tr("soft tape")}},
      [this, of] { return shared([&](const Clip& c) {
                     return Runs{of(c).shape, of(c).kind};
                   }); },
      [this, change](const Runs& to) {
        doc_.edit(tr("Change fades"), change([&](const Clip&, Fade f) {
                    std::tie(f.shape, f.kind) = to;
                    return f;
                  }));
      });
  out.push_back(shape);
  out.push_back(clipNumber(
      in ? tr("In bend") : tr("Out bend"), tr("Below 0 sets out late, above 0 early"), Quantity::percent,
      [of](const Clip& c) { return of(c).bend * 100; },
      [change](const Value& to) {
        return change([&](const Clip& c, Fade f) { return f.bend = kBendRange.clamp(to(c)) / 100, f; });
      }));
  return out;
}

/// Of the joints that the chosen clips begin with.
std::vector<FieldForm::Field> Inspector::crossfadeFields() {
  using Value = std::function<double(const Clip&)>;
  const auto put = [this](const Value& to, const std::function<void(CrossfadeChange&, double)>& set) {
    // One value for all: crossfades of unlike lengths are set one clip after the other.
    Result<Song> next = doc_.song();
    std::map<double, ClipIds> alike;
    for (const auto id : doc_.selection().clips()) alike[to(*doc_.song().find(id))].push_back(id);
    std::optional<Error> refused;
    bool any = false;
    for (const auto& [value, ids] : alike) {
      CrossfadeChange change;
      set(change, value);
      auto done = changeCrossfades(*next, ids, change);
      if (done)
        next = std::move(done), any = true;
      else
        refused = done.error();
    }
    return !any && refused ? Result<Song>(tl::unexpected(*refused)) : next;
  };
  std::vector<FieldForm::Field> out;
  out.push_back(clipNumber(
      tr("Crossfade"), tr("With the clip before, as far as both have recorded material"), Quantity::length,
      [](const Clip& c) { return static_cast<double>((c.seam.before + c.seam.after).value); },
      [put](const Value& to) {
        return put(to, [](CrossfadeChange& c, double v) {
          const auto whole = std::max(Frames{}, frames(v));
          c.before = whole / 2;
          c.after = whole - whole / 2;
        });
      }));
  FieldForm::Field law;
  law.name = tr("Cross law");
  law.tip = tr("Matched keeps the level whatever meets; equal gain for the same sound; equal power for unlike sounds");
  law.value = choiceOf<CrossfadeLaw>(
      {{CrossfadeLaw::equalGain, tr("equal gain")},
       {CrossfadeLaw::equalPower, tr("equal power")},
       {CrossfadeLaw::matched, tr("matched")}},
      [this] { return shared([](const Clip& c) { return c.seam.law; }); },
      [this](const CrossfadeLaw& to) {
        CrossfadeChange change;
        change.law = to;
        doc_.edit(tr("Change crossfades"), changeCrossfades(doc_.song(), doc_.selection().clips(), change));
      });
  out.push_back(law);
  out.push_back(clipNumber(
      tr("Cross bias"), tr("Moves the meeting point to the start (below 0) or the end"), Quantity::percent,
      [](const Clip& c) { return c.seam.bias * 100; },
      [put](const Value& to) {
        return put(to, [](CrossfadeChange& c, double v) { c.bias = kBiasRange.clamp(v) / 100; });
      }));
  return out;
}

}  // namespace ochron
