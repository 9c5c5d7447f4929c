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
    explicit NoticeBar(QWidget* parent = nullptr);
    /// `trouble` is set in the signal's colour and stays; other notices go by themselves when they offer
    /// nothing.
    void say(const QString& text, QList<Offer> offers = {}, bool trouble = false);
    void clear();
    QString text() const;

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QLabel* label_;
    QHBoxLayout* box_;
    QList<QWidget*> buttons_;
    QTimer timer_;
    bool trouble_ = false;
};

} // namespace bathylux
