#pragma once
#include <QRegularExpression>
#include <QStringList>

namespace bathylux {

/// The last number in a file's name, before its ending; −1 where there is none. (QCollator knows numbers in
/// some locales only.)
inline qlonglong numberIn(const QString& path) {
    static const QRegularExpression digits("(\\d+)\\.[A-Za-z]+$");
    const auto m = digits.match(path);
    return m.hasMatch() ? m.captured(1).toLongLong() : -1;
}

/// Files in the order of their numbers.
inline QStringList inNumberOrder(QStringList paths) {
    std::stable_sort(paths.begin(), paths.end(), [](const QString& a, const QString& b) {
        const qlonglong m = numberIn(a), n = numberIn(b);
        return m != n ? m < n : a < b;
    });
    return paths;
}

} // namespace bathylux
