// Every control of every kind of thing, moved by keys and mouse where it stands in the window: one value
// changes, as it would by the command line; the control shows what it did; undo and redo lead back and forth.
#include "app/controls/color_picker.h"
#include "app/controls/profile_editor.h"
#include "app/controls/ruled_scale.h"
#include "app/controls/step_row.h"
#include "app/controls/stops_editor.h"
#include "app/makings/body_card.h"
#include "driven_window.h"
#include "each_kind.h"
#include "run.h"

using namespace bathylux;

class TestEveryControl : public QObject, DrivenWindow {
    Q_OBJECT

    /// A piece with one thing in it, where that stands in the file, what of it must be reached, and what the
    /// controls of that are called.
    struct Thing {
        Json piece;
        std::string at; // "/elements/0/source"
        QStringList parameters, names;
    };
    using Parameters = std::span<const Parameter>;

    /// Whether a control of its own stands for it, beside what else the data say.
    static bool shown(Parameters parameters, const void* data, const Parameter& p) {
        using Type = Parameter::Type;
        const bool elsewhere = p.type == Type::file || p.type == Type::files || p.type == Type::element ||
                               p.type == Type::map || p.type == Type::font;
        return !elsewhere && p.rank != Rank::hidden && counts(parameters, data, p);
    }
    /// Sets what has to be so that a parameter has a say.
    static void unlock(Parameters parameters, void* data, const Parameter& p) {
        if (p.when.empty()) return;
        const auto by = std::find_if(parameters.begin(), parameters.end(),
                                     [&](const Parameter& q) { return q.id == p.when; });
        unlock(parameters, data, *by);
        const std::string is(p.is.substr(0, p.is.find('|')));
        if (by->type == Parameter::Type::toggle)
            by->set(data, is == "true");
        else if (by->type == Parameter::Type::choice)
            by->set(data, is);
        else if (by->type != Parameter::Type::map && by->type != Parameter::Type::element)
            by->set(data, 1.0);
    }
    /// Rows for a thing as it is to begin with, and for each setting of it that gives others a say. `make`
    /// puts it into a piece.
    static void rowsOf(const std::string& name, Parameters parameters,
                       const std::function<std::shared_ptr<void>()>& standard, const std::string& at,
                       const std::function<Json(const Json& values)>& make) {
        const auto row = [&](const std::string& called, const std::shared_ptr<void>& data,
                             const std::function<bool(const Parameter&)>& which, bool all) {
            Thing t;
            t.at = at;
            Json values = Json::object();
            const auto plain = standard();
            for (const Parameter& p : parameters) {
                if (p.get(data.get()) != p.get(plain.get()))
                    values[std::string(p.id)] = to_json(p.get(data.get()));
                if (!which(p) || !shown(parameters, data.get(), p)) continue;
                t.parameters << each_kind::qs(p.id);
                t.names << each_kind::qs(p.name);
            }
            if (t.parameters.isEmpty() && !all) return;
            t.piece = make(values);
            things()[called] = t;
            QTest::addRow("%s", called.c_str()) << called;
        };
        const auto first = standard();
        row(
            name, first, [](const Parameter&) { return true; }, true);
        std::set<std::string> told;
        for (const Parameter& p : parameters) {
            const std::string under = std::string(p.when) + " " + std::string(p.is);
            if (p.when.empty() || counts(parameters, first.get(), p) || !told.insert(under).second) continue;
            const auto data = standard();
            unlock(parameters, data.get(), p);
            row(
                name + ", " + under, data,
                [&](const Parameter& q) { return q.when == p.when && q.is == p.is; }, false);
        }
    }
    template <class T>
    static void rowsOf(const std::string& name, const std::string& at,
                       const std::function<Json(const Json& values)>& make) {
        rowsOf(
            name, T::parameters, [] { return std::make_shared<T>(); }, at, make);
    }
    static void rowsOf(const std::string& name, const Kind& kind, const std::string& at,
                       const std::function<void(Json& piece, const Json& thing)>& put) {
        rowsOf(
            name + " " + std::string(kind.id), kind.parameters, [&] { return kind.made(); }, at,
            [&](Json values) {
                values["kind"] = kind.id;
                Json piece = plain();
                put(piece, values);
                return piece;
            });
    }

    static Json plain() {
        return Json::parse(R"({"bathylux": 1, "canvas": {"width": 96, "height": 64}, "elements": [
            {"id": "e", "source": {"kind": "rectangle", "width": 40, "height": 30},
             "placement": {"x": 48, "y": 32}}]})");
    }
    static std::map<std::string, Thing>& things() {
        static std::map<std::string, Thing> all;
        return all;
    }

    static bool belongsToPicker(const QWidget* w) {
        for (; w; w = w->parentWidget())
            if (qobject_cast<const ColorPicker*>(w)) return true;
        return false;
    }
    /// What a hand can take hold of, in the order it stands.
    QList<QWidget*> inputs() const {
        QList<QWidget*> out;
        for (const auto* control : window_->findChildren<ParameterControl*>())
            for (QWidget* w : control->findChildren<QWidget*>())
                if (w->isVisibleTo(window_.get()) && !belongsToPicker(w) &&
                    (qobject_cast<RuledScale*>(w) || qobject_cast<Switch*>(w) || qobject_cast<DropList*>(w) ||
                     qobject_cast<ColorPatch*>(w) || qobject_cast<StopsStrip*>(w) ||
                     qobject_cast<ProfileStrip*>(w) || qobject_cast<CurveEditor*>(w) ||
                     qobject_cast<QPlainTextEdit*>(w)))
                    out << w;
        return out;
    }
    QWidget* input(int i) const { return inputs().value(i); }
    /// As it looks while nobody holds it.
    QImage face(int i) const {
        window_->setFocus();
        QThreadPool::globalInstance()->waitForDone(); // tones behind a curve are counted beside
        QCoreApplication::processEvents();            // laid out
        QWidget* w = input(i);
        return w ? w->grab().toImage() : QImage();
    }
    QList<StepRow*> folds() const {
        QList<StepRow*> out;
        for (auto* row : window_->findChildren<StepRow*>())
            if (!row->onSwitch() && row->isVisibleTo(window_.get())) out << row;
        return out;
    }
    /// What opens or folds something leaves it open: done again where there is less to take hold of then.
    void leaveOpen(const std::function<void()>& toggle) const {
        const auto before = inputs().size();
        toggle();
        if (inputs().size() < before) toggle();
    }
    void unfold() const {
        for (int i = 0; i < folds().size(); ++i)
            leaveOpen([&] {
                if (StepRow* row = folds().value(i))
                    QTest::mouseClick(row, Qt::LeftButton, {}, QPoint(20, 12));
            });
    }
    void openBody() const {
        leaveOpen([&] {
            emit window_->findChild<BodyCard*>()->foldAsked("body");
            QCoreApplication::processEvents();
        });
    }

    Json now() const { return to_json(piece()); }

    /// What changed between two pieces: where its owner stands in the file and by what path that is set, then
    /// the parameter.
    struct Change {
        std::string at, path, parameter;
        auto operator<=>(const Change&) const = default;
    };
    std::set<Change> changes(const Json& before, const Json& after) const {
        const auto kind = [&](const char* pointer) {
            const Json::json_pointer p(pointer);
            return before.contains(p) ? before[p]["kind"].get<std::string>() : std::string();
        };
        const std::pair<std::string, std::string> owners[] = {
            {"/elements/0/source", "e.source"},
            {"/elements/0/steps/0", "e." + kind("/elements/0/steps/0")},
            {"/elements/0/placement", "e.placement"},
            {"/elements/0/mix", "e.mix"},
            {"/elements/0/surface", "e.surface"},
            {"/finish/0", "finish." + kind("/finish/0")},
            {"/lights/0", "l"},
            {"/ambient", "ambient"},
            {"/solid/camera", "solid.camera"},
            {"/solid/ground", "solid.ground"},
            {"/solid", "solid"}};
        std::set<Change> out;
        for (const Json& change : Json::diff(before, after)) {
            const std::string where = change["path"];
            const auto owner = std::find_if(std::begin(owners), std::end(owners),
                                            [&](const auto& o) { return where.starts_with(o.first + "/"); });
            if (owner == std::end(owners)) {
                out.insert({where, {}, {}});
                continue;
            }
            const std::string rest = where.substr(owner->first.size() + 1);
            out.insert({owner->first, owner->second, rest.substr(0, rest.find('/'))});
        }
        return out;
    }
    /// The open piece after the same by the command line.
    Json as_set(const Change& c, const Json& after) const {
        const Json value = after[Json::json_pointer(c.at + "/" + c.parameter)];
        Piece changed = piece();
        set_parameter(changed, c.path + "." + c.parameter,
                      value.is_string() ? value.get<std::string>() : value.dump());
        return to_json(changed);
    }

    /// A hand that changes what an input stands for.
    void move(int i) {
        const auto key = [&](Qt::Key k) {
            if (QWidget* w = input(i)) w->setFocus(), QTest::keyClick(w, k);
        };
        const Json before = now();
        QWidget* w = input(i);
        if (qobject_cast<RuledScale*>(w) || qobject_cast<ProfileStrip*>(w) || qobject_cast<StopsStrip*>(w)) {
            key(Qt::Key_Right);
            if (now() == before) key(Qt::Key_Left); // it was at its end
        } else if (qobject_cast<DropList*>(w)) {
            key(Qt::Key_Down);
            if (now() == before) key(Qt::Key_Up);
        } else if (qobject_cast<Switch*>(w))
            key(Qt::Key_Space);
        else if (qobject_cast<CurveEditor*>(w)) {
            key(Qt::Key_Up);
            if (now() == before) key(Qt::Key_Down);
        } else if (auto* words = qobject_cast<QPlainTextEdit*>(w)) {
            words->setFocus();
            words->moveCursor(QTextCursor::End);
            QTest::keyClicks(words, " more");
            window_->setFocus();
        } else if (qobject_cast<ColorPatch*>(w)) {
            const QPointer<QWidget> patch = w;
            key(Qt::Key_Space);
            auto* picker = window_->findChild<ColorPicker*>();
            QVERIFY(picker);
            auto* code = picker->findChild<QLineEdit*>("colorCode");
            code->selectAll();
            QTest::keyClicks(code, "#3a7f5c");
            QTest::keyClick(code, Qt::Key_Return);
            if (patch) QTest::keyClick(patch, Qt::Key_Space);
            QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
            QVERIFY(!window_->findChild<ColorPicker*>());
        }
    }

  private slots:
    void initTestCase() {
        prepare();
        begin("");
    }
    void cleanupTestCase() { end(); }

    void it_changes_what_it_is_named_after_and_is_undone_data() {
        QTest::addColumn<std::string>("name");
        for (const SourceKind& k : source_kinds())
            rowsOf("source", k, "/elements/0/source",
                   [](Json& piece, const Json& it) { piece["elements"][0]["source"] = it; });
        for (const StepKind& k : step_kinds())
            rowsOf("step", k, "/elements/0/steps/0",
                   [](Json& piece, const Json& it) { piece["elements"][0]["steps"] = Json::array({it}); });
        for (const StepKind& k : finish_kinds())
            rowsOf("finish", k, "/finish/0",
                   [](Json& piece, const Json& it) { piece["finish"] = Json::array({it}); });
        for (const LightKind& k : light_kinds())
            rowsOf("light", k, "/lights/0", [](Json& piece, Json it) {
                it["id"] = "l";
                piece["lights"] = Json::array({it});
            });
        const auto in_element = [](const char* member) {
            return [member](const Json& values) {
                Json piece = plain();
                piece["elements"][0][member].update(values);
                return piece;
            };
        };
        rowsOf<Mix>("mixing", "/elements/0/mix", in_element("mix"));
        rowsOf<Surface>("surface", "/elements/0/surface", [](Json values) {
            Json piece = plain();
            values["name"] = "Own";
            piece["elements"][0]["surface"] = values;
            return piece;
        });
        rowsOf<Placement>("placement", "/elements/0/placement", in_element("placement"));
        things()["placement"].parameters.removeOne("edge"); // only pictures have a rim
        const auto in_piece = [](const char* member) {
            return [member](const Json& values) {
                Json piece = plain();
                piece[member] = values;
                return piece;
            };
        };
        rowsOf<Ambient>("ambient", "/ambient", in_piece("ambient"));
        rowsOf<Body>("body", "/solid", in_piece("solid"));
        things()["body"].parameters.removeOne("kind"); // a row of buttons
        const auto about_a_sphere = [](const char* member) {
            return [member](const Json& values) {
                Json piece = plain();
                piece["solid"] = {{"kind", "sphere"}, {member, values}};
                return piece;
            };
        };
        rowsOf<Camera>("camera", "/solid/camera", about_a_sphere("camera"));
        rowsOf<GroundPlane>("ground", "/solid/ground", about_a_sphere("ground"));
    }
    void it_changes_what_it_is_named_after_and_is_undone() {
        QFETCH(std::string, name);
        const Thing& thing = things()[name];
        const QString path = dir_.filePath("thing.json");
        {
            QFile file(path);
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(QByteArray::fromStdString(thing.piece.dump()));
        }
        document().history().setClean();
        QVERIFY(window_->openPath(path) && settled());
        const Json at_first = now();
        if (name.starts_with("finish"))
            document().choose({"finish"}),
                document().setOpenStep(QString::fromStdString(piece().finish[0]->id));
        else if (name.starts_with("light"))
            document().chooseLights({"l"});
        else if (name.starts_with("body"))
            openBody();
        else
            document().choose({"e"});
        if (name.starts_with("step"))
            document().setOpenStep(QString::fromStdString(piece().elements[0]->steps[0]->id));
        QCoreApplication::processEvents();
        unfold();
        QVERIFY(settled());
        // All that can be open at once makes the window no larger than small screens are.
        const QSize least = window_->minimumSizeHint();
        QVERIFY2(least.width() <= 1200 && least.height() <= 700,
                 qPrintable(QString("%1 x %2").arg(least.width()).arg(least.height())));

        QSet<QString> reached;
        each_kind::Found found;
        const int count = static_cast<int>(inputs().size());
        for (int i = 0; i < count; ++i) {
            const QString called = input(i)->accessibleName(), what = called + ": ";
            // Of a list each has a number.
            if (std::none_of(thing.names.begin(), thing.names.end(), [&](const QString& n) {
                    return called == n || (called.startsWith(n + " ") && called[n.size() + 1].isDigit());
                }))
                continue;
            const QImage face_before = face(i);
            move(i);
            const Json after = now();
            if (after == at_first) {
                found << what + "changes nothing";
                continue;
            }
            const int edits = document().history().index();
            const std::set<Change> changed = changes(at_first, after);
            if (changed.size() != 1) found << what + "changes several things";
            const Change& change = *changed.begin();
            if (change.at == thing.at) reached << QString::fromStdString(change.parameter);
            if (input(i) && face(i) == face_before) found << what + "does not show what it did";
            window_->action("undo")->trigger();
            if (now() != at_first) {
                found << what + "is not undone";
                while (document().history().canUndo()) document().history().undo();
                continue;
            }
            try {
                if (as_set(change, after) != after) found << what + "is something else by the command line";
            } catch (const std::exception& e) {
                found << what + "by the command line: " + e.what();
            }
            if (document().history().index() != edits - 1) found << what + "is more than one undo";
            if (inputs().size() != count) {
                found << what + "leaves other controls";
                break;
            }
            if (face(i) != face_before) found << what + "does not show that it was undone";
            window_->action("redo")->trigger();
            if (now() != after) found << what + "is not done again";
            window_->action("undo")->trigger();
        }
        for (const QString& id : thing.parameters)
            if (!reached.contains(id)) found << id + " is reached by no control";
        found.tell();
    }
};

BATHYLUX_TEST(TestEveryControl)
#include "test_every_control.moc"
