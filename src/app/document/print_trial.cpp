#include "document/print_trial.h"

#include "document/document.h"
#include "document/effect_desk.h"
#include "document/print_desk.h"
#include "document/round_desk.h"
#include "document/selection.h"
#include "document/sounding.h"
#include "document/transport.h"
#include "render/made_sound.h"
#include "render/tuned_takes.h"
#include "song/layer_strokes.h"

namespace ochron {
namespace {
const auto kSlot = QStringLiteral("print trial");
}

PrintTrial::PrintTrial(Document& document) : QObject(&document), doc_(document) {
  connect(&document, &Document::songChanged, this, &PrintTrial::end);
  document.selection().watch(Selection::kSet, this, [this] {
    if (doc_.selection().set() != set_) end();
  });
  connect(&document.sounding(), &Sounding::insteadChanged, this, [this] {
    if (plan_ && doc_.sounding().heardInstead() != plan_) end();
  });
  // Cancelled while it was made: the print is heard on.
  connect(&document.jobs(), &Jobs::changed, this, [this] {
    if (on() && !plan_ && !doc_.jobs().runs(kSlot)) end();
  });
}

void PrintTrial::turn(SetId set) {
  if (on()) {
    end();
    return doc_.tell(tr("The print is heard."));
  }
  if (!doc_.printDesk().allAtHand(tr("print"))) return;
  const auto* print = doc_.printDesk().latestOf(set);
  if (!print) return doc_.tell(tr("Nothing of this is printed."));
  auto alive = unprint(doc_.song(), print->id);
  if (!alive) return doc_.warn(QString::fromStdString(alive.error().message));
  doc_.roundDesk().end();
  set_ = set;
  alive_ = std::make_shared<const Song>(*std::move(alive));
  make();
  emit changed();
}

void PrintTrial::make() {
  doc_.jobs().start(
      tr("making what the print was made of"),
      [this, song = alive_, pool = doc_.pool(), store = doc_.sounding().made(), around = doc_.sounding().playPlan(),
       near = doc_.transport().heardSoon()](Progress& progress) -> Jobs::Finish {
        const auto tuned = tunedWhole(*song, pool, *store, progress);
        if (!tuned) return [this, why = doc_.failed(tuned.error())] { end(), why ? why() : void(); };
        if (auto made = makeMissing(*song, *tuned, *store, near.start, progress); !made)
          return [this, why = doc_.failed(made.error())] { end(), why ? why() : void(); };
        auto plan = around ? std::make_shared<PlayPlan>(*around) : std::make_shared<PlayPlan>();
        plan->edited = compilePlan(*song, *tuned, nullptr, store.get());
        plan->notes = layerNotes(*song);
        return [this, plan, song] {
          if (song != alive_) return;
          plan_ = plan;
          doc_.effectDesk().followInstead(song);
          doc_.sounding().hearInstead(plan_);
          if (doc_.transport().original()) doc_.transport().setOriginal(false);
          doc_.tell(tr("What the print was made of is heard. The same key goes back to the print."));
        };
      },
      kSlot);
}

void PrintTrial::end() {
  if (!on()) return;
  alive_.reset();
  const auto plan = std::exchange(plan_, nullptr);
  doc_.jobs().emptySlot(kSlot);
  doc_.effectDesk().followInstead(nullptr);
  if (plan && doc_.sounding().heardInstead() == plan) doc_.sounding().hearInstead(nullptr);
  emit changed();
}

}  // namespace ochron
