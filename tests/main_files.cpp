#include <QGuiApplication>

namespace bathylux {
int run_tests(int argc, char** argv);
}
int main(int argc, char** argv) {
    const QGuiApplication app(argc, argv);
    return bathylux::run_tests(argc, argv);
}
