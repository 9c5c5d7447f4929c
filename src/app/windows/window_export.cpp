// Maps and pictures written out. See window.cpp for the window itself.
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>

#include "app/controls/notice_bar.h"
#include "app/document/behind.h"
#include "app/drawer/drawer.h"
#include "app/windows/export_dialog.h"
#include "app/windows/film_export_dialog.h"
#include "app/windows/window.h"
#include "core/error.h"
#include "core/field/parallel.h"
#include "core/render/heap.h"
#include "files/export_parts.h"

namespace bathylux {

void Window::exportMaps(View view) {
    auto* d = new ExportDialog(desk_, view, this);
    d->setAttribute(Qt::WA_DeleteOnClose);
    connect(d, &ExportDialog::exportAsked, this, &Window::exportAll);
    d->open();
}

void Window::exportTo(const QString& path, const files::Export& how) {
    files::Order order;
    order.path = path.toStdString();
    order.how = how;
    order.frame = desk_.document.frame();
    exportAll({order});
}

void Window::exportSolid(SolidExportDialog::What what) {
    auto* d = new SolidExportDialog(desk_, what, this);
    d->setAttribute(Qt::WA_DeleteOnClose);
    connect(d, &SolidExportDialog::pictureAsked, this, &Window::exportSolidTo);
    connect(d, &SolidExportDialog::meshAsked, this, &Window::exportMeshTo);
    connect(d, &SolidExportDialog::turntableAsked, this,
            [this](const QString& path, const files::SolidExport& how, int frames) {
                std::vector<ExportJob> jobs;
                const QFileInfo file(path);
                for (int i = 0; i < frames; ++i) {
                    const QString name = QString("%1/%2-%3.%4")
                                             .arg(file.path(), file.completeBaseName())
                                             .arg(i, 4, 10, QChar('0'))
                                             .arg(file.suffix());
                    jobs.push_back(
                        {{name.toStdString()},
                         [=](Evaluator& evaluator, const Scene& scene, const Progress& progress) {
                             Scene turned = scene;
                             turned.piece =
                                 std::make_shared<const Piece>(turned_round(*scene.piece, i, frames));
                             files::export_solid(evaluator, turned, name.toStdString(), how, progress);
                         }});
                }
                exportAsking(jobs, path.toStdString());
            });
    d->open();
}

void Window::exportSolidTo(const QString& path, const files::SolidExport& how) {
    exportJobs({{{path.toStdString()},
                 [path, how](Evaluator& evaluator, const Scene& scene, const Progress& progress) {
                     files::export_solid(evaluator, scene, path.toStdString(), how, progress);
                 }}});
}

void Window::exportMeshTo(const QString& path, const files::MeshExport& how) {
    exportJobs(
        {{{path.toStdString()}, [path, how](Evaluator& evaluator, const Scene& scene, const Progress&) {
              files::export_mesh(evaluator, scene, path.toStdString(), how);
          }}});
}

void Window::exportAll(const std::vector<files::Order>& orders) {
    std::vector<ExportJob> jobs;
    jobs.reserve(orders.size());
    for (const files::Order& order : orders)
        jobs.push_back({{order.path},
                        [order](Evaluator& evaluator, const Scene& scene, const Progress& progress) {
                            files::carry_out(evaluator, scene, order, progress);
                        },
                        order.frame});
    exportJobs(jobs);
}

void Window::exportJobs(const std::vector<ExportJob>& orders) {
    std::vector<std::filesystem::path> files;
    for (const ExportJob& order : orders) files.insert(files.end(), order.files.begin(), order.files.end());
    if (files.empty()) return;
    if (exporting_) return tell(tr("Something is being exported already; stop it first, or wait."));
    exporting_ = true;
    exported_ = 0;
    stopExport_ = {};
    // What is thrown is told as any other trouble; what was stopped says how far it came.
    struct Outcome {
        std::size_t done = 0;
        bool stopped = false;
        std::string trouble;
    };
    behind(
        this,
        [this, orders, all = static_cast<double>(files.size()), state = desk_.document.state(),
         frame = desk_.document.frame(), stop = stopExport_.get_token()] {
            Outcome out;
            const Stoppable work(stop);
            try {
                Evaluator evaluator(desk_.renderer.budget());
                for (const ExportJob& order : orders) {
                    const Scene scene = desk_.renderer.resolver().scene(*state.piece, state.store,
                                                                        order.frame.value_or(frame));
                    const auto of_it = static_cast<double>(order.files.size());
                    order.write(evaluator, scene, [&](double d) {
                        exported_ = (static_cast<double>(out.done) + d * of_it) / all;
                    });
                    out.done += order.files.size();
                }
            } catch (const Cancelled&) {
                out.stopped = true;
            } catch (const std::exception& e) {
                out.trouble = e.what();
            }
            give_back_memory();
            return out;
        },
        [this, files](const Outcome& out) {
            exporting_ = false;
            if (out.stopped && out.done == 0)
                notices_->say(tr("Export stopped; nothing was written."));
            else if (out.stopped)
                notices_->say(
                    tr("Export stopped; %1 of %2 files were written.").arg(out.done).arg(files.size()));
            else if (!out.trouble.empty())
                tell(qs(out.trouble));
            else if (files.size() == 1)
                notices_->say(tr("Exported %1.").arg(qs(files.front().string())));
            else
                notices_->say(tr("Exported %1 files into %2.")
                                  .arg(files.size())
                                  .arg(qs(files.front().parent_path().string())));
        });
}

void Window::exportAsking(const std::vector<ExportJob>& jobs, const std::filesystem::path& agreed) {
    QStringList there;
    for (const ExportJob& job : jobs)
        for (const auto& file : job.files)
            if (std::error_code ignored; file != agreed && std::filesystem::exists(file, ignored))
                there << qs(file.filename().string());
    if (there.isEmpty()) return exportJobs(jobs);
    auto* box = new QMessageBox(
        QMessageBox::Question, tr("Replace files"),
        there.size() == 1
            ? tr("%1 is there already.").arg(there.front())
            : tr("%1 of the files are there already: %2")
                  .arg(there.size())
                  .arg(there.mid(0, 4).join(", ") + (there.size() > 4 ? QString(", …") : QString("."))),
        QMessageBox::Cancel, this);
    box->setAttribute(Qt::WA_DeleteOnClose);
    auto* replace = box->addButton(tr("Replace"), QMessageBox::AcceptRole);
    replace->setObjectName("replaceFiles");
    box->setDefaultButton(QMessageBox::Cancel);
    connect(replace, &QAbstractButton::clicked, this, [this, jobs] { exportJobs(jobs); });
    box->open();
}

void Window::exportFilm() {
    auto* d = new FilmExportDialog(desk_, this);
    d->setAttribute(Qt::WA_DeleteOnClose);
    connect(d, &FilmExportDialog::asked, this,
            [this](const QString& path, const files::FilmOrder& order, FilmExportDialog::As as, bool resume) {
                const std::filesystem::path to = path.toStdString();
                const auto scene_at = [&resolver = desk_.renderer.resolver(), state = desk_.document.state()](
                                          int i) { return resolver.scene(*state.piece, state.store, i); };
                if (as != FilmExportDialog::As::pictures) {
                    const bool sheet = as == FilmExportDialog::As::sheet;
                    return exportAsking(
                        {{sheet ? std::vector{to} : files::film_files(desk_.document.piece(), to, order),
                          [=](Evaluator& evaluator, const Scene&, const Progress& progress) {
                              if (sheet)
                                  files::film_sheet(scene_at, to, order, 16);
                              else
                                  files::export_film(evaluator, scene_at, to, order, progress);
                          },
                          order.first}},
                        to);
                }
                std::vector<ExportJob> jobs;
                for (int i = order.first; i <= order.last; ++i) {
                    std::filesystem::path one = files::numbered(to, i);
                    if (order.parts) one.replace_extension(".ora");
                    std::error_code ignored;
                    if (resume && std::filesystem::exists(one, ignored)) continue;
                    jobs.push_back(
                        {{one},
                         [=](Evaluator& evaluator, const Scene& scene, const Progress& progress) {
                             if (order.parts)
                                 return files::export_parts(evaluator, scene, one, order.scale, progress);
                             if (order.solid)
                                 return files::export_solid(evaluator, scene, one, *order.solid, progress);
                             files::export_map(evaluator, scene, one,
                                               {order.view, order.scale, 0, order.green_up}, progress);
                         },
                         i});
                }
                if (jobs.empty()) return tell(tr("All of these pictures are there already."));
                exportAsking(jobs, to);
            });
    d->open();
}

void Window::exportSection() {
    if (!desk_.document.piece().section)
        throw Error(tr("There is no section yet: take the section tool (S) and draw a line across the table.")
                        .toStdString());
    const QString start = QSettings().value("folder", QDir::homePath()).toString() + "/" +
                          desk_.document.title() + "-section.svg";
    QString path =
        QFileDialog::getSaveFileName(this, tr("Export the section"), start, tr("Drawings (*.svg)"));
    if (path.isEmpty()) return;
    if (QFileInfo(path).suffix().isEmpty()) path += ".svg";
    behind(
        this,
        [scene = desk_.scene(), title = desk_.document.title(), path] {
            const std::string drawing = sectionDrawing(scene, title);
            files::write_atomically(path.toStdString(), std::as_bytes(std::span(drawing)));
            return path;
        },
        [this](const QString& written) { notices_->say(tr("Exported %1.").arg(written)); });
}

} // namespace bathylux
