#pragma once
#include <QDialog>
#include <QStringList>

#include "app/document/desk.h"
#include "core/piece/recipe.h"

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;

namespace bathylux {

class PictureTiles;
class SmallPictures;

/// The recipes that are shipped and one's own, each shown on the chosen element; poured over what is chosen.
class RecipeShelf : public QDialog {
    Q_OBJECT
  public:
    RecipeShelf(Desk& desk, QWidget* parent);

    /// Reads the shelf again and chooses the recipe of a file, if it is there.
    void fill(const QString& choose = {});
    void pour();
    PictureTiles& tiles() { return *tiles_; }
    bool ready() const;

    /// Where one's own recipes are kept.
    static QString ownFolder();
    /// A copy of a recipe file among one's own; its path. Throws Error where it is none.
    static QString takenIn(const QString& file);

  private:
    void keep();
    void share();
    void remove();
    void refresh();
    void showOn();
    QString file() const;
    /// The chosen one; null where there is none, or it cannot be read.
    std::shared_ptr<const Recipe> recipe() const;

    Desk& desk_;
    std::vector<std::shared_ptr<const Recipe>> recipes_; // as the tiles; null where one cannot be read
    PictureTiles* tiles_;
    SmallPictures* pictures_;
    QLabel* over_;
    QComboBox* how_;
    QCheckBox* fit_;
    QPushButton *pour_, *keep_, *share_, *remove_;
};

} // namespace bathylux
