#pragma once
#include <cstddef>
#include <filesystem>
#include <optional>
#include <string_view>

namespace bathylux {

/// Bytes of memory this program may have: the machine's, or less where a control group it runs in says so, as
/// in a container.
std::size_t machine_memory();

/// The least limit (memory.max, of Linux's control groups, version 2) from `group` up to the hierarchy's root,
/// whose files lie in `root`; nothing where none is set. Groups that cannot be seen from here are passed over.
std::optional<std::size_t> least_memory_limit(const std::filesystem::path& root, std::string_view group);

} // namespace bathylux
