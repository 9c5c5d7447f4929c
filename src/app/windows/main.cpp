#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QSettings>
#include <QTimer>
#include <clocale>
#include <cstdio>
#include <functional>
#include <utility>

#include "app/controls/theme.h"
#include "app/windows/application.h"
#include "app/windows/first_page.h"
#include "app/windows/last_look.h"
#include "app/windows/window.h"
#include "files/type.h"

namespace {

/// A piece's picture as it was last saved.
QPixmap lastLookOf(const QString& path) {
    QPixmap out;
    try {
        const bathylux::files::Bytes png = bathylux::files::thumbnail_of(path.toStdString());
        out.loadFromData(reinterpret_cast<const uchar*>(png.data()), static_cast<uint>(png.size()), "png");
    } catch (const std::exception&) {
        // Whatever is wrong with the file is told when it is opened.
    }
    return out;
}

/// Ends the program, for those who time it, as soon as the last look is painted.
class EndsWithLastLook : public QObject {
  public:
    explicit EndsWithLastLook(std::function<void()> end) : end_(std::move(end)) {}
    bool eventFilter(QObject* o, QEvent* e) override {
        if (e->type() == QEvent::Paint && qobject_cast<bathylux::LastLook*>(o)) end_();
        return false;
    }

  private:
    std::function<void()> end_;
};

} // namespace

int main(int argc, char** argv) {
    QElapsedTimer timer;
    timer.start();
    bathylux::Application app(argc, argv);
    // Qt takes up the language of the machine; numbers in files are written the same everywhere.
    std::setlocale(LC_NUMERIC, "C");
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
        clock("time-to",
              QObject::tr("Print the ms until the “last-look” or the first lit “picture”, and quit."),
              QObject::tr("what"));
    parser.addOptions({demo, clock});
    parser.process(app);

    // Fonts and pictures are read while the window is being made.
    auto resolver = std::make_shared<bathylux::files::Resolver>(bathylux::window_budget);
    const QStringList named = parser.positionalArguments();
    const bool shelf = parser.isSet(demo);
    const QString first =
        shelf ? bathylux::demoFolder() + "/" + parser.value(demo) + ".json" : named.value(0);
    const std::jthread ahead([resolver, shelf, path = first.toStdString()] {
        try {
            if (path.empty()) return;
            bathylux::files::load_shipped_fonts();
            auto opened = bathylux::files::open_piece(path);
            if (shelf) bathylux::files::embed_all(opened);
            resolver->resolve(opened.piece, opened.store);
        } catch (const std::exception&) {
            // The window opens it again and says what is wrong.
        }
    });
    bathylux::Theme::apply(app, QSettings().value("dark", true).toBool());
    // The piece as it was seen last, until it is made again.
    std::optional<QPixmap> awaited;
    if (shelf)
        awaited = bathylux::shelfPicture(parser.value(demo));
    else if (!first.isEmpty())
        awaited = first.endsWith(".bathylux") ? lastLookOf(first) : QPixmap();
    const auto end = [&timer] {
        std::printf("%.1f\n", static_cast<double>(timer.nsecsElapsed()) / 1e6);
        std::fflush(stdout);
        std::_Exit(0);
    };
    EndsWithLastLook last_look(end);
    if (parser.value(clock) == "last-look") app.installEventFilter(&last_look);
    bathylux::Window window(resolver, awaited);
    if (parser.value(clock) == "picture")
        QObject::connect(&window.desk().renderer, &bathylux::Renderer::framed, end);
    app.tell = [&window](const QString& trouble) { window.tell(trouble); };
    QApplication::setWindowIcon(QIcon(bathylux::iconPixmap("app", Qt::black, 128, 1)));
    window.restoreLook();
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
