// What the command line says beside its results: progress on a terminal, silence elsewhere, and what Ctrl-C does.
#include <gtest/gtest.h>

#include <sstream>

#include "cli/command_line.h"
#include "io/atomic_file.h"
#include "io/surface_file.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

class ConsoleTest : public ::testing::Test {
protected:
    TemporaryFolder folder;
    std::ostringstream out;
    std::ostringstream err;
    std::atomic<bool> interrupted = false;

    std::string part(const std::string& name, const Mesh& m) {
        const auto file = (folder / name).string();
        EXPECT_TRUE(io::writeSurface(m, file, {*io::formatForWriting(file)}, silent()));
        return file;
    }
    int run(const std::vector<std::string>& arguments, bool watched = false) {
        return cli::run(arguments, cli::Console{out, err, watched, false, &interrupted});
    }
};

TEST_F(ConsoleTest, ProgressIsOneLineOnATerminalAndNothingElsewhere) {
    const std::string in = part("a.stl", sphere());
    run({"check", in});
    EXPECT_EQ(err.str(), "");
    run({"check", in}, true);
    EXPECT_NE(err.str().find("\rchecking " + in + "  0 %"), std::string::npos) << err.str();
    EXPECT_EQ(err.str().find('\n'), std::string::npos);
    // The line is wiped at the end.
    EXPECT_EQ(err.str().back(), '\r');
    err.str({});
    run({"check", in, "--quiet"}, true);
    EXPECT_EQ(err.str(), "");
}

TEST_F(ConsoleTest, AnInterruptLeavesEveryFileAsItWas) {
    const std::string in = part("a.stl", without(sphere(), {5, 6}));
    const std::string target = part("b.stl", unitBox());
    const std::string before = *io::readBytes(target);
    interrupted = true;
    for (const std::vector<std::string>& call : {std::vector<std::string>{"repair", in, "-o", target},
                                                 {"run", in, "-o", target, "--step", "fill"},
                                                 {"check", in, in},
                                                 {"compare", in, target},
                                                 {"example", folder.path().string(), "-o", folder.path().string()}}) {
        err.str({});
        EXPECT_EQ(run(call), 130) << call.front();
        EXPECT_NE(err.str().find("interrupted"), std::string::npos) << err.str();
        EXPECT_EQ(*io::readBytes(target), before);
        EXPECT_EQ(filesIn(folder.path()), 2U);
    }
}

TEST_F(ConsoleTest, SaysItsVersionAndEveryFormat) {
    EXPECT_EQ(run({"--version"}), 0);
    EXPECT_EQ(out.str(), "zither-cli 0.1.0\n");
    out.str({});
    EXPECT_EQ(run({"--help"}), 0);
    for (const io::Format& format : io::formats()) {
        EXPECT_NE(out.str().find(format.title), std::string::npos) << format.title;
        EXPECT_NE(out.str().find(format.extension), std::string::npos) << format.extension;
    }
}

TEST_F(ConsoleTest, SaysBeforeWritingWhatTheFileWillNotHold) {
    const std::string in = (folder / "a.obj").string();
    writeText(in, "v 0 0 0 1 0 0\nv 1 0 0 1 0 0\nv 0 1 0 1 0 0\nvn 0 0 1\ng inlet\nf 1 2 3\ng wall\nf 1 3 2\n");
    const std::string target = (folder / "b.stl").string();
    run({"run", in, "-o", target, "--step", "clean"});
    EXPECT_EQ(err.str(), "zither-cli: note: " + target +
                             " will not hold the names of its 2 regions, vertex colours, vertex normals\n");
    err.str({});
    run({"run", in, "-o", target, "--step", "clean", "-q"});
    EXPECT_EQ(err.str(), "");
}

}  // namespace
}  // namespace zither::tests
