#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSettings>
#include <QTimer>
#include <cstdio>

#include "app/controls/theme.h"
#include "app/windows/application.h"
#include "app/windows/first_page.h"
#include "app/windows/window.h"
#include "files/type.h"

namespace {

/// A piece's picture as it was last saved.
QPixmap lastLookOf(const QString& path) {
    QPixmap out;
    try {
        const bathylux::files::Bytes png = bathylux::files::thumbnail_of(path.toStdString());
        out.loadFromData(reinterpret_cast<const uchar*>(png.data()), static_cast<uint>(png.size()));
    } catch (const std::exception&) {
        // Whatever is wrong with the file is told when it is opened.
    }
    return out;
}

} // namespace

int main(int argc, char** argv) {
    QElapsedTimer timer;
    timer.start();
    bathylux::Application app(argc, argv);
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
    auto resolver = std::make_shared<bathylux::files::Resolver>(bathylux::window_budget);
    const QStringList named = parser.positionalArguments();
    const bool shelf = parser.isSet(demo);
    const QString first =
        shelf ? bathylux::demoFolder() + "/" + parser.value(demo) + ".json" : named.value(0);
    const std::jthread ahead([resolver, shelf, path = first.toStdString()] {
        try {
            if (path.empty()) return;
            auto opened = bathylux::files::open_piece(path);
            if (shelf) bathylux::files::embed_all(opened);
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
    app.tell = [&window](const QString& trouble) { window.tell(trouble); };
    window.restoreLook();
    // The piece as it was seen last, until it is made again.
    if (shelf)
        window.awaitPiece(bathylux::shelfPicture(parser.value(demo)));
    else if (!first.isEmpty())
        window.awaitPiece(first.endsWith(".bathylux") ? lastLookOf(first) : QPixmap());
    window.show();
    // First the window, then the work: it is seen while the piece is read.
    QTimer::singleShot(0, &window, [&] {
        if (shelf) window.openDemo(first);
        if (!named.isEmpty()) window.addFiles(named);
        window.awaited();
        if (!parser.isSet(clock)) window.offerRecovered();
    });
    return bathylux::Application::exec();
}
