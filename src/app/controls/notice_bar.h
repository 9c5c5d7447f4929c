#pragma once
#include <QTimer>
#include <QWidget>
#include <functional>

class QLabel;
class QHBoxLayout;

namespace bathylux {

/// A line under the tools that says what happened and what can be done; never a box in the way.
class NoticeBar : public QWidget {
    Q_OBJECT
  public:
    struct Offer {
        QString words;
        std::function<void()> take;
    };
    /// `lasting`: it stays until one of its offers is taken, and cannot be put away.
    explicit NoticeBar(QWidget* parent = nullptr, bool lasting = false);
    /// `trouble` is set in the signal's colour and stays; other notices go by themselves when they offer
    /// nothing. An offer that belongs to an edit (`edit`, see Document::topEdit) goes when that is no longer
    /// the last.
    void say(const QString& text, const QList<Offer>& offers = {}, bool trouble = false, quint64 edit = 0);
    void editOnTop(quint64 edit);
    void clear();
    QString text() const;

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    void empty();
    void leave();
    /// Shows what is wanted, or puts it away, once the hand holds nothing.
    void settle();

    QLabel* label_;
    QHBoxLayout* box_;
    QList<QWidget*> buttons_;
    QTimer leaves_, waits_;
    bool wanted_ = false, trouble_ = false, lasting_;
    quint64 edit_ = 0;
};

} // namespace bathylux
