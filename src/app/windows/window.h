#pragma once
#include <QFileSystemWatcher>
#include <QMainWindow>
#include <QTimer>
#include <thread>

#include "app/document/desk.h"
#include "app/table/table.h"
#include "app/windows/actions.h"
#include "app/windows/aside.h"
#include "app/windows/solid_export_dialog.h"
#include "files/export.h"

class QLabel;
class QMimeData;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace bathylux {

class BrushRow;
class Drawer;
class FirstPage;
class LastLook;
class LightDesk;
class Makings;
class NoticeBar;
class SolidPane;
class TimeStrip;
class TimeView;

/// A fresh piece: a canvas and a far light from the upper left.
Piece freshPiece(int width = 1600, int height = 1000, double perMm = 12);

/// The window: it puts the rooms beside one another, does what the menus say, and speaks with files.
///
/// What a person asks for goes through `guarded`: whatever is thrown becomes a sentence, and the piece is as
/// it was.
class Window : public QMainWindow {
    Q_OBJECT
  public:
    /// `resolver`: one that may have begun on the pieces to be opened. `awaited`: a piece is about to be
    /// opened; the window is there at once with its last look (or none), and its rooms are made behind that.
    explicit Window(std::shared_ptr<files::Resolver> resolver = nullptr,
                    const std::optional<QPixmap>& awaited = {});
    ~Window() override;

    // What the menus do; also for tests and the command line.
    bool openPath(const QString& path);
    /// Opens a shipped piece as a fresh, unsaved one.
    bool openDemo(const QString& path);
    bool saveTo(const QString& path);
    void exportTo(const QString& path, const files::Export& how);
    void exportAll(const std::vector<files::Order>& orders);
    void exportSolidTo(const QString& path, const files::SolidExport& how);
    void exportMeshTo(const QString& path, const files::MeshExport& how);
    /// Takes files in, one after the other; they are read behind the window.
    void addFiles(const QStringList& paths, std::optional<Vec2> at = {});
    bool readingFiles() const { return !incoming_.isEmpty(); }
    void addElement(const QString& kind);
    void addStep(const QString& kind);
    /// Offers what earlier runs left behind when they ended without being closed.
    void offerRecovered();
    /// Keeps the piece aside now, if it has unsaved work. See docs/promises.md.
    void keepAside();
    /// What was awaited was opened, or was not: then there is the first page after all.
    void awaited();
    /// Size, place, folds and widths as they were left.
    void restoreLook();

    Desk& desk() { return desk_; }
    Table& table() { return *table_; }
    Makings& makings() { return *makings_; }
    LightDesk& lights() { return *lights_; }
    Drawer& drawer() { return *drawer_; }
    TimeView& tracks() { return *tracks_; }
    TimeStrip& time() { return *time_; }
    SolidPane& solid() { return *solid_; }
    NoticeBar& notices() { return *notices_; }
    NoticeBar& recovery() { return *recovery_; }
    /// The action of that id.
    QAction* action(const QString& id) const { return actions_->find(id); }
    bool exporting() const { return exporting_; }

    /// Tells what went wrong, in a line.
    void tell(const QString& trouble);
    /// Calls what one asked for; what is thrown, of whatever type, becomes a sentence.
    void guarded(const std::function<void()>& work);

  protected:
    void closeEvent(QCloseEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    /// Connects a signal to something that is guarded.
    template <class Sender, class Signal, class Work> void on(Sender* sender, Signal signal, Work work) {
        connect(sender, signal, this, [this, work](auto&&... a) { guarded([&] { call(work, a...); }); });
    }
    /// With as many of a signal's values as it takes.
    template <class Work> static void call(Work& work) { work(); }
    template <class Work, class First, class... Rest>
    static void call(Work& work, First& first, Rest&... rest) {
        if constexpr (std::is_invocable_v<Work&, First&, Rest&...>)
            work(first, rest...);
        else if constexpr (std::is_invocable_v<Work&, First&>)
            work(first);
        else
            work();
    }
    // window.cpp
    void connectRooms();
    QWidget* makeToolRow();
    void refreshActions();
    void awaitPiece(const QPixmap& lastLook);
    void endLastLook();
    void refreshTitle();
    void showPiece();
    void restorePlace();
    void setTheme(bool dark);
    void findAction();
    void showMenu(const QStringList& ids, const QPoint& at);
    // window_actions.cpp
    QList<ActionRow> rows();
    void makeMenus();
    QList<ActionRow> pieceRows();
    QList<ActionRow> editRows();
    QList<ActionRow> makeRows();
    QList<ActionRow> viewRows();
    QList<ActionRow> lightRows();
    // window_edits.cpp
    void removeChosen();
    void arrangeOrder(int by);
    void groupChosen();
    void ungroupChosen();
    void lockChosen();
    void fitToCanvas();
    void fitToCanvas(double margin);
    void flip(bool across);
    void align(int how);
    void stepAction(const QString& what, const QString& step);
    void changePlacements(const QString& name, const Placing& placing,
                          const std::vector<Placement>& placements);
    // window_pieces.cpp
    void newPiece();
    void ask(); // the file to open
    bool save();
    bool saveAs();
    bool mayLeave();
    void noteRecent(const QString& path);
    void takeUp(const Aside::Lost& lost);
    // window_incoming.cpp
    void readNext();
    struct Read;
    void takeIn(const Read& read);
    void addFrames(const Read& read);
    void addClip(const Read& read);
    // window_linked.cpp
    void embed(const QString& element);
    void embedEverything();
    /// Takes linked files into the piece; `rename` gives them their names there.
    void keepInside(
        const std::vector<std::string>& named,
        const std::function<void(Piece&, const std::function<std::string(const std::string&)>&)>& rename);
    void relink(const QString& element);
    void watchFiles();
    void fileChanged(const QString& path);
    // window_clipboard.cpp
    void copy();
    void paste();
    /// What was pasted or dropped: parts of a piece, a picture, files, words.
    void pasteData(const QMimeData* data, std::optional<Vec2> at = {});
    void pastePicture(const QImage& image, std::optional<Vec2> at);
    void pasteParts(const QByteArray& clip);
    void copyStep(const Step& step);
    void takeStrokes(Element& element, files::Store& store) const;
    // window_setups.cpp
    QList<ActionRow> setUpRows();
    void openRecipes(const QString& choose = {});
    void takeRecipe(const QString& file);
    void openAlternatives(const QString& step);
    void setUp(const QString& name,
               const std::function<std::string(Piece&, const std::string&, const Box&)>& make);
    void turnIntoDrawing();
    void runAlong();
    // window_export.cpp
    void exportMaps(View view);
    void exportSolid(SolidExportDialog::What what);
    /// What is written in one go, behind the window.
    struct ExportJob {
        std::vector<std::filesystem::path> files;
        std::function<void(Evaluator&, const Scene&, const Progress&)> write;
        std::optional<int> frame{}; // of the piece; none: the one it stands at
    };
    void exportJobs(const std::vector<ExportJob>& jobs);
    /// Asks first, when files are there that would be replaced, but for the one that was agreed on.
    void exportAsking(const std::vector<ExportJob>& jobs, const std::filesystem::path& agreed);
    void exportSection();
    void exportFilm();

    Desk desk_;
    Actions* actions_;
    QStackedWidget* middle_ = nullptr; // the rooms are made in the constructor, behind the last look
    QSplitter* split_;
    Table* table_;
    BrushRow* brushRow_;
    FirstPage* first_;
    Makings* makings_;
    LightDesk* lights_;
    Drawer* drawer_;
    TimeStrip* time_;
    TimeView* tracks_;
    SolidPane* solid_;
    NoticeBar *notices_, *recovery_;
    QLabel *title_, *size_, *working_;
    LastLook* lastLook_ = nullptr;
    QToolButton *zoomLabel_, *cancel_;
    QMap<int, QToolButton*> tools_;
    QFileSystemWatcher watcher_;
    std::vector<std::string> watched_;
    QTimer asideTimer_, pulse_;
    Aside aside_;
    bool onSolid_ = false;
    bool askingToLeave_ = false, reading_ = false, closed_ = false;
    struct Incoming {
        QStringList paths; // one, or the frames of a sprite
        std::optional<Vec2> at;
        QString as; // "normals", "sprites": told; "": recognised
    };
    QList<Incoming> incoming_;
    std::stop_source stopExport_;
    std::atomic<double> exported_ = 0;
    bool exporting_ = false;
    int pasted_ = 0;
    std::map<std::string, std::shared_ptr<const Painting>> copiedStrokes_; // of what was copied last
};

} // namespace bathylux
