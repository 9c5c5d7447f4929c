#pragma once
#include <memory>
#include <optional>

#include "app/document/desk.h"
#include "core/paint/brush.h"

namespace bathylux {

/// A file for strokes, in `strokes/`, that nothing of the piece has and that does not lie there already;
/// `{frame}` in the wish stands for every frame.
std::string freeStrokes(const files::Store& store, const std::string& wish);

/// The brush in the hand: paints on the chosen element (in a step of its own), on a painted layer, or, with
/// nothing chosen, on a layer it makes. One stroke is one undo.
class Painter {
  public:
    explicit Painter(Desk& desk) : desk_(desk) {}

    Brush brush; // lengths in canvas px
    bool mirrorAcross = false, mirrorDown = false;
    float fitTo = 0; // width of the canvas that the brush was last fitted to

    /// Begins a stroke at a place of the canvas; with `onward` it goes straight from where the last one
    /// ended. False where there is nothing to paint on; `why` says so.
    bool begin(Vec2 canvas, float pressure, bool onward, QString& why);
    void move(Vec2 canvas, float pressure);
    void end();
    bool painting() const { return stroke_ != nullptr; }

    /// How far what is painted on was pushed, by places of the canvas, canvas px; none where nothing was.
    std::function<Vec2(Vec2)> drift() const;
    /// What it would paint on, in words.
    QString on() const;
    /// Where the mirror axes stand, canvas px; none where there is nothing to mirror about.
    std::optional<Vec2> axes() const;

  private:
    struct Target {
        std::string element, file; // the file may hold {frame}
        double density = 1;
        Affine to_painting; // canvas px → painting px
        double rise = 1;    // px of the canvas for each px of height that is painted; never 0
    };
    /// The element that is painted on; null: a new painted layer.
    const Element* open() const;
    std::optional<Target> target() const;
    Target makeTarget();
    void partStrokes();
    Ground groundOf(const Target& target) const;
    void show();

    Desk& desk_;
    std::optional<Target> at_;
    std::string name_; // the file of this frame's strokes
    std::unique_ptr<BrushStroke> stroke_;
    Stroke hold_; // of the document
    std::optional<Vec2> last_;
    QString edit_;
};

} // namespace bathylux
