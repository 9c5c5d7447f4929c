#pragma once
#include <QString>
#include <chrono>
#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <stop_token>
#include <thread>
#include <utility>

#include "core/error.h"
#include "core/field/parallel.h"

namespace bathylux {

/// One thread behind the window that answers the newest question asked. A coarse answer is small and goes
/// through whatever is asked next, so that the hand always sees something; a sharp one makes way.
/// `Question` has a member `coarse`.
template <class Question> class NewestFirst {
  public:
    /// Both are called in the thread. What `answer` throws ends that answer; but for Cancelled, `failed` is
    /// told.
    NewestFirst(std::function<void(const Question&)> answer, std::function<void(const QString&)> failed)
        : answer_(std::move(answer)), failed_(std::move(failed)),
          thread_([this](const std::stop_token& quit) { run(quit); }) {}
    NewestFirst(const NewestFirst&) = delete;
    NewestFirst& operator=(const NewestFirst&) = delete;
    ~NewestFirst() {
        giveUp();
        thread_.request_stop();
        wake_.notify_all();
    }

    /// The question's number.
    std::uint64_t ask(Question question) {
        const std::lock_guard lock(mutex_);
        sharp_.request_stop();
        wanted_ = std::move(question);
        wake_.notify_all();
        return ++number_;
    }
    /// What is asked and what is under way is not answered.
    void giveUp() {
        const std::lock_guard lock(mutex_);
        wanted_.reset();
        ++number_;
        sharp_.request_stop();
        std::exchange(all_, std::stop_source()).request_stop();
    }
    /// That question is the newest, and its answer is still to come.
    bool awaited(std::uint64_t number) const {
        const std::lock_guard lock(mutex_);
        return number == number_ && (wanted_ || busy_);
    }
    /// Nothing asked, and nothing under way but what an answer leaves for later.
    bool idle() const {
        const std::lock_guard lock(mutex_);
        return !wanted_ && !busy_;
    }
    /// ms since the answer under way was begun; 0: there is none.
    double milliseconds() const {
        const std::lock_guard lock(mutex_);
        return busy_ ? std::chrono::duration<double, std::milli>(Clock::now() - since_).count() : 0;
    }

    // For an answer that has more to do when nobody waits.
    /// It is answered; what follows only uses the time.
    void answered() {
        const std::lock_guard lock(mutex_);
        busy_ = false;
    }
    /// Waits; whether something else is to be done by then.
    bool calledWithin(std::chrono::milliseconds time) {
        const std::stop_token quit = thread_.get_stop_token();
        std::unique_lock lock(mutex_);
        return wake_.wait_for(lock, quit, time, [&] { return wanted_.has_value(); }) || quit.stop_requested();
    }

  private:
    using Clock = std::chrono::steady_clock;

    void run(const std::stop_token& quit) {
        while (true) {
            Question question;
            std::stop_token stop;
            {
                std::unique_lock lock(mutex_);
                busy_ = false;
                if (!wake_.wait(lock, quit, [&] { return wanted_.has_value(); })) return;
                question = std::move(*wanted_);
                wanted_.reset();
                sharp_ = std::stop_source();
                stop = question.coarse ? all_.get_token() : sharp_.get_token();
                since_ = Clock::now();
                busy_ = true;
            }
            try {
                const Stoppable work(stop);
                answer_(question);
            } catch (const Cancelled&) {
                // Another is asked, or it is given up.
            } catch (const std::exception& e) {
                failed_(QString::fromUtf8(e.what()));
            }
        }
    }

    std::function<void(const Question&)> answer_;
    std::function<void(const QString&)> failed_;
    mutable std::mutex mutex_;
    std::condition_variable_any wake_;
    std::optional<Question> wanted_;
    std::uint64_t number_ = 0;
    std::stop_source sharp_, all_;
    bool busy_ = false;
    Clock::time_point since_;
    std::jthread thread_; // last: it uses the others, and is joined before they go
};

} // namespace bathylux
