#pragma once
#include <QByteArray>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <array>
#include <vector>

#include "core/error.h"
#include "files/package.h"

namespace bathylux::files {

/// A binary glTF 2.0 file (GLB) put together: what it says, and one buffer behind it.
class Gltf {
  public:
    /// `type`: "VEC3" and so on; `component`: 5126 floats, 5125 whole numbers. `ends`: of places, whose ends
    /// are said.
    template <class T>
    int accessor(const std::vector<T>& data, const char* type, int component, std::size_t count,
                 bool ends = false) {
        QJsonObject a{{"bufferView", put(data.data(), data.size() * sizeof(T))},
                      {"componentType", component},
                      {"type", type},
                      {"count", static_cast<qint64>(count)}};
        if (ends) {
            std::array<double, 3> low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
            for (std::size_t i = 0; i < data.size(); ++i) {
                const double v = static_cast<double>(data[i]);
                low[i % 3] = std::min(low[i % 3], v), high[i % 3] = std::max(high[i % 3], v);
            }
            a["min"] = QJsonArray{low[0], low[1], low[2]}, a["max"] = QJsonArray{high[0], high[1], high[2]};
        }
        return add("accessors", a);
    }
    int texture(const QByteArray& file) {
        const int image =
            add("images", {{"bufferView", put(file.constData(), static_cast<std::size_t>(file.size()))},
                           {"mimeType", "image/png"}});
        return add("textures", {{"source", image}, {"sampler", 0}});
    }
    int add(const char* list, const QJsonObject& entry) {
        QJsonArray all = says_[QLatin1String(list)].toArray();
        all.append(entry);
        says_[QLatin1String(list)] = all;
        return static_cast<int>(all.size() - 1);
    }
    Bytes written() {
        says_["asset"] = QJsonObject{{"version", "2.0"}, {"generator", "Bathylux"}};
        says_["scene"] = 0;
        says_["buffers"] = QJsonArray{QJsonObject{{"byteLength", static_cast<qint64>(buffer_.size())}}};
        QByteArray text = QJsonDocument(says_).toJson(QJsonDocument::Compact);
        while (text.size() % 4) text.append(' ');
        while (buffer_.size() % 4) buffer_.push_back(std::byte{0});
        Bytes out;
        const auto whole = [&](std::size_t v) {
            const auto own = static_cast<std::uint32_t>(v);
            const auto* from = reinterpret_cast<const std::byte*>(&own);
            out.insert(out.end(), from, from + 4);
        };
        const auto length = static_cast<std::size_t>(text.size());
        if (28 + length + buffer_.size() > 4294967295u)
            throw Error("The mesh is larger than a GLB can be: give a larger fineness.");
        whole(0x46546C67), whole(2), whole(28 + length + buffer_.size());
        whole(length), whole(0x4E4F534A);
        const auto* from = reinterpret_cast<const std::byte*>(text.constData());
        out.insert(out.end(), from, from + length);
        whole(buffer_.size()), whole(0x004E4942);
        out.insert(out.end(), buffer_.begin(), buffer_.end());
        return out;
    }

  private:
    int put(const void* data, std::size_t size) {
        while (buffer_.size() % 4) buffer_.push_back(std::byte{0});
        const int view = add("bufferViews", {{"buffer", 0},
                                             {"byteOffset", static_cast<qint64>(buffer_.size())},
                                             {"byteLength", static_cast<qint64>(size)}});
        const auto* from = static_cast<const std::byte*>(data);
        buffer_.insert(buffer_.end(), from, from + size);
        return view;
    }
    QJsonObject says_;
    Bytes buffer_;
};

} // namespace bathylux::files
