#include <yl/cube.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "cube/edge_strips.hpp"
#include "cube/frames.hpp"

namespace yl {
namespace {

std::size_t number(CubeFace face) {
    return static_cast<std::size_t>(face);
}

DirectedSide reversed(DirectedSide side, bool is_backwards) {
    return {side.side, side.is_backwards != is_backwards};
}

double misfit_at(const EdgeStrips& strips, const CubeEdge& edge, const FaceArrangement& faces) {
    const PlacedFace &a = faces[number(edge.a)], &b = faces[number(edge.b)];
    return strips.misfit(
        a.image, side_before(a.orientation, edge.side_of_a), b.image,
        reversed(side_before(b.orientation, edge.side_of_b.side), edge.side_of_b.is_backwards));
}

/// Whether two ways to join give cubes that look the same: a face without features may be turned.
bool look_alike(const EdgeStrips& strips, const FaceArrangement& a, const FaceArrangement& b) {
    double difference = 0;
    for (std::size_t face = 0; face < 6; ++face)
        difference += strips.difference(a[face].image, a[face].orientation, b[face].image,
                                        b[face].orientation) /
                      6;
    constexpr double barely_seen = 0.002 * 0.002;  // half a code of 8 bits
    return difference < barely_seen;
}

/// A way to join six images.
struct Candidate {
    FaceArrangement faces = {};
    double cost = 0;  ///< the sum of the mean squares of the edges joined so far
    double rest = 0;  ///< the edges that are still to be joined cost no less
};

/// Tries all ways to join the images, with the first of them untouched in front: all others are
/// those, turned as a whole. A way is given up as soon as it has to become worse than the best ones
/// found (branch and bound). In the tests six faces that go together take up to 6,032 tries and six
/// pictures that do not up to 218,600; pictures that nearly equal each other would take millions, so
/// that the search ends at a number of tries, unsure.
class Search {
 public:
    Search(const EdgeStrips& strips, std::size_t max_tries)
        : strips_(strips), max_tries_(max_tries), min_share_(min_shares(strips)) {
        for (const Orientation orientation : all_orientations)
            for (const Side side : all_sides)
                sides_[static_cast<std::size_t>(orientation)][static_cast<std::size_t>(side)] =
                    side_before(orientation, side);
        for (const CubeEdge& edge : cube_edges())
            for (std::size_t depth = 0; depth < order.size(); ++depth)
                if ((edge.a == order[depth] && is_placed(edge.b, depth)) ||
                    (edge.b == order[depth] && is_placed(edge.a, depth)))
                    edges_[depth].push_back(edge);
    }

    /// Whether all ways were tried that could be the best.
    [[nodiscard]] bool is_complete() const { return tries_ < max_tries_ || best_.empty(); }

    /// The best ones that look different, best first.
    [[nodiscard]] std::vector<Candidate> run() {
        Candidate start;
        start.faces[number(CubeFace::front)] = {0, Orientation::none};
        for (const auto& sides : min_share_)
            start.rest = std::accumulate(sides.begin(), sides.end(), start.rest);
        extend(start, 1, 1U);
        return best_;
    }

 private:
    static constexpr std::size_t most_kept = 4;
    static constexpr std::array<CubeFace, 6> order = {CubeFace::front,  CubeFace::right,
                                                      CubeFace::top,    CubeFace::left,
                                                      CubeFace::bottom, CubeFace::back};

    /// Half of what each side costs at least, whatever it is joined with.
    using Shares = std::array<std::array<double, 4>, 6>;

    static Shares min_shares(const EdgeStrips& strips) {
        Shares shares{};
        for (std::size_t image = 0; image < 6; ++image)
            for (const Side side : all_sides) {
                double min = std::numeric_limits<double>::infinity();
                for (std::size_t other = 0; other < 6; ++other)
                    for (const Side other_side : all_sides)
                        for (const bool is_backwards : {false, true})
                            if (other != image)
                                min = std::min(min, strips.misfit(image, {side}, other,
                                                                  {other_side, is_backwards}));
                shares[image][static_cast<std::size_t>(side)] = min / 2;
            }
        return shares;
    }

    [[nodiscard]] bool is_hopeless(const Candidate& candidate) const {
        if (best_.size() < most_kept)
            return false;
        constexpr double rounding = 1e-12;  // of the sum of what is left
        const double rest = candidate.rest - rounding * (candidate.cost + candidate.rest);
        return candidate.cost + std::max(rest, 0.0) >= best_.back().cost;
    }

    void extend(const Candidate& before, std::size_t depth, unsigned used) {
        if (depth == order.size())
            return keep(before);
        // The nearest first, so that bad ways are given up soon.
        std::vector<Candidate> next;
        std::vector<unsigned> next_used;
        for (std::size_t image = 0; image < 6; ++image) {
            if ((used >> image & 1U) != 0)
                continue;
            for (const Orientation orientation : all_orientations) {
                if (!is_complete())
                    return;
                ++tries_;
                Candidate candidate = before;
                candidate.faces[number(order[depth])] = {image, orientation};
                join(candidate, depth);
                if (!is_hopeless(candidate) && is_new(candidate, next, depth))
                    next.push_back(candidate);
            }
        }
        std::sort(next.begin(), next.end(),
                  [](const Candidate& a, const Candidate& b) { return a.cost < b.cost; });
        for (const Candidate& candidate : next)
            if (!is_hopeless(candidate))
                extend(candidate, depth + 1,
                       used | 1U << candidate.faces[number(order[depth])].image);
    }

    /// Whether no other candidate for a place looks the same there, to the last bit: what follows
    /// would look the same as well. Faces of one colour have thousands of such ways.
    [[nodiscard]] bool is_new(const Candidate& candidate, const std::vector<Candidate>& others,
                              std::size_t depth) const {
        const PlacedFace& own = candidate.faces[number(order[depth])];
        return std::none_of(others.begin(), others.end(), [&](const Candidate& other) {
            const PlacedFace& placed = other.faces[number(order[depth])];
            return other.cost == candidate.cost &&
                   strips_.difference(own.image, own.orientation, placed.image,
                                      placed.orientation) == 0;
        });
    }

    /// Joins the edges between the face at `depth` and those before.
    void join(Candidate& candidate, std::size_t depth) const {
        double cost = 0;
        for (const CubeEdge& edge : edges_[depth]) {
            const PlacedFace &a = candidate.faces[number(edge.a)],
                             &b = candidate.faces[number(edge.b)];
            const DirectedSide side_a = side_of(a.orientation, edge.side_of_a);
            const DirectedSide side_b =
                reversed(side_of(b.orientation, edge.side_of_b.side), edge.side_of_b.is_backwards);
            cost += strips_.misfit(a.image, side_a, b.image, side_b);
            candidate.rest -= min_share(a.image, side_a) + min_share(b.image, side_b);
        }
        candidate.cost += cost;
    }

    [[nodiscard]] double min_share(std::size_t image, DirectedSide side) const {
        return min_share_[image][static_cast<std::size_t>(side.side)];
    }

    [[nodiscard]] DirectedSide side_of(Orientation orientation, Side side) const {
        return sides_[static_cast<std::size_t>(orientation)][static_cast<std::size_t>(side)];
    }

    static bool is_placed(CubeFace face, std::size_t depth) {
        return std::find(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(depth), face) !=
               order.begin() + static_cast<std::ptrdiff_t>(depth);
    }

    void keep(const Candidate& candidate) {
        const auto same = std::find_if(best_.begin(), best_.end(), [&](const Candidate& known) {
            return look_alike(strips_, known.faces, candidate.faces);
        });
        if (same != best_.end()) {
            if (same->cost <= candidate.cost)
                return;
            best_.erase(same);
        }
        const auto place = std::upper_bound(
            best_.begin(), best_.end(), candidate,
            [](const Candidate& a, const Candidate& b) { return a.cost < b.cost; });
        best_.insert(place, candidate);
        if (best_.size() > most_kept)
            best_.pop_back();
    }

    const EdgeStrips& strips_;
    std::size_t max_tries_;
    std::array<std::vector<CubeEdge>, 6> edges_{};  ///< between a depth's face and those before
    Shares min_share_;
    std::array<std::array<DirectedSide, 4>, 9> sides_{};
    std::vector<Candidate> best_;
    std::size_t tries_ = 0;
};

/// The whole cube turned or mirrored.
FaceArrangement turned_whole(const FaceArrangement& faces, const AxisMap& map) {
    FaceArrangement result;
    for (const CubeFace face : all_cube_faces) {
        const FaceFrame there = mapped(standard_frames()[number(face)], map);
        const Orientation orientation =
            orientation_between(there, standard_frames()[number(there.middle)]);
        const PlacedFace& placed = faces[number(face)];
        result[number(there.middle)] = {placed.image, combined(placed.orientation, orientation)};
    }
    return result;
}

/// How well an arrangement agrees with the hints; what is told outright counts for more than
/// everything else.
int agreement(const FaceArrangement& faces, const OrderHints& hints) {
    int sum = 0;
    for (const CubeFace face : all_cube_faces) {
        const PlacedFace& placed = faces[number(face)];
        if (hints.top == placed.image && face == CubeFace::top)
            sum += 1000;
        if (hints.front == placed.image && face == CubeFace::front)
            sum += 1000;
        const bool is_claimed = hints.claimed && (*hints.claimed)[placed.image] == face;
        sum += is_claimed ? 8 : 0;
        sum += is_claimed && placed.orientation == Orientation::none ? 2 : 0;
        sum += placed.orientation == Orientation::none ? 1 : 0;
        sum += mirrors(placed.orientation) ? 0 : 3;
    }
    return sum;
}

void choose_whole_turn(FaceOrder& order, const OrderHints& hints) {
    const FaceArrangement before = order.faces;
    int best = -1, second = -1;
    for (const AxisMap& map : all_axis_maps()) {
        const FaceArrangement faces = turned_whole(before, map);
        const int score = agreement(faces, hints);
        if (score > best) {
            second = best;
            best = score;
            order.faces = faces;
        } else {
            second = std::max(second, score);
        }
    }
    const bool is_told = hints.claimed || (hints.top && hints.front);
    order.knows_up = is_told && best > second;
}

FaceOrder measured(const EdgeStrips& strips, const FaceArrangement& faces) {
    FaceOrder order;
    order.faces = faces;
    double sum = 0, worst = -1;
    for (const CubeEdge& edge : cube_edges()) {
        const double square = misfit_at(strips, edge, faces);
        sum += square / 12;
        if (square > worst) {
            worst = square;
            order.worst = {edge.a, edge.b, faces[number(edge.a)].image, faces[number(edge.b)].image,
                           std::sqrt(square)};
        }
    }
    order.misfit = std::sqrt(sum);
    // The worst right edge of three skies of 16 to 256 texels a side is off by 0.042, or by 1.8
    // steps as they are usual beside it (bench/order_margins).
    constexpr double visible = 0.06;
    constexpr double steps_allowed = 3;
    order.joins =
        order.worst.misfit < std::max(visible, steps_allowed * std::sqrt(strips.usual_step()));
    return order;
}

std::string the(CubeFace face) {
    return fmt::format("the {}", name(face));
}

}  // namespace

Result<FaceOrder> find_face_order(std::span<const ConstImageView, 6> images, Transfer transfer,
                                  const OrderHints& hints) try {
    YL_TRY(const EdgeStrips strips, EdgeStrips::of(images, transfer));
    Search search(strips, hints.max_tries);
    const std::vector<Candidate> best = search.run();
    const double rival = best.size() > 1 ? best[1].cost : std::numeric_limits<double>::infinity();
    FaceOrder order = measured(strips, best.front().faces);
    // Differences too small to be stored do not count.
    constexpr double floor = 12 * 1e-7;
    order.confidence = 1 - std::sqrt((best.front().cost + floor) / (rival + floor));
    if (!search.is_complete())
        order.confidence = 0;
    // The same skies reach 0.44 at least, six pictures of noise 0.01 at most.
    constexpr double enough = 0.25;
    order.is_sure = order.confidence >= enough;
    choose_whole_turn(order, hints);
    const FaceOrder settled = measured(strips, order.faces);
    order.worst = settled.worst;
    return order;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<FaceOrder> check_face_order(std::span<const ConstImageView, 6> images, Transfer transfer,
                                   const FaceArrangement& arrangement) {
    YL_TRY(const EdgeStrips strips, EdgeStrips::of(images, transfer));
    return measured(strips, arrangement);
}

std::vector<std::string> differences_in_words(const std::array<CubeFace, 6>& claimed,
                                              const FaceArrangement& found) {
    std::vector<std::string> words;
    std::array<CubeFace, 6> shown_at{};  // by what is claimed
    for (const CubeFace face : all_cube_faces)
        shown_at[number(claimed[found[number(face)].image])] = face;
    for (const CubeFace face : all_cube_faces) {
        const CubeFace other = shown_at[number(face)];
        if (other == face)
            continue;
        if (shown_at[number(other)] != face)
            words.push_back(fmt::format("what is called {} is {}", name(face), the(other)));
        else if (face < other)
            words.push_back(fmt::format("{} and {} are exchanged", name(face), name(other)));
    }
    for (const CubeFace face : all_cube_faces) {
        const Orientation orientation = inverse(found[number(face)].orientation);
        if (orientation != Orientation::none)
            words.push_back(fmt::format(
                "{} is {}{}", the(face), mirrors(orientation) ? "" : "turned ",
                orientation == Orientation::transpose || orientation == Orientation::transverse
                    ? fmt::format("laid {}", name(orientation))
                    : name(orientation)));
    }
    return words;
}

Result<Texture> arranged_cube(std::span<const ConstImageView, 6> images,
                              const FaceArrangement& arrangement,
                              const TextureMetadata& metadata) try {
    std::array<Image, 6> turned_images;
    std::array<ConstImageView, 6> views;
    for (std::size_t face = 0; face < 6; ++face) {
        YL_TRY(turned_images[face],
               with_orientation(images[arrangement[face].image], arrangement[face].orientation));
        views[face] = std::as_const(turned_images[face]).view();
    }
    return cube_of_faces(views, metadata);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
