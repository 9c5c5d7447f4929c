#include "app/windows/alternatives_sheet.h"

#include <QDir>
#include <QFileDialog>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/controls/picture_tiles.h"
#include "app/controls/theme.h"
#include "app/windows/small_pictures.h"
#include "core/error.h"

namespace bathylux {

namespace {
constexpr int count = 12;
}

AlternativesSheet::AlternativesSheet(Desk& desk, const std::string& element, const std::string& step,
                                     QWidget* parent)
    : QDialog(parent), desk_(desk), element_(element), step_(step) {
    const Element* e = find_element(desk.document.piece().elements, element);
    const Step* s = e && !step.empty() ? find_step(e->steps, step) : nullptr;
    const Vary can = what_varies(desk.document.piece(), element, step);
    vary_ = most_telling(can);
    setWindowTitle(tr("Alternatives"));
    resize(884, 716);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(20, 16, 20, 16);
    all->setSpacing(10);
    auto* title = new QLabel(s ? tr("Alternatives of %1, %2").arg(nameOf(*e), qs(s->kind().name).toLower())
                               : tr("Alternatives of %1").arg(nameOf(*e)),
                             this);
    title->setStyleSheet("font-size: 20px; font-weight: 600;");
    all->addWidget(title);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    auto* differ = new QLabel(tr("They differ in"), this);
    differ->setStyleSheet("color: " + Theme::current().second.name());
    row->addWidget(differ);
    const auto sort = [&](const QString& text, const char* id, bool Vary::*member) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(id);
        b->setCheckable(true);
        b->setAutoDefault(false);
        b->setChecked(vary_.*member);
        b->setEnabled(can.*member);
        if (!(can.*member)) b->setToolTip(tr("There are none here."));
        connect(b, &QPushButton::toggled, this, [this, member](bool on) { vary_.*member = on, fill(); });
        row->addWidget(b);
    };
    sort(tr("Seeds"), "varySeeds", &Vary::seeds);
    sort(tr("Angles"), "varyAngles", &Vary::angles);
    sort(tr("Strengths"), "varyStrengths", &Vary::strengths);
    row->addStretch(1);
    auto* others = new QPushButton(tr("Others"), this);
    others->setObjectName("otherAlternatives");
    others->setAutoDefault(false);
    connect(others, &QPushButton::clicked, this, [this] { ++seed_, fill(); });
    row->addWidget(others);
    all->addLayout(row);
    tiles_ = new PictureTiles({188, 126}, this);
    tiles_->setObjectName("alternatives");
    tiles_->setAccessibleName(tr("Alternatives"));
    tiles_->setSelectionMode(QAbstractItemView::ExtendedSelection);
    pictures_ = new SmallPictures(desk_, *tiles_);
    all->addWidget(tiles_, 1);
    auto* end = new QHBoxLayout;
    end->setSpacing(8);
    keep_ = new QPushButton(tr("Keep the chosen as pieces…"), this);
    keep_->setObjectName("keepAlternatives");
    keep_->setAutoDefault(false);
    connect(keep_, &QPushButton::clicked, this, &AlternativesSheet::keep);
    end->addWidget(keep_);
    end->addStretch(1);
    auto* cancel = new QPushButton(tr("Cancel"), this);
    cancel->setAutoDefault(false);
    connect(cancel, &QPushButton::clicked, this, &QDialog::reject);
    end->addWidget(cancel);
    take_ = new QPushButton(tr("Take this one"), this);
    take_->setObjectName("takeAlternative");
    take_->setDefault(true);
    connect(take_, &QPushButton::clicked, this, &AlternativesSheet::take);
    end->addWidget(take_);
    all->addLayout(end);
    connect(tiles_, &QListWidget::itemSelectionChanged, this, &AlternativesSheet::refresh);
    connect(tiles_, &QListWidget::itemActivated, this, &AlternativesSheet::take);
    fill();
}

bool AlternativesSheet::ready() const { return pictures_->done(); }

void AlternativesSheet::fill() {
    alternatives_ = alternatives_to(desk_.document.piece(), element_, step_, vary_, count, seed_);
    tiles_->clear();
    for (std::size_t i = 0; i < alternatives_.size(); ++i)
        tiles_->addTile(i == 0 ? tr("As it is") : QString::number(i),
                        i == 0 ? QString() : qs(alternatives_[i].says), int(i));
    refresh();
    pictures_->make(count, [all = alternatives_, store = desk_.document.state().store](int row) {
        return Shown{all[static_cast<std::size_t>(row)].piece, store, {}};
    });
}

void AlternativesSheet::refresh() {
    const auto chosen = tiles_->selectedItems();
    take_->setEnabled(chosen.size() == 1);
    keep_->setEnabled(!chosen.isEmpty());
}

void AlternativesSheet::take() {
    const auto chosen = tiles_->selectedItems();
    if (chosen.size() != 1) return;
    const Piece& taken = alternatives_[chosen.front()->data(Qt::UserRole).toUInt()].piece;
    desk_.document.edit(tr("Take an alternative"), [&](Piece& p) { p.elements = taken.elements; });
    accept();
}

/// Each as a piece file, numbered, in a folder that one chooses.
void AlternativesSheet::keep() {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("Keep the chosen in which folder?"));
    if (folder.isEmpty()) return;
    try {
        for (const QListWidgetItem* i : tiles_->selectedItems()) {
            const int n = i->data(Qt::UserRole).toInt();
            const QString stem = desk_.document.path().isEmpty()
                                     ? tr("alternative")
                                     : QFileInfo(desk_.document.path()).completeBaseName();
            QString to = QString("%1/%2-%3.bathylux").arg(folder, stem).arg(n);
            for (int k = 2; QFileInfo::exists(to); ++k)
                to = QString("%1/%2-%3-%4.bathylux").arg(folder, stem).arg(n).arg(k);
            files::save_piece(alternatives_[static_cast<std::size_t>(n)].piece, desk_.document.state().store,
                              to.toStdString());
        }
        accept();
    } catch (const Error& e) {
        emit desk_.document.refused(QString::fromUtf8(e.what()));
    }
}

} // namespace bathylux
