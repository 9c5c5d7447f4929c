#pragma once
#include <functional>
#include <vector>

namespace bathylux {

/// A function of linear values 0…1, read from a table over their square root, in which what light goes
/// through is nearly straight; straight lines in between.
class RootTable {
  public:
    explicit RootTable(const std::function<float(float linear)>& function);
    /// A row of premultiplied values through it: straight, looked up, premultiplied again. `alpha` may be
    /// null: opaque; where it is 0 values stay. Values outside 0…1 go through `function` itself. Rows can be
    /// read and written up to the next multiple of 16.
    void row(const float* from, const float* alpha, float* to, int width,
             const std::function<float(float linear)>& function) const;

  private:
    std::vector<float> values_, steps_; // at i ÷ size, and from there to the next
};

} // namespace bathylux
