#pragma once

#include "base/result.h"
#include "feel/timings.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// Which plans are carried out anew behind an edit.
enum class Plans {
  all,      ///< of every set whose plan reads something that changed
  quick,    ///< as all; of sets where listening for the joints takes long they go by the attacks alone, and are
            ///< listened for afterwards (withJointsHeard)
  given,    ///< of those whose hits, settings, locks or tempo changed; clips are as they were made
  dragged,  ///< the same while something is held, with joints by the attacks alone: clips that are dragged, and what is
            ///< heard at the joints, follow when it is let go
};

/// The one gate between what an edit makes and the song that is open: everything a change has to go through, whoever
/// made it.
///  - What is heard in a locked place, and what was decided about it, is as before (againstLocks).
///  - Every set whose plan reads something that changed is planned again, whichever set is chosen.
///  - Every rule and every range holds (brokenRules): what could not be opened again is not made.
/// Refused otherwise, with a sentence; nothing is half-done.
/// `timings`: what the plans intended before; kept current.
Result<Song> admitted(const Song& before, Song after, const MediaPool& pool, Plans plans, Timings& timings);
Result<Song> admitted(const Song& before, Song after, const MediaPool& pool, Plans plans = Plans::all);

/// The song with the joints that were still to be listened for, as if each plan had been carried out with the
/// recordings at hand. The same song where there are none.
Result<Song> withJointsHeard(const Song& song, const MediaPool& pool);

}  // namespace ochron
