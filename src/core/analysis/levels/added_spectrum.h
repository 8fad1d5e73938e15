#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace ochron {

/// Twenty bands from 60 Hz to 16 kHz.
using DrumSpectrum = std::array<double, 20>;
/// A band under this (dB) holds nothing: the lowest are narrower than a bin.
inline constexpr double kEmptyBandDb = -130;

/// The spectra that attacks add to one mic, in dB over a floor that lies 50 dB under each band's loud ones: 1024
/// samples (at 48 kHz) from just before each, less those before, mirrored so that the fade falls alike. `rate` in Hz.
std::vector<DrumSpectrum> addedSpectraDb(std::span<const float> samples, int rate, const std::vector<std::int64_t>& at);

/// The median of each band; of none at all, nothing.
DrumSpectrum medianSpectrum(const std::vector<DrumSpectrum>& spectra);

/// -1 to 1: how alike two spectra in dB are in shape, over the bands that hold anything in the second.
double likeness(const DrumSpectrum& a, const DrumSpectrum& b);

}  // namespace ochron
