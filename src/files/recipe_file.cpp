#include "files/recipe_file.h"

#include <QByteArray>
#include <set>

#include "core/error.h"
#include "files/painting_file.h"

namespace bathylux::files {

namespace {

/// The files that a recipe's parts name.
std::set<std::string> named_by(const Recipe& recipe) {
    std::set<std::string> out;
    Recipe copy = recipe;
    copy.files.clear();
    rename_recipe_files(copy, [&](const std::string& name) {
        if (!name.empty()) out.insert(name);
        return name;
    });
    return out;
}

std::string to_base64(std::span<const std::byte> bytes) {
    return QByteArray(reinterpret_cast<const char*>(bytes.data()), static_cast<qsizetype>(bytes.size()))
        .toBase64()
        .toStdString();
}

} // namespace

Recipe open_recipe(const std::filesystem::path& path) {
    const Bytes bytes = read_file(path);
    Recipe out;
    try {
        out = recipe_from_text({reinterpret_cast<const char*>(bytes.data()), bytes.size()});
    } catch (const Error& e) {
        throw Error(path.string() + ": " + e.what());
    }
    if (out.name.empty()) out.name = path.stem().string();
    std::map<std::string, std::string> in_full;
    for (const std::string& name : named_by(out)) {
        if (out.files.contains(name)) continue;
        const std::filesystem::path file = path.parent_path() / name;
        std::error_code ignored;
        if (!std::filesystem::exists(file, ignored))
            throw Error(
                path.string() + ": the recipe needs " + in_quotes(name) +
                ", which is not there. Put that file beside the recipe, or take a recipe that carries it.");
        in_full[name] = std::filesystem::absolute(file, ignored).string();
    }
    rename_recipe_files(out, [&](const std::string& name) {
        const auto found = in_full.find(name);
        return found == in_full.end() ? name : found->second;
    });
    return out;
}

void save_recipe(const Recipe& recipe, const std::filesystem::path& path) {
    const std::string text = text_of(recipe);
    write_atomically(path, std::as_bytes(std::span(text.data(), text.size())));
}

void carry_files(Recipe& recipe, const Store& store,
                 const std::function<std::shared_ptr<const Painting>(const std::string&)>& strokes) {
    std::map<std::string, std::string> short_names;
    std::set<std::string> taken;
    for (const std::string& name : named_by(recipe)) {
        if (recipe.files.contains(name)) continue;
        const auto painting = strokes ? strokes(name) : nullptr;
        const Bytes bytes = painting ? painting_file(*painting) : *store.bytes_of(name);
        // A name of its own within the recipe, that tells nothing of this machine.
        const std::filesystem::path as_file(name);
        const bool near = !as_file.is_absolute() && !name.starts_with("..");
        std::string own = near ? name : as_file.filename().string();
        for (int n = 2; !taken.insert(own).second; ++n)
            own = as_file.stem().string() + "-" + std::to_string(n) + as_file.extension().string();
        short_names[name] = own;
        recipe.files[name] = to_base64(bytes);
    }
    rename_recipe_files(recipe, [&](const std::string& name) {
        const auto found = short_names.find(name);
        return found == short_names.end() ? name : found->second;
    });
}

void take_files(Recipe& recipe, Store& store) {
    std::map<std::string, std::string> now;
    for (const auto& [name, data] : recipe.files) {
        const QByteArray raw = QByteArray::fromBase64(QByteArray::fromStdString(data));
        const auto* from = reinterpret_cast<const std::byte*>(raw.constData());
        auto bytes = std::make_shared<const Bytes>(from, from + raw.size());
        const std::filesystem::path as_file(name);
        std::string own = name;
        // The same file once more needs no second name.
        for (int n = 2; store.is_embedded(own) && *store.embedded.at(own) != *bytes; ++n)
            own = (as_file.parent_path() /
                   (as_file.stem().string() + "-" + std::to_string(n) + as_file.extension().string()))
                      .string();
        store.embedded[own] = bytes;
        now[name] = own;
    }
    rename_recipe_files(recipe, [&](const std::string& name) {
        const auto found = now.find(name);
        return found == now.end() ? name : found->second;
    });
    recipe.files.clear();
}

} // namespace bathylux::files
