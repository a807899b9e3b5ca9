#include "render/d3d12/scene_shaders.hpp"

#include "render/d3d12/shader_code.hpp"

namespace yl::d3d12 {
namespace {

constexpr std::uint32_t position_value = 1, vertex_number_value = 6;  // D3D_NAME
constexpr SignatureElement position = {"SV_Position", position_value, 3, 15, 3};

/// Numbers, texture, position and colour of a pixel; `dimension` is the resource's.
void declare(ShaderCode& code, std::uint32_t constants, std::uint32_t dimension) {
    constexpr std::uint32_t without_perspective = 4, by_floats = 0x5555;
    code.put(Opcode::declare_constants, {constant(constants, "xyzw")});
    code.put(Opcode::declare_sampler, {sampler()});
    code.put(Opcode::declare_resource, {Operand{{0x00107000, 0}}, Operand{{by_floats}}}, dimension);
    code.put(Opcode::declare_position_in, {Operand{{0x00101032, 0}}, Operand{{position_value}}},
             without_perspective);
    code.put(Opcode::declare_output, {to_output("xyzw")});
    code.put(Opcode::declare_temps, {Operand{{12}}});
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

// Registers of the scene: 0 q, divisor, s, t; 1 the pixel, 1 and its share; 2 uv; 3 the surface; 4 the
// backdrop; 5 tests of uv; 6 numbers and tests of alpha; 7 what shows through; 8 to 10 the three modes.
std::vector<std::byte> scene_shader() {
    constexpr std::uint32_t s_row = 0, t_row = 1, q_row = 2, limits = 3, top = 4, bottom = 5,
                            cutout = 6, flat = 3;
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
    code.put(Opcode::ge, {to_temp(6, "y"), temp(3, "w"), constant(cutout, "x")});
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

// Registers of the sky: 0 the pixel; 1 the direction; 2 light by the size of a pixel, 3 at the level
// that is asked for.
std::vector<std::byte> sky_shader() {
    constexpr std::uint32_t levels = 4, cube = 6;
    ShaderCode code;
    declare(code, 14, cube);
    code.put(Opcode::mov, {to_temp(0, "xy"), input("xy")});
    code.put(Opcode::mov, {to_temp(0, "z"), literal({1, 1, 1, 1})});
    constexpr std::string_view axes[] = {"x", "y", "z"};
    for (std::uint32_t row = 0; row < 3; ++row)
        code.put(Opcode::dp3, {to_temp(1, axes[row]), constant(row, "xyz"), temp(0, "xyz")});
    code.put(Opcode::sample, {to_temp(2, "xyzw"), temp(1, "xyz"), resource(), sampler()});
    code.put(Opcode::sample_level,
             {to_temp(3, "xyzw"), temp(1, "xyz"), resource(), sampler(), constant(levels, "x")});
    code.put(Opcode::ge, {to_temp(0, "w"), constant(levels, "x"), literal({0, 0, 0, 0})});
    code.put(Opcode::movc, {to_temp(2, "xyz"), temp(0, "w"), temp(3, "xyz"), temp(2, "xyz")});
    code.put(Opcode::mul, {to_output("xyz"), temp(2, "xyz"), constant(levels, "z")});
    code.put(Opcode::mov, {to_output("w"), literal({1, 1, 1, 1})});
    code.put(Opcode::ret, {});
    return shader_file(Stage::pixel, code, position, {"SV_Target", 0, 3, 15, 0});
}

}  // namespace yl::d3d12
