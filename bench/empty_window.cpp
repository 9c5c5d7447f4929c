// Opens an empty window and ends as soon as it has been painted.
#include <QApplication>
#include <QWidget>

class Window : public QWidget {
  protected:
    void paintEvent(QPaintEvent*) override { std::_Exit(0); }
};

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    Window window;
    window.resize(1280, 800);
    window.show();
    return QApplication::exec();
}
