#pragma once
#include <QObject>
#include <memory>

namespace bathylux {

/// Makes a class of tests known to its program, by name.
struct Registered {
    using Make = std::unique_ptr<QObject> (*)();
    Registered(const char* name, Make make);
};

/// Runs the class named first, or all of them one after the other, with the rest as QtTest takes it.
int run_tests(int argc, char** argv);

} // namespace bathylux

#define BATHYLUX_TEST(Class)                                                                                 \
    static const bathylux::Registered registered_##Class(                                                    \
        #Class, []() -> std::unique_ptr<QObject> { return std::make_unique<Class>(); });
