#include <QProcess>
#include <QTest>

#include "run.h"

/// The program itself, from its command line to the picture.
class TestStart : public QObject {
    Q_OBJECT

    struct Ended {
        int code = -1;
        QString out, err;
    };
    /// Ended by itself, whatever it was asked; a code of its own where it had to be ended.
    static Ended run(const QStringList& words) {
        QProcess program;
        program.start(BATHYLUX_WINDOW, words);
        if (!program.waitForFinished(120'000) || program.exitStatus() != QProcess::NormalExit) {
            program.kill();
            program.waitForFinished();
            return {};
        }
        return {program.exitCode(), QString::fromUtf8(program.readAllStandardOutput()),
                QString::fromUtf8(program.readAllStandardError())};
    }

  private slots:
    void a_shipped_piece_is_seen_and_then_made() {
        // Several times: fonts and pictures are read beside the making of the window, in no order.
        for (const char* piece : {"last-tram-home", "quay-end", "token-medal", "line-tile"})
            for (const char* until : {"last-look", "picture"}) {
                const Ended ended = run({"--demo", piece, "--time-to", until});
                QVERIFY2(ended.code == 0, qPrintable(ended.err));
                QVERIFY(ended.out.toDouble() > 0);
            }
    }

    void a_piece_that_is_named_is_opened() {
        // Qt's own words may stand beside ours.
        for (const QStringList& words : {QStringList{}, {"-platform", "offscreen"}, {"-style=fusion"}}) {
            const Ended ended =
                run(words + QStringList{BATHYLUX_DEMO "/quay-lights.json", "--time-to", "picture"});
            QVERIFY2(ended.code == 0, qPrintable(ended.err));
            QVERIFY(ended.out.toDouble() > 0);
        }
    }

    void what_needs_no_window_ends_at_once() {
        const QString piece = BATHYLUX_DEMO "/last-tram-home.json";
        const Ended version = run({"--version", piece});
        QCOMPARE(version.code, 0);
        QVERIFY(version.out.contains(BATHYLUX_VERSION));
        const Ended help = run({"--help", "--demo", "last-tram-home"});
        QCOMPARE(help.code, 0);
        for (const char* option : {"--demo", "--time-to", "[file…]"}) QVERIFY(help.out.contains(option));
        const Ended unknown = run({"--colour", piece});
        QCOMPARE(unknown.code, 1);
        QVERIFY2(unknown.err.contains("colour"), qPrintable(unknown.err));
    }
};

BATHYLUX_TEST(TestStart)
#include "test_start.moc"
