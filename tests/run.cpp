#include "run.h"

#include <QtTest>
#include <cstdio>
#include <map>
#include <string>

namespace bathylux {

namespace {
std::map<std::string, Registered::Make>& known() {
    static std::map<std::string, Registered::Make> all;
    return all;
}
} // namespace

Registered::Registered(const char* name, Make make) { known().emplace(name, make); }

int run_tests(int argc, char** argv) {
    const std::string name = argc > 1 ? argv[1] : "";
    if (const auto one = known().find(name); one != known().end())
        return QTest::qExec(one->second().get(), argc - 1, argv + 1);
    if (!name.empty() && name[0] != '-') {
        std::fprintf(stderr, "There are no tests %s here, but:\n", name.c_str());
        for (const auto& [known_name, make] : known()) std::fprintf(stderr, "  %s\n", known_name.c_str());
        return 2;
    }
    int failed = 0;
    for (const auto& [known_name, make] : known()) failed += QTest::qExec(make().get(), argc, argv);
    return failed;
}

} // namespace bathylux
