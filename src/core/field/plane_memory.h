#pragma once
#include <cstddef>

namespace bathylux::plane_memory {

/// Memory of planes: what was let go serves the next ones, and where large ones together are more than may
/// lie in memory, the next lies in a file, which the system writes out and reads as it sees fit. The file has
/// no name and is gone with the program. Where there is no room for one, memory is taken after all.
///
/// `size` in bytes, a whole number of huge pages from 2 MiB on. Throws std::bad_alloc.
float* take(std::size_t size);
void give(float* p, std::size_t size);

constexpr std::size_t huge_page = std::size_t{2} << 20;
/// Planes of so many bytes are large.
constexpr std::size_t large = std::size_t{64} << 20;
/// So much of large planes may lie in memory: half of what the machine, or a container, has at first.
void keep_in_memory(std::size_t bytes);
std::size_t kept_in_memory();

} // namespace bathylux::plane_memory
