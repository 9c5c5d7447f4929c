// The only file that knows Assimp. Built as a module of its own: see plain_mesh.h.
#include <assimp/scene.h>

#include <assimp/Exporter.hpp>
#include <memory>

#include "core/error.h"
#include "files/plain_mesh.h"

namespace bathylux::files {

namespace {

/// The mesh as Assimp wants it; the scene owns what is in it.
std::unique_ptr<aiScene> scene_of(const PlainMesh& m) {
    auto scene = std::make_unique<aiScene>();
    scene->mRootNode = new aiNode("relief");
    scene->mMaterials = new aiMaterial* [1] { new aiMaterial };
    scene->mNumMaterials = 1;
    auto* mesh = new aiMesh;
    scene->mMeshes = new aiMesh* [1] { mesh };
    scene->mNumMeshes = 1;
    scene->mRootNode->mMeshes = new unsigned[1]{0};
    scene->mRootNode->mNumMeshes = 1;
    mesh->mName = "relief";
    mesh->mPrimitiveTypes = aiPrimitiveType_TRIANGLE;
    const std::size_t n = m.points.size(), triangles = m.corners.size() / 3;
    mesh->mNumVertices = static_cast<unsigned>(n);
    mesh->mVertices = new aiVector3D[n];
    for (std::size_t i = 0; i < n; ++i) mesh->mVertices[i] = {m.points[i][0], m.points[i][1], m.points[i][2]};
    if (!m.normals.empty()) {
        mesh->mNormals = new aiVector3D[n];
        for (std::size_t i = 0; i < n; ++i)
            mesh->mNormals[i] = {m.normals[i][0], m.normals[i][1], m.normals[i][2]};
    }
    if (!m.texture.empty()) {
        mesh->mTextureCoords[0] = new aiVector3D[n], mesh->mNumUVComponents[0] = 2;
        for (std::size_t i = 0; i < n; ++i)
            mesh->mTextureCoords[0][i] = {m.texture[i][0], m.texture[i][1], 0};
    }
    mesh->mNumFaces = static_cast<unsigned>(triangles);
    mesh->mFaces = new aiFace[triangles];
    for (std::size_t t = 0; t < triangles; ++t) {
        aiFace& f = mesh->mFaces[t];
        f.mNumIndices = 3, f.mIndices = new unsigned[3];
        for (std::size_t c = 0; c < 3; ++c) f.mIndices[c] = m.corners[3 * t + c];
    }
    return scene;
}

class Meshes : public MeshModule {
  public:
    Bytes written(const PlainMesh& mesh, const std::string& ending) override {
        const auto scene = scene_of(mesh);
        Assimp::Exporter exporter;
        const char* format = ending == ".stl" ? "stlb" : ending == ".ply" ? "plyb" : "objnomtl";
        const aiExportDataBlob* blob = exporter.ExportToBlob(scene.get(), format);
        if (!blob || !blob->data)
            throw Error(std::string("The mesh cannot be written: ") + exporter.GetErrorString());
        const auto* from = static_cast<const std::byte*>(blob->data);
        return {from, from + blob->size};
    }
};

} // namespace

} // namespace bathylux::files

extern "C" bathylux::files::MeshModule* bathylux_mesh_module() {
    static bathylux::files::Meshes module;
    return &module;
}
