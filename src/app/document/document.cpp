#include "app/document/document.h"

#include <QFileInfo>
#include <QUndoCommand>

#include "core/error.h"
#include "core/field/hash.h"
#include "core/paint/painting.h"
#include "core/piece/pose.h"
#include "core/piece/references.h"

namespace bathylux {

/// One undo: the state before and the state after.
class StateCommand : public QUndoCommand {
  public:
    StateCommand(Document& document, const QString& name, quint64 edit_number, quint64 stroke,
                 Document::State before, Document::State after)
        : QUndoCommand(name), number(edit_number), document_(document), stroke_(stroke),
          before_(std::move(before)), after_(std::move(after)) {}
    void undo() override { document_.setState(before_); }
    void redo() override { document_.setState(after_); }
    int id() const override { return stroke_ > 0 ? 1 : -1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* next = static_cast<const StateCommand*>(other);
        if (next->stroke_ != stroke_ || next->text() != text()) return false;
        after_ = next->after_;
        return true;
    }
    const quint64 number;
    void amend(Document::State after) { after_ = std::move(after); }

  private:
    Document& document_;
    quint64 stroke_;
    Document::State before_, after_;
};

Stroke::Stroke(Document* document, quint64 number) : document_(document), number_(number) {}
Stroke::Stroke(Stroke&& other) noexcept
    : document_(std::exchange(other.document_, nullptr)), number_(std::exchange(other.number_, 0)) {}
Stroke& Stroke::operator=(Stroke&& other) noexcept {
    if (this != &other) {
        end();
        document_ = std::exchange(other.document_, nullptr);
        number_ = std::exchange(other.number_, 0);
    }
    return *this;
}
void Stroke::end() {
    const quint64 number = std::exchange(number_, 0);
    if (document_ && number) document_->endStroke(number);
}

Document::Document(QObject* parent) : QObject(parent) {
    state_.piece = std::make_shared<const Piece>();
    finish_ = finish_element(*state_.piece);
    history_.setUndoLimit(10000); // states share all that an edit left alone
    connect(&history_, &QUndoStack::indexChanged, this, &Document::tell);
    connect(&history_, &QUndoStack::cleanChanged, this, &Document::titleChanged);
}

void Document::edit(const QString& name, const std::function<void(Piece&)>& change) {
    editState(name, [&](Piece& p, files::Store&) { change(p); });
}

void Document::editState(const QString& name, const std::function<void(Piece&, files::Store&)>& change) {
    if (readOnly()) {
        emit refused(
            tr("This piece was made by a newer version of Bathylux. It can be looked at, not changed."));
        return;
    }
    State after = state_;
    auto piece = std::make_shared<Piece>(*state_.piece);
    change(*piece, after.store);
    const bool same_piece = content_hash(*piece) == content_hash(*state_.piece);
    if (same_piece && after.store.embedded == state_.store.embedded &&
        after.store.paintings == state_.store.paintings)
        return;
    if (!same_piece)
        for (const std::string& circle : {cycle_in(*piece), link_circle_in(*piece)})
            if (!circle.empty()) {
                emit refused(QString::fromStdString(circle));
                return;
            }
    if (!same_piece) keep_moved(*state_.piece, *piece, frame_);
    after.piece = piece;
    history_.push(
        new StateCommand(*this, name, ++number_, strokes_.empty() ? 0 : strokes_.back(), state_, after));
}

void Document::amend(const std::function<void(Piece&)>& change) {
    const int i = history_.index();
    if (i == 0) return;
    State after = state_;
    auto piece = std::make_shared<Piece>(*state_.piece);
    change(*piece);
    after.piece = piece;
    // The stack hands its commands out to be looked at; this one is the document's own.
    const_cast<StateCommand*>(static_cast<const StateCommand*>(history_.command(i - 1)))->amend(after);
    setState(after);
    tell();
}

quint64 Document::topEdit() const {
    const int i = history_.index();
    return i > 0 ? static_cast<const StateCommand*>(history_.command(i - 1))->number : 0;
}

Stroke Document::stroke() {
    strokes_.push_back(++number_);
    return {this, number_};
}

void Document::endStroke(quint64 number) {
    if (std::erase(strokes_, number) == 0) return;
    if (strokes_.empty()) emit changed(); // what was coarse becomes sharp
}

bool Document::forgetWhatIsGone() {
    QStringList still, lights;
    for (const QString& id : chosen_)
        if (element(id)) still << id;
    for (const QString& id : lights_)
        if (find_light(piece(), id.toStdString())) lights << id;
    QString step = openStep_;
    const Element* open = still.isEmpty() ? nullptr : element(still.back());
    if (!open || still.back() != chosen_.back() || !find_step(open->steps, step.toStdString())) step.clear();
    const bool other = still != chosen_ || lights != lights_ || step != openStep_;
    chosen_ = still, lights_ = lights, openStep_ = step;
    return other;
}

void Document::setState(const State& state) {
    const auto folder = state_.store.folder; // where the piece is saved is not undone
    state_ = state;
    // What was done at another frame is shown at the one that is open.
    if (moves(*state_.piece)) {
        const Piece now = posed(*state_.piece, frame_);
        if (content_hash(now) != content_hash(*state_.piece))
            state_.piece = std::make_shared<const Piece>(now);
    }
    finish_ = finish_element(*state_.piece);
    state_.store.folder = folder;
    untold_ = true;
    choiceUntold_ = forgetWhatIsGone() || choiceUntold_;
}

void Document::tell() {
    if (std::exchange(choiceUntold_, false)) emit choiceChanged();
    if (std::exchange(untold_, false)) emit changed();
}

void Document::setFrame(int frame) {
    if (frame == frame_) return;
    frame_ = frame;
    if (moves(*state_.piece)) {
        state_.piece = std::make_shared<const Piece>(posed(*state_.piece, frame));
        finish_ = finish_element(*state_.piece);
    }
    emit frameChanged();
    emit changed();
}

void Document::filesChanged() {
    ++filesChanged_;
    emit changed();
}

quint64 Document::saying(bool camera) const {
    if (saying_.of != state_.piece) {
        Piece piece = posed(*state_.piece, 0);
        saying_ = {state_.piece, content_hash(piece), 0};
        if (piece.solid) piece.solid->camera = {}, piece.solid->camera_motions.clear();
        saying_.flat = piece.solid ? content_hash(piece) : saying_.all;
    }
    Hash h;
    h << (camera ? saying_.all : saying_.flat) << filesChanged_;
    for (const auto& [file, painting] : state_.store.paintings) h << file << painting->hash();
    return h.value();
}

void Document::replace(State state, const QString& path, const QString& name, const QString& chosen) {
    strokes_.clear();
    history_.clear();
    recovered_ = false;
    ++pieceNumber_;
    state_ = std::move(state);
    finish_ = finish_element(*state_.piece);
    chosen_.clear();
    if (element(chosen)) chosen_ << chosen;
    openStep_ = firstStep();
    frame_ = 0;
    path_ = path;
    name_ = name;
    lights_.clear();
    if (!piece().lights.empty()) lights_ << QString::fromStdString(piece().lights.back()->id);
    emit replaced();
    emit choiceChanged();
    emit changed();
    emit titleChanged();
}

void Document::adoptSaved(const QString& path) {
    path_ = path;
    recovered_ = false;
    state_.store.folder = QFileInfo(path).absolutePath().toStdString();
    history_.setClean();
    emit titleChanged();
}

QString Document::title() const {
    return path_.isEmpty() ? (name_.isEmpty() ? tr("Untitled") : name_) : QFileInfo(path_).completeBaseName();
}

void Document::choose(const QStringList& ids) {
    QStringList there;
    for (const QString& id : ids)
        if (element(id) && !there.contains(id)) there << id;
    // The finish is no element among others.
    if (there.size() > 1) there.removeAll(QString::fromUtf8(finish_id.data(), finish_id.size()));
    if (there == chosen_) return;
    const bool other = chosen_.isEmpty() || there.isEmpty() || there.back() != chosen_.back();
    chosen_ = there;
    if (other) openStep_ = firstStep();
    emit choiceChanged();
}

const Element* Document::openElement() const { return chosen_.isEmpty() ? nullptr : element(chosen_.back()); }

QString Document::firstStep() const {
    const Element* e = openElement();
    return e && !e->steps.empty() ? QString::fromStdString(e->steps.front()->id) : QString();
}

const Step* Document::openStep() const {
    const Element* e = openElement();
    return e && !openStep_.isEmpty() ? find_step(e->steps, openStep_.toStdString()) : nullptr;
}

void Document::setOpenStep(const QString& id) {
    if (id == openStep_) return;
    // A row may be told of after what it stood for went.
    const Element* e = openElement();
    if (!id.isEmpty() && !(e && find_step(e->steps, id.toStdString()))) return;
    openStep_ = id;
    emit choiceChanged();
}

void Document::chooseLights(const QStringList& ids) {
    QStringList there;
    for (const QString& id : ids)
        if (find_light(piece(), id.toStdString()) && !there.contains(id)) there << id;
    if (there == lights_) return;
    lights_ = there;
    emit choiceChanged();
}

void Document::chooseLightToo(const QString& id) {
    QStringList ids = lights_;
    if (!ids.removeOne(id)) ids << id;
    chooseLights(ids);
}

const Light* Document::light() const { return find_light(piece(), chosenLight().toStdString()); }

void Document::askForColor(QObject* by, std::function<void(const Color&)> answer) {
    const bool asked = colorAsked();
    colorAskedBy_ = nullptr, colorAnswer_ = {};
    if (asked) emit colorAskEnded();
    if (!by) return;
    colorAskedBy_ = by, colorAnswer_ = std::move(answer);
    emit colorAskBegan();
}

void Document::giveColor(const Color& color) {
    if (!colorAsked()) return;
    const auto answer = std::move(colorAnswer_);
    colorAskedBy_ = nullptr, colorAnswer_ = {};
    answer(color);
    emit colorAskEnded();
}

void Document::askForNumber(QObject* by, std::function<void(const std::string&)> answer) {
    const bool asked = numberAsked();
    numberAskedBy_ = nullptr, numberAnswer_ = {};
    if (asked) emit numberAskEnded();
    if (!by) return;
    numberAskedBy_ = by, numberAnswer_ = std::move(answer);
    emit numberAskBegan();
}

void Document::giveNumber(const std::string& path) {
    if (!numberAsked()) return;
    const auto answer = std::move(numberAnswer_);
    numberAskedBy_ = nullptr, numberAnswer_ = {};
    answer(path);
    emit numberAskEnded();
}

} // namespace bathylux
