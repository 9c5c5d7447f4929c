#include <QTest>
#include <atomic>
#include <semaphore>

#include "app/document/newest_first.h"
#include "run.h"

using namespace bathylux;
using namespace std::chrono_literals;

/// Who works behind the window: what makes way for what, and what is left when nobody waits.
class TestNewestFirst : public QObject {
    Q_OBJECT

    struct Question {
        int number = 0;
        bool coarse = false;
    };
    std::mutex mutex_;
    QStringList log_;
    std::counting_semaphore<> begun_{0}, go_{0};

    void note(const QString& what) {
        const std::lock_guard lock(mutex_);
        log_ << what;
    }
    QString log() {
        const std::lock_guard lock(mutex_);
        return log_.join(' ');
    }
    /// Goes on until it is stopped or let go.
    void work(const Question& q) {
        note(QString("begins-%1").arg(q.number));
        begun_.release();
        while (!go_.try_acquire_for(1ms)) stop_here();
        note(QString("ends-%1").arg(q.number));
    }
    bool begins() { return begun_.try_acquire_for(30s); }

  private slots:
    void init() {
        log_.clear();
        while (begun_.try_acquire()) continue;
        while (go_.try_acquire()) continue;
    }

    void a_sharp_answer_makes_way_and_a_coarse_one_goes_through() {
        NewestFirst<Question> worker([&](const Question& q) { work(q); },
                                     [&](const QString& why) { note(why); });
        QVERIFY(worker.idle() && worker.milliseconds() == 0);
        worker.ask({1, false});
        QVERIFY(begins());
        // A sharp one under way is given up for whatever comes, a coarse one for nothing; of what is asked
        // meanwhile only the newest is answered.
        const auto coarse = worker.ask({2, true});
        QVERIFY(begins());
        QVERIFY(worker.awaited(coarse) && !worker.idle());
        worker.ask({3, true});
        const auto last = worker.ask({4, false});
        QVERIFY(!worker.awaited(coarse) && worker.awaited(last));
        QTest::qWait(30);
        QVERIFY(worker.milliseconds() >= 30);
        go_.release();
        QVERIFY(begins());
        QCOMPARE(log(), QString("begins-1 begins-2 ends-2 begins-4"));
        // Given up, it is no more under way, and nothing more is said of it.
        worker.giveUp();
        QVERIFY(!worker.awaited(last));
        QTRY_VERIFY_WITH_TIMEOUT(worker.idle(), 30'000);
        QCOMPARE(log(), QString("begins-1 begins-2 ends-2 begins-4"));
        // So is a coarse one, when all is given up; and one that is asked then is answered.
        worker.ask({5, true});
        QVERIFY(begins());
        worker.giveUp();
        worker.ask({6, true});
        QVERIFY(begins());
        go_.release();
        QTRY_VERIFY_WITH_TIMEOUT(worker.idle(), 30'000);
        QVERIFY(log().endsWith("begins-5 begins-6 ends-6"));
    }

    void what_fails_is_told_and_the_next_is_answered() {
        NewestFirst<Question> worker(
            [&](const Question& q) {
                if (q.number == 1) throw Error("no such file");
                note(QString("answers-%1").arg(q.number));
            },
            [&](const QString& why) { note(why); });
        worker.ask({1, false});
        QTRY_COMPARE_WITH_TIMEOUT(log(), QString("no such file"), 30'000);
        worker.ask({2, false});
        QTRY_COMPARE_WITH_TIMEOUT(log(), QString("no such file answers-2"), 30'000);
    }

    /// What an answer leaves for later ends as soon as something is asked, and does not count as work.
    void what_is_left_for_later_gives_way() {
        std::atomic<bool> called = false;
        NewestFirst<Question> worker(
            [&](const Question& q) {
                note(QString("answers-%1").arg(q.number));
                worker.answered();
                begun_.release();
                if (q.number == 1) called = worker.calledWithin(60s);
            },
            [&](const QString& why) { note(why); });
        worker.ask({1, false});
        QVERIFY(begins() && worker.idle() && !called);
        worker.ask({2, false});
        QVERIFY(begins() && called);
        QCOMPARE(log(), QString("answers-1 answers-2"));
        // And it keeps nobody from leaving.
        worker.ask({1, false});
        QVERIFY(begins());
    }
};

BATHYLUX_TEST(TestNewestFirst)
#include "test_newest_first.moc"
