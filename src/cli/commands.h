#pragma once
#include "cli/arguments.h"
#include "core/render/views.h"
#include "files/package.h"

namespace bathylux::cli {

// Each does what its command says and returns the program's exit status. They throw Usage for what was typed
// wrongly, and Error for what cannot be done.
int render(Arguments args);
int pour(Arguments args);
int keep(Arguments args);
int alternatives(Arguments args);

/// A piece that this version can work with. Throws Error.
files::Opened opened_piece(const std::filesystem::path& path);
/// The view of the canvas of that name. Throws Usage.
View view_named(const std::string& name);

} // namespace bathylux::cli
