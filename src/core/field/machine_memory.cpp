#include "core/field/machine_memory.h"

#include <algorithm>
#include <fstream>
#include <string>

#include <unistd.h>

namespace bathylux {

std::optional<std::size_t> least_memory_limit(const std::filesystem::path& root, std::string_view group) {
    std::optional<std::size_t> least;
    for (std::filesystem::path at = std::filesystem::path(group).relative_path();; at = at.parent_path()) {
        std::size_t bytes = 0;
        if (std::ifstream(root / at / "memory.max") >> bytes) // else "max", or nothing
            least = std::min(least.value_or(bytes), bytes);
        if (at.empty()) return least;
    }
}

std::size_t machine_memory() {
    const std::size_t all =
        static_cast<std::size_t>(sysconf(_SC_PHYS_PAGES)) * static_cast<std::size_t>(sysconf(_SC_PAGESIZE));
    std::ifstream groups("/proc/self/cgroup");
    for (std::string line; std::getline(groups, line);)
        if (line.starts_with("0::"))
            return std::min(
                all, least_memory_limit("/sys/fs/cgroup", std::string_view(line).substr(3)).value_or(all));
    return all;
}

} // namespace bathylux
