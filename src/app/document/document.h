#pragma once
#include <QObject>
#include <QPointer>
#include <QStringList>
#include <QUndoStack>
#include <memory>

#include "core/piece/piece.h"
#include "files/package.h"

namespace bathylux {

class Document;

/// Something the hand does that takes a while: a drag, typing, a picker that stays open. While it lasts,
/// edits of one name are one undo, and pictures may be coarse. It ends when it is told to, or with the one
/// who holds it, and ends nobody else's.
class Stroke {
  public:
    Stroke() = default;
    ~Stroke() { end(); }
    Stroke(Stroke&& other) noexcept;
    Stroke& operator=(Stroke&& other) noexcept;
    void end();
    explicit operator bool() const { return number_ != 0; }

  private:
    friend class Document;
    Stroke(Document* document, quint64 number);
    QPointer<Document> document_;
    quint64 number_ = 0;
};

/// The open piece, its history and what is chosen in it. A state is a value; undo keeps old ones. What is
/// chosen is told by ids, which hold no matter what an edit did.
class Document : public QObject {
    Q_OBJECT
  public:
    struct State {
        std::shared_ptr<const Piece> piece;
        files::Store store;
    };
    explicit Document(QObject* parent = nullptr);

    /// As it is at the frame it stands at.
    const Piece& piece() const { return *state_.piece; }
    const State& state() const { return state_; }
    QUndoStack& history() { return history_; }

    // What moves is edited at a frame: a value that has keys gets one there.
    int frame() const { return frame_; }
    /// Has the piece stand at another frame; no edit.
    void setFrame(int frame);
    /// What the piece links to is other than it was: all that shows it looks again; no edit.
    void filesChanged();
    /// Names all that the piece says, what is painted and the state of what it links to, whichever frame it
    /// stands at.
    quint64 saying() const { return saying(true); }
    /// The same but for the solid's camera, which flat pictures know nothing of.
    quint64 sayingFlat() const { return saying(false); }

    /// Changes the piece under a name shown in the Edit menu. What changes nothing is no edit; what would
    /// have elements read one another in a circle is refused; what throws leaves the piece as it was.
    void edit(const QString& name, const std::function<void(Piece&)>& change);
    /// The same where files come to be embedded too.
    void editState(const QString& name, const std::function<void(Piece&, files::Store&)>& change);
    /// Adds to the edit on top what was only found out after it.
    void amend(const std::function<void(Piece&)>& change);
    [[nodiscard]] Stroke stroke();
    bool inStroke() const { return !strokes_.empty(); }
    /// Names the edit that undo would take back; 0 where there is none. An offer that belongs to an edit is
    /// good only while that is on top.
    quint64 topEdit() const;

    /// Takes another piece in: its history is empty, and none or one of its elements chosen.
    /// `name`: what it is called while it has no file.
    void replace(State state, const QString& path, const QString& name = {}, const QString& chosen = {});
    /// How many pieces have been taken in.
    quint64 pieceNumber() const { return pieceNumber_; }
    QString path() const { return path_; }
    /// The piece as it is was written to `path`.
    void adoptSaved(const QString& path);
    bool isClean() const { return history_.isClean() && !recovered_; }
    void markRecovered() { recovered_ = true; }
    /// Nothing may be changed: the piece was written by a newer version.
    bool readOnly() const { return piece().newer; }
    QString title() const;

    // A colour off the table: somebody asks, and whoever shows the picture answers the next click. Only one
    // asks at a time; who goes away asks no more.
    void askForColor(QObject* by, std::function<void(const Color&)> answer);
    bool colorAsked() const { return colorAnswer_ && colorAskedBy_; }
    void giveColor(const Color& color);

    // A number that another is to follow: somebody asks, and the next number that is pointed at answers.
    void askForNumber(QObject* by, std::function<void(const std::string& path)> answer);
    bool numberAsked() const { return numberAnswer_ && numberAskedBy_; }
    void giveNumber(const std::string& path);

    // What is chosen. Ids of elements in the order they were chosen; the last one is the one that is open.
    const QStringList& chosen() const { return chosen_; }
    void choose(const QStringList& ids);
    bool isChosen(const QString& id) const { return chosen_.contains(id); }
    /// The finish counts as an element that has steps and nothing else (see finish_element).
    const Element* element(const QString& id) const {
        const std::string which = id.toStdString();
        return which == finish_id ? &finish_ : find_element(piece().elements, which);
    }
    const Element* openElement() const;
    /// The id of the open element's open step; "" for none.
    const QString& openStepId() const { return openStep_; }
    const Step* openStep() const;
    void setOpenStep(const QString& id);
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
    /// Another piece was taken in: before anything else that is told of it.
    void replaced();
    void changed();
    void choiceChanged();
    void titleChanged();
    void refused(const QString& why);
    void colorAskBegan();
    void colorAskEnded();
    void numberAskBegan();
    void numberAskEnded();
    /// Another frame, the same piece.
    void frameChanged();

  private:
    friend class StateCommand;
    friend class Stroke;
    /// Told of once the history stands: whoever hears of it may edit in turn, as a figure does that was being
    /// typed, and that edit comes after this one.
    void setState(const State& state);
    void tell();
    void endStroke(quint64 number);
    /// Leaves out of what is chosen what is no more.
    bool forgetWhatIsGone();
    /// Of the open element, that is open when it is chosen.
    QString firstStep() const;

    State state_;
    QUndoStack history_;
    QString path_, name_;
    bool recovered_ = false, untold_ = false, choiceUntold_ = false;
    quint64 pieceNumber_ = 0, number_ = 0; // of strokes and edits
    std::vector<quint64> strokes_;         // under way, the latest last
    QStringList chosen_, lights_;
    QString openStep_;
    Element finish_;
    QPointer<QObject> colorAskedBy_;
    std::function<void(const Color&)> colorAnswer_;
    QPointer<QObject> numberAskedBy_;
    std::function<void(const std::string&)> numberAnswer_;
    int frame_ = 0;
    quint64 saying(bool camera) const;
    quint64 filesChanged_ = 0; // how often
    mutable struct {
        std::shared_ptr<const Piece> of;
        quint64 all = 0, flat = 0;
    } saying_;
};

} // namespace bathylux
