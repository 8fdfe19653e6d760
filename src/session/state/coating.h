// The lens that the part is seen through, and the colours that it gives, with the pick over them.
#pragma once

#include <QObject>
#include <array>
#include <memory>
#include <utility>

#include "draw/picture.h"
#include "session/lens/lens.h"
#include "session/state/bench.h"
#include "session/state/trial.h"

namespace zither::session {

// Values at vertices that are drawn blended where the coat is 0.
struct SmoothTint {
    std::vector<float> values;
    double low = 0;
    double high = 1;
    std::array<draw::Colour, 5> ramp;
};

class Coating : public QObject {
    Q_OBJECT
public:
    Coating(const Bench& bench, const Trial& trial, const Picking& picking);

    [[nodiscard]] const Lens& lens() const { return *lens_; }
    // `kind`: of its kinds.
    void setLens(const Lens& lens, std::size_t kind = 0);
    [[nodiscard]] std::size_t kind() const { return kind_; }
    [[nodiscard]] const Coat& coat() const { return coat_; }
    // The colours to draw with: those of the lens with the pick over them; 0 where the tint is drawn.
    [[nodiscard]] const std::vector<std::uint32_t>& colours() const { return colours_; }
    // Where the lens shows something smooth; else nullptr.
    [[nodiscard]] const std::shared_ptr<const SmoothTint>& tint() const { return tint_; }
    // The values between which colours run, until another lens is chosen; none: as the lens has them.
    void setRange(std::optional<std::pair<double, double>> range);
    [[nodiscard]] bool hasOwnRange() const { return range_.has_value(); }
    // The triangles whose values lie in a stretch of the histogram; its ends take in what lies beyond them. Empty where
    // there is none.
    [[nodiscard]] std::vector<mesh::TriangleId> trianglesWithin(double low, double high) const;
    // Another surface is shown.
    void refresh();
    // Another pick lies over the colours.
    void refreshPick();

Q_SIGNALS:
    void changed();

private:
    [[nodiscard]] std::vector<PastStop> past() const;
    [[nodiscard]] Origin origin() const;  // of what is shown
    void colour();

    const Parts& parts_;
    const Looks& looks_;
    const Trial& trial_;
    const Picking& picking_;
    Jobs& jobs_;
    const Preferences& preferences_;
    const Lens* lens_ = &plainLens;
    std::size_t kind_ = 0;
    Coat coat_;
    std::pair<double, double> ofLens_;  // the range that the lens has
    std::optional<std::pair<double, double>> range_;
    std::vector<std::uint32_t> colours_;
    std::shared_ptr<const SmoothTint> tint_;
};

}  // namespace zither::session
