#include <QtTest>
#include <random>

#include "core/error.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

/// Whatever a file holds, reading it ends in a piece or in a sentence.
class TestHostileJson : public QObject {
    Q_OBJECT
  private slots:
    void mutated_pieces_are_read_or_refused() {
        const std::string good = to_json(*scene_of(piece_json(340, 220, busy_elements())).piece).dump();
        std::mt19937 random(11);
        const std::string alphabet = "{}[]\",:0123456789.-+eE\\ntrufalsbevdx \x80\xff";
        int read = 0, refused = 0;
        for (int round = 0; round < 4000; ++round) {
            std::string text = good;
            for (int k = 1 + static_cast<int>(random() % 4); k > 0; --k) {
                const std::size_t at = random() % text.size();
                switch (random() % 4) {
                case 0: text[at] = alphabet[random() % alphabet.size()]; break;
                case 1: text.erase(at, 1 + random() % 12); break;
                case 2: text.insert(at, text.substr(random() % text.size(), random() % 40)); break;
                default: text.resize(std::max<std::size_t>(1, at)); break;
                }
                if (text.empty()) text = "{";
            }
            try {
                const Piece p = piece_from_json(parse_json(text));
                ++read;
                // What was read can be written and read again.
                const Json out = to_json(p);
                QCOMPARE(to_json(piece_from_json(out)), out);
            } catch (const Error& e) {
                ++refused;
                QVERIFY(std::string_view(e.what()).size() > 10);
            }
        }
        QVERIFY(read > 50 && refused > 1000);
    }

    void absurd_numbers_are_rendered_or_refused() {
        // Every number of a small piece, one after the other, at values that break arithmetic.
        const Json good = to_json(
            *scene_of(piece_json(
                          48, 32, busy_elements(),
                          R"("lights": [{"id": "l", "kind": "point"}, {"id": "m", "kind": "directional"}])"))
                 .piece);
        std::vector<Json::json_pointer> numbers;
        const std::function<void(const Json&, const Json::json_pointer&)> walk =
            [&](const Json& j, const Json::json_pointer& at) {
                if (j.is_number() && at.to_string().find("canvas") == std::string::npos)
                    numbers.push_back(at);
                if (j.is_object())
                    for (const auto& [key, value] : j.items()) walk(value, at / key);
                if (j.is_array())
                    for (std::size_t i = 0; i < j.size(); ++i) walk(j[i], at / i);
            };
        walk(good, Json::json_pointer());
        QVERIFY2(numbers.size() > 50, qPrintable(QString::number(numbers.size())));
        int rendered = 0;
        for (const auto& at : numbers)
            for (const double v : {0.0, -1.0, 1e-30, 999999.0, -999999.0, 1e300}) {
                Json bad = good;
                bad[at] = v;
                try {
                    const Scene s{std::make_shared<const Piece>(piece_from_json(bad)),
                                  std::make_shared<const Assets>()};
                    // A Gaussian as wide as a country is honest work; it is left out here.
                    if (at.to_string().find("radius") != std::string::npos && v > 1000) continue;
                    const Bundle b = relief_of(s);
                    const auto lit = shade(b, b.region, 1, Edge::clamp, lighting_of(*s.piece));
                    for (int y = 0; y < 32; ++y)
                        for (int x = 0; x < 48; ++x) {
                            QVERIFY2(std::isfinite(b.height.at(x, y)), at.to_string().c_str());
                            QVERIFY2(!std::isnan(lit[0](x, y)),
                                     (at.to_string() + " " + std::to_string(v)).c_str());
                        }
                    ++rendered;
                } catch (const Error&) {
                    // Refused in a sentence.
                }
            }
        QVERIFY(rendered > 100);
    }
};
BATHYLUX_TEST(TestHostileJson)
#include "test_hostile_json.moc"
