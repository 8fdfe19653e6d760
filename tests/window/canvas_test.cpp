// Rays and the card draw the same sight alike; Mesa stands in for the card.
#include <QTest>

#include "check/catalogue.h"
#include "desktop/card_canvas.h"
#include "desktop/ray_canvas.h"
#include "desktop/viewport.h"
#include "session/lens/colours.h"
#include "session/reading/palette.h"
#include "tests/core/surfaces.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

using session::Sight;

Sight sightOf(const Mesh& m, session::Camera::View from = session::Camera::View::Iso) {
    const auto part = shared(m);
    Sight sight;
    sight.display = *session::prepareDisplay(part, **part->survey({}, silent()), silent());
    sight.camera.setViewport(QSizeF(420, 300));
    sight.camera.setScene(sight.display->box);
    sight.camera.lookFrom(from);
    sight.camera.fit(m);
    return sight;
}

// A window with one canvas in it.
template <class Canvas>
struct Shown {
    Shown() : canvas(&window) {
        window.resize(420, 300);
        canvas.resize(420, 300);
        window.show();
        EXPECT_TRUE(QTest::qWaitForWindowExposed(&window));
    }
    QImage picture() { return canvas.grab().toImage().convertToFormat(QImage::Format_RGB32); }
    QWidget window;
    Canvas canvas;
};

int apart(QRgb a, QRgb b) {
    return std::max({std::abs(qRed(a) - qRed(b)), std::abs(qGreen(a) - qGreen(b)), std::abs(qBlue(a) - qBlue(b))});
}

// However slow the machine is.
constexpr desktop::RayCanvas::Pace anyPace = {1e9, 1e9};

// The share of pixels that differ so that an eye could tell.
double differing(const QImage& a, const QImage& b) {
    EXPECT_EQ(a.size(), b.size());
    int count = 0;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) count += apart(a.pixel(x, y), b.pixel(x, y)) > 30;
    return count / static_cast<double>(a.width() * a.height());
}

int beside(const QImage& a, QRgb colour) {
    int count = 0;
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) count += apart(a.pixel(x, y), colour) > 10;
    return count;
}

std::shared_ptr<const measure::Section> sectionOf(const Sight& sight, const measure::Plane& plane) {
    return std::make_shared<const measure::Section>(*measure::sectionOf(sight.display->mesh(), plane, silent()));
}

// What is nearer to the eye is taken off.
void cutAcrossX(Sight& sight, double at) {
    session::SeenCut& cut = sight.cuts.emplace_back();
    const bool low = sight.camera.direction().x() < 0;
    cut.left = {Point::UnitX(), low ? draw::Stretch{.high = at} : draw::Stretch{.low = at}};
    cut.ends[0] = sectionOf(sight, {Point::UnitX(), at});
}

void cutSlab(Sight& sight, const Point& across, const draw::Stretch& along) {
    session::SeenCut& cut = sight.cuts.emplace_back();
    cut.left = {across, along};
    cut.ends = {sectionOf(sight, {across, along.low}), sectionOf(sight, {across, along.high})};
}

TEST(Canvases, DrawTheSameSightAlike) {
    const Mesh ball = sphere(10, 48, 24);
    const Mesh open = without(together(ball, box(Point(4, -3, -3), Point(16, 3, 3))), {40, 41, 300});
    std::vector<std::pair<std::string, Sight>> sights;
    sights.emplace_back("plain", sightOf(ball));
    sights.emplace_back("inside out", sightOf(flipped(ball)));
    sights.emplace_back("open and crossing", sightOf(open, session::Camera::View::Front));
    sights.emplace_back("without edges", sightOf(open));
    sights.back().second.edges = false;
    sights.emplace_back("slab", sightOf(open));
    sights.back().second.slab = session::Slab{-2, 5};
    sights.emplace_back("section", sightOf(ball));
    cutAcrossX(sights.back().second, 2);
    sights.emplace_back("corner cut out of a slab", sightOf(ball));
    cutAcrossX(sights.back().second, 2);
    cutSlab(sights.back().second, Point(1, 1, 1).normalized(), {-4, 3});
    const std::vector<std::uint32_t> coat(ball.triangles.size(), session::packed(QColor(80, 120, 200)));
    sights.emplace_back("coated", sightOf(ball));
    sights.back().second.coat = &coat;
    Shown<desktop::CardCanvas> card;
    Shown<desktop::RayCanvas> rays;
    rays.canvas.setPace(anyPace);
    for (const auto& [name, sight] : sights) {
        card.canvas.show(sight);
        rays.canvas.show(sight, true);
        const QImage byCard = card.picture();
        const QImage byRays = rays.picture();
        EXPECT_GT(beside(byRays, session::lightPaper().sheet.rgb()), 10000) << name;
        // Hatch and ghosts are patterns of pixels, counted from another corner.
        const bool patterned =
            name == "inside out" || name == "slab" || name == "section" || name.starts_with("corner");
        EXPECT_LT(differing(byCard, byRays), patterned ? 0.25 : 0.04) << name;
    }
}

// A step whose edge is no outline, and a groove: both are inked, on the card as by rays.
TEST(Canvases, BothShowRelief) {
    Mesh m = together(box(Point(0, 0, 0), Point(10, 10, 4)), box(Point(3, 3, 4), Point(7, 7, 5)));
    Sight sight = sightOf(m, session::Camera::View::Iso);
    sight.edges = false;
    Shown<desktop::CardCanvas> card;
    Shown<desktop::RayCanvas> rays;
    rays.canvas.setPace(anyPace);
    const auto inked = [](const QImage& image) {
        int count = 0;
        for (int y = 0; y < image.height(); ++y)
            for (int x = 0; x < image.width(); ++x) count += qGray(image.pixel(x, y)) < 90;
        return count;
    };
    card.canvas.show(sight);
    rays.canvas.show(sight, true);
    const QImage byCard = card.picture();
    const QImage byRays = rays.picture();
    EXPECT_LT(differing(byCard, byRays), 0.03);
    const int cardInk = inked(byCard);
    const int rayInk = inked(byRays);
    EXPECT_GT(rayInk, 300);
    EXPECT_GT(cardInk, 0.5 * rayInk);
    EXPECT_LT(cardInk, 2 * rayInk);
    sight.relief = false;
    card.canvas.show(sight);
    EXPECT_LT(inked(card.picture()), 0.2 * cardInk);
}

TEST(Canvases, NothingIsPaper) {
    Shown<desktop::RayCanvas> rays;
    rays.canvas.show({}, false);
    EXPECT_EQ(beside(rays.picture(), session::lightPaper().sheet.rgb()), 0);
}

TEST(Canvases, OnceTheEyeRestsEdgesAreSmoothed) {
    Shown<desktop::RayCanvas> rays;
    rays.canvas.setPace(anyPace);
    Sight sight = sightOf(unitBox());
    sight.edges = false;
    sight.relief = false;
    rays.canvas.show(sight, true);
    const QImage first = rays.picture();
    EXPECT_EQ(rays.canvas.coarseness(), 1);
    EXPECT_GT(rays.canvas.fullFrameMs(), 0);
    // Colours of a picture without smoothing: paper and three sides.
    std::set<QRgb> plain;
    for (int x = 0; x < first.width(); ++x)
        for (int y = 0; y < first.height(); ++y) plain.insert(first.pixel(x, y));
    EXPECT_LE(plain.size(), 4U);
    rays.canvas.show(sight, false);
    bool smooth = false;
    for (int i = 0; i < 100 && !smooth; ++i) {
        QTest::qWait(20);
        const QImage now = rays.picture();
        std::set<QRgb> colours;
        for (int x = 0; x < now.width(); ++x)
            for (int y = 0; y < now.height(); ++y) colours.insert(now.pixel(x, y));
        smooth = colours.size() > 8;
    }
    EXPECT_TRUE(smooth);
    EXPECT_LT(differing(first, rays.picture()), 0.03);
}

TEST(Viewport, ACardDrawsWhereThereIsOneAndAnswersTheSameClicks) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    session::DeskModel desk(d.workshop());
    desktop::Viewport view(d.workshop(), desk, true);
    view.resize(420, 300);
    view.show();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(&view));
    view.fit();
    // While the eye flies rays may take over, as the card is Mesa's.
    EXPECT_TRUE(d.waitFor([&] { return !view.drawsByRays(); }));
    QTest::qWait(600);
    EXPECT_TRUE(d.waitFor([&] { return !view.drawsByRays(); }));
    EXPECT_GT(beside(view.grab().toImage(), session::lightPaper().sheet.rgb()), 10000);
    d.click(&view, QPointF(210, 150));
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 1U);
}

}  // namespace
}  // namespace zither::tests
