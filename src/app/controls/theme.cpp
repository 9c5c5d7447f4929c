#include "app/controls/theme.h"

#include <QApplication>
#include <QFile>
#include <QGuiApplication>
#include <QIconEngine>
#include <QPainter>
#include <QPalette>
#include <QPixmapCache>
#include <QStyleFactory>
#include <QSvgRenderer>

// At global scope, as Qt asks of resources in static libraries.
static void init_icon_resource() { Q_INIT_RESOURCE(icons); }

namespace bathylux {

namespace {

Theme night() {
    Theme t;
    t.dark = true;
    t.window = QColor("#22272a"), t.panel = QColor("#2a3034"), t.well = QColor("#1b1f22"),
    t.raised = QColor("#343b40"), t.line = QColor("#3d454a");
    t.text = QColor("#eae4d6"), t.second = QColor("#a9aea8"), t.faint = QColor("#737b7d");
    t.accent = QColor("#e2a83b"), t.onAccent = QColor("#1b1f22"), t.signal = QColor("#e4664c"),
    t.depth = QColor("#58b3a4");
    t.selection = QColor("#30373c");
    return t;
}

Theme day() {
    Theme t;
    t.dark = false;
    t.window = QColor("#ece8de"), t.panel = QColor("#e3ded2"), t.well = QColor("#f6f3ec"),
    t.raised = QColor("#d6d0c2"), t.line = QColor("#c0baab");
    t.text = QColor("#23282b"), t.second = QColor("#545b5c"), t.faint = QColor("#858a86");
    t.accent = QColor("#8a5a00"), t.onAccent = QColor("#fffaf0"), t.signal = QColor("#b23a20"),
    t.depth = QColor("#1f7568");
    t.selection = QColor("#dcd6c8");
    return t;
}

Theme& theme() {
    static Theme t = night();
    return t;
}

QString sheet(const Theme& t) {
    QString s = R"(
* { outline: 0; }
QMainWindow, QDialog { background: %window; }
QDialog { border: 1px solid %line; }
QToolTip { background: %well; color: %text; border: 1px solid %line; padding: 4px 6px; }
QMenuBar { background: %window; color: %text; padding: 3px 4px; }
QMenuBar::item { padding: 4px 9px; background: transparent; border-radius: 3px; }
QMenuBar::item:selected { background: %raised; }
QMenu { background: %panel; color: %text; border: 1px solid %line; padding: 4px; }
QMenu::item { padding: 5px 26px 5px 14px; border-radius: 3px; }
QMenu::item:selected { background: %accent; color: %onaccent; }
QMenu::item:disabled { color: %faint; background: transparent; }
QMenu::separator { height: 1px; background: %line; margin: 4px 6px; }
QLineEdit, QPlainTextEdit, QSpinBox, QDoubleSpinBox { background: %well; color: %text; border: 1px solid transparent; border-radius: 2px; padding: 3px 6px; selection-background-color: %accent; selection-color: %onaccent; }
QLineEdit:focus, QPlainTextEdit:focus, QSpinBox:focus, QDoubleSpinBox:focus { border: 1px solid %accent; }
QComboBox { background: %well; color: %text; border: 1px solid transparent; border-radius: 2px; padding: 2px 6px; min-height: 20px; }
QComboBox:disabled { color: %faint; background: transparent; }
QComboBox:focus { border: 1px solid %accent; }
QComboBox::drop-down { border: 0; width: 18px; }
QComboBox::down-arrow { width: 0; height: 0; }
QComboBox QAbstractItemView { background: %panel; color: %text; border: 1px solid %line; selection-background-color: %accent; selection-color: %onaccent; }
QDialogButtonBox { dialogbuttonbox-buttons-have-icons: 0; }
QPushButton { background: %raised; color: %text; border: 1px solid transparent; border-radius: 3px; padding: 5px 14px; min-height: 18px; }
QPushButton:hover { background: %line; }
QPushButton:focus { border: 1px solid %accent; }
QPushButton:default { background: %accent; color: %onaccent; }
QPushButton:disabled { color: %faint; }
QPushButton:default:disabled { background: %raised; color: %faint; }
QPushButton[flat="true"], QToolButton { background: transparent; border: 1px solid transparent; border-radius: 3px; padding: 2px 4px; color: %text; }
QPushButton[flat="true"]:hover, QToolButton:hover { background: %raised; }
QPushButton[flat="true"]:focus, QToolButton:focus { border: 1px solid %accent; }
QToolButton:checked { background: %selection; border: 1px solid %accent; }
QToolButton:disabled { color: %faint; }
QToolButton::menu-indicator { image: none; }
QPushButton[link="true"], QToolButton[link="true"] { background: transparent; color: %accent; padding: 2px 4px; }
QPushButton[link="true"]:hover, QToolButton[link="true"]:hover { background: %raised; }
QPushButton[link="true"]:disabled { color: %faint; }
QToolButton[well="true"] { background: %well; border-radius: 2px; padding: 2px 8px; }
QToolButton[well="true"]:hover { background: %raised; }
QScrollArea { background: transparent; border: 0; }
QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
QScrollBar::handle:vertical { background: %line; border-radius: 3px; min-height: 32px; margin: 1px; }
QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
QScrollBar:horizontal { background: transparent; height: 8px; }
QScrollBar::handle:horizontal { background: %line; border-radius: 3px; min-width: 32px; margin: 1px; }
QSplitter::handle { background: %line; }
QListView, QListWidget { background: %well; color: %text; border: 0; }
QListView::item { padding: 4px 8px; }
QListView::item:selected { background: %accent; color: %onaccent; }
QRadioButton, QCheckBox { color: %text; spacing: 7px; padding: 2px; }
QRadioButton::indicator, QCheckBox::indicator { width: 12px; height: 12px; border: 1px solid %second; background: %well; }
QRadioButton::indicator { border-radius: 7px; }
QRadioButton::indicator:checked, QCheckBox::indicator:checked { background: %accent; border: 1px solid %accent; }
QRadioButton:focus, QCheckBox:focus { color: %accent; }
QProgressBar { background: %well; border: 0; border-radius: 2px; height: 4px; }
QProgressBar::chunk { background: %accent; border-radius: 2px; }
)";
    const std::pair<const char*, QColor> roles[] = {
        {"%window", t.window},     {"%panel", t.panel},   {"%well", t.well},          {"%raised", t.raised},
        {"%line", t.line},         {"%text", t.text},     {"%second", t.second},      {"%faint", t.faint},
        {"%onaccent", t.onAccent}, {"%accent", t.accent}, {"%selection", t.selection}};
    for (const auto& [name, color] : roles) s.replace(QLatin1String(name), color.name());
    return s;
}

} // namespace

const Theme& Theme::current() { return theme(); }

QFont Theme::words(int px, int weight) {
    QFont f("Cabin");
    f.setPixelSize(px);
    f.setWeight(static_cast<QFont::Weight>(weight));
    return f;
}

QFont Theme::numbers(int px) {
    QFont f("Manrope"); // its figures are tabular
    f.setPixelSize(px);
    f.setWeight(QFont::Medium);
    return f;
}

QFont Theme::soundings(int px) {
    QFont f = words(px);
    f.setItalic(true);
    return f;
}

QFont Theme::heads() {
    QFont f = words(11, QFont::DemiBold);
    f.setLetterSpacing(QFont::AbsoluteSpacing, 1.8);
    f.setCapitalization(QFont::AllUppercase);
    return f;
}

void Theme::apply(QApplication& app, bool dark) {
    init_icon_resource();
    theme() = dark ? night() : day();
    const Theme& t = theme();
    QPixmapCache::clear();
    app.setStyle(QStyleFactory::create("Fusion"));
    QPalette p;
    p.setColor(QPalette::Window, t.window);
    p.setColor(QPalette::WindowText, t.text);
    p.setColor(QPalette::Base, t.well);
    p.setColor(QPalette::AlternateBase, t.panel);
    p.setColor(QPalette::Text, t.text);
    p.setColor(QPalette::Button, t.panel);
    p.setColor(QPalette::ButtonText, t.text);
    p.setColor(QPalette::Highlight, t.accent);
    p.setColor(QPalette::HighlightedText, t.onAccent);
    p.setColor(QPalette::PlaceholderText, t.faint);
    p.setColor(QPalette::ToolTipBase, t.well);
    p.setColor(QPalette::ToolTipText, t.text);
    for (const auto role : {QPalette::Text, QPalette::WindowText, QPalette::ButtonText})
        p.setColor(QPalette::Disabled, role, t.faint);
    app.setPalette(p);
    app.setFont(words());
    app.setStyleSheet(sheet(t));
}

QPixmap iconPixmap(const QString& name, const QColor& color, int px, qreal ratio) {
    const QString key =
        name + color.name(QColor::HexArgb) + QString::number(px) + "@" + QString::number(ratio);
    QPixmap out;
    if (QPixmapCache::find(key, &out)) return out;
    QFile file(":/icons/" + name + ".svg");
    if (!file.open(QIODevice::ReadOnly)) return {};
    QByteArray svg = file.readAll();
    svg.replace("currentColor", color.name().toLatin1());
    svg.replace("stroke-width=\"2\"", "stroke-width=\"1.6\"");
    QSvgRenderer renderer(svg);
    out = QPixmap(QSize(px, px) * ratio);
    out.setDevicePixelRatio(ratio);
    out.fill(Qt::transparent);
    QPainter painter(&out);
    renderer.render(&painter, QRectF(0, 0, px, px));
    painter.end();
    QPixmapCache::insert(key, out);
    return out;
}

namespace {

/// Draws in the colours of the theme that holds when it is drawn.
class ThemedIcon : public QIconEngine {
  public:
    explicit ThemedIcon(QString name) : name_(std::move(name)) {}
    void paint(QPainter* p, const QRect& r, QIcon::Mode mode, QIcon::State state) override {
        const Theme& t = Theme::current();
        const QColor color = mode == QIcon::Disabled ? t.faint : state == QIcon::On ? t.accent : t.text;
        const int side = std::min(r.width(), r.height());
        p->drawPixmap(r.center() - QPoint(side / 2 - 1, side / 2 - 1),
                      iconPixmap(name_, color, side, p->device()->devicePixelRatioF()));
    }
    QPixmap pixmap(const QSize& size, QIcon::Mode mode, QIcon::State state) override {
        QPixmap out(size);
        out.fill(Qt::transparent);
        QPainter p(&out);
        paint(&p, QRect(QPoint(), size), mode, state);
        return out;
    }
    QIconEngine* clone() const override { return new ThemedIcon(name_); }

  private:
    QString name_;
};

} // namespace

QIcon icon(const QString& name) { return QIcon(new ThemedIcon(name)); }

} // namespace bathylux
