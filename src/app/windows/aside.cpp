#include "app/windows/aside.h"

#include <fcntl.h>
#include <sys/file.h>
#include <unistd.h>

#include <QDir>
#include <QFile>
#include <QUuid>

namespace bathylux {

namespace {

QString folder() {
    QString base = qEnvironmentVariable("XDG_STATE_HOME"); // XDG Base Directory Specification
    if (base.isEmpty()) base = QDir::homePath() + "/.local/state";
    return base + "/bathylux/aside";
}

QString lockOf(const QString& file) { return file + ".lock"; }
QString fromOf(const QString& file) { return file + ".from"; }

void removeAll(const QString& file) {
    for (const QString& f : {file, fromOf(file), lockOf(file)}) QFile::remove(f);
}

/// An open file with its lock, or −1 where another holds it.
int locked(const QString& path) {
    const int fd = ::open(path.toLocal8Bit().constData(), O_RDWR | O_CREAT | O_CLOEXEC, 0600);
    if (fd >= 0 && ::flock(fd, LOCK_EX | LOCK_NB) == 0) return fd;
    if (fd >= 0) ::close(fd);
    return -1;
}

} // namespace

Aside::Aside() : file_(folder() + "/" + QUuid::createUuid().toString(QUuid::WithoutBraces) + ".bathylux") {
    QDir().mkpath(folder());
    lock_ = locked(lockOf(file_));
}

Aside::~Aside() {
    if (lock_ >= 0) ::close(lock_);
    // A lock that guards nothing is of no use to anybody.
    if (!QFile::exists(file_)) QFile::remove(lockOf(file_));
}

void Aside::keep(const Document::State& state, const QString& original) const {
    QDir().mkpath(folder());
    const std::string from = original.toStdString();
    files::write_atomically(fromOf(file_).toStdString(), std::as_bytes(std::span(from)));
    files::save_piece(*state.piece, state.store, file_.toStdString());
}

void Aside::forget() {
    QFile::remove(file_);
    QFile::remove(fromOf(file_));
}

QList<Aside::Lost> Aside::lost() {
    QList<Lost> out;
    for (const QFileInfo& info : QDir(folder()).entryInfoList({"*.bathylux"}, QDir::Files, QDir::Time)) {
        const QString file = info.absoluteFilePath();
        const int fd = locked(lockOf(file));
        if (fd < 0) continue; // its window is still open
        ::close(fd);
        QFile from(fromOf(file));
        out << Lost{file, from.open(QIODevice::ReadOnly) ? QString::fromUtf8(from.readAll()) : QString(),
                    info.lastModified()};
    }
    return out;
}

void Aside::throwAway(const Lost& lost) { removeAll(lost.file); }

} // namespace bathylux
