#pragma once

#include <string>

#include "terms/sung.h"

namespace ochron {

/// The notes of a line for other programs. Times are seconds of the recording.
///
/// CSV after RFC 4180 with a heading line: start,end,hertz,midi,cents (midi is the nearest one, cents what it is off
/// it).
std::string notesToCsv(const SungLine& line);
/// JAMS (Humphrey et al. 2014): a pitch_contour annotation of the track and a note_midi one of the notes.
std::string lineToJams(const SungLine& line, const std::string& title, double seconds);

}  // namespace ochron
