#include "app/document.h"

#include <QFileInfo>
#include <QUndoCommand>

namespace bathylux {

/// One undo: the state before and the state after.
class StateCommand : public QUndoCommand {
  public:
    StateCommand(Document& document, const QString& name, int stroke, Document::State before,
                 Document::State after)
        : QUndoCommand(name), document_(document), stroke_(stroke), before_(std::move(before)),
          after_(std::move(after)) {}
    void undo() override { document_.setState(before_); }
    void redo() override { document_.setState(after_); }
    int id() const override { return stroke_ > 0 ? 1 : -1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* next = static_cast<const StateCommand*>(other);
        if (next->stroke_ != stroke_ || next->text() != text()) return false;
        after_ = next->after_;
        return true;
    }

  private:
    Document& document_;
    int stroke_;
    Document::State before_, after_;
};

Document::Document(QObject* parent) : QObject(parent) {
    state_.piece = std::make_shared<const Piece>();
    history_.setUndoLimit(500);
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
    after.piece = piece;
    history_.push(new StateCommand(*this, name, stroking_ ? stroke_ : 0, state_, after));
}

void Document::beginStroke() {
    ++stroke_;
    stroking_ = true;
}

void Document::endStroke() {
    if (!stroking_) return;
    stroking_ = false;
    emit changed(); // what was coarse becomes sharp
}

void Document::setState(const State& state) {
    const auto folder = state_.store.folder; // where the piece is saved is not undone
    state_ = state;
    state_.store.folder = folder;
    QStringList still;
    for (const QString& id : chosen_)
        if (find_element(piece().elements, id.toStdString())) still << id;
    if (still != chosen_) {
        chosen_ = still;
        emit choiceChanged();
    }
    if (const Element* e = openElement(); e && openStep_ >= static_cast<int>(e->steps.size()))
        openStep_ = static_cast<int>(e->steps.size()) - 1;
    emit changed();
}

void Document::replace(State state, const QString& path, const QString& name) {
    stroking_ = false;
    history_.clear();
    recovered_ = false;
    chosen_.clear();
    openStep_ = -1;
    state_ = std::move(state);
    path_ = path;
    name_ = name;
    lights_.clear();
    if (!piece().lights.empty()) lights_ << QString::fromStdString(piece().lights.back().id);
    emit choiceChanged();
    emit changed();
    emit titleChanged();
}

void Document::adoptSaved(Piece piece, const QString& path) {
    state_.piece = std::make_shared<const Piece>(std::move(piece));
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
    if (ids == chosen_) return;
    const bool other = chosen_.isEmpty() || ids.isEmpty() || ids.back() != chosen_.back();
    chosen_ = ids;
    if (other) {
        const Element* e = openElement();
        openStep_ = e && !e->steps.empty() ? 0 : -1;
    }
    emit choiceChanged();
}

const Element* Document::openElement() const {
    return chosen_.isEmpty() ? nullptr : find_element(piece().elements, chosen_.back().toStdString());
}

void Document::setOpenStep(int index) {
    if (index == openStep_) return;
    openStep_ = index;
    emit choiceChanged();
}

void Document::chooseLights(const QStringList& ids) {
    if (ids == lights_) return;
    lights_ = ids;
    emit choiceChanged();
}

void Document::chooseLightToo(const QString& id) {
    QStringList ids = lights_;
    if (!ids.removeOne(id)) ids << id;
    chooseLights(ids);
}

const Light* Document::light() const {
    for (const Light& l : piece().lights)
        if (l.id == chosenLight().toStdString()) return &l;
    return nullptr;
}

} // namespace bathylux
