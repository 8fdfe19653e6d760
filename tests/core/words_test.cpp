// What people type and is not known: refused with the place and the nearest known word, never passed over.
#include <fstream>
#include <nlohmann/json.hpp>

#include "steps/all_steps.h"
#include "steps/brief.h"
#include "steps/call.h"
#include "steps/json_text.h"
#include "steps/recipe.h"
#include "steps/words.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

std::string recipeError(const std::string& text) {
    const auto recipe = steps::parseRecipe(text, "r.json");
    return recipe ? "none" : recipe.error().message;
}

std::string stepError(const std::string& text) {
    const auto call = steps::parseStepCall(text);
    return call ? "none" : call.error().message;
}

std::string inRecipe(const std::string& step) {
    return R"({"zither": 1, "steps": [)" + step + "]}";
}

bool contains(const std::string& text, const std::string& what) {
    return text.find(what) != std::string::npos;
}

TEST(Words, TheNearestKnownWordIsOffered) {
    constexpr std::string_view known[] = {"percent", "count", "deviation"};
    EXPECT_EQ(steps::didYouMean("percnt", known), "; did you mean 'percent'?");
    EXPECT_EQ(steps::didYouMean("pecrent", known), "; did you mean 'percent'?");
    EXPECT_EQ(steps::didYouMean("dev", known), "");
    EXPECT_EQ(steps::didYouMean("devi", known), "; did you mean 'deviation'?");
    EXPECT_EQ(steps::didYouMean("banana", known), "");
    EXPECT_EQ(steps::didYouMean("", known), "");
    EXPECT_EQ(steps::didYouMean("x", {}), "");
    EXPECT_EQ(steps::didYouMeanStep("decimte"), "; did you mean 'decimate'?");
    EXPECT_EQ(steps::didYouMeanStep("weld"), "; did you mean 'stitch'?");
    EXPECT_EQ(steps::didYouMeanStep("xyzzy"), "");
}

TEST(Words, AStepThatIsNotKnownIsRefusedWithTheOneThatIsMeant) {
    EXPECT_TRUE(
        contains(stepError("decimte"), "there is no step 'decimte'; did you mean 'decimate'?; there are: clean"));
    EXPECT_TRUE(contains(stepError("decimate percnt=5"), "has no parameter 'percnt'; did you mean 'percent'?"));
    EXPECT_TRUE(contains(stepError("fill way=smoth"), "'smoth' is no value for way; did you mean 'smooth'?"));
}

TEST(Words, WhatIsSaidTwiceOrExcludesEachOtherIsRefused) {
    EXPECT_EQ(stepError("decimate percent=5 percent=50"), "step 'decimate': percent is said twice");
    EXPECT_EQ(stepError("mend pick=shell:0 pick=shell:1"), "step 'mend': pick is said twice");
    EXPECT_EQ(stepError("clean only-if=boundary_edges only-if=needles"), "step 'clean': only-if is said twice");
    EXPECT_EQ(stepError("decimate percent=5 count=50"),
              "step 'decimate': percent and count say the same thing in two ways: say one of percent, count");
    EXPECT_EQ(stepError("scale from=mm"), "step 'scale': from needs to as well: say from=... to=...");
    EXPECT_EQ(stepError("scale factor=2 size=5"),
              "step 'scale': factor and size say the same thing in two ways: say one of factor, size, volume, to, fit");
    // What stands there anyway excludes nothing.
    EXPECT_EQ(stepError("decimate percent=5 count=0"), "none");
    EXPECT_EQ(stepError("trim axis=z points=0,0,0;1,0,0;0,1,0"), "none");
    EXPECT_EQ(recipeError(inRecipe(R"({"name": "decimate", "parameters": {"percent": 5, "count": 50}})")),
              "r.json: step 1: step 'decimate': percent and count say the same thing in two ways: say one of percent, "
              "count");
}

TEST(Words, ARecipeWithAKeyThatIsNotKnownIsRefused) {
    EXPECT_EQ(recipeError(inRecipe(R"({"name": "clean", "onlyif": "holes:1"})")),
              "r.json: step 1: there is no key \"onlyif\" here; did you mean 'only_if'?; there are: name, parameters, "
              "pick, only_if");
    for (const std::string key : {"parametres", "params", "parameter"})
        EXPECT_TRUE(
            contains(recipeError(inRecipe(R"({"name": "clean", ")" + key + R"(": {}})")), "did you mean 'parameters'?"))
            << key;
    EXPECT_TRUE(contains(recipeError(R"({"zither": 1, "step": [], "steps": []})"), "there is no key \"step\""));
    EXPECT_EQ(recipeError(inRecipe(R"({"name": "decimate", "parameters": {"percent": 5, "percent": 6}})")),
              "r.json: an object has the key \"percent\" twice: one of them would be lost");
    EXPECT_EQ(recipeError(inRecipe(R"({"name": "clean", "parameters": []})")),
              "r.json: step 1: \"parameters\" must be an object");
    EXPECT_EQ(recipeError("{\"zither\": 1,\n \"steps\": [}"),
              "r.json: no JSON: line 2, column 12 is not what can stand there");
    EXPECT_EQ(recipeError(R"({"zither": 1, "title": "Mine", "comment": "why", "steps": []})"), "none");
}

TEST(Words, ABriefWithAKeyThatIsNotKnownIsRefused) {
    const auto error = [](const std::string& text) {
        const auto brief = steps::parseBrief(nlohmann::ordered_json::parse(text), "b.json");
        return brief ? "none" : brief.error().message;
    };
    EXPECT_TRUE(contains(error(R"({"zither": 1, "requirments": {}, "requirements": {}})"),
                         "there is no key \"requirments\" here; did you mean 'requirements'?"));
    EXPECT_TRUE(contains(error(R"({"zither": 1, "requirements": {"boundary_edge": 0}})"),
                         "there is no requirement 'boundary_edge'; did you mean 'boundary_edges'?"));
    EXPECT_EQ(error(R"({"zither": 1, "title": "Mine", "requirements": {"boundary_edges": 0}})"), "none");
}

// What old recipes say of how a step goes about it is read still, and stands in no list.
TEST(Words, RetiredParametersAreReadAndListedNowhere) {
    EXPECT_EQ(
        recipeError(inRecipe(R"({"name": "enclose", "parameters": {"worse": "put-back", "cover": 20, "bits": 32}})")),
        "none");
    EXPECT_EQ(recipeError(inRecipe(R"({"name": "stitch", "parameters": {"worse": "keep"}})")), "none");
    for (const steps::Step& step : steps::catalogue())
        for (const std::string_view name : steps::namesOf(step.parameters))
            for (const std::string_view retired : {"worse", "cover"}) EXPECT_NE(name, retired) << step.name;
}

// Whoever gives it: a value that is none of its parameter reaches no step.
TEST(Words, ValuesAreCheckedWhereverTheyComeFrom) {
    const auto part = shared(unitBox());
    const auto error = [&](const steps::StepCall& call) {
        const auto done = steps::runStep(call, part, {}, silent());
        return done ? "none" : done.error().message;
    };
    EXPECT_TRUE(
        contains(error({&steps::fillStep(), {{"sise", 2.0}}}), "has no parameter 'sise'; did you mean 'size'?"));
    EXPECT_TRUE(contains(error({&steps::fillStep(), {{"way", steps::Value("banana")}}}), "is no value for way"));
    EXPECT_EQ(error({&steps::fillStep(), {{"way", 2.0}}}), "step 'fill': way is of another kind");
    EXPECT_EQ(error({&steps::fillStep(), {{"size", steps::Value("2")}}}), "step 'fill': size is of another kind");
    EXPECT_TRUE(contains(error({&steps::fillStep(), {{"size", -1.0}}}), "size must be from 0"));
}

TEST(Words, AParameterThatAStepDoesNotListIsABug) {
    const steps::Number listed({.name = "length", .help = ""});
    const steps::Number other({.name = "width", .help = ""});
    steps::Arguments arguments{{"length", 2.0}};
    EXPECT_EQ(arguments[listed], 2);
    EXPECT_THROW(static_cast<void>(arguments[other]), std::out_of_range);
    EXPECT_THROW(static_cast<void>(steps::Value("text").number()), std::bad_variant_access);
    enum class Way { Here, There };
    const steps::Choice<Way> way({.name = "way", .help = ""}, {{"here", Way::Here}, {"there", Way::There}});
    arguments.set(way, way.wordFor(Way::There));
    EXPECT_EQ(arguments[way], Way::There);
    arguments.set(way, steps::Value("nowhere"));
    EXPECT_THROW(static_cast<void>(arguments[way]), std::bad_variant_access);
}

}  // namespace
}  // namespace zither::tests
