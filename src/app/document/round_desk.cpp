#include "document/round_desk.h"

#include <QTimer>
#include <algorithm>
#include <cmath>

#include "document/clip_desk.h"
#include "document/document.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "document/wording.h"
#include "edits/edit_tools.h"
#include "render/loudness.h"
#include "render/made_store.h"
#include "render/tuned_takes.h"

namespace ochron {
namespace {

constexpr double kMostSeconds = 20;
constexpr double kAroundSeconds = 4;  // to either side of the play line, when nothing is chosen
constexpr double kMostGainDb = 12;
const QString kRoundSlot = QStringLiteral("round");

}  // namespace

RoundDesk::RoundDesk(Document& document) : QObject(&document), doc_(document) {
  connect(&document, &Document::songChanged, this, &RoundDesk::end);
  document.selection().watch(Selection::kSet, this, [this] {
    if (going_ && doc_.selection().set() != set_) end();
  });
  // Cancelled, or failed, while the way that is waited for was made: what was heard is heard on. What was made before
  // is on its way here.
  connect(&document.jobs(), &Jobs::changed, this, [this] {
    QTimer::singleShot(0, this, [this] {
      if (waits() && !doc_.jobs().runs(kRoundSlot)) end();
    });
  });
}

bool RoundDesk::begin() {
  set_ = doc_.selection().set();
  const auto* set = doc_.song().find(set_);
  if (!set) return doc_.tell(tr("Import recordings first.")), false;
  clips_.clear();
  FrameRange chosen;
  for (const auto id : doc_.selection().clips()) {
    const auto* clip = doc_.song().find(id);
    if (!clip || doc_.song().setOf(id)->id != set_) continue;
    clips_.push_back(id);
    chosen = chosen.empty() ? clip->range()
                            : FrameRange{std::min(chosen.start, clip->start), std::max(chosen.end, clip->end())};
  }
  const auto seconds = [&](double s) { return Frames{std::llround(s * doc_.song().rate)}; };
  range_ = !doc_.selection().range().empty() ? doc_.selection().range()
           : !chosen.empty()                 ? chosen
                                             : FrameRange{doc_.transport().cursor() - seconds(kAroundSeconds),
                                          doc_.transport().cursor() + seconds(kAroundSeconds)};
  range_.end = std::min(range_.end, range_.start + seconds(kMostSeconds));
  const Clip* stretched = nullptr;
  for (const auto& c : *set->clips)
    if (c.range().overlaps(range_) && !c.map.identity()) stretched = &c;
  if (!stretched)
    return doc_.tell(tr("Nothing is stretched here. Pin something, fit a loop or let the plan stretch first.")), false;
  const auto now = doc_.song().methodOf(*set, *stretched);
  for (std::size_t i = 0; i < order_.size(); ++i)
    order_[i] = static_cast<StretchMethod>((static_cast<std::size_t>(now) + i) % order_.size());
  versions_ = {};
  at_ = 0;
  going_ = true;
  ++round_;
  return true;
}

void RoundDesk::next() {
  if (going_) {
    at_ = (at_ + 1) % order_.size();
  } else {
    if (!begin()) return;
    make();
  }
  hear();
  emit changed();
}

void RoundDesk::make() {
  doc_.jobs().start(
      tr("making the ways of stretching"),
      [this, song = doc_.version(), pool = doc_.pool(), store = doc_.sounding().made(), round = round_, set = set_,
       clips = clips_, range = range_, order = order_,
       around = doc_.sounding().playPlan()](Progress& progress) -> Jobs::Finish {
        std::optional<double> first;
        for (std::size_t i = 0; i < order.size(); ++i) {
          const auto other =
              clips.empty() ? setStretchMethod(*song, set, order[i]) : setStretchMethod(*song, clips, order[i]);
          if (!other) return [this, why = QString::fromStdString(other.error().message)] { doc_.warn(why), end(); };
          auto part = *other;
          // What the clips say themselves would hide the set's.
          if (clips.empty())
            for (auto& s : part.sets)
              if (s.id == set) {
                auto all = *s.clips;
                for (auto& c : all)
                  if (c.extras->method) changeExtras(c, [](ClipExtras& e) { e.method.reset(); });
                s.clips = std::move(all);
              }
          part = onlyIn(part, range);
          auto tuned = tunedWhole(part, pool, *store, progress);
          if (!tuned) return doc_.failed(tuned.error());
          if (const auto made = makeMissing(part, *tuned, *store, range.start, progress); !made)
            return doc_.failed(made.error());
          auto plan = std::make_shared<PlayPlan>();
          plan->edited = compilePlan(part, *tuned, nullptr, store.get());
          plan->original = around ? around->original : RenderPlan{};
          plan->clicks = around ? around->clicks : std::vector<ClickEvent>{};
          const auto lufs = loudnessOf(plan->edited, range, progress);
          if (!first) first = lufs;
          if (first && lufs)
            plan->editedGain =
                static_cast<float>(std::pow(10.0, std::clamp(*first - *lufs, -kMostGainDb, kMostGainDb) / 20));
          if (progress.cancelled()) return {};
          QMetaObject::invokeMethod(
              this, [this, round, i, plan] { made(round, i, plan); }, Qt::QueuedConnection);
        }
        return [] {};
      },
      kRoundSlot);
}

void RoundDesk::made(std::uint64_t round, std::size_t which, const std::shared_ptr<const PlayPlan>& plan) {
  if (!going_ || round != round_) return;
  versions_[which] = plan;
  if (which == at_) hear();
  emit changed();
}

void RoundDesk::hear() {
  const auto name = methodName(method());
  if (waits()) return doc_.tell(tr("Stretched as %1: being made\u2026").arg(name));
  doc_.sounding().hearInstead(versions_[at_]);
  auto& engine = doc_.transport().player().engine();
  engine.setLoop(range_);
  if (doc_.transport().original()) doc_.transport().setOriginal(false);
  if (!engine.playing()) {
    doc_.transport().player().seek(range_.start);
    engine.play();
  }
  doc_.tell(
      tr("Heard stretched as %1. The same key goes on, \"Keep\" takes it, Escape leaves all as it was.").arg(name));
}

void RoundDesk::keep() {
  if (!going_) return;
  const auto method = order_[at_];
  const auto set = set_;
  const auto clips = clips_;
  end();
  const auto next = clips.empty() ? setStretchMethod(doc_.song(), set, method)
                                  : setStretchMethod(doc_.song(), ClipIds(clips.begin(), clips.end()), method);
  if (doc_.edit(tr("Stretch as %1").arg(methodName(method)), next))
    doc_.tell(tr("Stretched as %1 from now on.").arg(methodName(method)));
}

void RoundDesk::end() {
  if (!going_) return;
  going_ = false;
  versions_ = {};
  doc_.jobs().emptySlot(QStringLiteral("round"));
  doc_.transport().player().engine().setLoop(doc_.transport().looping() ? doc_.selection().range() : FrameRange{});
  doc_.sounding().hearInstead(nullptr);
  emit changed();
}

}  // namespace ochron
