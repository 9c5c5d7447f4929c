// bathylux-cli: the contract is in docs/command-line.md. 0 done, 1 could not, 2 wrong usage.
#include <unistd.h>

#include <QGuiApplication>
#include <clocale>
#include <cstdio>
#include <iostream>

#include "cli/commands.h"
#include "core/error.h"
#include "core/piece/codec.h"
#include "files/info.h"

namespace bathylux::cli {

files::Opened opened_piece(const std::filesystem::path& path) {
    files::Opened out = files::open_piece(path);
    if (out.piece.newer)
        throw Error(path.string() + " was made by a newer version of Bathylux: update this one.");
    return out;
}

View view_named(const std::string& name) {
    std::string all;
    for (std::size_t i = 0; i < view_names.size(); ++i) {
        if (view_names[i] == name) return static_cast<View>(i);
        all += (all.empty() ? "" : ", ") + std::string(view_names[i]);
    }
    throw Usage{"--view takes " + all + ", not " + name};
}

namespace {

constexpr const char* usage_text =
    "usage: bathylux-cli describe --json\n"
    "       bathylux-cli render PIECE -o OUT [--view VIEW[,VIEW]...] [--frame N | --frames A:B | --sheet]\n"
    "                    [--scale S] [--bits 8|16|32] [--green up|down] [--set ELEMENT.STEP.PARAM=VALUE]...\n"
    "                    [--mood MOOD] [--parts] [--resume] [--counts] [--contact COUNT]\n"
    "                    VIEW: art height normals lit occlusion slope curvature roughness metallic mask\n"
    "                          lit_unfinished\n"
    "       bathylux-cli render PIECE -o OUT --view SOLID[,SOLID]... [--size WxH] [--samples N]\n"
    "                    [--turntable N] [--bits 8|16|32] [--set PATH=VALUE]...\n"
    "                    SOLID: solid solid_depth solid_normals\n"
    "       bathylux-cli render PIECE -o OUT.stl|.obj|.ply|.glb [--fineness PX] [--base MM] [--error MM]\n"
    "                    [--texture PX] [--set PATH=VALUE]...\n"
    "       bathylux-cli pour RECIPE --on FILE... [--scale] [--add] -o OUT\n"
    "                    FILE: a picture, a drawing or a piece; OUT: a piece, a picture, or a folder\n"
    "       bathylux-cli keep PIECE --of ELEMENT -o OUT.bathylux-recipe [--name NAME]\n"
    "                    [--steps ID,...] [--with surface,mix,lights,finish]\n"
    "       bathylux-cli alternatives PIECE --of ELEMENT[.STEP] -o OUT.png [--vary seeds,angles,strengths]\n"
    "                    [--count N] [--columns N] [--size PX] [--view VIEW] [--seed N]\n"
    "       bathylux-cli info FILE --json\n"
    "       bathylux-cli bench --json\n"
    "       bathylux-cli --version\n";

int describe(Arguments args) {
    if (!args.flag("--json")) throw Usage{"describe writes JSON: add --json"};
    args.done();
    std::cout << describe_everything() << '\n';
    return 0;
}

int info(Arguments args) {
    if (!args.flag("--json")) throw Usage{"info writes JSON: add --json"};
    std::cout << files::file_info(args.only("the file to look at"));
    return 0;
}

int bench(Arguments args) {
    if (!args.flag("--json")) throw Usage{"bench writes JSON: add --json"};
    args.done();
    const std::string program = (QCoreApplication::applicationDirPath() + "/bathylux-bench").toStdString();
    execl(program.c_str(), program.c_str(), "--json", nullptr);
    throw Error(program + " is not there: build it with the preset named bench.");
}

int run(const std::string& what, Arguments args) {
    if (what == "render") return render(std::move(args));
    if (what == "pour") return pour(std::move(args));
    if (what == "keep") return keep(std::move(args));
    if (what == "alternatives") return alternatives(std::move(args));
    if (what == "info") return info(std::move(args));
    if (what == "bench") return bench(std::move(args));
    throw Usage{"unknown command " + what};
}

} // namespace

} // namespace bathylux::cli

int main(int argc, char** argv) {
    using namespace bathylux::cli;
    // Fonts and drawings need Qt's font engine, but never a screen.
    qputenv("QT_QPA_PLATFORM", "offscreen");
    qputenv("QT_LOGGING_RULES", "*.debug=false;*.warning=false;qt.svg*=false");
    if (qEnvironmentVariableIsEmpty("XDG_RUNTIME_DIR")) qputenv("XDG_RUNTIME_DIR", "/tmp");
    std::vector<std::string> args(argv + 1, argv + argc);
    try {
        if (args.empty()) throw Usage{"say what to do"};
        const std::string what = args[0];
        args.erase(args.begin());
        if (what == "--help" || what == "help") {
            std::fputs(usage_text, stdout);
            return 0;
        }
        if (what == "--version") {
            std::puts("bathylux-cli " BATHYLUX_VERSION);
            return 0;
        }
        if (what == "describe") return describe(Arguments(args));
        QGuiApplication app(argc, argv);
        // Qt takes up the language of the machine; numbers in files are written the same everywhere.
        std::setlocale(LC_NUMERIC, "C");
        return run(what, Arguments(args));
    } catch (const Usage& u) {
        std::fprintf(stderr, "bathylux-cli: %s\n%s", u.why.c_str(), usage_text);
        return 2;
    } catch (const std::exception& e) {
        std::string text = e.what();
        for (char& c : text)
            if (c == '\n') c = ' ';
        std::fprintf(stderr, "bathylux-cli: %s\n", text.c_str());
        return 1;
    }
}
