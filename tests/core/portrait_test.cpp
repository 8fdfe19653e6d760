// A part in a picture: all of it is seen from every side, what is found is drawn, and the file holds what was painted.
#include <png.h>

#include <filesystem>
#include <sstream>

#include "check/catalogue.h"
#include "cli/command_line.h"
#include "draw/png.h"
#include "io/atomic_file.h"
#include "io/surface_file.h"
#include "project/portrait.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using draw::Colour;
using draw::Picture;
using draw::View;

// As other programs read it.
Picture pictureIn(const std::string& png) {
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    if (png_image_begin_read_from_memory(&image, png.data(), png.size()) == 0) return {};
    image.format = PNG_FORMAT_RGB;
    std::vector<std::uint8_t> bytes(PNG_IMAGE_SIZE(image));
    EXPECT_NE(png_image_finish_read(&image, nullptr, bytes.data(), 0, nullptr), 0);
    Picture picture(static_cast<int>(image.width), static_cast<int>(image.height), Colour::Zero());
    for (std::size_t i = 0; i < picture.colours.size(); ++i)
        for (int k = 0; k < 3; ++k)
            picture.colours[i][k] = static_cast<float>(bytes[3 * i + static_cast<std::size_t>(k)]) / 255.0F;
    return picture;
}

bool isGround(const Colour& c) {
    return (c - project::pictureInks().ground).cwiseAbs().maxCoeff() < 0.01F;
}

TEST(View, AxesAreRightUpAndTowardsTheEyeWhereverThatIs) {
    rig::Random random(3);
    std::vector<Eigen::Matrix3d> all;
    for (const auto& [name, v] : draw::namedViews) all.push_back(draw::axesOf(v));
    for (int i = 0; i < 50; ++i) all.push_back(draw::axesTowards(random.direction(), random.direction()));
    for (const Point& p : {Point(1, 0, 0), Point(0, 1, 0), Point(0, 0, 1)})
        all.push_back(draw::axesTowards(p, p));  // nothing says what is up
    for (const Eigen::Matrix3d& axes : all) {
        EXPECT_NEAR((axes * axes.transpose() - Eigen::Matrix3d::Identity()).norm(), 0, 1e-12);
        EXPECT_NEAR(axes.determinant(), 1, 1e-12);
    }
    EXPECT_NEAR((Point(draw::axesOf(View::Front).row(2)) - Point(0, -1, 0)).norm(), 0, 1e-15);
    EXPECT_NEAR((Point(draw::axesOf(View::Front).row(1)) - Point(0, 0, 1)).norm(), 0, 1e-15);
}

TEST(View, AllOfAPartIsInThePictureHoweverItLies) {
    rig::Random random(4);
    for (const Point& at : {Point(0, 0, 0), Point(1e6, -2e6, 3e5)})
        for (const auto& [name, v] : draw::namedViews) {
            Mesh m = box(at, at + Point(1 + 9 * random.uniform(), 1 + 9 * random.uniform(), 1 + 9 * random.uniform()));
            const draw::Eye eye = draw::eyeOn(m, v, 200, 90);
            double farthest = 0;
            for (const Point& p : m.positions) {
                const Point seen = eye.seen(p);
                EXPECT_TRUE(seen.x() > 0 && seen.x() < 199 && seen.y() > 0 && seen.y() < 89) << seen.transpose();
                EXPECT_GT(seen.z(), 0) << "before the eye";
                farthest = std::max({farthest, std::abs(seen.x() - 99.5) / 100, std::abs(seen.y() - 44.5) / 45});
            }
            EXPECT_GT(farthest, 0.7) << "and fills it";
        }
}

TEST(Portrait, ShowsThePartAndWhatIsFound) {
    const Mesh holed = without(sphere(10, 40, 30), {400, 401});
    const check::Surveyed part(holed);
    const auto survey = part.survey({}, silent());
    for (const auto& [name, v] : draw::namedViews) {
        const Picture picture = *project::portraitOf(part, **survey, {v, 160, 100}, silent());
        EXPECT_TRUE(isGround(picture.colours[picture.at(2, 2)]));
        EXPECT_FALSE(isGround(picture.colours[picture.at(80, 50)]));
        const Colour ink = draw::colourOf(check::openEdges.ink.rgb);
        float nearest = 2;
        for (const Colour& c : picture.colours) nearest = std::min(nearest, (c - ink).norm());
        // From some sides the hole is hidden and shines through faintly.
        EXPECT_LT(nearest, 0.45F);
    }
    const check::Surveyed nothing((Mesh()));
    const Picture empty = *project::portraitOf(nothing, **nothing.survey({}, silent()), {View::Iso, 20, 20}, silent());
    for (const Colour& c : empty.colours) EXPECT_TRUE(isGround(c));
}

TEST(Png, HoldsThePictureBitForBit) {
    Picture picture(7, 5, Colour::Zero());
    rig::Random random(5);
    for (Colour& c : picture.colours)
        for (float& value : c) value = static_cast<float>(random.uniform());
    const Picture read = pictureIn(draw::pngOf(picture));
    ASSERT_EQ(read.width, 7);
    ASSERT_EQ(read.height, 5);
    EXPECT_EQ(read.packed(), picture.packed());
}

TEST(PictureCall, WritesAPictureOrSaysWhyNot) {
    const TemporaryFolder folder;
    const auto file = folder / "ball.stl";
    ASSERT_TRUE(io::writeSurface(sphere(3), file, {io::stlBinary}, silent()));
    const auto call = [&](std::vector<std::string> rest, std::string& said) {
        std::ostringstream out;
        std::ostringstream err;
        rest.insert(rest.begin(), {"picture", file.string()});
        const int code = cli::run(rest, cli::Console{out, err});
        said = err.str();
        return code;
    };
    std::string said;
    const auto picture = folder / "ball.png";
    EXPECT_EQ(call({"-o", picture.string(), "--from", "top", "--size", "120x80"}, said), 0) << said;
    const Picture read = pictureIn(*io::readBytes(picture));
    ASSERT_EQ(read.width, 120);
    ASSERT_EQ(read.height, 80);
    EXPECT_TRUE(isGround(read.colours[read.at(1, 1)]));
    EXPECT_FALSE(isGround(read.colours[read.at(60, 40)]));
    for (const char* size : {"0x80", "120", "120x", "x80", "120x80x3", "1e9x5", "-3x-3", "wide"}) {
        EXPECT_EQ(call({"-o", (folder / "no.png").string(), "--size", size}, said), 2) << size;
        EXPECT_NE(said.find("WIDTHxHEIGHT"), std::string::npos) << said;
    }
    EXPECT_EQ(call({"-o", (folder / "no.jpg").string()}, said), 2);
    EXPECT_NE(said.find("pictures are written as .png"), std::string::npos) << said;
    EXPECT_EQ(call({"-o", (folder / "no.png").string(), "--from", "inside"}, said), 2);
    EXPECT_EQ(call({"-o", (folder / "missing" / "no.png").string()}, said), 2);
    EXPECT_FALSE(std::filesystem::exists(folder / "no.png"));
}

}  // namespace
}  // namespace zither::tests
