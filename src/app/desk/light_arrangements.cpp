// Set-ups of light: takes kept in the piece, situations to start from, and arrangements one keeps for other
// pieces.
#include <QInputDialog>
#include <QJsonDocument>
#include <QJsonObject>
#include <QLineEdit>
#include <QMenu>

#include "app/desk/light_desk.h"
#include "app/document/kept.h"
#include "core/error.h"
#include "core/light/lights.h"
#include "core/piece/codec.h"
#include "core/render/tied_lights.h"

namespace bathylux {

namespace {

Light farLight(const char* id, const char* name, float angle, float elevation, Color color, float intensity) {
    DirectionalLight d;
    d.angle = angle, d.elevation = elevation, d.color = color, d.intensity = intensity;
    return {id, name, true, Described(light_kind("directional"), d)};
}

Light lamp(const char* id, const char* name, double x, double y, double z, Color color, float intensity,
           double reach) {
    PointLight p;
    p.x = static_cast<float>(x), p.y = static_cast<float>(y), p.z = static_cast<float>(z), p.color = color,
    p.intensity = intensity, p.distance = static_cast<float>(reach);
    return {id, name, true, Described(light_kind("point"), p)};
}

constexpr Color daylight{1, 0.98f, 0.94f, 1}, sky{0.66f, 0.78f, 1, 1}, warm{1, 0.76f, 0.46f, 1};

} // namespace

void LightDesk::fillMoods(QMenu* menu) {
    Document& doc = desk_.document;
    menu->clear();
    for (const Mood& t : doc.piece().moods) {
        QAction* a = menu->addAction(nameOf(t), this, [this, id = t.id] { goToMood(id); });
        a->setCheckable(true);
        a->setChecked(t.id == doc.piece().mood);
    }
    if (!doc.piece().moods.empty()) menu->addSeparator();
    menu->addAction(tr("Keep this light as another mood"), this, &LightDesk::keepMood);
    if (doc.piece().moods.empty()) return;
    menu->addAction(tr("Rename this mood…"), this, [this, &doc] {
        bool good = false;
        QString now;
        for (const Mood& t : doc.piece().moods)
            if (t.id == doc.piece().mood) now = nameOf(t);
        const QString name =
            QInputDialog::getText(this, tr("Rename mood"), tr("Name"), QLineEdit::Normal, now, &good);
        if (good && !name.trimmed().isEmpty())
            doc.edit(tr("Rename mood"), [&](Piece& p) {
                for (Mood& t : p.moods)
                    if (t.id == p.mood) t.name = name.trimmed().toStdString();
            });
    });
    menu->addAction(tr("Delete this mood"), this, &LightDesk::deleteMood);
}

void LightDesk::goToMood(const std::string& id) {
    Document& doc = desk_.document;
    if (id == doc.piece().mood) return;
    doc.edit(tr("Change mood"), [&](Piece& p) { use_mood(p, id); });
    doc.chooseLight(doc.piece().lights.empty() ? QString()
                                               : QString::fromStdString(doc.piece().lights.back()->id));
}

void LightDesk::keepMood() {
    Document& doc = desk_.document;
    if (doc.piece().moods.size() >= most_moods) return;
    doc.edit(tr("Keep a mood"), [&](Piece& p) {
        const auto add = [&] {
            Mood t;
            t.id = free_id(p, "mood");
            t.name = tr("Mood %1").arg(p.moods.size() + 1).toStdString();
            p.moods.push_back(t);
            return t.id;
        };
        // The first time, what is there becomes the first of two.
        if (p.moods.empty()) p.mood = add();
        const std::string next = add();
        Mood& t = p.moods.back();
        t.lights = p.lights, t.ambient = p.ambient, t.exposure = p.exposure,
        t.keep_flat_color = p.keep_flat_color;
        for (auto& l : t.lights) l = l.with([&](Light& light) { light.id = free_id(p, light.id); });
        use_mood(p, next);
    });
    doc.chooseLight(doc.piece().lights.empty() ? QString()
                                               : QString::fromStdString(doc.piece().lights.back()->id));
}

void LightDesk::deleteMood() {
    desk_.document.edit(tr("Delete mood"), [](Piece& p) {
        const std::string gone = p.mood;
        const auto at =
            std::find_if(p.moods.begin(), p.moods.end(), [&](const Mood& t) { return t.id == gone; });
        if (at == p.moods.end()) return;
        if (p.moods.size() > 1) use_mood(p, at == p.moods.begin() ? p.moods[1].id : (at - 1)->id);
        std::erase_if(p.moods, [&](const Mood& t) { return t.id == gone; });
        // A single one is no choice.
        if (p.moods.size() < 2) p.moods.clear(), p.mood.clear();
    });
}

void LightDesk::nextMood() {
    const Piece& p = desk_.document.piece();
    for (std::size_t i = 0; i < p.moods.size(); ++i)
        if (p.moods[i].id == p.mood) return goToMood(p.moods[(i + 1) % p.moods.size()].id);
}

void LightDesk::fillSituations(QMenu* menu) {
    menu->clear();
    for (const auto& [id, words] : situations())
        menu->addAction(words, this, [this, id = id] { arrange(id); });
    const KeptByName kept("arrangements");
    if (const QStringList names = kept.names(); !names.isEmpty()) {
        menu->addSeparator();
        for (const QString& name : names) menu->addAction(name, this, [this, name] { arrangeKept(name); });
        QMenu* forget = menu->addMenu(tr("Forget"));
        for (const QString& name : names)
            forget->addAction(name, [name] { KeptByName("arrangements").remove(name); });
    }
    menu->addSeparator();
    menu->addAction(tr("Keep this arrangement…"), this, &LightDesk::keepArrangement);
}

/// As a mood, beside the size of the canvas it was kept from.
void LightDesk::keepArrangement() {
    bool good = false;
    const QString name =
        QInputDialog::getText(this, tr("Keep this arrangement"), tr("Name"), QLineEdit::Normal, {}, &good);
    if (!good || name.trimmed().isEmpty()) return;
    const Piece& p = desk_.document.piece();
    Mood kept;
    kept.id = "kept", kept.ambient = p.ambient;
    for (Light l : lights_on_canvas(p)) {
        l.tied.clear();
        kept.lights.emplace_back(l);
    }
    QJsonObject out = QJsonDocument::fromJson(QByteArray::fromStdString(text_of(kept))).object();
    out["width"] = p.canvas.width, out["height"] = p.canvas.height;
    if (!KeptByName("arrangements").put(name.trimmed(), QJsonDocument(out).toJson().toStdString()))
        emit refused(tr("The arrangement could not be kept: the folder for settings cannot be written to."));
}

void LightDesk::arrangeKept(const QString& name) {
    const std::string kept = KeptByName("arrangements").get(name);
    Document& doc = desk_.document;
    try {
        const QJsonObject size = QJsonDocument::fromJson(QByteArray::fromStdString(kept)).object();
        const double w = size["width"].toDouble(), h = size["height"].toDouble();
        if (!(w >= 1 && h >= 1)) throw Error("it does not say which canvas it was made for.");
        const Mood mood = mood_from_text(kept);
        doc.edit(tr("Arrange lights"), [&](Piece& p) {
            // To where they stood, as parts of the canvas; lengths grow with its smaller side.
            const double k = std::min(p.canvas.width, p.canvas.height) / std::min(w, h);
            p.lights.clear();
            for (Light l : mood.lights) {
                for (const Parameter& q : l.what.kind().parameters) {
                    if (q.unit != Unit::px) continue;
                    const double factor = q.said == Said::across_canvas ? p.canvas.width / w
                                          : q.said == Said::down_canvas ? p.canvas.height / h
                                                                        : k;
                    l.what = l.what.with(q, held(q, std::get<double>(l.what.get(q)) * factor));
                }
                l.id = free_id(p, l.id);
                p.lights.emplace_back(l);
            }
            p.ambient.intensity = mood.ambient.intensity, p.ambient.color = mood.ambient.color;
        });
        if (!doc.piece().lights.empty())
            doc.chooseLight(QString::fromStdString(doc.piece().lights.back()->id));
    } catch (const std::exception& e) {
        emit refused(tr("The arrangement %1 cannot be used: %2").arg(name, QString::fromUtf8(e.what())));
    }
}

QList<QPair<QString, QString>> LightDesk::situations() {
    return {{"left", tr("Raking from the left")},
            {"top", tr("Soft from above")},
            {"window", tr("Window and lamp")},
            {"foot", tr("Footlights")},
            {"ring", tr("Ring of lamps")},
            {"strip", tr("Gliding strip")},
            {"rims", tr("Two rims")},
            {"overcast", tr("Overcast")}};
}

void LightDesk::arrange(const QString& s) {
    Document& doc = desk_.document;
    doc.edit(tr("Arrange lights"), [&](Piece& p) {
        const double w = p.canvas.width, h = p.canvas.height, reach = std::min(w, h) * 0.45;
        p.lights.clear();
        p.ambient.intensity = 0.12f;
        if (s == "left")
            p.lights = {farLight("raking", "Raking light", 172, 22, daylight, 1.8f),
                        farLight("sky", "Sky", 40, 60, sky, 0.35f)};
        if (s == "top")
            p.lights = {farLight("above", "From above", 100, 48, daylight, 1.3f)}, p.ambient.intensity = 0.2f;
        if (s == "window")
            p.lights = {farLight("window", "Window", 128, 42, daylight, 1.2f),
                        lamp("lamp", "Lamp", w * 0.7, h * 0.65, reach * 0.4, warm, 1.2f, reach * 0.8)};
        if (s == "foot")
            p.lights = {lamp("foot-1", "Foot, left", w * 0.2, h * 1.02, reach * 0.3, warm, 1.2f, reach),
                        lamp("foot-2", "Foot, middle", w * 0.5, h * 1.02, reach * 0.3, warm, 1.2f, reach),
                        lamp("foot-3", "Foot, right", w * 0.8, h * 1.02, reach * 0.3, warm, 1.2f, reach)};
        if (s == "ring")
            for (int i = 0; i < 6; ++i) {
                const double a = i * 60 * radians_per_degree, r = reach * 0.95;
                p.lights.push_back(lamp(("ring-" + std::to_string(i + 1)).c_str(),
                                        ("Ring " + std::to_string(i + 1)).c_str(), w * 0.5 + r * std::cos(a),
                                        h * 0.5 - r * std::sin(a), reach * 0.5, i % 2 ? sky : warm, 0.7f,
                                        reach * 0.9));
            }
        if (s == "strip") {
            StripLight bar;
            bar.x = static_cast<float>(w * 0.5), bar.y = static_cast<float>(h * 0.42),
            bar.z = static_cast<float>(reach * 0.6);
            bar.length = static_cast<float>(w * 0.7), bar.width = static_cast<float>(reach * 0.12),
            bar.turn = 8;
            bar.distance = static_cast<float>(reach * 0.8);
            SkyLight room;
            room.scene = SkyScene::workshop, room.intensity = 0.6f;
            p.lights = {Light{"sky", "Workshop", true, Described(light_kind("sky"), room)},
                        Light{"strip", "Strip", true, Described(light_kind("strip"), bar)}};
            p.ambient.intensity = 0.04f;
        }
        if (s == "rims")
            p.lights = {farLight("rim-1", "Rim, left", 165, 18, sky, 1.5f),
                        farLight("rim-2", "Rim, right", 15, 18, warm, 1.5f),
                        farLight("fill", "Fill", 90, 70, daylight, 0.4f)};
        if (s == "overcast")
            p.lights = {farLight("sky", "Cloud", 90, 75, Color{0.92f, 0.96f, 1, 1}, 0.7f)},
            p.ambient.intensity = 0.4f;
    });
    if (!doc.piece().lights.empty()) doc.chooseLight(QString::fromStdString(doc.piece().lights.back()->id));
}

} // namespace bathylux
