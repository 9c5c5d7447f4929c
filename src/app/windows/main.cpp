#include <QCommandLineParser>
#include <QElapsedTimer>
#include <QFile>
#include <QSettings>
#include <QTimer>
#include <clocale>
#include <cstdio>
#include <functional>
#include <future>
#include <thread>
#include <utility>

#include "app/controls/theme.h"
#include "app/windows/application.h"
#include "app/windows/first_page.h"
#include "app/windows/last_look.h"
#include "app/windows/window.h"
#include "core/make/picture_source.h"
#include "files/plain_png.h"
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

/// What the command line says.
struct Asked {
    QCommandLineParser parser;
    QCommandLineOption help = parser.addHelpOption(), version = parser.addVersionOption();
    QCommandLineOption demo{"demo", QObject::tr("Open a shipped piece."), "name"},
        clock{"time-to",
              QObject::tr("Print the ms until the “last-look” or the first lit “picture”, and quit."),
              QObject::tr("what")};

    Asked() {
        parser.setApplicationDescription(QObject::tr("Depth and light for flat artwork."));
        parser.addPositionalArgument("file", QObject::tr("A piece or a picture to open."), "[file…]");
        parser.addOptions({demo, clock});
    }
    /// Whether that was all, and a window is wanted.
    bool understood(int argc, char** argv) {
        QStringList words;
        for (int i = 0; i < argc; ++i) words << QFile::decodeName(argv[i]);
        return parser.parse(words) && !parser.isSet(help) && !parser.isSet(version);
    }
    bool shipped() const { return parser.isSet(demo); }
    QStringList named() const { return parser.positionalArguments(); }
    QString first() const {
        return shipped() ? bathylux::demoFolder() + "/" + parser.value(demo) + ".json" : named().value(0);
    }
};

/// Reads what a piece is made of while the window is being made: pictures that need no Qt before there is
/// even an application, all else once there is.
class ReadAhead {
  public:
    ReadAhead(std::shared_ptr<bathylux::files::Resolver> resolver, std::string path, bool shipped)
        : thread_([resolver = std::move(resolver), path = std::move(path), shipped,
                   application = application_.get_future()] {
              // Numbers are read as files write them, whatever Qt makes of the process's language meanwhile.
              uselocale(newlocale(LC_ALL_MASK, "C", nullptr));
              try {
                  if (path.empty()) return;
                  auto opened = bathylux::files::open_piece(path);
                  if (shipped) bathylux::files::embed_all(opened);
                  bathylux::for_each_element(opened.piece.elements, [&](const bathylux::Element& e) {
                      const auto* picture = e.source.as<bathylux::PictureSource>();
                      if (!picture || picture->file.empty()) return;
                      if (bathylux::files::is_plain_png(*opened.store.bytes_of(picture->file)))
                          resolver->resolve(e.source, opened.store);
                  });
                  application.wait();
                  bathylux::files::load_shipped_fonts();
                  resolver->resolve(opened.piece, opened.store);
              } catch (const std::exception&) {
                  // The window opens it again and says what is wrong.
              }
          }) {}
    void applicationIsThere() { application_.set_value(); }

  private:
    std::promise<void> application_;
    std::jthread thread_;
};

} // namespace

int main(int argc, char** argv) {
    QElapsedTimer timer;
    timer.start();
    Asked asked;
    auto resolver = std::make_shared<bathylux::files::Resolver>(bathylux::window_budget);
    const bool understood = asked.understood(argc, argv);
    ReadAhead ahead(resolver, understood ? asked.first().toStdString() : std::string(), asked.shipped());

    bathylux::Application app(argc, argv);
    // Qt takes up the language of the machine; numbers in files are written the same everywhere.
    std::setlocale(LC_NUMERIC, "C");
    QApplication::setApplicationName("bathylux");
    QApplication::setOrganizationName("bathylux");
    QApplication::setApplicationDisplayName("Bathylux");
    QApplication::setApplicationVersion(BATHYLUX_VERSION);
    QGuiApplication::setDesktopFileName("org.bathylux.Bathylux");

    asked.parser.process(app); // Qt's own options are gone now; help, and what is not understood, end here
    ahead.applicationIsThere();
    const QStringList named = asked.named();
    const bool shipped = asked.shipped();
    const QString first = asked.first(), clock = asked.parser.value(asked.clock);

    bathylux::Theme::apply(app, QSettings().value("dark", true).toBool());
    // The piece as it was seen last, until it is made again.
    std::optional<QPixmap> awaited;
    if (shipped)
        awaited = bathylux::shelfPicture(asked.parser.value(asked.demo));
    else if (!first.isEmpty())
        awaited = first.endsWith(".bathylux") ? lastLookOf(first) : QPixmap();
    const auto end = [&timer] {
        std::printf("%.1f\n", static_cast<double>(timer.nsecsElapsed()) / 1e6);
        std::fflush(stdout);
        std::_Exit(0);
    };
    EndsWithLastLook last_look(end);
    if (clock == "last-look") app.installEventFilter(&last_look);
    bathylux::Window window(resolver, awaited);
    if (!clock.isEmpty()) // a display may be too slow to show the last look before there is a picture
        QObject::connect(&window.desk().renderer, &bathylux::Renderer::framed, end);
    app.tell = [&window](const QString& trouble) { window.tell(trouble); };
    QApplication::setWindowIcon(QIcon(bathylux::iconPixmap("app", Qt::black, 128, 1)));
    window.restoreLook();
    window.show();
    // First the window, then the work: it is seen while the piece is read.
    QTimer::singleShot(0, &window, [&] {
        if (shipped) window.openDemo(first);
        if (!named.isEmpty()) window.addFiles(named);
        window.awaited();
        if (clock.isEmpty()) window.offerRecovered();
    });
    return bathylux::Application::exec();
}
