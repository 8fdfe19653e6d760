// Shaders, buffers and draw calls; nothing is uploaded twice.
#include "desktop/part_renderer.h"

#include "check/catalogue.h"
#include "session/inks.h"

namespace zither::desktop {
namespace {

// Corners are not shared, so gl_VertexID gives the corner and with it the distance to the edges; the flat normal comes
// from derivatives. Nothing but positions is stored.
constexpr const char* surfaceVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
uniform mat4 matrix;
uniform mat4 rotation;
out vec3 local;
out vec3 turned;
out vec3 corner;
void main() {
    local = position;
    turned = mat3(rotation) * position;
    int k = gl_VertexID % 3;
    corner = vec3(k == 0, k == 1, k == 2);
    gl_Position = matrix * vec4(position, 1.0);
})";

constexpr const char* surfaceFragment = R"(#version 330 core
in vec3 local;
in vec3 turned;
in vec3 corner;
uniform vec3 clay;
uniform vec3 hatchInk;
uniform vec3 hatchPaper;
uniform vec3 edgeInk;
uniform vec3 paperColour;
uniform vec3 slabAcross;
uniform vec2 slab;
uniform vec3 leftAcross;
uniform vec2 left;
uniform bool edges;
uniform bool hatchInside;
uniform float covers;
uniform bool coated;
uniform samplerBuffer coat;
out vec4 colour;
void main() {
    float cut = dot(leftAcross, local);
    if (cut < left.x || cut > left.y) discard;
    float along = dot(slabAcross, local);
    bool ghost = along < slab.x || along > slab.y;
    ivec2 pixel = ivec2(gl_FragCoord.xy);
    if (ghost && (pixel.x + 2 * pixel.y) % 5 != 0) discard;
    vec3 normal = normalize(cross(dFdx(turned), dFdy(turned)));
    float key = max(dot(normal, normalize(vec3(-0.35, 0.55, 0.75))), 0.0);
    float fill = max(dot(normal, normalize(vec3(0.7, -0.1, 0.6))), 0.0);
    float light = 0.40 + 0.56 * key + 0.16 * fill;
    vec3 base = coated ? texelFetch(coat, gl_PrimitiveID).rgb : clay;
    if (!gl_FrontFacing && hatchInside) {
        float stripe = mod(gl_FragCoord.x + gl_FragCoord.y, 8.0);
        base = stripe < 2.6 ? hatchInk : hatchPaper;
        light = 0.72 + 0.28 * light;
    }
    vec3 shaded = base * light;
    if (edges) {
        // Edges fade where triangles get smaller than a few pixels.
        vec3 width = fwidth(corner);
        float nearest = min(min(corner.x / width.x, corner.y / width.y), corner.z / width.z);
        float size = 1.0 / max(max(width.x, width.y), width.z);
        float strength = 0.34 * smoothstep(2.2, 9.0, size) * (1.0 - smoothstep(0.35, 1.25, nearest));
        shaded = mix(shaded, edgeInk, strength);
    }
    if (ghost) shaded = mix(shaded, paperColour, 0.55);
    colour = vec4(shaded, covers);
})";

constexpr const char* lineVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
uniform mat4 matrix;
uniform float lift;
out vec3 local;
void main() {
    local = position;
    gl_Position = matrix * vec4(position, 1.0);
    gl_Position.z -= lift;
})";

constexpr const char* lineFragment = R"(#version 330 core
in vec3 local;
uniform vec4 ink;
uniform vec3 slabAcross;
uniform vec2 slab;
uniform vec3 leftAcross;
uniform vec2 left;
out vec4 colour;
void main() {
    float cut = dot(leftAcross, local);
    if (cut < left.x || cut > left.y) discard;
    float along = dot(slabAcross, local);
    colour = vec4(ink.rgb, along < slab.x || along > slab.y ? 0.25 * ink.a : ink.a);
})";

QVector3D rgb(const QColor& c) {
    return {static_cast<float>(c.redF()), static_cast<float>(c.greenF()), static_cast<float>(c.blueF())};
}

QVector2D slabOf(const session::Sight& s, const mesh::Point& origin) {
    if (!s.slab) return {-1e30F, 1e30F};
    const double at = s.slabAcross.dot(origin);
    return {static_cast<float>(s.slab->low - at), static_cast<float>(s.slab->high - at)};
}

// What a section leaves; everything where there is none.
QVector2D leftOf(const session::Sight& s, const mesh::Point& origin) {
    if (!s.sectionAt) return {-1e30F, 1e30F};
    const auto at = static_cast<float>(*s.sectionAt - origin[s.sectionAxis]);
    return s.sectionLeavesLow ? QVector2D(-1e30F, at) : QVector2D(at, 1e30F);
}

QVector3D vector(const mesh::Point& p) {
    return {static_cast<float>(p.x()), static_cast<float>(p.y()), static_cast<float>(p.z())};
}

// What is a ghost, and what is left, for either program.
void setCuts(QOpenGLShaderProgram& program, const session::Sight& sight, const mesh::Point& origin) {
    program.setUniformValue("slabAcross", vector(sight.slabAcross));
    program.setUniformValue("slab", slabOf(sight, origin));
    program.setUniformValue("leftAcross", vector(mesh::Point::Unit(sight.sectionAxis)));
    program.setUniformValue("left", leftOf(sight, origin));
}

}  // namespace

void PartRenderer::initialize() {
    initializeOpenGLFunctions();
    surface_.addShaderFromSourceCode(QOpenGLShader::Vertex, surfaceVertex);
    surface_.addShaderFromSourceCode(QOpenGLShader::Fragment, surfaceFragment);
    surface_.link();
    line_.addShaderFromSourceCode(QOpenGLShader::Vertex, lineVertex);
    line_.addShaderFromSourceCode(QOpenGLShader::Fragment, lineFragment);
    line_.link();
    for (QOpenGLVertexArrayObject* a : {&fullArray_, &linesArray_, &capArray_}) a->create();
    for (QOpenGLBuffer* b : {&full_, &lines_, &cap_}) b->create();
    glGenBuffers(1, &coatBuffer_);
    glGenTextures(1, &coatTexture_);
}

void PartRenderer::release() {
    for (QOpenGLVertexArrayObject* a : {&fullArray_, &linesArray_, &capArray_}) a->destroy();
    for (QOpenGLBuffer* b : {&full_, &lines_, &cap_}) b->destroy();
    glDeleteBuffers(1, &coatBuffer_);
    glDeleteTextures(1, &coatTexture_);
    surface_.removeAllShaders();
    line_.removeAllShaders();
}

void PartRenderer::upload(QOpenGLBuffer& buffer, QOpenGLVertexArrayObject& array, const std::vector<float>& values) {
    array.bind();
    buffer.bind();
    buffer.allocate(values.data(), static_cast<int>(values.size() * sizeof(float)));
    glEnableVertexAttribArray(0);
    glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, 0, nullptr);
    array.release();
    buffer.release();
}

void PartRenderer::setDisplay(std::shared_ptr<const session::Display> display) {
    if (display == display_) return;
    display_ = std::move(display);
    if (!display_) return;
    upload(full_, fullArray_, session::cornersForCard(*display_));
    std::vector<float> all;
    lineRanges_.clear();
    for (const project::DefectLines& lines : display_->lines) {
        lineRanges_.push_back(
            {lines.defect, static_cast<int>(all.size() / 3), static_cast<int>(lines.points.size() / 3)});
        all.insert(all.end(), lines.points.begin(), lines.points.end());
    }
    upload(lines_, linesArray_, all);
    hasCoat_ = false;
    moved_ = nullptr;
}

// Writes over the corners of what was moved, and puts those back that are so no more.
void PartRenderer::setMoved(const session::Sight& sight) {
    if (sight.moved == moved_ || !display_) return;
    full_.bind();
    const auto write = [&](mesh::TriangleId t, const mesh::Mesh& from, mesh::TriangleId of) {
        std::array<float, 9> corners{};
        for (unsigned k = 0; k < 3; ++k) {
            const mesh::Point p = from.corner(of, k) - display_->origin;
            for (int i = 0; i < 3; ++i) corners[3 * k + static_cast<unsigned>(i)] = static_cast<float>(p[i]);
        }
        full_.write(static_cast<int>(t * sizeof(corners)), corners.data(), static_cast<int>(sizeof(corners)));
    };
    if (moved_)
        for (const mesh::TriangleId t : moved_->sources) write(t, display_->mesh(), t);
    moved_ = sight.moved;
    if (moved_)
        for (std::size_t i = 0; i < moved_->sources.size(); ++i)
            write(moved_->sources[i], moved_->mesh, static_cast<mesh::TriangleId>(i));
    full_.release();
}

void PartRenderer::setCoat(const session::Sight& sight) {
    hasCoat_ = sight.isCoated();
    if (!hasCoat_) return;
    const std::vector<std::uint32_t>& colours = *sight.coat;
    glBindBuffer(GL_TEXTURE_BUFFER, coatBuffer_);
    glBufferData(GL_TEXTURE_BUFFER, static_cast<GLsizeiptr>(colours.size() * 4), colours.data(), GL_STATIC_DRAW);
    glBindTexture(GL_TEXTURE_BUFFER, coatTexture_);
    glTexBuffer(GL_TEXTURE_BUFFER, GL_RGBA8, coatBuffer_);
    glBindBuffer(GL_TEXTURE_BUFFER, 0);
}

void PartRenderer::setSection(std::shared_ptr<const measure::Section> section) {
    if (section == section_) return;
    section_ = std::move(section);
    if (!section_ || !display_) return;
    std::vector<float> values;
    const auto add = [&](const mesh::Point& p) {
        for (int i = 0; i < 3; ++i) values.push_back(static_cast<float>(p[i] - display_->origin[i]));
    };
    for (std::size_t kind = 0; kind < session::capInks().size(); ++kind) {
        capRange_[kind] = static_cast<int>(values.size() / 3);
        for (mesh::TriangleId t = 0; t < section_->cap.triangles.size(); ++t)
            if (session::capInks()[kind].isOf(section_->depth[t]))
                for (unsigned k = 0; k < 3; ++k) add(section_->cap.corner(t, k));
    }
    capRange_[3] = static_cast<int>(values.size() / 3);
    for (const auto& [from, to] : section_->outline) {
        add(from);
        add(to);
    }
    capRange_[4] = static_cast<int>(values.size() / 3);
    upload(cap_, capArray_, values);
}

void PartRenderer::draw(const session::Sight& sight) {
    setDisplay(sight.display);
    setMoved(sight);
    setCoat(sight);
    setSection(sight.section);
    const QColor& ground = session::paper::sheet;
    glClearColor(static_cast<float>(ground.redF()), static_cast<float>(ground.greenF()),
                 static_cast<float>(ground.blueF()), 1);
    glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    if (!display_) return;
    glEnable(GL_DEPTH_TEST);
    glDisable(GL_CULL_FACE);
    QMatrix4x4 matrix = sight.camera.viewProjection();
    matrix.translate(static_cast<float>(display_->origin.x()), static_cast<float>(display_->origin.y()),
                     static_cast<float>(display_->origin.z()));
    drawSurface(sight, matrix);
    if (section_ && sight.sectionAt) drawSection(matrix);
    drawLines(sight, matrix);
    glDisable(GL_DEPTH_TEST);
}

void PartRenderer::drawSurface(const session::Sight& sight, const QMatrix4x4& matrix) {
    surface_.bind();
    surface_.setUniformValue("matrix", matrix);
    surface_.setUniformValue("rotation", sight.camera.rotation());
    surface_.setUniformValue("clay", rgb(session::paper::clay));
    surface_.setUniformValue("hatchInk", rgb(session::inkOf(check::misoriented)));
    surface_.setUniformValue("hatchPaper", rgb(session::paper::hatched));
    surface_.setUniformValue("edgeInk", rgb(session::paper::edge));
    surface_.setUniformValue("paperColour", rgb(session::paper::sheet));
    setCuts(surface_, sight, display_->origin);
    surface_.setUniformValue("edges", sight.edges);
    surface_.setUniformValue("hatchInside", sight.hatchInside);
    surface_.setUniformValue("coated", hasCoat_);
    surface_.setUniformValue("covers", sight.seeThrough ? 0.3F : 1.0F);
    if (sight.seeThrough) {
        // Whatever lies in front: layers over each other, in any order.
        glDisable(GL_DEPTH_TEST);
        glEnable(GL_BLEND);
        glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE);
    }
    surface_.setUniformValue("coat", 0);
    glActiveTexture(GL_TEXTURE0);
    glBindTexture(GL_TEXTURE_BUFFER, coatTexture_);
    fullArray_.bind();
    glDrawArrays(GL_TRIANGLES, 0, static_cast<GLsizei>(3 * display_->mesh().triangles.size()));
    fullArray_.release();
    surface_.release();
    glDisable(GL_BLEND);
    glEnable(GL_DEPTH_TEST);
}

void PartRenderer::drawSection(const QMatrix4x4& matrix) {
    line_.bind();
    line_.setUniformValue("matrix", matrix);
    setCuts(line_, {}, display_->origin);
    line_.setUniformValue("lift", 0.0F);
    capArray_.bind();
    for (std::size_t kind = 0; kind < session::capInks().size(); ++kind) {
        line_.setUniformValue("ink", QVector4D(rgb(session::capInks()[kind].ink), 1));
        glDrawArrays(GL_TRIANGLES, capRange_[kind], capRange_[kind + 1] - capRange_[kind]);
    }
    line_.setUniformValue("ink", QVector4D(rgb(session::paper::ink), 1));
    line_.setUniformValue("lift", 0.0008F);
    glLineWidth(1.6F);
    glDrawArrays(GL_LINES, capRange_[3], capRange_[4] - capRange_[3]);
    capArray_.release();
    line_.release();
}

void PartRenderer::drawLines(const session::Sight& sight, const QMatrix4x4& matrix) {
    line_.bind();
    line_.setUniformValue("matrix", matrix);
    setCuts(line_, sight, display_->origin);
    glEnable(GL_BLEND);
    // The picture itself stays opaque: its alpha is what the window is composed with.
    glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE);
    linesArray_.bind();
    // Twice: what is in front in full ink, and what is hidden shining through faintly.
    for (const bool through : {true, false}) {
        through ? glDisable(GL_DEPTH_TEST) : glEnable(GL_DEPTH_TEST);
        line_.setUniformValue("lift", through ? 0.0F : 0.0006F);
        for (const LineRange& range : lineRanges_) {
            const project::LineStrength strength = project::strengthOf(range.defect, sight.chosen);
            const float alpha = through ? strength.through : strength.seen;
            if (alpha == 0) continue;
            line_.setUniformValue("ink", QVector4D(rgb(session::inkOf(range.defect)), alpha));
            glLineWidth(strength.width);
            glDrawArrays(GL_LINES, range.first, range.count);
        }
    }
    linesArray_.release();
    glDisable(GL_BLEND);
    line_.release();
}

}  // namespace zither::desktop
