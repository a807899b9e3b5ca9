#include "model/import/source.hpp"

#include <assimp/postprocess.h>
#include <fmt/format.h>

#include <Eigen/Core>
#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "model/import/guarded_files.hpp"
#include "model/tangents.hpp"
#include "model/vertices.hpp"

namespace yl::model {
namespace {

std::array<float, 3> floats_of(const aiVector3D& from) {
    return {from.x, from.y, from.z};
}

Eigen::Matrix4f matrix_of(const aiMatrix4x4& from) {
    return Eigen::Map<const Eigen::Matrix<ai_real, 4, 4, Eigen::RowMajor>>(&from.a1).cast<float>();
}

Vertex vertex_of(const aiMesh& mesh, unsigned i) {
    Vertex vertex;
    vertex.position = floats_of(mesh.mVertices[i]);
    if (mesh.HasNormals())
        vertex.normal = floats_of(mesh.mNormals[i]);
    for (unsigned set = 0; set < 2; ++set)
        if (mesh.HasTextureCoords(set))
            vertex.coordinates[set] = {mesh.mTextureCoords[set][i].x,
                                       mesh.mTextureCoords[set][i].y};
    if (mesh.HasVertexColors(0)) {
        const aiColor4D& color = mesh.mColors[0][i];
        vertex.color = {color.r, color.g, color.b, color.a};
    }
    return vertex;
}

/// A face of more corners than three, where there is still one, as a fan.
void add_face(const aiMesh& mesh, const aiFace& face, std::vector<std::uint32_t>& indices) {
    for (unsigned i = 0; i < face.mNumIndices; ++i)
        if (face.mIndices[i] >= mesh.mNumVertices)
            return;
    for (unsigned i = 2; i < face.mNumIndices; ++i)
        for (const unsigned corner : {0U, i - 1, i})
            indices.push_back(face.mIndices[corner]);
}

Primitive part_of(const aiMesh& mesh) {
    Primitive part;
    part.surface = mesh.mMaterialIndex;
    part.has_coordinates = mesh.HasTextureCoords(0);
    part.vertices.reserve(mesh.mNumVertices);
    for (unsigned i = 0; i < mesh.mNumVertices; ++i)
        part.vertices.push_back(vertex_of(mesh, i));
    for (unsigned i = 0; i < mesh.mNumFaces; ++i)
        add_face(mesh, mesh.mFaces[i], part.indices);
    if (!mesh.HasNormals())
        make_flat_normals(part);
    make_tangents(part);
    return part;
}

/// Assimp's steps end the program over meshes that they take for impossible.
bool is_sound(const aiMesh& mesh) {
    const auto is_sound_face = [&](const aiFace& face) {
        const auto is_there = [&](unsigned index) { return index < mesh.mNumVertices; };
        return face.mNumIndices > 0 && face.mNumIndices <= mesh.mNumVertices &&
               std::all_of(face.mIndices, face.mIndices + face.mNumIndices, is_there);
    };
    return mesh.mVertices != nullptr && mesh.mNumFaces > 0 &&
           std::all_of(mesh.mFaces, mesh.mFaces + mesh.mNumFaces, is_sound_face);
}

bool is_sound(const aiScene& scene) {
    return std::all_of(scene.mMeshes, scene.mMeshes + scene.mNumMeshes,
                       [](const aiMesh* mesh) { return mesh != nullptr && is_sound(*mesh); });
}

class NodeWalk {
 public:
    NodeWalk(const aiScene& scene, std::uint64_t most_vertices)
        : scene_(scene), most_vertices_(most_vertices) {}

    Status add(const aiNode& node, const Eigen::Matrix4f& above) {
        const Eigen::Matrix4f matrix = above * matrix_of(node.mTransformation);
        for (unsigned i = 0; i < node.mNumMeshes; ++i) {
            const bool is_there = node.mMeshes[i] < scene_.mNumMeshes;
            const aiMesh* mesh = is_there ? scene_.mMeshes[node.mMeshes[i]] : nullptr;
            if (mesh == nullptr || mesh->mVertices == nullptr) {
                ++missing;
                continue;
            }
            vertices_ += mesh->mNumVertices;
            if (vertices_ > most_vertices_)
                return fail(ErrorKind::limit,
                            fmt::format("the model has more than {} vertices", most_vertices_));
            add(*mesh, matrix);
        }
        for (unsigned i = 0; i < node.mNumChildren; ++i)
            if (node.mChildren[i] != nullptr)  // some readers leave places empty
                YL_CHECK(add(*node.mChildren[i], matrix));
        return {};
    }

    std::vector<Primitive> parts = {};
    std::size_t missing = 0;

 private:
    void add(const aiMesh& mesh, const Eigen::Matrix4f& matrix) {
        Primitive part = part_of(mesh);
        if (part.indices.empty())
            return;
        part.surface = std::min<std::size_t>(part.surface, scene_.mNumMaterials);
        place(part, matrix);
        parts.push_back(std::move(part));
    }

    const aiScene& scene_;
    std::uint64_t most_vertices_;
    std::uint64_t vertices_ = 0;
};

/// What Assimp said; it catches what its readers throw, and keeps the words of it.
Error trouble_of(const std::string& said) {
    if (said.find("bad_alloc") != std::string::npos)
        return out_of_memory().value();
    return {ErrorKind::malformed, said.starts_with("No suitable reader")
                                      ? "this is not a model of a format that is known"
                                      : said};
}

}  // namespace

Result<std::shared_ptr<ImportedSource>> ImportedSource::open(const std::filesystem::path& path,
                                                             const ModelReadOptions& options) try {
    std::shared_ptr<ImportedSource> source(new ImportedSource());
    auto files = std::make_unique<GuardedFiles>(path, options.allow_outside);
    const GuardedFiles& asked = *files;
    source->importer_.SetIOHandler(files.release());  // takes it over
    const aiScene* scene = nullptr;
    try {
        scene = source->importer_.ReadFile(path.string(), 0);
        const unsigned steps = aiProcess_FlipUVs | aiProcess_GenUVCoords;
        if (scene != nullptr && is_sound(*scene))
            scene = source->importer_.ApplyPostProcessing(steps | aiProcess_Triangulate);
        else if (scene != nullptr)
            source->is_sound_ = false;
    } catch (const std::exception& trouble) {
        return fail_at(trouble_of(trouble.what()), path.string());
    }
    if (scene == nullptr)
        return fail_at(trouble_of(source->importer_.GetErrorString()), path.string());
    source->missed_files_ = asked.missed();
    source->most_vertices_ = options.limits.max_bytes / sizeof(Vertex);
    return source;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::vector<Primitive>> ImportedSource::parts(Findings& findings) const {
    NodeWalk walk(scene(), most_vertices_);
    if (scene().mRootNode != nullptr)
        YL_CHECK(walk.add(*scene().mRootNode, Eigen::Matrix4f::Identity()));
    if (!is_sound_)
        findings.push_back({"faces-broken",
                            "some faces have no corners, or corners that are not there",
                            "they are left out: mend the model"});
    if (walk.missing > 0)
        findings.push_back({"meshes-missing",
                            fmt::format("{} meshes are named that are not there", walk.missing),
                            "nothing has to be done: they are left out"});
    if ((scene().mFlags & AI_SCENE_FLAGS_INCOMPLETE) != 0)
        findings.push_back({"model-incomplete",
                            "the model is incomplete, such as a file of animations alone",
                            "nothing has to be done: what is there is read", FindingLevel::hint});
    return std::move(walk.parts);
}

ByteSpan ImportedSource::hold(std::unique_ptr<HeldBytes> image) {
    images_.push_back(std::move(image));
    return images_.back()->bytes();
}

}  // namespace yl::model
