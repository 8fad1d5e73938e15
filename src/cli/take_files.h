#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "files/outputs.h"
#include "files/temporary.h"
#include "media/audio_file.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron::cli {

/// The files of one command as a song with one take and one mic set.
struct TakeFiles {
  Song song;
  MediaPool pool;
  std::vector<AudioFileInfo> infos;
  TakeId take;
  SetId set;
};

/// Reads the files at the first one's rate. `guides` are indices; empty: all.
/// Damaged ones are refused unless they are accepted.
Result<TakeFiles> loadTake(const std::vector<std::string>& files, const std::vector<int>& guides, Damaged damaged,
                           const std::filesystem::path& scratch);
/// Finds hits on the guides and stores them with the take.
Result<void> findHits(TakeFiles& files, const HitSettings& settings);

/// Every input's sound, a list of channels each, all of one length.
using Sounds = std::vector<std::vector<std::vector<float>>>;
/// The format that a file to be written has by its name.
Result<FileFormat> formatToWrite(const std::filesystem::path& target);
/// Where what becomes of an input is written (`out`, or with several inputs under its own name into the folder `out`),
/// and how: in the input's own sample format.
struct WrittenFile {
  std::filesystem::path target;
  WriteFormat format;
};
Result<WrittenFile> writtenFile(const std::vector<std::string>& inputs, std::size_t input, const std::string& out,
                                const TakeFiles& files, Frames length);
/// Fails when a file has more channels than can be written.
Result<void> atMostStereo(const std::vector<std::string>& inputs, const TakeFiles& files);
/// Writes what was made of the inputs (writtenFile). All of it or nothing.
Result<void> writeSounds(const std::vector<std::string>& inputs, const std::string& out, const TakeFiles& files,
                         const Sounds& sounds, Outputs& outputs);

/// Runs `work` while its progress goes to standard error, if that is a terminal.
void withProgress(const char* what, Progress& progress, const std::function<void()>& work);

}  // namespace ochron::cli
