#pragma once
// What the tests share that go through every kind there is.
#include <QtTest>
#include <functional>

#include "core/piece/edit.h"
#include "support.h"

namespace bathylux::each_kind {

// Under the sanitizers everything takes twenty times as long: there fewer things are tried.
#ifdef __SANITIZE_ADDRESS__
inline constexpr bool sanitized = true;
#else
inline constexpr bool sanitized = false;
#endif

inline QString qs(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}

inline Placement placed(float x, float y, float turn, float scale) {
    Placement out;
    out.x = x, out.y = y, out.turn = turn, out.scale_u = out.scale_v = scale;
    return out;
}

/// An element named e.
inline Element element_of(const Described& source, const std::vector<Described>& steps,
                          const Placement& placement) {
    Element e;
    e.id = "e", e.source = source, e.placement = placement;
    for (const Described& s : steps) add_step(e, Step{.what = s});
    return e;
}

/// With what files would give its elements.
inline Scene scene_with(const std::shared_ptr<Piece>& piece) {
    auto assets = std::make_shared<Assets>();
    for (const auto& e : piece->elements) (*assets)[e->id] = asset_for(e->kind());
    return {piece, assets};
}

/// Every kind of source that is one by itself, with what makes a height of it where it is but a tone.
inline void
each_source(const std::function<void(const Described& source, const std::vector<Described>& steps)>& work) {
    for (const SourceKind& k : source_kinds()) {
        if (k.holds_elements) continue;
        std::vector<Described> steps;
        if (k.tonal) steps.emplace_back(step_kind("tones"));
        work(Described(k), steps);
    }
}

/// What was found wrong, told all at once.
class Found {
  public:
    void operator<<(const QString& what) { all_ << what; }
    void tell() {
        const QStringList all = std::exchange(all_, {});
        for (const QString& f : all) qWarning().noquote() << f;
        QVERIFY(all.isEmpty());
    }

  private:
    QStringList all_;
};

} // namespace bathylux::each_kind
