// bathylux-bench: Google Benchmark over the core's hot paths, or, with --json, every figure as a ratio to
// the yardstick, measured in the same run and interleaved with it, the least of many (or only the cases named
// behind it). --growth FILE.md puts tables of how light's cost grows into a document; --stop tells how soon
// work stops that is asked to; --film what a film of the ident takes, of time against what moves and of
// memory against its length.
#include <benchmark/benchmark.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QGuiApplication>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <algorithm>
#include <chrono>
#include <fstream>
#include <iostream>

#include "cases.h"

namespace {

using namespace bathylux;
using Clock = std::chrono::steady_clock;

double milliseconds(const std::function<void()>& run) {
    const auto start = Clock::now();
    run();
    return std::chrono::duration<double, std::milli>(Clock::now() - start).count();
}

struct Child {
    double ms = 0;
    long peak_kib = 0;
    bool good = false;
};

Child run_child(std::vector<std::string> args) {
    Child out;
    const auto start = Clock::now();
    const pid_t pid = fork();
    if (pid == 0) {
        std::vector<char*> argv;
        for (std::string& a : args) argv.push_back(a.data());
        argv.push_back(nullptr);
        setenv("QT_QPA_PLATFORM", "offscreen", 1);
        if (!freopen("/dev/null", "w", stdout)) _exit(126);
        execv(argv[0], argv.data());
        _exit(127);
    }
    int status = 0;
    rusage usage{};
    wait4(pid, &status, 0, &usage);
    out.ms = std::chrono::duration<double, std::milli>(Clock::now() - start).count();
    out.peak_kib = usage.ru_maxrss;
    out.good = WIFEXITED(status) && WEXITSTATUS(status) == 0;
    return out;
}

QJsonObject measured(const std::string& name, double ms, double ratio, double target) {
    const auto rounded = [](double v) { return std::round(v * 1000) / 1000; };
    return {{"name", QString::fromStdString(name)},
            {"ms", rounded(ms)},
            {"ratio", rounded(ratio)},
            {"target", target}};
}

void print_results(double g, const QJsonArray& results) {
    std::cout << QJsonDocument(
                     QJsonObject{{"yardstick_ms", std::round(g * 1000) / 1000}, {"results", results}})
                     .toJson()
                     .toStdString();
}

/// The least of fifteen rounds, each beside its yardstick.
double least_times(const std::vector<Case>& cases, QJsonArray& results) {
    const auto yard = yardstick();
    double g = 1e9;
    std::vector<double> best(cases.size(), 1e9);
    yard();
    for (int round = 0; round < 15; ++round)
        for (std::size_t i = 0; i < cases.size(); ++i) {
            g = std::min(g, milliseconds(yard));
            best[i] = std::min(best[i], milliseconds(cases[i].run));
        }
    for (std::size_t i = 0; i < cases.size(); ++i)
        results.push_back(measured(cases[i].name, best[i], best[i] / g, cases[i].target));
    return g;
}

/// Of the core's cases those that are named.
int some_as_json(const std::vector<std::string>& names) {
    auto cases = core_cases();
    std::erase_if(cases, [&](const Case& c) { return std::ranges::find(names, c.name) == names.end(); });
    QJsonArray results;
    const double g = least_times(cases, results);
    print_results(g, results);
    return cases.empty() ? 1 : 0;
}

int as_json(const std::string& bin) {
    // Programs of their own first: a child is counted with what its parent had when it was begun.
    // Starting, against an empty window.
    double empty = 1e9, start = 1e9, last_look = 1e9;
    const auto started = [&](const char* until) {
        const Child c = run_child({bin + "/bathylux", "--demo", "last-tram-home", "--time-to", until});
        return c.good ? c.ms : 1e9;
    };
    for (int i = 0; i < 5; ++i) {
        if (const Child c = run_child({bin + "/bathylux-empty-window"}); c.good)
            empty = std::min(empty, c.ms);
        last_look = std::min(last_look, started("last-look"));
        start = std::min(start, started("picture"));
    }
    // Peak memory of a render of 16 megapixels, against 64 bytes a pixel and 150 MiB.
    QTemporaryDir dir;
    const std::string piece = (dir.path() + "/large.json").toStdString();
    std::ofstream(piece) << R"({"bathylux": 1, "canvas": {"width": 4096, "height": 4096}, "elements": [
        {"id": "p", "source": {"kind": "rectangle", "width": 4000, "height": 4000, "corner": 300}, "steps": [{"kind": "bevel", "width": 200, "rise": 90, "profile": "round"}, {"kind": "soften", "radius": 12}]},
        {"id": "t", "source": {"kind": "type", "text": "LAST TRAM", "size": 700}, "surface": {"metallic": 1}, "steps": [{"kind": "bevel"}]}],
        "lights": [{"id": "l", "kind": "point", "x": 2000, "y": 1500, "z": 700, "distance": 2000}]})";
    const Child large =
        run_child({bin + "/bathylux-cli", "render", piece, "-o", (dir.path() + "/large.png").toStdString()});
    const double allowed = 64.0 * 4096 * 4096 / 1024 + 150 * 1024;

    QJsonArray results;
    const double g = least_times(core_cases(), results);

    results.push_back(measured("last_look", last_look, last_look / empty, 2));
    results.push_back(measured("start", start, start / empty, 3));

    // Until work stops that is asked to, against 50 ms.
    const double stop = slowest_stop(BATHYLUX_DEMO_DIR);
    results.push_back(measured("stop", stop, stop / g, 50 / g));

    results.push_back(measured("memory", large.ms, static_cast<double>(large.peak_kib) / allowed, 1));
    print_results(g, results);
    return large.good && start < 1e9 ? 0 : 1;
}

int film(const std::string& bin) {
    const std::string ident = BATHYLUX_DEMO_DIR "/depot-ident.json";
    const FilmCost cost = film_cost(ident);
    QTemporaryDir dir;
    const auto child = [&](const char* frames) {
        return run_child({bin + "/bathylux-cli", "render", ident, "-o",
                          (dir.path() + "/f.webm").toStdString(), "--frames", frames});
    };
    const Child few = child("0:47"), all = child("0:95");
    const QJsonArray results{measured("film", cost.all_ms, cost.ratio(), 1.5),
                             measured("film_written", all.ms, all.ms / (cost.frames * cost.moving_ms), 1.5),
                             measured("film_memory", all.ms,
                                      static_cast<double>(all.peak_kib) / static_cast<double>(few.peak_kib),
                                      1.1)};
    std::cout << QJsonDocument(QJsonObject{{"frames", cost.frames},
                                           {"moving_ms", cost.moving_ms},
                                           {"peak_mib", static_cast<double>(all.peak_kib) / 1024},
                                           {"results", results}})
                     .toJson()
                     .toStdString();
    return few.good && all.good ? 0 : 1;
}

/// Prints the tables, or puts them between the marks of a Markdown file.
int write_growth(const char* path) {
    const std::string table = growth_table();
    if (!path) {
        std::cout << table;
        return 0;
    }
    std::ifstream in(path);
    std::string text((std::istreambuf_iterator<char>(in)), {});
    const std::string open = "<!-- growth -->\n", close = "<!-- /growth -->";
    const auto a = text.find(open), b = text.find(close);
    if (a == std::string::npos || b == std::string::npos) {
        std::cerr << path << " has no place for the table between " << open.substr(0, open.size() - 1)
                  << " and " << close << ".\n";
        return 1;
    }
    text.replace(a + open.size(), b - a - open.size(), "\n" + table + "\n");
    std::ofstream(path) << text;
    return 0;
}

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    if (qEnvironmentVariableIsEmpty("XDG_RUNTIME_DIR")) qputenv("XDG_RUNTIME_DIR", "/tmp");
    QGuiApplication app(argc, argv);
    if (argc > 2 && std::string(argv[1]) == "--json") return some_as_json({argv + 2, argv + argc});
    if (argc > 1 && std::string(argv[1]) == "--json")
        return as_json(QCoreApplication::applicationDirPath().toStdString());
    if (argc > 1 && std::string(argv[1]) == "--stop") return slowest_stop(BATHYLUX_DEMO_DIR, &std::cout) > 50;
    if (argc > 1 && std::string(argv[1]) == "--film")
        return film(QCoreApplication::applicationDirPath().toStdString());
    if (argc > 1 && std::string(argv[1]) == "--growth") return write_growth(argc > 2 ? argv[2] : nullptr);
    benchmark::RegisterBenchmark("yardstick", [run = yardstick()](benchmark::State& s) {
        for (auto _ : s) run();
    })->Unit(benchmark::kMillisecond);
    for (const Case& c : core_cases())
        benchmark::RegisterBenchmark(c.name.c_str(), [run = c.run](benchmark::State& s) mutable {
            for (auto _ : s) run();
        })->Unit(benchmark::kMillisecond);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
