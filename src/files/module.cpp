#include "files/module.h"

#include <dlfcn.h>

#include <QCoreApplication>

#include "core/error.h"

namespace bathylux::files {

void* module_entry(const std::string& file, const char* symbol, const std::string& missing) {
    std::string tried;
    const std::string here = QCoreApplication::applicationDirPath().toStdString();
    for (const std::string& dir : {here, here + "/../" + BATHYLUX_MODULE_DIR, here + "/../bin"}) {
        void* handle = dlopen((dir + "/" + file).c_str(), RTLD_NOW | RTLD_LOCAL);
        if (!handle) {
            tried = dlerror();
            continue;
        }
        if (void* entry = dlsym(handle, symbol)) return entry;
    }
    throw Error(missing + " is missing: install Bathylux again (" + tried + ").");
}

} // namespace bathylux::files
