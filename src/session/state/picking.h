// The pick: triangles of the current stop that steps work on, and how they were chosen, so that a recipe can choose
// them again on another part.
#pragma once

#include <QObject>
#include <optional>
#include <string>

#include "mesh/pick.h"
#include "session/state/bench.h"
#include "session/state/choice.h"

namespace zither::session {

class Picking : public QObject {
    Q_OBJECT
public:
    Picking(const Bench& bench, const Choice& choice);

    // None: steps work on everything.
    [[nodiscard]] const mesh::Pick& pick() const { return pick_; }
    // The pick as a step call names it: by shell or by places of a requirement where it was chosen so, else by the
    // numbers of its triangles; empty where nothing is picked.
    [[nodiscard]] std::string text() const;
    // It stands for numbers of triangles, which mean nothing on another part.
    [[nodiscard]] bool byHand() const { return !pick_.everything() && origin_.empty(); }
    // The place of the last triangle that was picked with the pointer.
    [[nodiscard]] std::optional<mesh::Point> place() const {
        return places_.empty() ? std::nullopt : std::optional(places_.back());
    }
    // Those of all that were, in their order.
    [[nodiscard]] const std::vector<mesh::Point>& places() const { return places_; }
    // Where the last of them faces, of length 1.
    [[nodiscard]] std::optional<mesh::Point> normal() const { return normal_; }
    // Nothing is picked any more, but the places stay until other triangles are.
    void letGo();
    void set(mesh::Pick pick);
    // As it was kept: with what `text` said then.
    void bringBack(mesh::Pick pick, const std::string& keptText);
    void pickTriangle(mesh::TriangleId triangle, const mesh::Point& at, bool add);
    void pickShellOf(mesh::TriangleId triangle);
    void pickPlaces();  // the triangles of the chosen place, or of every place of the chosen class
    void grow();
    void shrink();
    // What was chosen with an outline or a drag: in place of the pick, added to it, or taken from it.
    enum class Way { Replace, Add, Take };
    void pickThese(const std::vector<mesh::TriangleId>& triangles, Way way);
    // As far as the surface goes on flat, or smooth, from the pick.
    void growFlat(double degrees);
    void growSmooth(double degrees);
    void invert();
    // The pick before the last change of it, on the same surface.
    [[nodiscard]] bool canUndo() const { return !past_.empty(); }
    void undo();
    // The surface is another one.
    void forget();

Q_SIGNALS:
    void changed();

private:
    void choose(mesh::Pick pick, std::string origin);
    void remember();
    void ring(int by);
    void forgetPlaces();
    [[nodiscard]] const Look* pickable() const;

    const Looks& looks_;
    const Choice& choice_;
    mesh::Pick pick_;
    std::string origin_;  // "shell:2", "boundary_edges"; empty: by hand
    int rings_ = 0;       // grown by, since
    std::vector<mesh::Point> places_;
    std::optional<mesh::Point> normal_;
    struct Past {
        mesh::Pick pick;
        std::string origin;
        int rings = 0;
    };
    std::vector<Past> past_;  // oldest first
};

}  // namespace zither::session
