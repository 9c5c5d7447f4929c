#pragma once
#include <QProcess>
#include <QTemporaryDir>

#include "files/pictures.h"

namespace bathylux {

/// The command line, run on files of a folder of its own.
class Command {
  protected:
    QTemporaryDir dir_;
    struct Ran {
        int code;
        QByteArray out, err;
    };
    static Ran run(const QStringList& args) {
        QProcess p;
        p.start(BATHYLUX_CLI, args);
        p.waitForFinished(120000);
        return {p.exitCode(), p.readAllStandardOutput(), p.readAllStandardError()};
    }
    std::filesystem::path at(const QString& name) const { return dir_.filePath(name).toStdString(); }
    QString piece(const QString& name, const std::string& json) const {
        QFile f(dir_.filePath(name));
        if (f.open(QIODevice::WriteOnly)) f.write(json.c_str());
        return f.fileName();
    }
};

} // namespace bathylux
