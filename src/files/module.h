#pragma once
#include <string>

namespace bathylux::files {

/// The entry of a module of ours (what pulls in many libraries is loaded when it is first needed): looked for
/// beside the program while that is being built, under the same prefix once it is installed. Throws Error:
/// what is missing without it.
void* module_entry(const std::string& file, const char* symbol, const std::string& missing);

} // namespace bathylux::files
