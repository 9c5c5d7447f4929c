#include "app/windows/small_pictures.h"

#include "app/document/behind.h"
#include "files/contact_sheet.h"

namespace bathylux {

void SmallPictures::make(int rows, std::function<Shown(int)> shown) {
    shown_ = std::move(shown);
    rows_ = rows, next_ = 0, ++round_;
    step();
}

void SmallPictures::step() {
    if (done()) return;
    struct Made {
        QImage image;
        QString trouble;
    };
    const qreal ratio = tiles_.devicePixelRatioF();
    const int side = static_cast<int>(
        std::lround(ratio * std::max(tiles_.pictureSize().width(), tiles_.pictureSize().height())));
    behind(
        this,
        [&resolver = desk_.renderer.resolver(), shown = shown_, row = next_, side]() -> Made {
            try {
                const Shown now = shown(row);
                Evaluator evaluator(std::size_t{64} << 20);
                const Scene scene{std::make_shared<const Piece>(now.piece),
                                  resolver.resolve(now.piece, now.store)};
                const files::SmallPicture p =
                    files::small_picture(evaluator, scene, View::lit, side, now.part);
                return {QImage(p.rgba.data(), p.width, p.height, 4 * p.width, QImage::Format_RGBA8888).copy(),
                        {}};
            } catch (const std::exception& e) {
                return {{}, QString::fromUtf8(e.what())};
            }
        },
        [this, round = round_, row = next_, ratio](Made made) {
            if (round != round_) return;
            made.image.setDevicePixelRatio(ratio);
            if (made.trouble.isEmpty())
                tiles_.setPicture(row, made.image);
            else
                tiles_.setTrouble(row, made.trouble);
            ++next_;
            step();
        });
}

} // namespace bathylux
