#pragma once
#include <QCoreApplication>
#include <QMetaObject>
#include <QPointer>
#include <QThreadPool>
#include <exception>
#include <memory>
#include <type_traits>
#include <utility>

namespace bathylux {

/// Does `work` behind the window, then hands what it gives to `then` in the window's thread, if `context`
/// still lives. What is thrown in `work` is handed on as well: it is thrown again where `then` would be
/// called, and told there.
template <class Work, class Then> void behind(QObject* context, Work work, Then then) {
    QThreadPool::globalInstance()->start(
        [context = QPointer<QObject>(context), work = std::move(work), then = std::move(then)]() mutable {
            using Result = std::invoke_result_t<Work>;
            std::exception_ptr thrown;
            std::shared_ptr<Result> result;
            try {
                result = std::make_shared<Result>(work());
            } catch (...) {
                thrown = std::current_exception();
            }
            QMetaObject::invokeMethod(
                qApp,
                [context, thrown, result, then = std::move(then)]() mutable {
                    if (!context) return;
                    if (thrown) std::rethrow_exception(thrown);
                    then(std::move(*result));
                },
                Qt::QueuedConnection);
        });
}

} // namespace bathylux
