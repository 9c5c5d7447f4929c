// Rooms use only those before them (docs/architecture.md), and nothing is too long to be read.
#include "run.h"
#include <QDirIterator>
#include <QRegularExpression>
#include <QtTest>

class TestRooms : public QObject {
    Q_OBJECT

    struct Source {
        QString path, room;
        QStringList lines;
    };
    static QList<Source> sources(const QString& house) {
        QList<Source> out;
        const QString root = QStringLiteral(BATHYLUX_SOURCES) + "/" + house;
        QDirIterator it(root, {"*.h", "*.cpp"}, QDir::Files, QDirIterator::Subdirectories);
        while (it.hasNext()) {
            QFile f(it.next());
            if (!f.open(QIODevice::ReadOnly)) continue;
            const QString within = it.filePath().mid(root.size() + 1);
            out << Source{house + "/" + within, within.contains('/') ? within.section('/', 0, 0) : QString(),
                          QString::fromUtf8(f.readAll()).split('\n')};
        }
        return out;
    }
    /// Room and house of what a line includes, where it is ours.
    static std::pair<QString, QString> included(const QString& line) {
        static const QRegularExpression ours("^#include \"(core|files|cli|app)/(?:([a-z]+)/)?");
        const auto m = ours.match(line);
        return {m.captured(1), m.captured(2)};
    }
    static void look(const QString& house, const QStringList& order, const QStringList& houses) {
        const auto all = sources(house);
        QVERIFY(all.size() > 10);
        QStringList wrong;
        for (const Source& s : all)
            for (const QString& line : s.lines) {
                const auto [other, room] = included(line);
                if (other.isEmpty()) continue;
                if (!houses.contains(other)) wrong << s.path + " uses " + line;
                if (other != house || room.isEmpty() || s.room.isEmpty()) continue;
                if (!order.contains(room) || !order.contains(s.room) ||
                    order.indexOf(room) > order.indexOf(s.room))
                    wrong << s.path + " uses " + line;
            }
        QVERIFY2(wrong.isEmpty(), qPrintable("\n" + wrong.join('\n')));
    }

  private slots:
    void core_uses_what_lies_before() {
        look("core",
             {"field", "shape", "time", "step", "make", "paint", "relief", "colour", "bend", "wear", "finish",
              "light", "solid", "piece", "render", "check"},
             {"core"});
    }
    void app_uses_what_lies_before() {
        look("app",
             {"document", "controls", "makings", "table", "desk", "drawer", "solid", "time", "windows"},
             {"core", "files", "app"});
    }
    void the_core_knows_no_toolkit_and_json_only_in_the_codec() {
        for (const Source& s : sources("core"))
            for (const QString& line : s.lines) {
                QVERIFY2(!line.startsWith("#include <Q"), qPrintable(s.path));
                QVERIFY2(!line.contains("nlohmann") || s.room == "piece", qPrintable(s.path));
            }
        for (const char* house : {"files", "app", "cli"})
            for (const Source& s : sources(house))
                for (const QString& line : s.lines)
                    QVERIFY2(!line.contains("nlohmann") && !line.contains("core/piece/json.h"),
                             qPrintable(s.path));
    }
    void no_file_is_longer_than_600_lines() {
        for (const char* house : {"core", "files", "app", "cli"})
            for (const Source& s : sources(house))
                QVERIFY2(s.lines.size() <= 600,
                         qPrintable(QString("%1: %2").arg(s.path).arg(s.lines.size())));
    }
};
BATHYLUX_TEST(TestRooms)
#include "test_rooms.moc"
