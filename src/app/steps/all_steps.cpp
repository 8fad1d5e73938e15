#include "steps/all_steps.h"

#include <QCoreApplication>

#include "steps/clips/clips_step.h"
#include "steps/hits/hits_step.h"
#include "steps/kit/kit_step.h"
#include "steps/pitch/pitch_step.h"
#include "steps/print/print_step.h"
#include "steps/seams/seams_step.h"
#include "steps/takes/takes_step.h"
#include "steps/tempo/tempo_step.h"
#include "steps/timing/timing_step.h"

namespace ochron {

std::vector<StepEntry> makeSteps(Document& document, QWidget* parent) {
  const auto say = [](const char* text) { return QCoreApplication::translate("Steps", text); };
  return {{Step::takes, say("Takes"), new TakesStep(document, parent)},
          {Step::tempo, say("Tempo"), new TempoStep(document, parent)},
          {Step::hits, say("Hits"), new HitsStep(document, parent)},
          {Step::timing, say("Timing"), new TimingStep(document, parent)},
          {Step::seams, say("Seams"), new SeamsStep(document, parent)},
          {Step::clips, say("Clips"), new ClipsStep(document, parent)},
          {Step::kit, say("Kit"), new KitStep(document, parent)},
          {Step::pitch, say("Pitch"), new PitchStep(document, parent)},
          {Step::print, say("Print"), new PrintStep(document, parent)}};
}

}  // namespace ochron
