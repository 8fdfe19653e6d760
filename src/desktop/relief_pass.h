// Creases and outlines in ink, and hollows darker, on a graphics card: what draw::Painter does by rays, from the depths
// and normals that the surface leaves in a picture of its own, twice as fine as the screen.
#pragma once

#include <QColor>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <QSize>

namespace zither::desktop {

// All calls need the context current.
class ReliefPass : protected QOpenGLFunctions_3_3_Core {
public:
    // Pixels of its picture to the side for each of the screen.
    static constexpr int fineness = 2;

    void initialize();
    void release();
    // From now on what is drawn goes into its picture: colours (0), and at 1 the normal in the eye's axes with the size
    // of the triangle in pixels of the screen; 0: nothing is there, negative: a ghost.
    void begin(const QColor& ground);
    // Back to where it was drawn before: the picture with its relief, and the depths.
    struct Scale {
        double pixel = 1;       // width of one of the screen, in the part's unit
        double depthRange = 1;  // from the nearest depth to the farthest
    };
    void end(const Scale& scale);

private:
    void resize(const QSize& size);

    QOpenGLShaderProgram program_;
    QOpenGLVertexArrayObject nothing_;  // the corners of the screen come from their numbers
    GLuint frame_ = 0;
    GLuint colours_ = 0;
    GLuint skins_ = 0;
    GLuint depths_ = 0;
    QSize size_;  // of its picture
    GLint before_ = 0;
    GLint view_[4] = {};
    bool scissored_ = false;
};

}  // namespace zither::desktop
