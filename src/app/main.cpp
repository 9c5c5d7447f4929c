#include <QApplication>
#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSettings>
#include <cstdio>

#include "app/first_page.h"
#include "app/theme.h"
#include "app/window.h"
#include "files/type.h"

int main(int argc, char** argv) {
    QElapsedTimer timer;
    timer.start();
    QApplication app(argc, argv);
    QApplication::setApplicationName("bathylux");
    QApplication::setOrganizationName("bathylux");
    QApplication::setApplicationDisplayName("Bathylux");
    QApplication::setApplicationVersion(BATHYLUX_VERSION);
    QGuiApplication::setDesktopFileName("org.bathylux.Bathylux");

    QCommandLineParser parser;
    parser.setApplicationDescription(QObject::tr("Depth and light for flat artwork."));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("file", QObject::tr("A piece or a picture to open."), "[file…]");
    const QCommandLineOption demo("demo", QObject::tr("Open a shipped piece."), "name"),
        clock("time-to-picture", QObject::tr("Print the time to the first lit picture, in ms, and quit."));
    parser.addOptions({demo, clock});
    parser.process(app);

    bathylux::files::load_shipped_fonts();
    // Pictures are read while the window is being made.
    auto resolver = std::make_shared<bathylux::files::Resolver>();
    const QStringList named = parser.positionalArguments();
    const bool shelf = parser.isSet(demo);
    const QString first =
        shelf ? bathylux::demoFolder() + "/" + parser.value(demo) + ".json" : named.value(0);
    const std::jthread ahead([resolver, shelf, path = first.toStdString()] {
        try {
            if (path.empty()) return;
            auto opened = bathylux::files::open_piece(path);
            if (shelf) bathylux::Window::embedAll(opened);
            resolver->resolve(opened.piece, opened.store);
        } catch (const std::exception&) {
            // The window opens it again and says what is wrong.
        }
    });
    bathylux::Theme::apply(app, QSettings().value("dark", true).toBool());
    QApplication::setWindowIcon(QIcon(bathylux::iconPixmap("app", Qt::black, 128, 1)));
    bathylux::Window window(resolver);
    if (parser.isSet(clock))
        QObject::connect(&window.desk().renderer, &bathylux::Renderer::framed, &app, [&] {
            std::printf("%.1f\n", static_cast<double>(timer.nsecsElapsed()) / 1e6);
            std::fflush(stdout);
            std::_Exit(0);
        });
    if (shelf) window.openDemo(first);
    window.show();
    if (!named.isEmpty()) window.addFiles(named);
    if (!parser.isSet(clock)) window.offerRecovered();
    return QApplication::exec();
}
