#include "app/windows/recipe_shelf.h"

#include <QCheckBox>
#include <QDialogButtonBox>
#include <QDir>
#include <QFileDialog>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QStandardPaths>
#include <QVBoxLayout>

#include "app/controls/controls.h"
#include "app/controls/picture_tiles.h"
#include "app/controls/theme.h"
#include "app/windows/first_page.h"
#include "app/windows/small_pictures.h"
#include "core/error.h"
#include "core/render/pouring.h"
#include "files/recipe_file.h"

namespace bathylux {

namespace {

constexpr QSize tile(168, 112);

QStringList recipesIn(const QString& folder) {
    QStringList out;
    for (const QFileInfo& f :
         QDir(folder).entryInfoList({QString("*") + files::recipe_ending}, QDir::Files, QDir::Name))
        out << f.absoluteFilePath();
    return out;
}

QString counted(int n, const QString& one, const QString& many) { return n == 1 ? one : many.arg(n); }

/// What a recipe brings, in words.
QString says(const Recipe& r) {
    QStringList out;
    if (r.steps)
        out << counted(static_cast<int>(r.steps->size()), QObject::tr("one step"), QObject::tr("%1 steps"));
    if (r.surface) out << QObject::tr("surface");
    if (r.lights) out << QObject::tr("lights");
    if (r.finish) out << QObject::tr("finish");
    return out.join(", ");
}

/// What of the piece is seen on the shelf: the element with the recipe on it, and nothing else.
Shown poured(const Scene& scene, const files::Store& store, const std::string& id, Recipe recipe, bool add,
             bool fit) {
    Shown out{*scene.piece, store, {}};
    files::take_files(recipe, out.store);
    for (auto& e : out.piece.elements)
        e = e.with([&](Element& one) {
            if (one.id != id && !find_element(one.elements, id)) one.mix.visible = false;
        });
    bathylux::pour(out.piece, id, recipe, pouring(scene, id, recipe, add, fit));
    if (const Box box = element_box(scene, id); !box.empty()) {
        // As much of what lies around it as fills the tile.
        double w = 1.16 * box.width(), h = 1.16 * box.height();
        w = std::max(w, h * tile.width() / tile.height()), h = std::max(h, w * tile.height() / tile.width());
        const Vec2 c = box.centre();
        out.part = {c.x - w / 2, c.y - h / 2, c.x + w / 2, c.y + h / 2};
    }
    return out;
}

} // namespace

QString RecipeShelf::ownFolder() {
    return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/recipes";
}

QString RecipeShelf::takenIn(const QString& file) {
    Recipe recipe = files::open_recipe(file.toStdString());
    files::carry_files(recipe, files::Store{});
    QDir().mkpath(ownFolder());
    const QString stem = QFileInfo(file).completeBaseName();
    QString to = ownFolder() + "/" + stem + files::recipe_ending;
    for (int n = 2; QFileInfo::exists(to) && QFileInfo(to) != QFileInfo(file); ++n)
        to = ownFolder() + "/" + stem + QString("-%1").arg(n) + files::recipe_ending;
    files::save_recipe(recipe, to.toStdString());
    return to;
}

RecipeShelf::RecipeShelf(Desk& desk, QWidget* parent) : QDialog(parent), desk_(desk) {
    setWindowTitle(tr("Recipes"));
    resize(796, 716);
    auto* all = new QVBoxLayout(this);
    all->setContentsMargins(20, 16, 20, 16);
    all->setSpacing(10);
    auto* title = new QLabel(tr("Recipes"), this);
    title->setStyleSheet("font-size: 20px; font-weight: 600;");
    all->addWidget(title);
    over_ = new QLabel(this);
    over_->setStyleSheet("color: " + Theme::current().second.name());
    all->addWidget(over_);
    tiles_ = new PictureTiles(tile, this);
    tiles_->setObjectName("recipes");
    tiles_->setAccessibleName(tr("Recipes"));
    pictures_ = new SmallPictures(desk_, *tiles_);
    all->addWidget(tiles_, 1);
    auto* choices = new QHBoxLayout;
    choices->setSpacing(12);
    how_ = new QComboBox(this);
    how_->setObjectName("pourHow");
    how_->setAccessibleName(tr("What becomes of its steps"));
    how_->addItems({tr("in place of its steps"), tr("after its steps")});
    choices->addWidget(how_);
    fit_ = new QCheckBox(tr("Lengths fitted to its size"), this);
    fit_->setObjectName("pourFit");
    fit_->setChecked(true);
    choices->addWidget(fit_);
    choices->addStretch(1);
    all->addLayout(choices);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    const auto button = [&](const QString& text, const char* id, auto what) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(id);
        b->setAutoDefault(false);
        connect(b, &QPushButton::clicked, this, what);
        row->addWidget(b);
        return b;
    };
    keep_ = button(tr("Keep this look…"), "keepRecipe", [this] { keep(); });
    share_ = button(tr("Save a copy…"), "shareRecipe", [this] { share(); });
    remove_ = button(tr("Delete"), "deleteRecipe", [this] { remove(); });
    row->addStretch(1);
    button(tr("Close"), "closeRecipes", [this] { reject(); });
    pour_ = button(tr("Pour"), "pour", [this] { pour(); });
    pour_->setDefault(true);
    all->addLayout(row);
    connect(tiles_, &QListWidget::itemSelectionChanged, this, &RecipeShelf::refresh);
    connect(tiles_, &QListWidget::itemActivated, this, &RecipeShelf::pour);
    connect(how_, &QComboBox::activated, this, &RecipeShelf::showOn);
    connect(fit_, &QCheckBox::toggled, this, &RecipeShelf::showOn);
    fill();
}

bool RecipeShelf::ready() const { return pictures_->done(); }

QString RecipeShelf::file() const {
    const QListWidgetItem* now = tiles_->currentItem();
    return now && now->isSelected() ? now->data(Qt::UserRole).toString() : QString();
}

void RecipeShelf::fill(const QString& choose) {
    tiles_->clear();
    recipes_.clear();
    for (const QString& f : recipesIn(ownFolder()) + recipesIn(demoFolder() + "/recipes")) {
        try {
            recipes_.push_back(std::make_shared<const Recipe>(files::open_recipe(f.toStdString())));
            tiles_->addTile(qs(recipes_.back()->name), says(*recipes_.back()), f);
        } catch (const Error& e) {
            recipes_.push_back(nullptr);
            tiles_->addTile(QFileInfo(f).completeBaseName(), tr("cannot be read"), f);
            tiles_->setTrouble(tiles_->count() - 1, QString::fromUtf8(e.what()));
        }
        if (f == choose) tiles_->setCurrentRow(tiles_->count() - 1);
    }
    if (tiles_->count() > 0 && !tiles_->currentItem()) tiles_->setCurrentRow(0);
    refresh();
    showOn();
}

/// Makes the tiles' pictures, on the open element as it would be poured now.
void RecipeShelf::showOn() {
    const Element* on = desk_.document.openElement();
    if (!on || on->id == finish_id) return;
    pictures_->make(static_cast<int>(recipes_.size()),
                    [scene = desk_.scene(), store = desk_.document.state().store, id = on->id, all = recipes_,
                     add = how_->currentIndex() == 1, fit = fit_->isChecked()](int row) {
                        const auto& recipe = all[static_cast<std::size_t>(row)];
                        if (!recipe) throw Error(tr("cannot be read").toStdString());
                        return poured(scene, store, id, *recipe, add, fit);
                    });
}

std::shared_ptr<const Recipe> RecipeShelf::recipe() const {
    const int row = tiles_->currentRow();
    return file().isEmpty() || row < 0 ? nullptr : recipes_[static_cast<std::size_t>(row)];
}

void RecipeShelf::refresh() {
    const Element* on = desk_.document.openElement();
    const bool over = on && on->id != finish_id;
    const qsizetype n = desk_.document.chosen().size();
    over_->setText(!over   ? tr("Choose an element first: a recipe is poured over it, or kept from it.")
                   : n > 1 ? tr("Shown on %1; poured over the %2 chosen elements.").arg(nameOf(*on)).arg(n)
                           : tr("Shown on %1, and poured over it.").arg(nameOf(*on)));
    pour_->setEnabled(over && recipe());
    keep_->setEnabled(over);
    share_->setEnabled(recipe() != nullptr);
    remove_->setEnabled(file().startsWith(ownFolder() + "/"));
}

void RecipeShelf::pour() {
    const auto given = recipe();
    Document& doc = desk_.document;
    if (!given || doc.chosen().isEmpty()) return;
    try {
        const Scene scene = desk_.scene();
        doc.editState(tr("Pour: %1").arg(qs(given->name)), [&](Piece& p, files::Store& store) {
            Recipe taken = *given;
            files::take_files(taken, store);
            for (const std::string& id : outermost(p, toIds(doc.chosen())))
                bathylux::pour(p, id, taken,
                               pouring(scene, id, taken, how_->currentIndex() == 1, fit_->isChecked()));
        });
        accept();
    } catch (const Error& e) {
        emit doc.refused(QString::fromUtf8(e.what()));
    }
}

namespace {

/// Which parts of an element are kept, and under what name.
struct KeepDialog : QDialog {
    KeepDialog(const Element& e, QWidget* parent) : QDialog(parent) {
        setWindowTitle(tr("Keep this look"));
        setMinimumWidth(360);
        auto* all = new QVBoxLayout(this);
        all->setContentsMargins(20, 16, 20, 16);
        all->setSpacing(8);
        name = new QLineEdit(nameOf(e), this);
        name->setObjectName("recipeName");
        name->setAccessibleName(tr("Name"));
        name->selectAll();
        all->addWidget(name);
        const auto box = [&](const QString& text, bool on) {
            auto* b = new QCheckBox(text, this);
            b->setChecked(on);
            all->addWidget(b);
            return b;
        };
        all->addWidget(headLabel(tr("Steps"), this));
        for (const Step& s : e.steps)
            steps.emplace_back(
                s.id, box(qs(s.kind().name) + (s.what.says().empty() ? QString() : ": " + qs(s.what.says())),
                          s.on));
        if (e.steps.empty()) all->addWidget(new QLabel(tr("It has none."), this));
        all->addWidget(headLabel(tr("With them"), this));
        surface = box(tr("Surface"), true), mix = box(tr("Mixing"), false);
        lights = box(tr("The piece's lights"), false), finish = box(tr("The piece's finish"), false);
        auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel | QDialogButtonBox::Ok, this);
        for (QAbstractButton* b : buttons->buttons()) b->setIcon({});
        connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
        connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
        all->addSpacing(8);
        all->addWidget(buttons);
    }
    QLineEdit* name;
    std::vector<std::pair<std::string, QCheckBox*>> steps;
    QCheckBox *surface, *mix, *lights, *finish;
};

} // namespace

void RecipeShelf::keep() {
    const Element* e = desk_.document.openElement();
    if (!e || e->id == finish_id) return;
    auto* ask = new KeepDialog(*e, this);
    ask->setObjectName("keepDialog");
    ask->setAttribute(Qt::WA_DeleteOnClose);
    connect(ask, &QDialog::accepted, this, [this, ask, id = e->id] {
        const Scene scene = desk_.scene();
        const Element* from = find_element(scene.piece->elements, id);
        if (!from) return;
        Keep what;
        for (const auto& [step, box] : ask->steps)
            if (box->isChecked()) what.steps.push_back(step);
        what.surface = ask->surface->isChecked(), what.mix = ask->mix->isChecked();
        what.lights = ask->lights->isChecked(), what.finish = ask->finish->isChecked();
        const QString name =
            ask->name->text().trimmed().isEmpty() ? nameOf(*from) : ask->name->text().trimmed();
        try {
            Recipe recipe = kept_with_size(scene, id, what);
            if (what.steps.empty()) recipe.steps.reset();
            recipe.name = name.toStdString();
            files::carry_files(recipe, desk_.document.state().store,
                               [&](const std::string& file) -> std::shared_ptr<const Painting> {
                                   const auto found = scene.assets->find(painting_key(file));
                                   return found == scene.assets->end() ? nullptr : found->second->painting;
                               });
            QDir().mkpath(ownFolder());
            QString stem = name.toLower().simplified();
            for (QChar& c : stem)
                if (!c.isLetterOrNumber()) c = '-';
            QString to = ownFolder() + "/" + stem + files::recipe_ending;
            for (int n = 2; QFileInfo::exists(to); ++n)
                to = ownFolder() + "/" + stem + QString("-%1").arg(n) + files::recipe_ending;
            files::save_recipe(recipe, to.toStdString());
            fill(to);
        } catch (const Error& error) {
            emit desk_.document.refused(QString::fromUtf8(error.what()));
        }
    });
    ask->open();
}

void RecipeShelf::share() {
    const auto chosen = recipe();
    if (!chosen) return;
    const QString to =
        QFileDialog::getSaveFileName(this, tr("Save a copy of the recipe"), QFileInfo(file()).fileName(),
                                     tr("Recipes (*%1)").arg(files::recipe_ending));
    if (to.isEmpty()) return;
    try {
        // What lies beside it here goes along.
        Recipe copy = *chosen;
        files::carry_files(copy, files::Store{});
        files::save_recipe(copy, to.toStdString());
    } catch (const Error& e) {
        emit desk_.document.refused(QString::fromUtf8(e.what()));
    }
}

void RecipeShelf::remove() {
    // It can be had back from where files go that are thrown away.
    const QString from = file();
    if (from.startsWith(ownFolder() + "/") && !QFile::moveToTrash(from)) QFile::remove(from);
    fill();
}

} // namespace bathylux
