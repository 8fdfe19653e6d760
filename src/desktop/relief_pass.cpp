// The strengths are those of draw/paint.cpp.
#include "desktop/relief_pass.h"

#include <algorithm>

#include "draw/inks.h"

namespace zither::desktop {
namespace {

constexpr const char* wholeScreen = R"(#version 330 core
void main() {
    vec2 corner = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
    gl_Position = vec4(corner, 0.0, 1.0);
})";

constexpr const char* relief = R"(#version 330 core
uniform sampler2D colours;
uniform sampler2D skins;
uniform sampler2D depths;
uniform ivec2 origin;
uniform int fine;
uniform float pixel;
uniform float depthRange;
uniform float reach;
uniform vec3 crease;
out vec4 colour;

bool inside(ivec2 p) {
    return all(greaterThanEqual(p, ivec2(0))) && all(lessThan(p, textureSize(colours, 0)));
}
float depthAt(ivec2 p) { return texelFetch(depths, p, 0).r * depthRange; }

// By how much the depth grows from a pixel to one beside or below it, where the surface goes on flat.
float slopeOf(vec4 skin, bool below) {
    return (below ? -skin.y : skin.x) / max(skin.z, 0.05) * pixel;
}

// Above 0 on the first of two neighbours, below on the second.
float lineBetween(ivec2 p, ivec2 q, bool below) {
    if (!inside(p) || !inside(q)) return 0.0;
    vec4 a = texelFetch(skins, p, 0);
    vec4 b = texelFetch(skins, q, 0);
    if (a.w < 0.0 || b.w < 0.0 || (a.w == 0.0 && b.w == 0.0)) return 0.0;
    if (a.w == 0.0 || b.w == 0.0) return b.w == 0.0 ? 0.62 : -0.62;
    float step = depthAt(q) - depthAt(p);
    float jump = min(abs(step - slopeOf(a, below)), abs(step - slopeOf(b, below)));
    if (jump > 2.5 * pixel) {
        float torn = 0.62 * smoothstep(2.5 * pixel, 7.0 * pixel, jump);
        return step > 0.0 ? torn : -torn;
    }
    float bend = dot(a.xyz, b.xyz);
    if (bend >= 0.94) return 0.0;
    return 0.42 * smoothstep(1.5, 4.0, min(a.w, b.w)) * (1.0 - smoothstep(0.82, 0.94, bend));
}

float hollowAt(ivec2 p) {
    const vec2 around[8] = vec2[8](vec2(5, 0), vec2(3.5, 3.5), vec2(0, 5), vec2(-3.5, 3.5), vec2(12, 5), vec2(5, 12),
                                   vec2(-5, 12), vec2(-12, 5));
    float here = depthAt(p);
    float sum = 0.0;
    for (int i = 0; i < 8; ++i) {
        ivec2 way = ivec2(round(around[i] * reach)) * fine;
        ivec2 a = p + way;
        ivec2 b = p - way;
        if (!inside(a) || !inside(b)) continue;
        if (texelFetch(skins, a, 0).w <= 0.0 || texelFetch(skins, b, 0).w <= 0.0) continue;
        float apart = length(vec2(way)) / float(fine) * pixel;
        sum += clamp((here - 0.5 * (depthAt(a) + depthAt(b))) / apart, -1.0, 1.0);
    }
    return sum / 8.0;
}

vec3 shown(ivec2 p) {
    vec3 seen = texelFetch(colours, p, 0).rgb;
    if (texelFetch(skins, p, 0).w <= 0.0) return seen;
    ivec2 right = ivec2(fine, 0);
    ivec2 down = ivec2(0, -fine);
    float ink = max(max(lineBetween(p, p + right, false), lineBetween(p, p + down, true)),
                    max(-lineBetween(p - right, p, false), -lineBetween(p - down, p, true)));
    seen *= 1.0 - 0.55 * max(0.0, hollowAt(p) - 0.02);
    return mix(seen, crease, max(ink, 0.0));
}

void main() {
    ivec2 first = (ivec2(gl_FragCoord.xy) - origin) * fine;
    vec3 sum = vec3(0.0);
    float nearest = 1.0;
    for (int i = 0; i < fine * fine; ++i) {
        ivec2 p = first + ivec2(i % fine, i / fine);
        sum += shown(p);
        nearest = min(nearest, texelFetch(depths, p, 0).r);
    }
    colour = vec4(sum / float(fine * fine), 1.0);
    gl_FragDepth = nearest;
})";

QVector3D rgb(std::uint32_t colour) {
    const QColor c = QColor::fromRgb(colour);
    return {static_cast<float>(c.redF()), static_cast<float>(c.greenF()), static_cast<float>(c.blueF())};
}

}  // namespace

void ReliefPass::initialize() {
    initializeOpenGLFunctions();
    program_.addShaderFromSourceCode(QOpenGLShader::Vertex, wholeScreen);
    program_.addShaderFromSourceCode(QOpenGLShader::Fragment, relief);
    program_.link();
    nothing_.create();
    glGenFramebuffers(1, &frame_);
    for (GLuint* texture : {&colours_, &skins_, &depths_}) glGenTextures(1, texture);
}

void ReliefPass::release() {
    nothing_.destroy();
    glDeleteFramebuffers(1, &frame_);
    for (GLuint* texture : {&colours_, &skins_, &depths_}) glDeleteTextures(1, texture);
    program_.removeAllShaders();
    size_ = QSize();
}

void ReliefPass::resize(const QSize& size) {
    if (size == size_) return;
    size_ = size;
    const auto make = [&](GLuint texture, GLint held, GLenum kind, GLenum number, GLenum where) {
        glBindTexture(GL_TEXTURE_2D, texture);
        glTexImage2D(GL_TEXTURE_2D, 0, held, size.width(), size.height(), 0, kind, number, nullptr);
        glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
        glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
        glFramebufferTexture2D(GL_FRAMEBUFFER, where, GL_TEXTURE_2D, texture, 0);
    };
    make(colours_, GL_RGBA8, GL_RGBA, GL_UNSIGNED_BYTE, GL_COLOR_ATTACHMENT0);
    make(skins_, GL_RGBA16F, GL_RGBA, GL_FLOAT, GL_COLOR_ATTACHMENT1);
    make(depths_, GL_DEPTH_COMPONENT32F, GL_DEPTH_COMPONENT, GL_FLOAT, GL_DEPTH_ATTACHMENT);
    glBindTexture(GL_TEXTURE_2D, 0);
}

void ReliefPass::begin(const QColor& ground) {
    glGetIntegerv(GL_FRAMEBUFFER_BINDING, &before_);
    glGetIntegerv(GL_VIEWPORT, view_);
    scissored_ = glIsEnabled(GL_SCISSOR_TEST) != 0;
    glDisable(GL_SCISSOR_TEST);
    glBindFramebuffer(GL_FRAMEBUFFER, frame_);
    resize(fineness * QSize(std::max(1, view_[2]), std::max(1, view_[3])));
    const GLenum both[] = {GL_COLOR_ATTACHMENT0, GL_COLOR_ATTACHMENT1};
    glDrawBuffers(2, both);
    glViewport(0, 0, size_.width(), size_.height());
    const GLfloat paper[] = {static_cast<float>(ground.redF()), static_cast<float>(ground.greenF()),
                             static_cast<float>(ground.blueF()), 1};
    const GLfloat none[] = {0, 0, 0, 0};
    const GLfloat farthest = 1;
    glClearBufferfv(GL_COLOR, 0, paper);
    glClearBufferfv(GL_COLOR, 1, none);
    glClearBufferfv(GL_DEPTH, 0, &farthest);
}

void ReliefPass::end(const Scale& scale) {
    glBindFramebuffer(GL_FRAMEBUFFER, static_cast<GLuint>(before_));
    glViewport(view_[0], view_[1], view_[2], view_[3]);
    if (scissored_) glEnable(GL_SCISSOR_TEST);
    program_.bind();
    int unit = 0;
    for (const auto& [name, texture] : {std::pair{"colours", colours_}, {"skins", skins_}, {"depths", depths_}}) {
        glActiveTexture(static_cast<GLenum>(GL_TEXTURE0 + unit));
        glBindTexture(GL_TEXTURE_2D, texture);
        program_.setUniformValue(name, unit++);
    }
    constexpr float usualHeight = 600;  // that the distances of hollows are told for
    const GLint origin = program_.uniformLocation("origin");
    glUniform2i(origin, view_[0], view_[1]);
    program_.setUniformValue("fine", fineness);
    program_.setUniformValue("pixel", static_cast<float>(scale.pixel));
    program_.setUniformValue("depthRange", static_cast<float>(scale.depthRange));
    program_.setUniformValue("reach", std::max(1.0F, static_cast<float>(view_[3]) / usualHeight));
    program_.setUniformValue("crease", rgb(draw::ink::crease));
    glDepthFunc(GL_ALWAYS);
    nothing_.bind();
    glDrawArrays(GL_TRIANGLES, 0, 3);
    nothing_.release();
    glDepthFunc(GL_LESS);
    program_.release();
    glActiveTexture(GL_TEXTURE0);
}

}  // namespace zither::desktop
