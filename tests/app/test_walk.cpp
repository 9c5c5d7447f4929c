// Two thousand edits, undos, saves and reopenings of a demo piece, from a seed: wherever it leads, undo leads
// back, and what is saved is what is opened.
#include <QRandomGenerator>
#include <QTemporaryDir>
#include <QtTest>

#include "app/document/document.h"
#include "core/piece/codec.h"
#include "core/piece/edit.h"
#include "core/piece/references.h"
#include "run.h"

using namespace bathylux;

class TestWalk : public QObject {
    Q_OBJECT

    QRandomGenerator random_{1926};
    template <class List> auto& any(List& list) { return list[random_.bounded(int(list.size()))]; }

    std::vector<std::string> ids(const Piece& p) {
        std::vector<std::string> out;
        for_each_element(p.elements, [&](const Element& e) { out.push_back(e.id); });
        return out;
    }
    Value other(const Parameter& p, const Value& now) {
        if (p.type == Parameter::Type::number || p.type == Parameter::Type::whole) {
            const double v = p.range.low + random_.generateDouble() * (p.range.high - p.range.low);
            return p.type == Parameter::Type::whole ? std::round(v) : v;
        }
        if (p.type == Parameter::Type::toggle) return !std::get<bool>(now);
        if (p.type == Parameter::Type::choice) return std::string(any(p.choices));
        return now;
    }
    void change_value(Described& d) {
        if (d.kind().parameters.empty()) return;
        const Parameter& p = any(d.kind().parameters);
        d = d.with(p, other(p, d.get(p.id)));
    }
    /// One of all that can be done to a tree of elements.
    void step(Piece& p) {
        const auto all = ids(p);
        const std::string id = all.empty() ? std::string() : any(all);
        if (all.empty())
            return void(add_element(
                p, Element{.id = "new", .name = "New", .source = Described(source_kind("ellipse"))}));
        const auto steps = step_kinds();
        switch (random_.bounded(14)) {
        case 0:
            add_element(p, Element{.id = "new", .name = "New", .source = Described(source_kind("ellipse"))},
                        id);
            break;
        case 1: change(p, id, [&](Element& e) { change_value(e.source); }); break;
        case 2: change(p, id, [&](Element& e) { e.placement.x += 3, e.placement.turn += 5; }); break;
        case 3: change(p, id, [&](Element& e) { add_step(e, Step{.what = Described(any(steps))}); }); break;
        case 4:
            change(p, id, [&](Element& e) {
                if (!e.steps.empty()) e.steps.erase(e.steps.begin() + random_.bounded(int(e.steps.size())));
            });
            break;
        case 5:
            change(p, id, [&](Element& e) {
                if (e.steps.empty()) return;
                auto& s = any(e.steps);
                s = s.with([&](Step& changed) { change_value(changed.what); });
            });
            break;
        case 6:
            if (all.size() < 24) duplicate(p, {id});
            break;
        case 7:
            if (all.size() > 3) remove(p, {id});
            break;
        case 8: move(p, {id}, group_of(p, any(all)), random_.bounded(4)); break;
        case 9:
            if (all.size() < 24) group(p, {id, any(all)});
            break;
        case 10: ungroup(p, id); break;
        case 11:
            if (!p.lights.empty())
                change_light(p, any(p.lights)->id, [&](Light& l) { change_value(l.what); });
            break;
        case 12: change(p, id, [&](Element& e) { e.mix.mask = MapRef{.element = any(all)}; }); break;
        default: use_mood(p, p.moods.empty() ? "" : any(p.moods).id);
        }
    }

  private slots:
    void ends_where_it_began() {
        QTemporaryDir dir;
        files::Opened opened = files::open_piece(std::string(BATHYLUX_DEMO) + "/../tests/pieces/plate.json");
        files::embed_all(opened);
        Document doc;
        doc.replace({std::make_shared<const Piece>(opened.piece), opened.store}, {});
        const std::string began = text_of(doc.piece());
        int refused = 0, edits = 0;
        connect(&doc, &Document::refused, &doc, [&] { ++refused; });
        for (int i = 0; i < 2000; ++i) {
            const int r = random_.bounded(20);
            if (r < 3) {
                doc.history().undo();
            } else if (r < 4) {
                doc.history().redo();
            } else if (r < 5 && i % 4 == 0) {
                const std::string path = (dir.path() + "/walk.bathylux").toStdString();
                const std::string before = text_of(doc.piece());
                files::save_piece(doc.piece(), doc.state().store, path);
                const files::Opened again = files::open_piece(path);
                QVERIFY2(again.told.empty(), again.told.empty() ? "" : again.told[0].c_str());
                const std::string after = text_of(again.piece);
                const auto differs =
                    std::mismatch(before.begin(), before.end(), after.begin(), after.end()).first;
                QVERIFY2(after == before,
                         std::string(differs - std::min<std::ptrdiff_t>(differs - before.begin(), 60),
                                     before.end())
                             .substr(0, 500)
                             .c_str());
            } else {
                const std::string before = text_of(doc.piece());
                try {
                    doc.edit("step", [&](Piece& p) { step(p); });
                    ++edits;
                } catch (const std::exception&) {
                    QCOMPARE(text_of(doc.piece()), before); // what cannot be done leaves it as it was
                }
            }
            QCOMPARE(cycle_in(doc.piece()), std::string());
        }
        QVERIFY(edits > 1200 && refused > 5);
        while (doc.history().canUndo()) doc.history().undo();
        QCOMPARE(text_of(doc.piece()), began);
    }
};
BATHYLUX_TEST(TestWalk)
#include "test_walk.moc"
