#pragma once

namespace ochron {

/// From now on what is painted on the lanes is told to screen readers: tracks, their clips and their hits, with places
/// in bars and beats, how late a hit is and where it goes, and what is chosen.
void tellLanesToReaders();

}  // namespace ochron
