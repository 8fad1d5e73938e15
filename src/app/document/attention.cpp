#include "document/attention.h"

#include "checks/fix.h"
#include "document/document.h"
#include "document/seam_desk.h"
#include "document/timing_desk.h"

namespace ochron {

Attention::Attention(Document& document) : QObject(&document), doc_(document) {
  connect(&doc_.seamDesk(), &SeamDesk::measured, this, [this] { checks_.reset(); });
}

const std::vector<Check>& Attention::checks() const {
  if (!checks_) checks_ = checksOf(doc_.song(), doc_.timingDesk().plannedOfAll(), doc_.seamDesk().measures());
  return *checks_;
}

void Attention::accept(const Check& check) {
  doc_.edit(tr("Accept \"%1\"").arg(QString::fromStdString(check.title)), acceptCheck(doc_.song(), check));
}

}  // namespace ochron
