// Draws a sight with OpenGL 3.3 core: the part in matte clay with its edges and relief, insides hatched, what lies
// outside the slab as a ghost, lines of the findings over it and, fainter, through it.
#pragma once

#include <QMatrix4x4>
#include <QOpenGLBuffer>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <array>
#include <vector>

#include "desktop/relief_pass.h"
#include "session/reading/sight.h"

namespace zither::desktop {

// All calls need the context current.
class PartRenderer : protected QOpenGLFunctions_3_3_Core {
public:
    void initialize();
    // Uploads what is another than last time.
    void draw(const session::Sight& sight);
    void release();

private:
    void setDisplay(std::shared_ptr<const session::Display> display);
    void setCoat(const session::Sight& sight);
    void setMoved(const session::Sight& sight);
    void setTint(const session::Sight& sight);
    void setVeil(const session::Sight& sight);
    void setLines(const std::vector<project::DefectLines>& ofClasses);
    void setSections(const session::Sight& sight);
    void upload(QOpenGLBuffer& buffer, QOpenGLVertexArrayObject& array, const std::vector<float>& values);
    // `fine`: pixels for each of the screen.
    void drawSurface(const session::Sight& sight, const QMatrix4x4& matrix, int fine);
    void drawLines(const session::Sight& sight, const QMatrix4x4& matrix);
    void drawSections(const session::Sight& sight, const QMatrix4x4& matrix);

    // Vertices of the lines of a class.
    struct LineRange {
        check::DefectClass defect;
        int first = 0;
        int count = 0;
    };

    std::shared_ptr<const session::Display> display_;
    std::shared_ptr<const session::Moved> moved_;
    ReliefPass relief_;
    QOpenGLShaderProgram surface_;
    QOpenGLShaderProgram line_;
    QOpenGLBuffer full_;
    QOpenGLBuffer lines_;
    QOpenGLBuffer tints_;
    std::shared_ptr<const session::SmoothTint> tint_;
    QOpenGLVertexArrayObject fullArray_;
    QOpenGLVertexArrayObject linesArray_;
    std::vector<LineRange> lineRanges_;
    // What closes a cut.
    struct Cap {
        int cut = 0;
        std::array<int, 5> range{};  // where the kinds of cap begin, then the outline, then its end
    };
    std::vector<std::shared_ptr<const measure::Section>> sections_;  // of all cuts
    std::vector<Cap> caps_;
    QOpenGLBuffer cap_;
    QOpenGLVertexArrayObject capArray_;
    GLuint coatBuffer_ = 0;
    GLuint coatTexture_ = 0;
    GLuint veilBuffer_ = 0;
    GLuint veilTexture_ = 0;
    std::shared_ptr<const session::Veil::Flags> veil_;
    bool hasCoat_ = false;
};

}  // namespace zither::desktop
