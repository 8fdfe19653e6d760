// Draws a Display with OpenGL 3.3 core: the part in matte clay with its edges, insides hatched, what lies outside the
// slab as a ghost, lines of the findings over it and, fainter, through it.
#pragma once

#include <QMatrix4x4>
#include <QOpenGLBuffer>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <array>
#include <optional>
#include <vector>

#include "session/workshop.h"

namespace zither::desktop {

struct DrawSettings {
    QMatrix4x4 viewProjection;
    QMatrix4x4 rotation;
    mesh::Point eyeCentre = mesh::Point::Zero();  // camera centre
    bool standIn = false;                         // draw the lighter stand-in where there is one
    bool edges = true;
    bool hatchInside = true;
    int slabAxis = 0;
    std::optional<session::Slab> slab;
    std::optional<check::DefectClass> chosen;  // its lines are drawn stronger
    std::optional<double> sectionAt;           // across slabAxis; what lies before it is left out
    bool sectionLeavesLow = true;              // what is left lies below it
};

// All calls need the context current.
class PartRenderer : protected QOpenGLFunctions_3_3_Core {
public:
    void initialize();
    // Uploads when it is another display, or another coat, than last time.
    void setDisplay(std::shared_ptr<const session::Display> display);
    void setCoat(const std::vector<std::uint32_t>& colours);
    void setSection(std::shared_ptr<const measure::Section> section);
    void draw(const DrawSettings& settings);
    void release();
    [[nodiscard]] std::size_t triangleCount(bool standIn) const;

private:
    void upload(QOpenGLBuffer& buffer, QOpenGLVertexArrayObject& array, const std::vector<float>& values);
    void drawSurface(const DrawSettings& settings, const QMatrix4x4& matrix);
    void drawLines(const DrawSettings& settings, const QMatrix4x4& matrix);
    void drawSection(const QMatrix4x4& matrix);

    // Vertices of the lines of a class.
    struct LineRange {
        check::DefectClass defect;
        int first = 0;
        int count = 0;
    };

    std::shared_ptr<const session::Display> display_;
    QOpenGLShaderProgram surface_;
    QOpenGLShaderProgram line_;
    QOpenGLBuffer full_;
    QOpenGLBuffer light_;
    QOpenGLBuffer lines_;
    QOpenGLVertexArrayObject fullArray_;
    QOpenGLVertexArrayObject lightArray_;
    QOpenGLVertexArrayObject linesArray_;
    std::vector<LineRange> lineRanges_;
    std::shared_ptr<const measure::Section> section_;
    QOpenGLBuffer cap_;
    QOpenGLVertexArrayObject capArray_;
    std::array<int, 5> capRange_{};  // where the kinds of cap begin, then the outline, then its end
    GLuint coatBuffer_ = 0;
    GLuint coatTexture_ = 0;
    bool hasCoat_ = false;
};

}  // namespace zither::desktop
