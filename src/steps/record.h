// What a step did, as it is told: numbers with stable keys, sentences, and lists of things. People read it; what
// another piece of code decides by is a fact (steps/facts.h).
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "measure/loss.h"
#include "mesh/mesh.h"
#include "mesh/motion.h"

namespace zither::steps {

// One thing that a record lists: where it is and how large.
struct Listed {
    enum Kind {
        Goes,       // something that is removed
        Within,     // the same, because it lies inside others and nobody sees it
        LeftOpen,   // an opening that waits for a person's yes
        Sheet,      // what bounds no volume, and waits for an answer
        AsItCame,   // a place that would have been worse, put back
        Left,       // something that this step could not do, or must not without a word
        NeedsSkin,  // what only a new skin would close
        Made,       // something that was put there
    };
    Kind kind = Left;
    mesh::Point position = mesh::Point::Zero();
    double size = 0;
    std::string text;                                   // a sentence
    std::shared_ptr<const mesh::Mesh> piece = nullptr;  // of a sheet: its triangles
};

// As in JSON: "goes", "left-open" ...
std::string_view nameOf(Listed::Kind kind);

// What a step did: numbers with a stable key, sentences for people, and lists of things.
struct Record {
    struct Number {
        std::string key;
        double value = 0;
    };
    std::vector<Number> numbers;
    std::string headline;  // two or three words for what changed where no count does: "12 flipped"
    std::vector<std::string> sentences;
    std::vector<Listed> listed;
    // Patches, sheets and bodies that were listed. nullptr: none.
    std::shared_ptr<const measure::Told> told;
    // The part moved as a whole: it is compared with its import moved alike. None: it stands where it stood.
    std::optional<mesh::Motion> motion;
    // What lengths of the part are in from here on: "mm" ... Empty: what they were in.
    std::string unit;

    void add(std::string key, double value) { numbers.push_back({std::move(key), value}); }
    void add(std::string key, std::size_t value) { numbers.push_back({std::move(key), static_cast<double>(value)}); }
    void say(std::string sentence) { sentences.push_back(std::move(sentence)); }
    [[nodiscard]] std::optional<double> number(std::string_view key) const;  // for tests; none where it has no such key
    [[nodiscard]] std::size_t count(Listed::Kind kind) const;
};

}  // namespace zither::steps
