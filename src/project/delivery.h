// Bringing in and handing over: a file read and judged; a mesh written, read back, and judged as it stands on disk.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>

#include "io/surface_file.h"
#include "steps/brief.h"
#include "steps/done_step.h"
#include "steps/lost.h"

namespace zither::project {

using mesh::Outcome;
using mesh::Progress;
using Spares = check::Surveyed::Spares;

// A file as it was found.
struct Judged {
    std::string file;
    io::Surface surface;  // what the file says besides; its mesh was moved into `part`
    check::SurveyedPtr part;
    steps::Brief brief;                           // in the file's unit
    std::shared_ptr<const check::Survey> survey;  // of part, with the brief's options
    steps::Verdict verdict;
    double seconds = 0;
    std::optional<steps::DoneStep> settled;  // before it was written, where the format would have broken it

    // Judges once more, with what is seen lost of the import.
    void judgeLost(const measure::Loss& loss);
};
// `brief`: in millimetres, here and below. `unit`: where the file does not say. Sparing memory, the part comes without
// what the checks made of it on the way: for whoever does not need it at once.
Outcome<Judged> readAndJudge(const std::filesystem::path& file, const steps::Brief& brief, Progress& progress,
                             std::string_view unit = {}, Spares spares = Spares::Time);

struct Destination {
    std::filesystem::path file;
    std::string unit = {};               // as io::writeSurface
    const io::Format* format = nullptr;  // one that can be written; nullptr: by the file's extension
};

// What the file will not hold of a surface: what its format has no place for, and what reading left out before.
std::vector<std::string> lossesOf(const mesh::Mesh& m, const Destination& to, const std::vector<std::string>& notKept);

// A file that is written and judged, and not yet in its place: the one that was there before is as it was.
struct Proved {
    Judged judged;
    io::AtomicFile file;

    // Puts it in its place; nothing that was judged changes by that.
    Outcome<Judged> commit() &&;
};

// Writes to a temporary file, reads it back, and judges what it holds: the counts are those of the file on disk, those
// that are known only where it holds the very surface that they are of, bit for bit. A surface that is solid in memory
// but has coordinates that the format would round is settled first.
Outcome<Proved> prove(const check::Surveyed& part, const Destination& to, const steps::Brief& brief,
                      Progress& progress);
// The same, put in its place.
Outcome<Judged> writeAndProve(const check::Surveyed& part, const Destination& to, const steps::Brief& brief,
                              Progress& progress);

// Runs steps in order from a part, recording each. `unit`: of its lengths; empty where nobody has said. Error: the
// first that fails; nothing is half done.
Outcome<std::vector<steps::DoneStep>> runSteps(check::SurveyedPtr part, const std::vector<steps::StepCall>& calls,
                                               std::string unit, Progress& progress);

}  // namespace zither::project
