#include "app/windows/application.h"
#include "run.h"

int main(int argc, char** argv) {
    QCoreApplication::setAttribute(Qt::AA_Use96Dpi);
    bathylux::Application app(argc, argv);
    // Several run side by side, each with settings of its own.
    QCoreApplication::setApplicationName(argc > 1 ? argv[1] : "tests");
    QApplication::setQuitOnLastWindowClosed(false);
    return bathylux::run_tests(argc, argv);
}
