#pragma once
#include <QFileSystemWatcher>
#include <QMainWindow>
#include <QTimer>
#include <thread>

#include "app/desk.h"
#include "app/table.h"
#include "files/deliver.h"

class QLabel;
class QMimeData;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace bathylux {

class Drawer;
class BrushRow;
class FirstPage;
class LightDesk;
class Makings;
class NoticeBar;

/// A fresh piece: a canvas and a far light from the upper left.
Piece freshPiece();

class Window : public QMainWindow {
    Q_OBJECT
  public:
    /// `resolver`: one that may have begun on the pieces to be opened.
    explicit Window(std::shared_ptr<files::Resolver> resolver = nullptr);
    ~Window() override;

    // What the menus do; also for tests and the command line.
    bool openPath(const QString& path);
    /// Opens a shipped piece as a fresh, unsaved one.
    bool openDemo(const QString& path);
    /// Takes the files a piece links to into it.
    static void embedAll(files::Opened& opened);
    bool saveTo(const QString& path);
    void deliverTo(const QString& path, const files::Delivery& how);
    void deliverAll(const std::vector<files::Order>& orders);
    void addFiles(const QStringList& paths, std::optional<Vec2> at = {});
    void addElement(const QString& kind);
    void addStep(const QString& kind);
    /// Offers what an earlier run left behind when it ended without being closed.
    void offerRecovered();
    /// Keeps the piece aside now, if it has unsaved work. See docs/promises.md.
    void keepAside();

    Desk& desk() { return desk_; }
    Table& table() { return *table_; }
    Makings& makings() { return *makings_; }
    LightDesk& lights() { return *lights_; }
    Drawer& drawer() { return *drawer_; }
    NoticeBar& notices() { return *notices_; }
    /// The action of that name, as the finder lists it.
    QAction* action(const QString& name) const;
    bool delivering() const { return delivering_; }

  protected:
    void closeEvent(QCloseEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void dragEnterEvent(QDragEnterEvent*) override;
    void dropEvent(QDropEvent*) override;

  private:
    QAction* add(QMenu* menu, const QString& name, const QKeySequence& key, std::function<void()> run,
                 bool needsPiece = true);
    void makeMenus();
    QWidget* makeToolRow();
    void refreshActions();
    void refreshTitle();
    void showPiece();
    void newPiece();
    void ask(); // the file to open
    bool save();
    bool saveAs();
    bool mayLeave();
    void copy();
    void paste();
    /// What was pasted or dropped: parts of a piece, a picture, files, words.
    void pasteData(const QMimeData* data, std::optional<Vec2> at = {});
    void takeStrokes(Element& element, files::Store& store) const;
    void removeChosen();
    void arrangeOrder(int by);
    void flip(bool across);
    void fitToCanvas();
    void fitToCanvas(double margin);
    void addPictureFile(const QString& path, const QString& as);
    void deliverSection();
    void align(int how);
    void stepAction(const QString& what, int index);
    void embed(const QString& element);
    void embedPanoramas();
    /// Takes linked files into the piece; `rename` gives them their names there.
    void keepInside(
        const std::vector<std::string>& named,
        const std::function<void(Piece&, const std::function<std::string(const std::string&)>&)>& rename);
    void relink(const QString& element);
    void watchFiles();
    void fileChanged(const QString& path);
    void findAction();
    void deliver(View view);
    void noteRecent(const QString& path);
    void addPictureElement(const std::string& file, const QString& name,
                           std::shared_ptr<const files::Bytes> embedded, std::optional<Vec2> at,
                           const Picture* picture, const QString& as = {});
    void addFrames(const QStringList& paths);
    QString asidePath() const;
    void forgetAside();
    void setTheme(bool dark);

    Desk desk_;
    QStackedWidget* middle_;
    QSplitter* split_;
    Table* table_;
    BrushRow* brushRow_;
    FirstPage* first_;
    Makings* makings_;
    LightDesk* lights_;
    Drawer* drawer_;
    NoticeBar* notices_;
    QLabel *title_, *size_, *working_;
    QToolButton *zoomLabel_, *cancel_;
    QMenu* recent_ = nullptr;
    QList<QAction*> all_, needPiece_;
    QMap<int, QToolButton*> tools_;
    QFileSystemWatcher watcher_;
    QTimer aside_, pulse_;
    QString asideFile_;
    std::jthread delivery_;
    std::atomic<double> delivered_ = 0;
    bool delivering_ = false, started_ = false;
    int pasted_ = 0;
    std::map<std::string, std::shared_ptr<const Painting>> copiedStrokes_; // of what was copied last
};

} // namespace bathylux
