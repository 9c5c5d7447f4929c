#include "app/controls/sum.h"

#include <cmath>

namespace bathylux {

namespace {

/// Recursive descent over sum := product {(+|−) product}; product := factor {(×|÷) factor}.
class Reader {
  public:
    Reader(QString text, double pxPerMm) : text_(std::move(text)), pxPerMm_(pxPerMm) {
        text_.replace(QChar(0x2212), '-')
            .replace(QChar(0xd7), '*')
            .replace(QChar(0xf7), '/')
            .replace(',', '.');
        text_.remove(' ');
    }
    std::optional<double> all() {
        const auto v = sum(0);
        return v && at_ == text_.size() && std::isfinite(*v) ? v : std::nullopt;
    }

  private:
    bool take(QLatin1String what) {
        if (!QStringView(text_).mid(at_).startsWith(what, Qt::CaseInsensitive)) return false;
        at_ += what.size();
        return true;
    }
    std::optional<double> sum(int depth) {
        if (depth > 20) return std::nullopt;
        auto v = product(depth);
        while (v) {
            const bool plus = take(QLatin1String("+"));
            if (!plus && !take(QLatin1String("-"))) break;
            const auto w = product(depth);
            if (!w) return std::nullopt;
            v = plus ? *v + *w : *v - *w;
        }
        return v;
    }
    std::optional<double> product(int depth) {
        auto v = factor(depth);
        while (v) {
            const bool times = take(QLatin1String("*"));
            if (!times && !take(QLatin1String("/"))) break;
            const auto w = factor(depth);
            if (!w) return std::nullopt;
            v = times ? *v * *w : *v / *w;
        }
        return v;
    }
    std::optional<double> factor(int depth) {
        if (take(QLatin1String("-"))) {
            const auto v = factor(depth + 1);
            return v ? std::optional(-*v) : std::nullopt;
        }
        if (take(QLatin1String("up"))) return factor(depth + 1);
        if (take(QLatin1String("down"))) {
            const auto v = factor(depth + 1);
            return v ? std::optional(-*v) : std::nullopt;
        }
        std::optional<double> v;
        if (take(QLatin1String("("))) {
            v = sum(depth + 1);
            if (!v || !take(QLatin1String(")"))) return std::nullopt;
        } else {
            const qsizetype from = at_;
            while (at_ < text_.size() && (text_[at_].isDigit() || text_[at_] == '.')) ++at_;
            bool ok = false;
            v = text_.mid(from, at_ - from).toDouble(&ok);
            if (!ok) return std::nullopt;
        }
        if (take(QLatin1String("mm"))) return *v * pxPerMm_;
        if (take(QLatin1String("%"))) return *v / 100;
        if (take(QLatin1String("px")) || take(QLatin1String("ev"))) return v;
        if (at_ < text_.size() && text_[at_] == QChar(0xb0)) ++at_;
        return v;
    }

    QString text_;
    double pxPerMm_;
    qsizetype at_ = 0;
};

} // namespace

std::optional<double> evaluateSum(const QString& text, double pxPerMm) { return Reader(text, pxPerMm).all(); }

} // namespace bathylux
