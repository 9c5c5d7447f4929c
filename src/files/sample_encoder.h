#pragma once
#include <cctype>
#include <filesystem>

#include "core/render/views.h"
#include "files/pictures.h"

namespace bathylux::files {

/// Turns the rows of a strip into interleaved samples, as files have them: whole numbers sRGB-encoded and
/// straight, heights over `range`, normals around one half; 32 bits as they are.
class SampleEncoder {
  public:
    SampleEncoder(View view, int bits, bool green_up, std::pair<float, float> range)
        : view_(view), bits_(bits), green_up_(green_up), range_(range) {}

    Bytes operator()(const Strip& s) const;
    /// Straight linear RGBA, pixel after pixel, as whole numbers.
    Bytes straight(const std::vector<float>& pixels) const;

  private:
    void encode(std::vector<float>& pixel) const;
    void put(Bytes& out, std::size_t i, float v) const;

    View view_;
    int bits_;
    bool green_up_;
    std::pair<float, float> range_;
};

/// The ending of a file's name in small letters, with its dot.
inline std::string ending_of(const std::filesystem::path& path) {
    std::string ending = path.extension().string();
    for (char& c : ending) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return ending;
}

} // namespace bathylux::files
