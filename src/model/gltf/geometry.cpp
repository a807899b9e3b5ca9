// Triangles of a glTF model, where its scene puts them (glTF 2.0, sections 3.5 and 3.7).
#include <Eigen/Dense>
#include <Eigen/Geometry>
#include <set>

#include <yl/status_macros.hpp>
#include "base/parallel.hpp"
#include "model/gltf/primitives.hpp"
#include "model/gltf/source.hpp"
#include "model/vertices.hpp"

namespace yl::model {
namespace {

Eigen::Matrix4f matrix_of_node(const Json& node) {
    const auto given =
        numbers_of<16>(node, "matrix", {1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1});
    if (member(node, "matrix").is_array())
        return Eigen::Map<const Eigen::Matrix4f>(given.data());
    const auto t = numbers_of<3>(node, "translation", {0, 0, 0});
    const auto r = numbers_of<4>(node, "rotation", {0, 0, 0, 1});
    const auto s = numbers_of<3>(node, "scale", {1, 1, 1});
    const Eigen::Affine3f placed = Eigen::Translation3f(t[0], t[1], t[2]) *
                                   Eigen::Quaternionf(r[3], r[0], r[1], r[2]).normalized() *
                                   Eigen::Scaling(s[0], s[1], s[2]);
    return placed.matrix();
}

class GeometryReader {
 public:
    GeometryReader(const GltfSource& source, Findings& findings)
        : json_(source.json()),
          buffers_(json_, source.container(), source.folder(), source.options()),
          primitives_(json_, buffers_, source.options().limits),
          most_bytes_(source.options().limits.max_bytes),
          findings_(findings),
          is_placed_(count_of(json_, "nodes")) {}

    Result<std::vector<Primitive>> read() {
        YL_TRY(const auto scene, index_of(json_, "scene", json_, "scenes"));
        if (count_of(json_, "scenes") > 0) {
            const Json& roots = list_of(json_, "scenes")[scene.value_or(0)];
            YL_CHECK(add_nodes(roots, "nodes", Eigen::Matrix4f::Identity(), 0));
        } else {
            for (std::size_t mesh = 0; mesh < count_of(json_, "meshes"); ++mesh)
                YL_CHECK(add_mesh(mesh, Eigen::Matrix4f::Identity()));
        }
        if (left_out_ > 0)
            findings_.push_back(
                {"primitives-left-out", fmt::format("{} primitives are points or lines", left_out_),
                 "nothing has to be done: only triangles are drawn", FindingLevel::hint});
        return read_all();
    }

 private:
    Status add_nodes(const Json& parent, const char* key, const Eigen::Matrix4f& above, int depth) {
        if (depth > 200)
            return fail(ErrorKind::malformed, "nodes are more than 200 deep");
        for (const Json& child : list_of(parent, key)) {
            if (!child.is_number_unsigned() ||
                child.get<std::uint64_t>() >= count_of(json_, "nodes"))
                return fail(ErrorKind::malformed,
                            fmt::format("a child is node {}, and there are {} nodes",
                                        child.dump().substr(0, 40), count_of(json_, "nodes")));
            const auto index = child.get<std::size_t>();
            if (is_placed_[index])
                return fail(ErrorKind::malformed,
                            fmt::format("node {} stands in two places, or in a circle", index));
            is_placed_[index] = true;
            const Json& node = list_of(json_, "nodes")[index];
            const Eigen::Matrix4f matrix = above * matrix_of_node(node);
            YL_TRY(const auto mesh, index_of(node, "mesh", json_, "meshes"));
            if (mesh)
                YL_CHECK(add_mesh(*mesh, matrix));
            YL_CHECK(add_nodes(node, "children", matrix, depth + 1));
        }
        return {};
    }

    /// Primitives are only noted down here.
    Status add_mesh(std::size_t mesh, const Eigen::Matrix4f& matrix) {
        for (const Json& entry : list_of(list_of(json_, "meshes")[mesh], "primitives")) {
            const auto size = primitives_.size_of(entry);
            if (!size) {
                YL_CHECK(leave_out(mesh, size.error()));
                continue;
            }
            if (!size->has_triangles) {
                ++left_out_;
                continue;
            }
            bytes_ += size->bytes;
            if (bytes_ > most_bytes_)
                return fail(ErrorKind::limit,
                            fmt::format("the scene takes more than {} bytes", most_bytes_));
            jobs_.push_back({&entry, mesh, matrix});
        }
        return {};
    }

    /// Geometry by extensions that are not read is said once for each mesh; other errors stay.
    Status leave_out(std::size_t mesh, const Error& error) {
        if (error.kind != ErrorKind::unsupported)
            return tl::unexpected(error);
        if (refused_.insert(mesh).second)
            findings_.push_back(
                {"geometry-left-out",
                 fmt::format("parts of mesh {} are left out: {}", mesh, error.sentence()),
                 "store its geometry without that extension"});
        return {};
    }

    Result<std::vector<Primitive>> read_all() {
        std::vector<Result<Primitive>> read(jobs_.size());
        parallel_each(jobs_.size(), [&](std::size_t i) {
            read[i] = primitives_.read(*jobs_[i].primitive);
            if (read[i])
                place(*read[i], jobs_[i].matrix);
        });
        std::vector<Primitive> parts;
        for (std::size_t i = 0; i < read.size(); ++i) {
            if (!read[i]) {
                YL_CHECK(leave_out(jobs_[i].mesh, read[i].error()));
            } else if (!read[i]->indices.empty()) {
                parts.push_back(std::move(*read[i]));
            }
        }
        return parts;
    }

    struct Job {
        const Json* primitive = nullptr;
        std::size_t mesh = 0;
        Eigen::Matrix4f matrix = {};
    };

    const Json& json_;
    Buffers buffers_;
    PrimitiveReader primitives_;
    std::uint64_t most_bytes_;
    Findings& findings_;
    std::vector<bool> is_placed_;         ///< nodes
    std::set<std::size_t> refused_ = {};  ///< meshes, of which that has been said
    std::vector<Job> jobs_ = {};
    std::uint64_t bytes_ = 0;
    std::size_t left_out_ = 0;
};

}  // namespace

Result<std::vector<Primitive>> GltfSource::parts(Findings& findings) const {
    return GeometryReader(*this, findings).read();
}

}  // namespace yl::model
