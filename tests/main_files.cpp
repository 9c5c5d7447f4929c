#include <QGuiApplication>

#include "run.h"

int main(int argc, char** argv) {
    const QGuiApplication app(argc, argv);
    return bathylux::run_tests(argc, argv);
}
