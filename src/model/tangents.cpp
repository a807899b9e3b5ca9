#include "model/tangents.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>
#include <unordered_map>

#include "model/vectors.hpp"

namespace yl::model {
namespace {

/// The angle of a cosine to 2e-8, by sums, products and a root alone: so all processors and libraries
/// give the same. Abramowitz and Stegun, Handbook of Mathematical Functions, 4.4.46.
float angle_of(float cosine) {
    constexpr double terms[] = {-0.0012624911, 0.0066700901, -0.0170881256, 0.0308918810,
                                -0.0501743046, 0.0889789874, -0.2145988016, 1.5707963050};
    const double size = std::abs(static_cast<double>(cosine));
    double sum = 0;
    for (const double term : terms)
        sum = sum * size + term;
    const double angle = sum * std::sqrt(1 - size);
    return static_cast<float>(cosine < 0 ? std::numbers::pi - angle : angle);
}

constexpr std::uint32_t none = 0xFFFFFFFF;

/// What u does over a triangle.
struct Slope {
    Vector along_u = Vector::Zero();  ///< of length 1
    bool is_mirrored = false;         ///< seen from its front, u and v turn the other way round
    bool is_there = false;            ///< the triangle has an area, in the picture too
};

Slope slope_of(const Primitive& part, const std::uint32_t* corners, std::uint32_t set) {
    const Vertex& a = part.vertices[corners[0]];
    const Vertex& b = part.vertices[corners[1]];
    const Vertex& c = part.vertices[corners[2]];
    const Vector ab = vector_of(b.position) - vector_of(a.position);
    const Vector ac = vector_of(c.position) - vector_of(a.position);
    const auto& [ua, va] = a.coordinates[set];
    const float u1 = b.coordinates[set][0] - ua, v1 = b.coordinates[set][1] - va;
    const float u2 = c.coordinates[set][0] - ua, v2 = c.coordinates[set][1] - va;
    const float area = u1 * v2 - u2 * v1;
    // v runs downwards in the picture, so that its area is negative where nothing is mirrored.
    Slope slope{.is_mirrored = area > 0};
    const Vector along = (area < 0 ? -1.0F : 1.0F) * (v2 * ab - v1 * ac);
    slope.along_u = normalised_or(along, Vector::Zero());
    slope.is_there = area != 0 && slope.along_u.squaredNorm() > 0;
    return slope;
}

/// For each vertex the first one with the same place, normal and coordinates.
std::vector<std::uint32_t> first_equals(const Primitive& part, std::uint32_t set) {
    using Key = std::array<float, 8>;
    const auto hash = [](const Key& key) {
        return std::hash<std::string_view>{}(
            {reinterpret_cast<const char*>(key.data()), sizeof key});
    };
    std::unordered_map<Key, std::uint32_t, decltype(hash)> places(part.vertices.size(), hash);
    std::vector<std::uint32_t> firsts(part.vertices.size());
    for (std::uint32_t i = 0; i < firsts.size(); ++i) {
        const Vertex& vertex = part.vertices[i];
        Key key{};
        std::copy_n(vertex.position.data(), 3, key.data());
        std::copy_n(vertex.normal.data(), 3, key.data() + 3);
        std::copy_n(vertex.coordinates[set].data(), 2, key.data() + 6);
        for (float& number : key)
            number += 0.0F;  // no -0, whose bytes are others
        firsts[i] = places.try_emplace(key, i).first->second;
    }
    return firsts;
}

/// Corners of triangles, in groups that share a tangent.
class Groups {
 public:
    explicit Groups(std::size_t corners) : above_(corners) {
        std::iota(above_.begin(), above_.end(), 0U);
    }
    std::uint32_t of(std::uint32_t corner) {
        while (above_[corner] != corner)
            corner = above_[corner] = above_[above_[corner]];
        return corner;
    }
    void unite(std::uint32_t a, std::uint32_t b) { above_[of(b)] = of(a); }

 private:
    std::vector<std::uint32_t> above_;
};

/// The side of a triangle between two vertices, the lower number first.
struct Side {
    std::uint32_t low = 0, high = 0;
    bool is_mirrored = false;
    std::uint32_t low_corner = 0, high_corner = 0;

    [[nodiscard]] auto key() const { return std::tuple(low, high, is_mirrored); }
};

class TangentMaker {
 public:
    TangentMaker(Primitive& part, std::uint32_t set)
        : part_(part),
          firsts_(first_equals(part, set)),
          groups_(part.indices.size()),
          sums_(part.indices.size(), Vector::Zero()) {
        for (std::size_t i = 0; i + 2 < part.indices.size(); i += 3)
            slopes_.push_back(slope_of(part, &part.indices[i], set));
    }

    void make() {
        unite_neighbours();
        for (std::uint32_t corner = 0; corner < corners(); ++corner)
            add_to_sum(corner);
        lend_to_flat_triangles();
        store();
    }

 private:
    [[nodiscard]] std::uint32_t corners() const {
        return static_cast<std::uint32_t>(3 * slopes_.size());
    }
    [[nodiscard]] const Vertex& vertex(std::uint32_t corner) const {
        return part_.vertices[part_.indices[corner]];
    }
    [[nodiscard]] Vector normal(std::uint32_t corner) const {
        return normalised_or(vector_of(vertex(corner).normal), Vector::UnitZ());
    }

    /// Triangles with a side in common share the tangents of its ends, unless one of them is
    /// mirrored.
    void unite_neighbours() {
        std::vector<Side> sides;
        for (std::uint32_t corner = 0; corner < corners(); ++corner) {
            const std::uint32_t next = corner % 3 == 2 ? corner - 2 : corner + 1;
            if (!slopes_[corner / 3].is_there)
                continue;
            Side side{firsts_[part_.indices[corner]], firsts_[part_.indices[next]],
                      slopes_[corner / 3].is_mirrored, corner, next};
            if (side.low > side.high) {
                std::swap(side.low, side.high);
                std::swap(side.low_corner, side.high_corner);
            }
            sides.push_back(side);
        }
        std::ranges::stable_sort(sides, {}, &Side::key);
        for (std::size_t i = 1; i < sides.size(); ++i)
            if (sides[i].key() == sides[i - 1].key()) {
                groups_.unite(sides[i - 1].low_corner, sides[i].low_corner);
                groups_.unite(sides[i - 1].high_corner, sides[i].high_corner);
            }
    }

    /// The triangle's slope, laid square to the normal, counts by the triangle's angle here.
    void add_to_sum(std::uint32_t corner) {
        const Slope& slope = slopes_[corner / 3];
        if (!slope.is_there)
            return;
        const Vector n = normal(corner);
        const auto square_to_normal = [&](const Vector& vector) {
            return normalised_or(vector - n * n.dot(vector), Vector::Zero());
        };
        const std::uint32_t first = corner / 3 * 3;
        const Vector here = vector_of(vertex(corner).position);
        const Vector one =
            square_to_normal(vector_of(vertex(first + (corner - first + 1) % 3).position) - here);
        const Vector other =
            square_to_normal(vector_of(vertex(first + (corner - first + 2) % 3).position) - here);
        const float angle = angle_of(std::clamp(one.dot(other), -1.0F, 1.0F));
        sums_[groups_.of(corner)] += angle * square_to_normal(slope.along_u);
    }

    /// Triangles without an area in the picture take what others have at the same vertex.
    void lend_to_flat_triangles() {
        std::vector<std::uint32_t> lenders(part_.vertices.size(), none);
        for (std::uint32_t corner = 0; corner < corners(); ++corner)
            if (slopes_[corner / 3].is_there)
                lenders[firsts_[part_.indices[corner]]] = corner;
        for (std::uint32_t corner = 0; corner < corners(); ++corner) {
            std::uint32_t& lender = lenders[firsts_[part_.indices[corner]]];
            if (lender == none)
                lender = corner;
            if (!slopes_[corner / 3].is_there)
                groups_.unite(lender, corner);
        }
    }

    /// Vertices that two groups share are parted.
    void store() {
        std::vector<std::uint32_t> owners(part_.vertices.size(), none);
        std::unordered_map<std::uint64_t, std::uint32_t> parted;
        for (std::uint32_t corner = 0; corner < corners(); ++corner) {
            const std::uint32_t group = groups_.of(corner), index = part_.indices[corner];
            if (owners[index] == none) {
                owners[index] = group;
                store_at(index, corner, group);
            } else if (owners[index] != group) {
                const auto [place, is_new] =
                    parted.try_emplace(std::uint64_t{index} << 32 | group,
                                       static_cast<std::uint32_t>(part_.vertices.size()));
                if (is_new) {
                    part_.vertices.push_back(part_.vertices[index]);
                    store_at(place->second, corner, group);
                }
                part_.indices[corner] = place->second;
            }
        }
    }

    void store_at(std::uint32_t index, std::uint32_t corner, std::uint32_t group) {
        const Vector n = normal(corner);
        const Vector t = normalised_or(sums_[group], n.unitOrthogonal());
        Vertex& vertex = part_.vertices[index];
        std::copy_n(t.data(), 3, vertex.tangent.data());
        // Green points up in the picture.
        vertex.tangent[3] = slopes_[group / 3].is_mirrored ? -1.0F : 1.0F;
    }

    Primitive& part_;
    std::vector<std::uint32_t> firsts_;
    std::vector<Slope> slopes_ = {};
    Groups groups_;
    std::vector<Vector> sums_;  ///< of groups
};

}  // namespace

void make_tangents(Primitive& part, std::uint32_t set) {
    TangentMaker(part, set).make();
}

}  // namespace yl::model
