// Inks and strengths as the window has them, which draws through here as well.
#include "project/portrait.h"

#include "check/catalogue.h"
#include "draw/inks.h"

namespace zither::project {

std::vector<DefectLines> linesOf(const mesh::Mesh& m, const check::Survey& survey, const mesh::Point& origin) {
    constexpr std::size_t most = 400'000;
    std::vector<DefectLines> all;
    check::Segments segments;
    for (const check::DefectClass defect : check::catalogue()) {
        segments.clear();
        defect->draw({m, survey, most}, defect, segments);
        if (segments.empty()) continue;
        DefectLines& lines = all.emplace_back(DefectLines{defect, {}});
        lines.points.reserve(3 * segments.size());
        for (const mesh::Point& p : segments)
            for (int i = 0; i < 3; ++i) lines.points.push_back(static_cast<float>(p[i] - origin[i]));
    }
    return all;
}

std::vector<float> outlineAbout(const measure::Section& section, const mesh::Point& origin) {
    std::vector<float> outline;
    outline.reserve(6 * section.outline.size());
    for (const auto& segment : section.outline)
        for (const mesh::Point& p : segment)
            for (int i = 0; i < 3; ++i) outline.push_back(static_cast<float>(p[i] - origin[i]));
    return outline;
}

LineStrength strengthOf(check::DefectClass defect, const std::optional<check::DefectClass>& chosen) {
    if (chosen == defect) return {1, 0.5F, 2.5F};
    if (defect->onlyWhenChosen) return {0, 0, 1.6F};
    return {chosen ? 0.45F : 1.0F, 0.12F, 1.6F};
}

void addLines(const LinesAbout& all, const std::optional<check::DefectClass>& chosen, double scale,
              draw::Subject& subject) {
    for (const DefectLines& of : all.lines) {
        const LineStrength strength = strengthOf(of.defect, chosen);
        if (strength.seen + strength.through == 0) continue;
        subject.lines.push_back({.points = of.points,
                                 .origin = all.origin,
                                 .ink = draw::colourOf(of.defect->ink.rgb),
                                 .strength = strength.seen,
                                 .throughSurface = strength.through,
                                 .width = strength.width * static_cast<float>(scale)});
    }
}

draw::Inks pictureInks() {
    return {.ground = draw::colourOf(draw::ink::sheet),
            .clay = draw::colourOf(draw::ink::clay),
            .hatch = draw::colourOf(check::misoriented.ink.rgb),
            .hatchPaper = draw::colourOf(draw::ink::hatched),
            .edge = draw::colourOf(draw::ink::edge),
            .crease = draw::colourOf(draw::ink::crease)};
}

mesh::Outcome<draw::Picture> portraitOf(const check::Surveyed& part, const check::Survey& survey,
                                        const PortraitOptions& options, mesh::Progress& progress) {
    draw::Subject subject;
    subject.inks = pictureInks();
    subject.surface = &part.mesh();
    subject.rays = &part.rays();
    subject.box = survey.mass.size;
    const mesh::Point origin = subject.box.centre();
    std::vector<float> outline;
    if (options.cutAcross && !part.mesh().triangles.empty()) {
        const int axis = *options.cutAcross;
        const double at = origin[axis];
        const auto section = measure::sectionOf(part.mesh(), {mesh::Point::Unit(axis), at}, progress);
        if (!section) return mesh::errorOf(section);
        const mesh::Point towardsEye = draw::axesOf(options.from).row(2);
        subject.left.push_back(
            {mesh::Point::Unit(axis), towardsEye[axis] > 0 ? draw::Stretch{.high = at} : draw::Stretch{.low = at}});
        draw::Fill& cap = subject.fills.emplace_back(draw::Fill{{}, draw::colourOf(draw::ink::cap), 0});
        for (mesh::TriangleId t = 0; t < section->cap.triangles.size(); ++t)
            for (unsigned k = 0; k < 3; ++k) cap.corners.push_back(section->cap.corner(t, k));
        outline = outlineAbout(*section, origin);
        subject.lines.push_back(
            {.points = outline, .origin = origin, .ink = draw::colourOf(draw::ink::edge), .endOf = 0});
    }
    const std::vector<DefectLines> lines = linesOf(part.mesh(), survey, origin);
    addLines({lines, origin}, std::nullopt, 1, subject);
    return draw::paintSmooth(subject, draw::eyeOn(part.mesh(), options.from, options.width, options.height));
}

}  // namespace zither::project
