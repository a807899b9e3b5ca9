// Shaders of model 4.0, put together instruction by instruction: there is no compiler for them here.
//
//   An instruction is a word of its opcode (11 bits) and its length in words (7 bits, from bit 24 on),
//   and then its operands, each a word and its numbers:
//
//     31       27 25 22 20 19    12 11           4 3 2 1 0
//     extended  index kinds  type    mask, swizzle  |  components: 2 is four
//                     dimensions of the index       how bits 4 - 11 are read: mask, swizzle
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>
#include <vector>

namespace yl::d3d12 {

enum class Opcode : std::uint32_t {
    add = 0,
    and_bits = 1,
    derivative_x = 11,
    derivative_y = 12,
    div = 14,
    dp2 = 15,
    dp3 = 16,
    eq = 24,
    fraction = 26,
    ge = 29,
    shift_left = 41,
    logarithm = 47,
    lt = 49,
    mad = 50,
    min = 51,
    max = 52,
    mov = 54,
    movc = 55,
    mul = 56,
    or_bits = 60,
    resource_size = 61,
    ret = 62,
    sample = 69,
    sample_level = 72,
    sample_derivatives = 73,
    square_root = 75,
    unsigned_to_float = 86,
    declare_resource = 88,
    declare_constants = 89,
    declare_sampler = 90,
    declare_vertex_number = 96,
    declare_position_in = 100,
    declare_output = 101,
    declare_position_out = 103,
    declare_temps = 104,
};

struct Operand {
    std::vector<std::uint32_t> words;
};

// Where an instruction writes to: "xy" is a mask.
[[nodiscard]] Operand to_temp(std::uint32_t number, std::string_view mask);
[[nodiscard]] Operand to_output(std::string_view mask);
// What it reads: the last letter of a swizzle is repeated.
[[nodiscard]] Operand temp(std::uint32_t number, std::string_view swizzle);
[[nodiscard]] Operand input(std::string_view swizzle);
[[nodiscard]] Operand constant(std::uint32_t number, std::string_view swizzle);
[[nodiscard]] Operand literal(std::array<float, 4> values);
[[nodiscard]] Operand whole(std::uint32_t value);
[[nodiscard]] Operand resource();
[[nodiscard]] Operand sampler();
[[nodiscard]] Operand negative(Operand operand);

/// The instructions of a shader.
class ShaderCode {
 public:
    void put(Opcode opcode, const std::vector<Operand>& operands, std::uint32_t controls = 0);
    [[nodiscard]] const std::vector<std::uint32_t>& words() const { return words_; }

 private:
    std::vector<std::uint32_t> words_;
};

/// An input or output: what the pipeline knows it by, and its register.
struct SignatureElement {
    std::string_view name;
    std::uint32_t system_value;  ///< D3D_NAME; 0: none
    std::uint32_t type;          ///< 1 whole numbers, 3 floats
    std::uint32_t mask, used;    ///< components
};

enum class Stage : std::uint32_t { pixel = 0, vertex = 1 };

/// The file that a pipeline takes: chunks behind a checksum.
[[nodiscard]] std::vector<std::byte> shader_file(Stage stage, const ShaderCode& code,
                                                 const SignatureElement& in,
                                                 const SignatureElement& out);

}  // namespace yl::d3d12
