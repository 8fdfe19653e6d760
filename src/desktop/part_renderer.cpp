// Shaders, buffers and draw calls; nothing is uploaded twice.
#include "desktop/part_renderer.h"

#include <algorithm>

#include "check/catalogue.h"
#include "session/reading/palette.h"

namespace zither::desktop {
namespace {

// Corners are not shared, so gl_VertexID gives the corner and with it the distance to the edges; the flat normal comes
// from derivatives. Nothing but positions is stored.
constexpr const char* surfaceVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
layout(location = 1) in float value;
uniform mat4 matrix;
uniform mat4 rotation;
out vec3 local;
out vec3 turned;
out vec3 corner;
out float tinted;
void main() {
    local = position;
    turned = mat3(rotation) * position;
    tinted = value;
    int k = gl_VertexID % 3;
    corner = vec3(k == 0, k == 1, k == 2);
    gl_Position = matrix * vec4(position, 1.0);
})";

constexpr const char* surfaceFragment = R"(#version 330 core
in vec3 local;
in vec3 turned;
in vec3 corner;
in float tinted;
uniform vec2 tintRange;
uniform vec3 tintRamp[5];
uniform vec3 clay;
uniform vec3 hatchInk;
uniform vec3 hatchPaper;
uniform vec3 edgeInk;
uniform vec3 paperColour;
uniform vec3 slabAcross;
uniform vec2 slab;
uniform int cuts;
uniform vec3 leftAcross[4];
uniform vec2 left[4];
uniform bool edges;
uniform bool hatchInside;
uniform float covers;
uniform bool coated;
uniform samplerBuffer coat;
uniform bool veiled;
uniform usamplerBuffer veil;  // 1: a ghost, 2: not there
uniform float fine;  // pixels for each of the screen
layout(location = 0) out vec4 colour;
layout(location = 1) out vec4 skin;
void main() {
    for (int i = 0; i < cuts; ++i) {
        float cut = dot(leftAcross[i], local);
        if (cut < left[i].x || cut > left[i].y) discard;
    }
    float along = dot(slabAcross, local);
    uint shown = veiled ? texelFetch(veil, gl_PrimitiveID).r : 0u;
    if (shown == 2u) discard;
    bool ghost = along < slab.x || along > slab.y || shown == 1u;
    ivec2 pixel = ivec2(gl_FragCoord.xy / fine);
    if (ghost && (pixel.x + 2 * pixel.y) % 5 != 0) discard;
    vec3 normal = normalize(cross(dFdx(turned), dFdy(turned)));
    float key = max(dot(normal, normalize(vec3(-0.35, 0.55, 0.75))), 0.0);
    float fill = max(dot(normal, normalize(vec3(0.7, -0.1, 0.6))), 0.0);
    float light = 0.40 + 0.56 * key + 0.16 * fill;
    vec3 base = clay;
    if (coated) {
        vec4 own = texelFetch(coat, gl_PrimitiveID);
        float along = clamp((tinted - tintRange.x) / (tintRange.y - tintRange.x), 0.0, 1.0) * 4.0;
        int stop = min(int(along), 3);
        base = own.a > 0.0 ? own.rgb : mix(tintRamp[stop], tintRamp[stop + 1], along - float(stop));
    }
    if (!gl_FrontFacing && hatchInside) {
        float stripe = mod((gl_FragCoord.x + gl_FragCoord.y) / fine, 8.0);
        base = stripe < 2.6 ? hatchInk : hatchPaper;
        light = 0.72 + 0.28 * light;
    }
    vec3 shaded = base * light;
    vec3 width = fwidth(corner) * fine;
    float size = 1.0 / max(max(width.x, width.y), width.z);
    if (edges) {
        // Edges fade where triangles get smaller than a few pixels.
        float nearest = min(min(corner.x / width.x, corner.y / width.y), corner.z / width.z);
        float strength = 0.34 * smoothstep(2.2, 9.0, size) * (1.0 - smoothstep(0.35, 1.25, nearest));
        shaded = mix(shaded, edgeInk, strength);
    }
    if (ghost) shaded = mix(shaded, paperColour, 0.55);
    colour = vec4(shaded, covers);
    skin = vec4(normal, ghost ? -1.0 : max(size, 1e-3));
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
uniform int cuts;
uniform vec3 leftAcross[4];
uniform vec2 left[4];
uniform int endOf;
out vec4 colour;
void main() {
    for (int i = 0; i < cuts; ++i) {
        float cut = dot(leftAcross[i], local);
        if (i != endOf && (cut < left[i].x || cut > left[i].y)) discard;
    }
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

QVector3D vector(const mesh::Point& p) {
    return {static_cast<float>(p.x()), static_cast<float>(p.y()), static_cast<float>(p.z())};
}

// From the nearest depth to the farthest, in the part's unit: rotations and moves do not change the third row's length.
double depthRangeOf(const QMatrix4x4& matrix) {
    return 2 / std::max(1e-30F, matrix.row(2).toVector3D().length());
}

// What is a ghost, and what is left, for either program.
void setCuts(QOpenGLShaderProgram& program, const session::Sight& sight, const mesh::Point& origin) {
    program.setUniformValue("slabAcross", vector(sight.slabAcross));
    program.setUniformValue("slab", slabOf(sight, origin));
    const std::size_t count = std::min(sight.cuts.size(), session::Sectioning::most);
    program.setUniformValue("cuts", static_cast<int>(count));
    for (std::size_t i = 0; i < count; ++i) {
        const draw::Left& left = sight.cuts[i].left;
        const double middle = left.across.dot(origin);
        const auto end = [&](double at) { return static_cast<float>(std::clamp(at - middle, -1e30, 1e30)); };
        program.setUniformValue(qPrintable(QString("leftAcross[%1]").arg(i)), vector(left.across));
        program.setUniformValue(qPrintable(QString("left[%1]").arg(i)),
                                QVector2D(end(left.along.low), end(left.along.high)));
    }
    constexpr int ofNone = -1;
    program.setUniformValue("endOf", ofNone);
}

}  // namespace

void PartRenderer::initialize() {
    initializeOpenGLFunctions();
    relief_.initialize();
    surface_.addShaderFromSourceCode(QOpenGLShader::Vertex, surfaceVertex);
    surface_.addShaderFromSourceCode(QOpenGLShader::Fragment, surfaceFragment);
    surface_.link();
    line_.addShaderFromSourceCode(QOpenGLShader::Vertex, lineVertex);
    line_.addShaderFromSourceCode(QOpenGLShader::Fragment, lineFragment);
    line_.link();
    for (QOpenGLVertexArrayObject* a : {&fullArray_, &linesArray_, &capArray_}) a->create();
    for (QOpenGLBuffer* b : {&full_, &lines_, &cap_, &tints_}) b->create();
    for (GLuint* buffer : {&coatBuffer_, &veilBuffer_}) glGenBuffers(1, buffer);
    for (GLuint* texture : {&coatTexture_, &veilTexture_}) glGenTextures(1, texture);
}

void PartRenderer::release() {
    relief_.release();
    for (QOpenGLVertexArrayObject* a : {&fullArray_, &linesArray_, &capArray_}) a->destroy();
    for (QOpenGLBuffer* b : {&full_, &lines_, &cap_, &tints_}) b->destroy();
    for (GLuint* buffer : {&coatBuffer_, &veilBuffer_}) glDeleteBuffers(1, buffer);
    for (GLuint* texture : {&coatTexture_, &veilTexture_}) glDeleteTextures(1, texture);
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
    setLines(display_->lines);
    veil_ = nullptr;
    hasCoat_ = false;
    moved_ = nullptr;
    tint_ = nullptr;
    sections_.clear();
    caps_.clear();
}

void PartRenderer::setLines(const std::vector<project::DefectLines>& ofClasses) {
    std::vector<float> all;
    lineRanges_.clear();
    for (const project::DefectLines& lines : ofClasses) {
        lineRanges_.push_back(
            {lines.defect, static_cast<int>(all.size() / 3), static_cast<int>(lines.points.size() / 3)});
        all.insert(all.end(), lines.points.begin(), lines.points.end());
    }
    upload(lines_, linesArray_, all);
}

void PartRenderer::setVeil(const session::Sight& sight) {
    const bool fits = sight.veil && display_ && sight.veil->faint.size() == display_->mesh().triangles.size();
    const std::shared_ptr<const session::Veil::Flags> veil = fits ? sight.veil : nullptr;
    if (veil == veil_ || !display_) return;
    veil_ = veil;
    setLines(veil_ ? veil_->lines : display_->lines);
    if (!veil_) return;
    std::vector<std::uint8_t> shown(veil_->faint.size());
    for (std::size_t t = 0; t < shown.size(); ++t) shown[t] = veil_->hidden[t] ? 2 : veil_->faint[t];
    glBindBuffer(GL_TEXTURE_BUFFER, veilBuffer_);
    glBufferData(GL_TEXTURE_BUFFER, static_cast<GLsizeiptr>(shown.size()), shown.data(), GL_STATIC_DRAW);
    glBindTexture(GL_TEXTURE_BUFFER, veilTexture_);
    glTexBuffer(GL_TEXTURE_BUFFER, GL_R8UI, veilBuffer_);
    glBindBuffer(GL_TEXTURE_BUFFER, 0);
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

void PartRenderer::setTint(const session::Sight& sight) {
    if (sight.tint == tint_ || !display_) return;
    tint_ = sight.tint;
    std::vector<float> values;
    if (tint_) {
        values.reserve(3 * display_->mesh().triangles.size());
        for (const mesh::Triangle& tri : display_->mesh().triangles)
            for (const mesh::VertexId v : tri) values.push_back(tint_->values[v]);
    }
    fullArray_.bind();
    tints_.bind();
    tints_.allocate(values.data(), static_cast<int>(values.size() * sizeof(float)));
    if (tint_) {
        glEnableVertexAttribArray(1);
        glVertexAttribPointer(1, 1, GL_FLOAT, GL_FALSE, 0, nullptr);
    } else {
        glDisableVertexAttribArray(1);
    }
    fullArray_.release();
    tints_.release();
}

void PartRenderer::setSections(const session::Sight& sight) {
    std::vector<std::shared_ptr<const measure::Section>> sections;
    for (const session::SeenCut& cut : sight.cuts)
        for (const auto& section : cut.ends) sections.push_back(section);
    if (sections == sections_ || !display_) return;
    sections_ = std::move(sections);
    caps_.clear();
    const auto kinds = session::capInks(*sight.paper);
    std::vector<float> values;
    const auto add = [&](const mesh::Point& p) {
        for (int i = 0; i < 3; ++i) values.push_back(static_cast<float>(p[i] - display_->origin[i]));
    };
    const auto count = [&] { return static_cast<int>(values.size() / 3); };
    for (std::size_t i = 0; i < sections_.size(); ++i) {
        if (!sections_[i]) continue;
        const measure::Section& section = *sections_[i];
        Cap& cap = caps_.emplace_back();
        cap.cut = static_cast<int>(i / 2);
        for (std::size_t kind = 0; kind < kinds.size(); ++kind) {
            cap.range[kind] = count();
            for (mesh::TriangleId t = 0; t < section.cap.triangles.size(); ++t)
                if (kinds[kind].isOf(section.depth[t]))
                    for (unsigned k = 0; k < 3; ++k) add(section.cap.corner(t, k));
        }
        cap.range[3] = count();
        for (const auto& [from, to] : section.outline) {
            add(from);
            add(to);
        }
        cap.range[4] = count();
    }
    upload(cap_, capArray_, values);
}

void PartRenderer::draw(const session::Sight& sight) {
    setDisplay(sight.display);
    setMoved(sight);
    setCoat(sight);
    setTint(sight);
    setVeil(sight);
    setSections(sight);
    const QColor& ground = sight.paper->sheet;
    glClearColor(static_cast<float>(ground.redF()), static_cast<float>(ground.greenF()),
                 static_cast<float>(ground.blueF()), 1);
    glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    if (!display_) return;
    glEnable(GL_DEPTH_TEST);
    glDisable(GL_CULL_FACE);
    GLint view[4] = {};
    glGetIntegerv(GL_VIEWPORT, view);
    const double pixels = view[2] / std::max(1.0, sight.camera.viewport().width());
    QMatrix4x4 matrix = sight.camera.viewProjection();
    matrix.translate(static_cast<float>(display_->origin.x()), static_cast<float>(display_->origin.y()),
                     static_cast<float>(display_->origin.z()));
    // Layers over each other have no relief.
    const bool relief = sight.relief && !sight.seeThrough;
    if (relief) relief_.begin(sight.paper->sheet);
    drawSurface(sight, matrix, relief ? ReliefPass::fineness : 1);
    if (relief) relief_.end({sight.camera.worldPerPixel() / pixels, depthRangeOf(matrix)});
    drawSections(sight, matrix);
    drawLines(sight, matrix);
    glDisable(GL_DEPTH_TEST);
}

void PartRenderer::drawSurface(const session::Sight& sight, const QMatrix4x4& matrix, int fine) {
    surface_.bind();
    surface_.setUniformValue("fine", static_cast<float>(fine));
    surface_.setUniformValue("matrix", matrix);
    surface_.setUniformValue("rotation", sight.camera.rotation());
    surface_.setUniformValue("clay", rgb(session::clay::face));
    surface_.setUniformValue("hatchInk", rgb(sight.paper->inkOf(check::misoriented)));
    surface_.setUniformValue("hatchPaper", rgb(session::clay::hatched));
    surface_.setUniformValue("edgeInk", rgb(sight.paper->edge));
    surface_.setUniformValue("paperColour", rgb(sight.paper->sheet));
    setCuts(surface_, sight, display_->origin);
    surface_.setUniformValue("edges", sight.edges);
    surface_.setUniformValue("hatchInside", sight.hatchInside);
    surface_.setUniformValue("coated", hasCoat_);
    if (tint_) {
        const auto range = QVector2D(static_cast<float>(tint_->low), static_cast<float>(tint_->high));
        surface_.setUniformValue("tintRange", range.y() > range.x() ? range : QVector2D(range.x(), range.x() + 1));
        for (std::size_t i = 0; i < tint_->ramp.size(); ++i)
            surface_.setUniformValue(qPrintable(QString("tintRamp[%1]").arg(i)),
                                     QVector3D(tint_->ramp[i].x(), tint_->ramp[i].y(), tint_->ramp[i].z()));
    }
    surface_.setUniformValue("covers", sight.seeThrough ? 0.3F : 1.0F);
    if (sight.seeThrough) {
        // Whatever lies in front: layers over each other, in any order.
        glDisable(GL_DEPTH_TEST);
        glEnable(GL_BLEND);
        glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE);
    }
    surface_.setUniformValue("coat", 0);
    surface_.setUniformValue("veil", 1);
    surface_.setUniformValue("veiled", veil_ != nullptr);
    glActiveTexture(GL_TEXTURE1);
    glBindTexture(GL_TEXTURE_BUFFER, veilTexture_);
    glActiveTexture(GL_TEXTURE0);
    glBindTexture(GL_TEXTURE_BUFFER, coatTexture_);
    fullArray_.bind();
    glDrawArrays(GL_TRIANGLES, 0, static_cast<GLsizei>(3 * display_->mesh().triangles.size()));
    fullArray_.release();
    surface_.release();
    glDisable(GL_BLEND);
    glEnable(GL_DEPTH_TEST);
}

void PartRenderer::drawSections(const session::Sight& sight, const QMatrix4x4& matrix) {
    if (sight.cuts.empty()) return;
    line_.bind();
    line_.setUniformValue("matrix", matrix);
    session::Sight withoutSlab;
    withoutSlab.cuts = sight.cuts;
    setCuts(line_, withoutSlab, display_->origin);
    const auto kinds = session::capInks(*sight.paper);
    capArray_.bind();
    for (const Cap& cap : caps_) {
        line_.setUniformValue("endOf", cap.cut);
        line_.setUniformValue("lift", 0.0F);
        for (std::size_t kind = 0; kind < kinds.size(); ++kind) {
            line_.setUniformValue("ink", QVector4D(rgb(kinds[kind].ink), 1));
            glDrawArrays(GL_TRIANGLES, cap.range[kind], cap.range[kind + 1] - cap.range[kind]);
        }
        line_.setUniformValue("ink", QVector4D(rgb(sight.paper->ink), 1));
        line_.setUniformValue("lift", 0.0008F);
        glLineWidth(1.6F);
        glDrawArrays(GL_LINES, cap.range[3], cap.range[4] - cap.range[3]);
    }
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
            line_.setUniformValue("ink", QVector4D(rgb(sight.paper->inkOf(range.defect)), alpha));
            glLineWidth(strength.width);
            glDrawArrays(GL_LINES, range.first, range.count);
        }
    }
    linesArray_.release();
    glDisable(GL_BLEND);
    line_.release();
}

}  // namespace zither::desktop
