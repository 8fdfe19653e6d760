// Handles: what is dragged in the view becomes the values of a step.
#include "steps/step_handles.h"

#include <cmath>
#include <numbers>

#include "steps/all_steps.h"
#include "steps/call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using steps::Arguments;
using steps::Handle;
using steps::Step;
using steps::Value;

std::string textOf(const Arguments& a, const char* name) {
    return a.find(name)->second.text();
}

TEST(Handles, NumbersThatWereDraggedAreShort) {
    EXPECT_EQ(steps::neat(12.3456789, 100), 12.35);
    EXPECT_EQ(steps::neat(-0.00000001, 100), 0.0);
    EXPECT_FALSE(std::signbit(steps::neat(-0.00000001, 100)));
    EXPECT_EQ(steps::neat(1234567, 3e7), 1235000);
    EXPECT_EQ(steps::neat(7, 0), 7);
    EXPECT_EQ(steps::directionText(Point(std::cos(std::numbers::pi / 3), 0, -1e-17)), "0.5,0,0");
    EXPECT_TRUE(steps::alongAxis(Point(0, -1, 1e-12)));
    EXPECT_FALSE(steps::alongAxis(Point(0, -1, 1e-12))->forward);
    EXPECT_FALSE(steps::alongAxis(Point(0, -1, 1e-3)));
}

// A handle that is brought to where it stands changes nothing of what the step does.
TEST(Handles, OneThatIsNotMovedAsksForTheSame) {
    const Mesh m = sphere(10, 24, 12);
    const check::SurveyedPtr part = shared(m);
    std::size_t handles = 0;
    for (const Step& step : steps::catalogue()) {
        ASSERT_EQ(step.handles == nullptr, step.dragged == nullptr) << step.name;
        if (!step.handles) continue;
        Arguments values = steps::proposedArguments(step, *part);
        if (step.name == "hollow") values.insert_or_assign("drains", Value(2.0));
        if (step.name == "move-vertex")
            for (const char* place : {"vertex", "to"})
                values.insert_or_assign(place, Value(steps::textOfPlace(m.positions[40])));
        const auto done = steps::runStep({&step, values}, part, {}, silent());
        ASSERT_TRUE(done) << step.name;
        for (const steps::Record* tried : {static_cast<const steps::Record*>(nullptr), &done->record}) {
            const std::vector<Handle> all = step.handles(*part, values, tried);
            ASSERT_FALSE(all.empty()) << step.name;
            for (std::size_t i = 0; i < all.size(); ++i) {
                ++handles;
                EXPECT_FALSE(all[i].name.empty());
                EXPECT_NEAR(all[i].direction.norm(), 1, 1e-9);
                const Arguments after = step.dragged(*part, values, tried, i, all[i]);
                for (const auto& [name, value] : after) {
                    const auto p = std::find_if(step.parameters.begin(), step.parameters.end(),
                                                [&, name = name](const auto& q) { return q.name == name; });
                    ASSERT_NE(p, step.parameters.end()) << step.name << " " << name;
                    const bool good = steps::isText(p->kind) ? value.text().empty() ||
                                                                   steps::parseValue(step, *p, value.text()).has_value()
                                                             : steps::checkValue(step, *p, value.number()).has_value();
                    EXPECT_TRUE(good) << step.name << " " << name;
                }
                const auto again = steps::runStep({&step, after}, part, {}, silent());
                ASSERT_TRUE(again) << step.name << " " << all[i].name;
                EXPECT_NEAR(surveyed(again->part->mesh()).mass.volume, surveyed(done->part->mesh()).mass.volume,
                            step.name == "hollow" ? 5 : 0.5)
                    << step.name << " " << all[i].name;
            }
        }
    }
    EXPECT_GT(handles, 12U);
}

TEST(Handles, AnEmptyPartHasNone) {
    const check::SurveyedPtr part = shared(Mesh());
    for (const Step& step : steps::catalogue())
        if (step.handles) {
            EXPECT_TRUE(step.handles(*part, steps::proposedArguments(step, *part), nullptr).empty());
        }
}

TEST(Handles, APlaneSlidesAndTurns) {
    const check::SurveyedPtr part = shared(box(Point(-10, -10, -10), Point(10, 10, 10)));
    const Step& trim = steps::trimStep();
    const Arguments values = steps::proposedArguments(trim, *part);
    Handle plane = trim.handles(*part, values, nullptr)[0];
    EXPECT_EQ(plane.kind, Handle::Plane);
    EXPECT_NEAR(plane.at.z(), -9.6, 1e-9);
    plane.at.z() = 3.14159265;
    Arguments after = trim.dragged(*part, values, nullptr, 0, plane);
    EXPECT_EQ(textOf(after, "axis"), "z");
    EXPECT_EQ(after.find("at")->second.number(), 3.142);
    // Turned over it cuts off the other side.
    plane.direction = Point(0, -1, 0);
    plane.at = Point(0, 5, 0);
    after = trim.dragged(*part, after, nullptr, 0, plane);
    EXPECT_EQ(textOf(after, "axis"), "y");
    EXPECT_EQ(textOf(after, "keep"), "below");
    EXPECT_EQ(after.find("at")->second.number(), 5);
    const auto done = steps::runStep({&trim, after}, part, {}, silent());
    ASSERT_TRUE(done);
    EXPECT_NEAR(surveyed(done->part->mesh()).mass.volume, 20 * 20 * 15, 1e-6);
    // Askew it is told by its normal.
    const double third = std::numbers::pi / 6;
    plane.direction = Point(std::cos(third), 0, std::sin(third));
    plane.at = Point::Zero();
    after = trim.dragged(*part, after, nullptr, 0, plane);
    EXPECT_EQ(textOf(after, "normal"), "0.866025404,0,0.5");
    EXPECT_EQ(textOf(after, "keep"), "above");
    const auto half = steps::runStep({&trim, after}, part, {}, silent());
    ASSERT_TRUE(half);
    EXPECT_NEAR(surveyed(half->part->mesh()).mass.volume, 4000, 0.01);
}

TEST(Handles, ThreePointsAreAPlane) {
    const check::SurveyedPtr part = shared(box(Point(-10, -10, -10), Point(10, 10, 10)));
    const auto volume = [&](const std::string& points) {
        const auto done = steps::runStep(*steps::parseStepCall("trim points=" + points), part, {}, silent());
        return done ? surveyed(done->part->mesh()).mass.volume : -1;
    };
    EXPECT_NEAR(volume("0,0,4;1,0,4;0,1,4"), 2400, 1e-6);
    EXPECT_NEAR(volume("0,0,4;0,1,4;1,0,4"), 5600, 1e-6);
    EXPECT_EQ(volume("0,0,4;0,1,4"), -1);
    EXPECT_EQ(volume("0,0,0;1,1,1;2,2,2"), -1);
    EXPECT_FALSE(steps::parseStepCall("trim points=0,0,4;1"));
}

TEST(Handles, WhatIsPlacedMovesTurnsAndStandsUp) {
    const check::SurveyedPtr part = shared(box(Point(0, 0, 0), Point(10, 20, 40)));
    const Step& place = steps::placeStep();
    const Arguments values = steps::proposedArguments(place, *part);
    std::vector<Handle> all = place.handles(*part, values, nullptr);
    ASSERT_EQ(all.size(), 5U);
    Handle x = all[0];
    x.at.x() += 7.00003;
    Arguments after = place.dragged(*part, values, nullptr, 0, x);
    EXPECT_EQ(textOf(after, "move"), "7,0,0");
    // From there on: what was tried says where it stands now.
    const auto moved = steps::runStep({&place, after}, part, {}, silent());
    ASSERT_TRUE(moved);
    all = place.handles(*part, after, &moved->record);
    EXPECT_NEAR(all[0].at.x(), 12, 1e-9);
    Handle z = all[2];
    z.at.z() -= 2;
    after = place.dragged(*part, after, &moved->record, 2, z);
    EXPECT_EQ(textOf(after, "move"), "7,0,-2");
    // What looks along x is to be up.
    Handle up = all[3];
    up.direction = Point::UnitX();
    after = place.dragged(*part, after, &moved->record, 3, up);
    EXPECT_EQ(textOf(after, "up"), "1,0,0");
    Handle turn = all[4];
    turn.direction = Point(std::cos(0.5), std::sin(0.5), 0);
    EXPECT_NEAR(place.dragged(*part, values, nullptr, 4, turn).find("angle")->second.number(), 28.648, 0.003);
    const auto done = steps::runStep({&place, after}, part, {}, silent());
    ASSERT_TRUE(done);
    EXPECT_NEAR(mesh::boxOf(done->part->mesh()).extent().z(), 10, 1e-5);
}

TEST(Handles, DrainsAreWhereTheyAreDraggedTo) {
    const check::SurveyedPtr part = shared(box(Point(-10, -10, -10), Point(10, 10, 10)));
    const Step& hollow = steps::hollowStep();
    Arguments values = steps::proposedArguments(hollow, *part);
    values.insert_or_assign("drains", Value(2.0));
    values.insert_or_assign("wall", Value(2.0));
    values.insert_or_assign("diameter", Value(2.0));
    EXPECT_EQ(hollow.handles(*part, values, nullptr).size(), 1U);
    const auto tried = steps::runStep({&hollow, values}, part, {}, silent());
    ASSERT_TRUE(tried);
    EXPECT_EQ(tried->record.count(steps::Listed::Made), 2U);
    const std::vector<Handle> all = hollow.handles(*part, values, &tried->record);
    ASSERT_EQ(all.size(), 3U);
    EXPECT_EQ(all[1].kind, Handle::Spot);
    EXPECT_NEAR(all[1].at.z(), -10, 1e-6);
    Handle drain = all[1];
    drain.at = Point(10, 0, -3);
    values = hollow.dragged(*part, values, &tried->record, 1, drain);
    const auto done = steps::runStep({&hollow, values}, part, {}, silent());
    ASSERT_TRUE(done);
    EXPECT_EQ(done->record.number("drains").value(), 2);
    const auto now = hollow.handles(*part, values, &done->record);
    ASSERT_EQ(now.size(), 3U);
    EXPECT_EQ(now[1].at, Point(10, 0, -3));
    EXPECT_TRUE(surveyed(done->part->mesh()).solid);
}

}  // namespace
}  // namespace zither::tests
