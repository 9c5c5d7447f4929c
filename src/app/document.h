#pragma once
#include <QObject>
#include <QStringList>
#include <QUndoStack>
#include <memory>

#include "core/piece/piece.h"
#include "files/package.h"

namespace bathylux {

/// The open piece, its history and what is chosen in it. A state is a value; undo keeps old ones.
class Document : public QObject {
    Q_OBJECT
  public:
    struct State {
        std::shared_ptr<const Piece> piece;
        files::Store store;
    };
    explicit Document(QObject* parent = nullptr);

    const Piece& piece() const { return *state_.piece; }
    const State& state() const { return state_; }
    QUndoStack& history() { return history_; }

    /// Changes the piece under a name shown in the Edit menu. Inside a stroke, edits of one name are one
    /// undo.
    void edit(const QString& name, const std::function<void(Piece&)>& change);
    /// The same where files come to be embedded too.
    void editState(const QString& name, const std::function<void(Piece&, files::Store&)>& change);
    void beginStroke();
    void endStroke();
    bool inStroke() const { return stroking_; }

    /// Takes another piece in: history and choice are gone.
    /// `name`: what it is called while it has no file.
    void replace(State state, const QString& path, const QString& name = {});
    QString path() const { return path_; }
    /// `piece` is what was written to `path`: the same, but for how it names linked files.
    void adoptSaved(Piece piece, const QString& path);
    bool isClean() const { return history_.isClean() && !recovered_; }
    void markRecovered() { recovered_ = true; }
    /// Nothing may be changed: the piece was written by a newer version.
    bool readOnly() const { return piece().newer; }
    QString title() const;

    // What is chosen. Ids of elements in the order they were chosen; the last one is the one that is open.
    const QStringList& chosen() const { return chosen_; }
    void choose(const QStringList& ids);
    bool isChosen(const QString& id) const { return chosen_.contains(id); }
    const Element* openElement() const;
    int openStep() const { return openStep_; }
    void setOpenStep(int index);
    // Lights likewise; the last one is the one whose controls are open.
    QString chosenLight() const { return lights_.isEmpty() ? QString() : lights_.back(); }
    const QStringList& chosenLights() const { return lights_; }
    bool isLightChosen(const std::string& id) const { return lights_.contains(QString::fromStdString(id)); }
    void chooseLight(const QString& id) { chooseLights(id.isEmpty() ? QStringList{} : QStringList{id}); }
    void chooseLights(const QStringList& ids);
    /// Adds a light to those chosen, or takes it away from them.
    void chooseLightToo(const QString& id);
    const Light* light() const;

  signals:
    void changed();
    void choiceChanged();
    void titleChanged();
    void refused(const QString& why);

  private:
    friend class StateCommand;
    void setState(const State& state);

    State state_;
    QUndoStack history_;
    QString path_, name_;
    bool stroking_ = false, recovered_ = false;
    int stroke_ = 0;
    QStringList chosen_;
    int openStep_ = -1;
    QStringList lights_;
};

} // namespace bathylux
