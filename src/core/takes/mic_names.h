#pragma once

#include <optional>
#include <string>
#include <vector>

#include "song/song.h"

namespace ochron {

/// The role a track's name suggests ("Kick In 01" is kickIn, "OHL" overhead); none when it says nothing.
MicRole guessRole(const std::string& trackName);

/// Which of these names clearly are mics of one drum kit: indices, empty when fewer than two are.
std::vector<int> guessDrumKit(const std::vector<std::string>& trackNames);

/// These names in the order of a kit: kick, snare, toms, hat, cymbals, overheads, rooms, each as they came; what is no
/// drum mic after them.
std::vector<int> inKitOrder(const std::vector<std::string>& trackNames);

/// The tempo that a name tells ("Loop 96 bpm", "shaker_120BPM_03"); none unless it says BPM.
std::optional<double> bpmInName(const std::string& name);

/// The tracks of a kit that make the best guides: a kick and a snare close mic where there are such, else every close
/// mic.
std::vector<int> guessGuides(const std::vector<MicRole>& roles);

}  // namespace ochron
