#include "render/d3d12/scene_shaders.hpp"

#include "render/d3d12/shader_code.hpp"

namespace yl::d3d12 {
namespace {

constexpr std::uint32_t position_value = 1, vertex_number_value = 6;  // D3D_NAME
constexpr SignatureElement position = {"SV_Position", position_value, 3, 15, 3};

/// Numbers, texture, position and colour of a pixel; `dimension` is the resource's.
void declare(ShaderCode& code, std::uint32_t constants, std::uint32_t dimension) {
    constexpr std::uint32_t without_perspective = 4, by_floats = 0x5555, temps = 20;
    code.put(Opcode::declare_constants, {constant(constants, "xyzw")});
    code.put(Opcode::declare_sampler, {sampler()});
    code.put(Opcode::declare_resource, {Operand{{0x00107000, 0}}, Operand{{by_floats}}}, dimension);
    code.put(Opcode::declare_position_in, {Operand{{0x00101032, 0}}, Operand{{position_value}}},
             without_perspective);
    code.put(Opcode::declare_output, {to_output("xyzw")});
    code.put(Opcode::declare_temps, {Operand{{temps}}});
}

}  // namespace

std::vector<std::byte> triangle_shader() {
    ShaderCode code;
    code.put(Opcode::declare_vertex_number,
             {Operand{{0x00101012, 0}}, Operand{{vertex_number_value}}});
    code.put(Opcode::declare_position_out, {to_output("xyzw"), Operand{{position_value}}});
    code.put(Opcode::declare_temps, {Operand{{1}}});
    // Corners 0, 1, 2 become (0, 0), (2, 0), (0, 2), and these (-1, 1), (3, 1), (-1, -3).
    code.put(Opcode::shift_left, {to_temp(0, "x"), input("x"), whole(1)});
    code.put(Opcode::and_bits, {to_temp(0, "x"), temp(0, "x"), whole(2)});
    code.put(Opcode::and_bits, {to_temp(0, "y"), input("x"), whole(2)});
    code.put(Opcode::unsigned_to_float, {to_temp(0, "xy"), temp(0, "xy")});
    code.put(Opcode::mad,
             {to_output("xy"), temp(0, "xy"), literal({2, -2, 0, 0}), literal({-1, 1, 0, 0})});
    code.put(Opcode::mov, {to_output("zw"), literal({0, 0, 0, 1})});
    code.put(Opcode::ret, {});
    return shader_file(Stage::vertex, code, {"SV_VertexID", vertex_number_value, 1, 1, 1},
                       {"SV_Position", position_value, 3, 15, 0});
}

namespace {

// Rows of the numbers of a scene.
constexpr std::uint32_t cutout_row = 6, part_u_row = 7, part_v_row = 8, part_box_row = 9;

/// The length of the longer of two steps, x and y and z and w of a register, in texels: in x of another.
void put_longest(ShaderCode& code, std::uint32_t to, std::uint32_t steps) {
    code.put(Opcode::dp2, {to_temp(to, "x"), temp(steps, "xy"), temp(steps, "xy")});
    code.put(Opcode::dp2, {to_temp(to, "y"), temp(steps, "zw"), temp(steps, "zw")});
    code.put(Opcode::max, {to_temp(to, "x"), temp(to, "x"), temp(to, "y")});
    code.put(Opcode::square_root, {to_temp(to, "x"), temp(to, "x")});
}

/// What bake/atlas/part.glsl does: the texel of a part of an atlas at coordinates of the part's picture,
/// instead of the whole texture's in `surface` where the scene has a part.
void put_part(ShaderCode& code, std::uint32_t uv, std::uint32_t surface) {
    constexpr std::uint32_t dx = 11, dy = 12, at = 13, place = 14, steps = 15, clean = 16,
                            sizes = 17, texel = 18, blend = 19;
    const auto all = [](float value) { return literal({value, value, value, value}); };
    code.put(Opcode::derivative_x, {to_temp(dx, "xy"), temp(uv, "xy")});
    code.put(Opcode::derivative_y, {to_temp(dy, "xy"), temp(uv, "xy")});
    code.put(Opcode::fraction, {to_temp(at, "xy"), temp(uv, "xy")});
    code.put(Opcode::lt, {to_temp(at, "w"), all(1.5F), constant(cutout_row, "y")});
    code.put(Opcode::movc, {to_temp(at, "xy"), temp(at, "w"), temp(at, "xy"), temp(uv, "xy")});
    code.put(Opcode::mov, {to_temp(at, "z"), all(1)});
    code.put(Opcode::dp3, {to_temp(place, "x"), constant(part_u_row, "xyz"), temp(at, "xyz")});
    code.put(Opcode::dp3, {to_temp(place, "y"), constant(part_v_row, "xyz"), temp(at, "xyz")});
    code.put(Opcode::dp2, {to_temp(steps, "x"), constant(part_u_row, "xy"), temp(dx, "xy")});
    code.put(Opcode::dp2, {to_temp(steps, "y"), constant(part_v_row, "xy"), temp(dx, "xy")});
    code.put(Opcode::dp2, {to_temp(steps, "z"), constant(part_u_row, "xy"), temp(dy, "xy")});
    code.put(Opcode::dp2, {to_temp(steps, "w"), constant(part_v_row, "xy"), temp(dy, "xy")});
    // In texels of the last clean level, and of level 0.
    code.put(Opcode::mov, {to_temp(sizes, "xz"), constant(part_u_row, "w")});
    code.put(Opcode::mov, {to_temp(sizes, "yw"), constant(part_v_row, "w")});
    code.put(Opcode::mul, {to_temp(texel, "xyzw"), temp(steps, "xyzw"), temp(sizes, "xyzw")});
    put_longest(code, clean, texel);
    code.put(Opcode::resource_size, {to_temp(sizes, "xyzw"), whole(0), resource()});
    code.put(Opcode::mul, {to_temp(texel, "xyzw"), temp(steps, "xyzw"), temp(sizes, "xyxy")});
    put_longest(code, blend, texel);
    code.put(Opcode::max, {to_temp(blend, "y"), temp(clean, "x"), all(1)});
    code.put(Opcode::div, {to_temp(blend, "x"), temp(blend, "x"), temp(blend, "y")});
    code.put(Opcode::max, {to_temp(blend, "x"), temp(blend, "x"), all(1e-9F)});
    code.put(Opcode::logarithm, {to_temp(blend, "x"), temp(blend, "x")});
    code.put(Opcode::sample_level,
             {to_temp(texel, "xyzw"), temp(place, "xy"), resource(), sampler(), temp(blend, "x")});
    code.put(Opcode::sample_derivatives, {to_temp(sizes, "xyzw"), temp(place, "xy"), resource(),
                                          sampler(), temp(steps, "xy"), temp(steps, "zw")});
    // From one to the other between a quarter and a half of a texel: t t (3 - 2 t).
    code.put(Opcode::mad, {to_temp(blend, "x"), temp(clean, "x"), all(4), all(-1)});
    code.put(Opcode::max, {to_temp(blend, "x"), temp(blend, "x"), all(0)});
    code.put(Opcode::min, {to_temp(blend, "x"), temp(blend, "x"), all(1)});
    code.put(Opcode::mad, {to_temp(blend, "y"), temp(blend, "x"), all(-2), all(3)});
    code.put(Opcode::mul, {to_temp(blend, "x"), temp(blend, "x"), temp(blend, "x")});
    code.put(Opcode::mul, {to_temp(blend, "x"), temp(blend, "x"), temp(blend, "y")});
    code.put(Opcode::add,
             {to_temp(texel, "xyzw"), temp(texel, "xyzw"), negative(temp(sizes, "xyzw"))});
    code.put(Opcode::mad,
             {to_temp(texel, "xyzw"), temp(blend, "x"), temp(texel, "xyzw"), temp(sizes, "xyzw")});
    // Nothing beyond the part's box.
    code.put(Opcode::ge, {to_temp(blend, "xy"), temp(at, "xy"), constant(part_box_row, "xy")});
    code.put(Opcode::ge, {to_temp(blend, "zw"), constant(part_box_row, "xyzw"), temp(at, "xxxy")});
    code.put(Opcode::and_bits, {to_temp(blend, "xy"), temp(blend, "xy"), temp(blend, "zw")});
    code.put(Opcode::and_bits, {to_temp(blend, "x"), temp(blend, "x"), temp(blend, "y")});
    code.put(Opcode::and_bits, {to_temp(texel, "xyzw"), temp(texel, "xyzw"), temp(blend, "x")});
    code.put(Opcode::lt, {to_temp(blend, "y"), all(0.5F), constant(cutout_row, "y")});
    code.put(Opcode::movc, {to_temp(surface, "xyzw"), temp(blend, "y"), temp(texel, "xyzw"),
                            temp(surface, "xyzw")});
}

}  // namespace

// Registers of the scene: 0 q, divisor, s, t; 1 the pixel, 1 and its share; 2 uv; 3 the surface; 4 the
// backdrop; 5 tests of uv; 6 numbers and tests of alpha; 7 what shows through; 8 to 10 the three modes.
std::vector<std::byte> scene_shader() {
    constexpr std::uint32_t s_row = 0, t_row = 1, q_row = 2, limits = 3, top = 4, bottom = 5,
                            flat = 3;
    ShaderCode code;
    declare(code, 10, flat);
    code.put(Opcode::mov, {to_temp(1, "xy"), input("xy")});
    code.put(Opcode::mov, {to_temp(1, "z"), literal({1, 1, 1, 1})});
    code.put(Opcode::dp3, {to_temp(0, "x"), constant(q_row, "xyz"), temp(1, "xyz")});
    code.put(Opcode::max, {to_temp(0, "y"), temp(0, "x"), constant(limits, "x")});
    code.put(Opcode::dp3, {to_temp(0, "z"), constant(s_row, "xyz"), temp(1, "xyz")});
    code.put(Opcode::dp3, {to_temp(0, "w"), constant(t_row, "xyz"), temp(1, "xyz")});
    code.put(Opcode::div, {to_temp(2, "xy"), temp(0, "zw"), temp(0, "y")});
    code.put(Opcode::sample, {to_temp(3, "xyzw"), temp(2, "xy"), resource(), sampler()});
    put_part(code, 2, 3);

    code.put(Opcode::div, {to_temp(1, "w"), temp(1, "y"), constant(top, "w")});
    code.put(Opcode::add,
             {to_temp(4, "xyz"), constant(bottom, "xyz"), negative(constant(top, "xyz"))});
    code.put(Opcode::mad, {to_temp(4, "xyz"), temp(1, "w"), temp(4, "xyz"), constant(top, "xyz")});

    // Within the bounds, if there are any, and before the eye.
    code.put(Opcode::ge, {to_temp(5, "xy"), temp(2, "xy"), literal({0, 0, 0, 0})});
    code.put(Opcode::ge, {to_temp(5, "zw"), constant(limits, "xyzw"), temp(2, "xxxy")});
    code.put(Opcode::and_bits, {to_temp(5, "xy"), temp(5, "xy"), temp(5, "zw")});
    code.put(Opcode::and_bits, {to_temp(5, "x"), temp(5, "x"), temp(5, "y")});
    code.put(Opcode::eq, {to_temp(5, "y"), constant(limits, "y"), literal({0, 0, 0, 0})});
    code.put(Opcode::or_bits, {to_temp(5, "x"), temp(5, "x"), temp(5, "y")});
    code.put(Opcode::ge, {to_temp(5, "y"), temp(0, "x"), constant(limits, "x")});
    code.put(Opcode::and_bits, {to_temp(5, "x"), temp(5, "x"), temp(5, "y")});

    // Straight alpha, premultiplied, and cut out.
    code.put(Opcode::add, {to_temp(6, "x"), negative(temp(3, "w")), literal({1, 1, 1, 1})});
    code.put(Opcode::mul, {to_temp(7, "xyz"), temp(4, "xyz"), temp(6, "x")});
    code.put(Opcode::mad, {to_temp(8, "xyz"), temp(3, "xyz"), temp(3, "w"), temp(7, "xyz")});
    code.put(Opcode::add, {to_temp(9, "xyz"), temp(7, "xyz"), temp(3, "xyz")});
    code.put(Opcode::ge, {to_temp(6, "y"), temp(3, "w"), constant(cutout_row, "x")});
    code.put(Opcode::movc, {to_temp(10, "xyz"), temp(6, "y"), temp(3, "xyz"), temp(4, "xyz")});
    code.put(Opcode::eq, {to_temp(6, "z"), constant(bottom, "w"), literal({1, 1, 1, 1})});
    code.put(Opcode::movc, {to_temp(8, "xyz"), temp(6, "z"), temp(9, "xyz"), temp(8, "xyz")});
    code.put(Opcode::eq, {to_temp(6, "z"), constant(bottom, "w"), literal({2, 2, 2, 2})});
    code.put(Opcode::movc, {to_temp(8, "xyz"), temp(6, "z"), temp(10, "xyz"), temp(8, "xyz")});
    code.put(Opcode::movc, {to_output("xyz"), temp(5, "x"), temp(8, "xyz"), temp(4, "xyz")});
    code.put(Opcode::mov, {to_output("w"), literal({1, 1, 1, 1})});
    code.put(Opcode::ret, {});
    return shader_file(Stage::pixel, code, position, {"SV_Target", 0, 3, 15, 0});
}

namespace {

// Rows of the numbers of a cube's scene.
constexpr std::uint32_t ball_row = 3, levels_row = 4, harmonics_row = 5;
// Registers: the pixel and 1; the direction of its ray; the light behind, of the mirror, and of a matt
// ball; the ball's numbers; room to work in.
constexpr std::uint32_t pixel = 0, ray = 1, behind = 2, mirrored = 3, matt = 4, quadratic = 5,
                        covered = 6, normal = 7, room = 8, more_room = 9, axes = 10;

/// Light from a direction at the level in a component of the levels, or by the size of a pixel.
void put_light(ShaderCode& code, std::uint32_t to, std::uint32_t direction,
               std::string_view level) {
    code.put(Opcode::sample, {to_temp(to, "xyzw"), temp(direction, "xyz"), resource(), sampler()});
    code.put(Opcode::sample_level, {to_temp(room, "xyzw"), temp(direction, "xyz"), resource(),
                                    sampler(), constant(levels_row, level)});
    code.put(Opcode::ge,
             {to_temp(more_room, "x"), constant(levels_row, level), literal({0, 0, 0, 0})});
    code.put(Opcode::movc,
             {to_temp(to, "xyz"), temp(more_room, "x"), temp(room, "xyz"), temp(to, "xyz")});
}

/// Where the ray meets the ball: x and y of `quadratic` are the products of the ray with itself and with
/// the ball's middle, z how far the eye is outside, w the root's square.
void put_quadratic(ShaderCode& code) {
    code.put(Opcode::dp3, {to_temp(quadratic, "x"), temp(ray, "xyz"), temp(ray, "xyz")});
    code.put(Opcode::dp3, {to_temp(quadratic, "y"), temp(ray, "xyz"), constant(ball_row, "xyz")});
    code.put(Opcode::dp3,
             {to_temp(quadratic, "z"), constant(ball_row, "xyz"), constant(ball_row, "xyz")});
    code.put(Opcode::add,
             {to_temp(quadratic, "z"), temp(quadratic, "z"), literal({-1, -1, -1, -1})});
    code.put(Opcode::mul, {to_temp(room, "x"), temp(quadratic, "x"), temp(quadratic, "z")});
    code.put(Opcode::mad, {to_temp(quadratic, "w"), temp(quadratic, "y"), temp(quadratic, "y"),
                           negative(temp(room, "x"))});
}

/// How much of the pixel the ball covers: the root over the length of its gradient, in pixels.
void put_coverage(ShaderCode& code) {
    constexpr std::string_view letters[] = {"x", "y", "z"};
    for (std::uint32_t side = 0; side < 2; ++side) {  // across and down
        for (std::uint32_t row = 0; row < 3; ++row)
            code.put(Opcode::mov, {to_temp(axes, letters[row]), constant(row, letters[side])});
        code.put(Opcode::dp3, {to_temp(room, "x"), temp(axes, "xyz"), constant(ball_row, "xyz")});
        code.put(Opcode::dp3, {to_temp(room, "y"), temp(axes, "xyz"), temp(ray, "xyz")});
        code.put(Opcode::mul, {to_temp(room, "y"), temp(room, "y"), temp(quadratic, "z")});
        code.put(Opcode::mad, {to_temp(covered, letters[side]), temp(room, "x"),
                               temp(quadratic, "y"), negative(temp(room, "y"))});
    }
    code.put(Opcode::mul, {to_temp(covered, "xy"), temp(covered, "xy"), temp(covered, "xy")});
    code.put(Opcode::add, {to_temp(covered, "x"), temp(covered, "x"), temp(covered, "y")});
    code.put(Opcode::square_root, {to_temp(covered, "x"), temp(covered, "x")});
    code.put(Opcode::add, {to_temp(covered, "x"), temp(covered, "x"), temp(covered, "x")});
    code.put(Opcode::div, {to_temp(covered, "w"), temp(quadratic, "w"), temp(covered, "x")});
    code.put(Opcode::add,
             {to_temp(covered, "w"), temp(covered, "w"), literal({0.5F, 0.5F, 0.5F, 0.5F})});
    code.put(Opcode::max, {to_temp(covered, "w"), temp(covered, "w"), literal({0, 0, 0, 0})});
    code.put(Opcode::min, {to_temp(covered, "w"), temp(covered, "w"), literal({1, 1, 1, 1})});
    // There is a ball, before the eye, and its outline has a direction.
    code.put(Opcode::eq, {to_temp(covered, "y"), constant(ball_row, "w"), literal({1, 1, 1, 1})});
    code.put(Opcode::lt, {to_temp(covered, "z"), literal({0, 0, 0, 0}), temp(quadratic, "y")});
    code.put(Opcode::and_bits, {to_temp(covered, "y"), temp(covered, "y"), temp(covered, "z")});
    code.put(Opcode::lt, {to_temp(covered, "z"), literal({0, 0, 0, 0}), temp(covered, "x")});
    code.put(Opcode::and_bits, {to_temp(covered, "y"), temp(covered, "y"), temp(covered, "z")});
    code.put(Opcode::and_bits, {to_temp(covered, "x"), temp(covered, "y"), temp(covered, "w")});
}

/// The ball's normal, and the light of the direction that it mirrors.
void put_mirror(ShaderCode& code) {
    code.put(Opcode::max, {to_temp(room, "x"), temp(quadratic, "w"), literal({0, 0, 0, 0})});
    code.put(Opcode::square_root, {to_temp(room, "x"), temp(room, "x")});
    code.put(Opcode::add, {to_temp(room, "x"), temp(quadratic, "y"), negative(temp(room, "x"))});
    code.put(Opcode::div, {to_temp(room, "x"), temp(room, "x"), temp(quadratic, "x")});
    code.put(Opcode::mad, {to_temp(normal, "xyz"), temp(ray, "xyz"), temp(room, "x"),
                           negative(constant(ball_row, "xyz"))});
    code.put(Opcode::dp3, {to_temp(room, "y"), temp(ray, "xyz"), temp(normal, "xyz")});
    code.put(Opcode::mul, {to_temp(room, "y"), temp(room, "y"), literal({-2, -2, -2, -2})});
    code.put(Opcode::mad,
             {to_temp(axes, "xyz"), temp(room, "y"), temp(normal, "xyz"), temp(ray, "xyz")});
    put_light(code, mirrored, axes, "y");
}

/// One term of the harmonics: its factor is in x of the room.
void add_harmonic(ShaderCode& code, std::uint32_t number) {
    code.put(Opcode::mad, {to_temp(matt, "xyz"), constant(harmonics_row + number, "xyz"),
                           temp(room, "x"), temp(matt, "xyz")});
}

/// Light that a matt ball gives back, by the direction of its normal.
void put_matt(ShaderCode& code) {
    const auto all = [](float value) { return literal({value, value, value, value}); };
    code.put(Opcode::dp3, {to_temp(room, "x"), temp(normal, "xyz"), temp(normal, "xyz")});
    code.put(Opcode::square_root, {to_temp(room, "x"), temp(room, "x")});
    code.put(Opcode::div, {to_temp(axes, "xyz"), temp(normal, "xyz"), temp(room, "x")});
    code.put(Opcode::mul,
             {to_temp(matt, "xyz"), constant(harmonics_row, "xyz"), all(0.282094791773878F)});
    constexpr std::string_view linear[] = {"y", "z", "x"};
    for (std::uint32_t i = 0; i < 3; ++i) {
        code.put(Opcode::mul, {to_temp(room, "x"), temp(axes, linear[i]), all(0.488602511902920F)});
        add_harmonic(code, 1 + i);
    }
    constexpr struct {
        std::uint32_t number;
        std::string_view first, second;
    } products[] = {{4, "x", "y"}, {5, "y", "z"}, {7, "x", "z"}};
    for (const auto& [number, first, second] : products) {
        code.put(Opcode::mul, {to_temp(room, "x"), temp(axes, first), temp(axes, second)});
        code.put(Opcode::mul, {to_temp(room, "x"), temp(room, "x"), all(1.092548430592079F)});
        add_harmonic(code, number);
    }
    code.put(Opcode::mul, {to_temp(room, "xyz"), temp(axes, "xyz"), temp(axes, "xyz")});
    code.put(Opcode::add, {to_temp(room, "w"), temp(room, "x"), negative(temp(room, "y"))});
    code.put(Opcode::mad, {to_temp(room, "x"), temp(room, "z"), all(3), all(-1)});
    code.put(Opcode::mul, {to_temp(room, "x"), temp(room, "x"), all(0.315391565252520F)});
    add_harmonic(code, 6);
    code.put(Opcode::mul, {to_temp(room, "x"), temp(room, "w"), all(0.546274215296040F)});
    add_harmonic(code, 8);
}

}  // namespace

std::vector<std::byte> cube_scene_shader() {
    constexpr std::uint32_t cube = 6;
    ShaderCode code;
    declare(code, 14, cube);
    code.put(Opcode::mov, {to_temp(pixel, "xy"), input("xy")});
    code.put(Opcode::mov, {to_temp(pixel, "z"), literal({1, 1, 1, 1})});
    constexpr std::string_view letters[] = {"x", "y", "z"};
    for (std::uint32_t row = 0; row < 3; ++row)
        code.put(Opcode::dp3,
                 {to_temp(ray, letters[row]), constant(row, "xyz"), temp(pixel, "xyz")});
    put_light(code, behind, ray, "x");
    put_quadratic(code);
    put_coverage(code);
    put_mirror(code);
    put_matt(code);
    code.put(Opcode::eq, {to_temp(room, "x"), constant(levels_row, "w"), literal({1, 1, 1, 1})});
    code.put(Opcode::movc,
             {to_temp(matt, "xyz"), temp(room, "x"), temp(matt, "xyz"), temp(mirrored, "xyz")});
    code.put(Opcode::add, {to_temp(matt, "xyz"), temp(matt, "xyz"), negative(temp(behind, "xyz"))});
    code.put(Opcode::mad,
             {to_temp(matt, "xyz"), temp(covered, "x"), temp(matt, "xyz"), temp(behind, "xyz")});
    // Where the ball is not, numbers of its own may be none.
    code.put(Opcode::lt, {to_temp(room, "x"), literal({0, 0, 0, 0}), temp(covered, "x")});
    code.put(Opcode::movc,
             {to_temp(matt, "xyz"), temp(room, "x"), temp(matt, "xyz"), temp(behind, "xyz")});
    code.put(Opcode::mul, {to_output("xyz"), temp(matt, "xyz"), constant(levels_row, "z")});
    code.put(Opcode::mov, {to_output("w"), literal({1, 1, 1, 1})});
    code.put(Opcode::ret, {});
    return shader_file(Stage::pixel, code, position, {"SV_Target", 0, 3, 15, 0});
}

}  // namespace yl::d3d12
