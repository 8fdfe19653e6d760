// The loupe: the chosen place at its own scale, turned to face the eye, its pieces spread apart where they lie too
// close to be told from each other.
#pragma once

#include <QObject>
#include <optional>

#include "session/reading/sight.h"
#include "session/state/bench.h"
#include "session/state/choice.h"

namespace zither::session {

class Loupe : public QObject {
    Q_OBJECT
public:
    Loupe(const Bench& bench, const Choice& choice);

    [[nodiscard]] bool on() const { return on_; }
    void setOn(bool on);
    // Where it looks: the chosen place, or the last one that was to be shown; nothing on a part without such.
    [[nodiscard]] const std::optional<mesh::Point>& place() const { return place_; }
    void lookAt(const mesh::Point& place, double size);
    // 0: as it is; 1: pieces by half of what is seen apart.
    void setSpread(double spread);
    [[nodiscard]] double spread() const { return spread_; }
    // Nearer (above 1) or farther.
    void zoom(double factor);
    // What it shows in so many pixels across.
    [[nodiscard]] Sight sight(double pixels) const;
    // How far from the place it shows, in the part's unit.
    [[nodiscard]] double radius() const { return radius_; }
    // Pieces of surface about the place that no shared edge links.
    [[nodiscard]] std::size_t pieces() const { return pieces_; }
    // How far apart the two pieces that meet at the place are; nothing where it is one piece.
    [[nodiscard]] std::optional<double> gap() const { return gap_; }

Q_SIGNALS:
    void changed();

private:
    void follow();
    void lookAround(const mesh::Point& place, double radius);
    void look();
    void spreadPieces();
    [[nodiscard]] mesh::Point normalOfPlace() const;

    const Looks& looks_;
    const Choice& choice_;
    bool on_ = false;
    std::optional<mesh::Point> place_;
    double radius_ = 1;
    double spread_ = 0;
    // Of the triangles about the place: which they are, and the piece that each belongs to.
    std::vector<mesh::TriangleId> near_;
    std::vector<std::uint32_t> pieceOf_;
    std::size_t pieces_ = 0;
    std::optional<double> gap_;
    mesh::Point facing_ = mesh::Point::UnitZ();  // the way its surface faces
    std::shared_ptr<const Moved> moved_;
};

}  // namespace zither::session
