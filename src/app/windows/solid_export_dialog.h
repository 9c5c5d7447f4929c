#pragma once
#include <QDialog>

#include "app/document/desk.h"
#include "files/export_mesh.h"
#include "files/export_solid.h"

namespace bathylux {

/// Asks what of the solid goes out: a picture, a turntable of pictures, or a mesh.
class SolidExportDialog : public QDialog {
    Q_OBJECT
  public:
    enum class What { picture, turntable, mesh };
    SolidExportDialog(Desk& desk, What what, QWidget* parent);

    /// What is asked for so far.
    files::SolidExport picture() const;
    files::MeshExport mesh() const;
    int frames() const;

  signals:
    void pictureAsked(const QString& path, const bathylux::files::SolidExport& how);
    void turntableAsked(const QString& path, const bathylux::files::SolidExport& how, int frames);
    void meshAsked(const QString& path, const bathylux::files::MeshExport& how);

  private:
    void ask();
    Desk& desk_;
    What what_;
};

} // namespace bathylux
