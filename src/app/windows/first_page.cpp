#include "app/windows/first_page.h"

#include <QAbstractButton>
#include <QDir>
#include <QDragEnterEvent>
#include <QGridLayout>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QLabel>
#include <QMimeData>
#include <QPainter>
#include <QToolButton>
#include <QUrl>
#include <QVBoxLayout>

#include "app/controls/controls.h"
#include "app/controls/theme.h"

namespace bathylux {

namespace {

/// One way to begin: an icon, a word, a line.
class Choice : public QAbstractButton {
  public:
    Choice(const QString& icon, const QString& name, const QString& about, QWidget* parent)
        : QAbstractButton(parent), icon_(icon), name_(name), about_(about) {
        setFocusPolicy(Qt::StrongFocus);
        setFixedSize(150, 118);
        setAccessibleName(name);
        setAccessibleDescription(about);
        setCursor(Qt::PointingHandCursor);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Theme& t = Theme::current();
        QPainter p(this);
        p.fillRect(rect(), underMouse() || hasFocus() ? t.raised : t.panel);
        p.setPen(hasFocus() ? t.accent : t.line);
        p.drawRect(rect().adjusted(0, 0, -1, -1));
        p.drawPixmap(16, 18, iconPixmap(icon_, t.accent, 26, devicePixelRatioF()));
        p.setFont(Theme::words(15, QFont::DemiBold));
        p.setPen(t.text);
        p.drawText(QRect(16, 52, width() - 24, 22), Qt::AlignLeft | Qt::AlignVCenter, name_);
        p.setFont(Theme::words(12));
        p.setPen(t.second);
        p.drawText(QRect(16, 74, width() - 24, 36), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, about_);
    }

  private:
    QString icon_, name_, about_;
};

/// A demo piece on the shelf.
class Shelved : public QAbstractButton {
  public:
    Shelved(const QPixmap& picture, const QString& name, const QString& about, QWidget* parent)
        : QAbstractButton(parent), picture_(picture), name_(name), about_(about) {
        setFocusPolicy(Qt::StrongFocus);
        setFixedSize(150, 156);
        setAccessibleName(name);
        setAccessibleDescription(about);
        setToolTip(about);
        setCursor(Qt::PointingHandCursor);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        const Theme& t = Theme::current();
        QPainter p(this);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        const QRect box(0, 0, width(), 114);
        p.fillRect(box, t.well);
        if (!picture_.isNull()) {
            QSize s = picture_.size().scaled(box.size() - QSize(8, 8), Qt::KeepAspectRatio);
            p.drawPixmap(QRect(box.center() - QPoint(s.width() / 2 - 1, s.height() / 2 - 1), s), picture_);
        }
        p.setPen(hasFocus() || underMouse() ? t.accent : t.line);
        p.drawRect(box.adjusted(0, 0, -1, -1));
        p.setFont(Theme::words(13, QFont::DemiBold));
        p.setPen(t.text);
        p.drawText(QRect(0, 118, width(), 18), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(name_, Qt::ElideRight, width()));
        p.setFont(Theme::words(12));
        p.setPen(t.second);
        p.drawText(QRect(0, 136, width(), 18), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(about_, Qt::ElideRight, width()));
    }

  private:
    QPixmap picture_;
    QString name_, about_;
};

} // namespace

QString demoFolder() {
    // Asked before there is an application that knows its own place.
    const QString here = QFileInfo(QFile::symLinkTarget("/proc/self/exe")).path();
    for (const QString& dir : {here + "/../share/bathylux/demo", QStringLiteral(BATHYLUX_DEMO_DIR)})
        if (QDir(dir).exists("shelf.json")) return QDir(dir).absolutePath();
    return {};
}

QPixmap shelfPicture(const QString& name) {
    return QPixmap(demoFolder() + "/shelf/" + name + ".png", "png"); // said, no other reader is looked for
}

FirstPage::FirstPage(QWidget* parent) : QWidget(parent) { setAcceptDrops(true); }

void FirstPage::showEvent(QShowEvent*) {
    if (!layout()) furnish();
}

void FirstPage::furnish() {
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(24, 12, 24, 12);
    all->addStretch(2);
    auto* middle = new QWidget(this);
    auto* box = new QVBoxLayout(middle);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(10);
    auto* title = new QLabel(tr("What gets depth?"), middle);
    title->setFont(Theme::words(28, QFont::DemiBold));
    title->setStyleSheet("font-size: 28px; font-weight: 600;");
    box->addWidget(title);
    auto* hint = new QLabel(tr("Begin with one of these, or drop a file here."), middle);
    hint->setStyleSheet("color: " + Theme::current().second.name());
    box->addWidget(hint);
    box->addSpacing(6);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    const std::tuple<const char*, QString, QString, const char*> choices[] = {
        {"type", tr("Words"), tr("Typed letters, bevelled and lit"), "type"},
        {"image", tr("A picture"), tr("Tones become height"), "picture"},
        {"pen-tool", tr("A drawing"), tr("An emblem as SVG"), "svg"},
        {"square", tr("A shape"), tr("A plate to build on"), "rectangle"},
        {"film", tr("A sprite sheet"), tr("Frames made lightable"), "sprites"},
        {"brush", tr("The brush"), tr("Height painted by hand"), "paint"}};
    for (const auto& [icon, name, about, kind] : choices) {
        auto* b = new Choice(icon, name, about, middle);
        b->setObjectName(QString("make-") + kind);
        connect(b, &QAbstractButton::clicked, this, [this, k = QString(kind)] { emit makeAsked(k); });
        row->addWidget(b);
    }
    row->addStretch(1);
    box->addLayout(row);
    auto* open = linkButton(tr("Open a piece…"), middle);
    connect(open, &QToolButton::clicked, this, &FirstPage::openAsked);
    // Its word begins where the lines above and below it do.
    open->setStyleSheet("QToolButton { margin-left: -10px; }");
    box->addWidget(open, 0, Qt::AlignLeft);

    const QDir demo(demoFolder());
    QFile shelf(demo.filePath("shelf.json"));
    if (!demoFolder().isEmpty() && shelf.open(QIODevice::ReadOnly)) {
        box->addSpacing(12);
        box->addWidget(headLabel(tr("From the Quillhaven Tramway"), middle));
        auto* pieces = new QGridLayout;
        pieces->setHorizontalSpacing(8);
        pieces->setVerticalSpacing(12);
        constexpr int across = 6, most = 12;
        const QJsonArray list = QJsonDocument::fromJson(shelf.readAll()).array();
        for (qsizetype i = 0; i < std::min<qsizetype>(list.size(), most); ++i) {
            const QJsonObject o = list[i].toObject();
            auto* b = new Shelved(QPixmap(demo.filePath("shelf/" + o["piece"].toString() + ".png")),
                                  o["name"].toString(), o["about"].toString(), middle);
            b->setObjectName("demo-" + o["piece"].toString());
            connect(b, &QAbstractButton::clicked, this,
                    [this, path = demo.filePath(o["piece"].toString() + ".json")] { emit demoAsked(path); });
            pieces->addWidget(b, static_cast<int>(i) / across, static_cast<int>(i) % across, Qt::AlignLeft);
        }
        pieces->setColumnStretch(across, 1);
        box->addLayout(pieces);
    }
    auto* centre = new QHBoxLayout;
    centre->addStretch(1);
    centre->addWidget(middle);
    centre->addStretch(1);
    all->addLayout(centre);
    all->addStretch(3);
}

void FirstPage::dragEnterEvent(QDragEnterEvent* e) {
    if (e->mimeData()->hasUrls()) e->acceptProposedAction();
}

void FirstPage::dropEvent(QDropEvent* e) {
    emit filesDropped(e->mimeData()->urls());
    e->acceptProposedAction();
}

} // namespace bathylux
