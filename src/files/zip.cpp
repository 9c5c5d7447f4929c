#include "files/zip.h"

#include <zip.h>

#include "core/error.h"

namespace bathylux::files {

Bytes zipped(const std::vector<ZipEntry>& entries) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* target = zip_source_buffer_create(nullptr, 0, 0, &error);
    zip_source_keep(target);
    zip_t* zip = zip_open_from_source(target, ZIP_TRUNCATE, &error);
    if (!zip) throw Error("The package could not be made.");
    for (const ZipEntry& e : entries) {
        zip_source_t* s = zip_source_buffer(zip, e.data.data(), e.data.size(), 0);
        const auto index = zip_file_add(zip, e.name.c_str(), s, ZIP_FL_ENC_UTF_8);
        if (index < 0) throw Error("The package could not be made: " + std::string(zip_strerror(zip)) + ".");
        // A fixed date makes equal pieces equal files.
        zip_set_file_compression(zip, index, e.squeeze ? ZIP_CM_DEFLATE : ZIP_CM_STORE, 6);
        zip_file_set_dostime(zip, index, 0, 0x21, 0);
    }
    if (zip_close(zip) != 0)
        throw Error("The package could not be made: " + std::string(zip_strerror(zip)) + ".");
    Bytes out;
    zip_source_open(target);
    zip_source_seek(target, 0, SEEK_END);
    out.resize(static_cast<std::size_t>(zip_source_tell(target)));
    zip_source_seek(target, 0, SEEK_SET);
    const auto got = zip_source_read(target, out.data(), out.size());
    zip_source_close(target);
    zip_source_free(target);
    if (got != static_cast<zip_int64_t>(out.size())) throw Error("The package could not be made.");
    return out;
}

} // namespace bathylux::files
