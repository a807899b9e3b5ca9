#include "render/d3d12/shader_code.hpp"

#include <bit>
#include <cmath>
#include <cstring>

#include "base/bytes.hpp"

namespace yl::d3d12 {
namespace {

using Words = std::vector<std::uint32_t>;

enum class RegisterType : std::uint32_t {
    temp = 0,
    input = 1,
    output = 2,
    literal = 4,
    sampler = 6,
    resource = 7,
    constants = 8,
};

constexpr std::uint32_t four_components = 2, by_swizzle = 1U << 2U;
constexpr std::uint32_t one_index = 1U << 20U, two_indices = 2U << 20U;

constexpr std::uint32_t type_bits(RegisterType type) {
    return static_cast<std::uint32_t>(type) << 12U;
}

constexpr std::uint32_t component(char letter) {
    return letter == 'x' ? 0 : letter == 'y' ? 1 : letter == 'z' ? 2 : 3;
}

std::uint32_t mask_bits(std::string_view letters) {
    std::uint32_t mask = 0;
    for (const char letter : letters)
        mask |= 1U << component(letter);
    return four_components | mask << 4U;
}

std::uint32_t swizzle_bits(std::string_view letters) {
    std::uint32_t swizzle = 0;
    for (std::size_t i = 0; i < 4; ++i)
        swizzle |= component(letters[std::min(i, letters.size() - 1)]) << (2 * i);
    return four_components | by_swizzle | swizzle << 4U;
}

}  // namespace

Operand to_temp(std::uint32_t number, std::string_view mask) {
    return {{mask_bits(mask) | type_bits(RegisterType::temp) | one_index, number}};
}

Operand to_output(std::string_view mask) {
    return {{mask_bits(mask) | type_bits(RegisterType::output) | one_index, 0}};
}

Operand temp(std::uint32_t number, std::string_view swizzle) {
    return {{swizzle_bits(swizzle) | type_bits(RegisterType::temp) | one_index, number}};
}

Operand input(std::string_view swizzle) {
    return {{swizzle_bits(swizzle) | type_bits(RegisterType::input) | one_index, 0}};
}

Operand constant(std::uint32_t number, std::string_view swizzle) {
    return {{swizzle_bits(swizzle) | type_bits(RegisterType::constants) | two_indices, 0, number}};
}

Operand literal(std::array<float, 4> values) {
    Operand operand{{four_components | type_bits(RegisterType::literal)}};
    for (const float value : values)
        operand.words.push_back(std::bit_cast<std::uint32_t>(value));
    return operand;
}

Operand whole(std::uint32_t value) {
    return {{four_components | type_bits(RegisterType::literal), value, value, value, value}};
}

Operand resource() {
    return {{swizzle_bits("xyzw") | type_bits(RegisterType::resource) | one_index, 0}};
}

Operand sampler() {
    return {{type_bits(RegisterType::sampler) | one_index, 0}};
}

Operand negative(Operand operand) {
    constexpr std::uint32_t extended = 1U << 31U, negated = 0x41;
    operand.words[0] |= extended;
    operand.words.insert(operand.words.begin() + 1, negated);
    return operand;
}

void ShaderCode::put(Opcode opcode, const std::vector<Operand>& operands, std::uint32_t controls) {
    std::uint32_t length = 1;
    for (const Operand& operand : operands)
        length += static_cast<std::uint32_t>(operand.words.size());
    words_.push_back(static_cast<std::uint32_t>(opcode) | controls << 11U | length << 24U);
    for (const Operand& operand : operands)
        words_.insert(words_.end(), operand.words.begin(), operand.words.end());
}

namespace {

/// The rounds of MD5 (RFC 1321, section 3.4) over one block of 64 bytes.
void digest_block(std::array<std::uint32_t, 4>& state, const std::byte* block) {
    static constexpr int turns[] = {7, 12, 17, 22, 5, 9, 14, 20, 4, 11, 16, 23, 6, 10, 15, 21};
    auto [a, b, c, d] = state;
    for (std::uint32_t i = 0; i < 64; ++i) {
        std::uint32_t mixed = 0, place = 0;
        switch (i / 16) {
            case 0:
                mixed = (b & c) | (~b & d);
                place = i;
                break;
            case 1:
                mixed = (d & b) | (~d & c);
                place = 5 * i + 1;
                break;
            case 2:
                mixed = b ^ c ^ d;
                place = 3 * i + 5;
                break;
            default:
                mixed = c ^ (b | ~d);
                place = 7 * i;
                break;
        }
        const auto sine = static_cast<std::uint32_t>(
            std::floor(std::abs(std::sin(static_cast<double>(i + 1))) * 4294967296.0));
        mixed += a + sine + load<std::uint32_t>(block + 4 * std::size_t{place % 16});
        a = d;
        d = c;
        c = b;
        b += std::rotl(mixed, turns[i / 16 * 4 + i % 4]);
    }
    state[0] += a;
    state[1] += b;
    state[2] += c;
    state[3] += d;
}

/// MD5 of everything behind the checksum, but for its end: the number of bits stands at the beginning of
/// the last block and, in quarters and with its lowest bit set, at its end.
std::array<std::uint32_t, 4> checksum_of(ByteSpan content) {
    std::array<std::uint32_t, 4> state = {0x67452301, 0xEFCDAB89, 0x98BADCFE, 0x10325476};
    std::size_t at = 0;
    for (; at + 64 <= content.size(); at += 64)
        digest_block(state, content.data() + at);
    const std::size_t left = content.size() - at;
    const auto bits = static_cast<std::uint32_t>(content.size() * 8);
    std::array<std::byte, 64> last{};
    std::size_t rest_at = 4;
    if (left >= 56) {  // no room for both numbers
        std::memcpy(last.data(), content.data() + at, left);
        last[left] = std::byte{0x80};
        digest_block(state, last.data());
        last = {};
    } else {
        std::memcpy(last.data() + rest_at, content.data() + at, left);
        last[rest_at + left] = std::byte{0x80};
    }
    store(last.data(), bits);
    store(last.data() + 60, bits >> 2 | 1);
    digest_block(state, last.data());
    return state;
}

std::vector<std::byte> signature_of(const SignatureElement& element) {
    constexpr std::uint32_t header = 8, one = 24;
    ByteWriter writer;
    for (const std::uint32_t word : {1U, header, header + one, 0U, element.system_value,
                                     element.type, 0U, element.mask | element.used << 8U})
        writer.write(word);
    for (const char letter : element.name)
        writer.write(static_cast<std::uint8_t>(letter));
    std::vector<std::byte> bytes = writer.release();
    bytes.push_back({});
    bytes.resize((bytes.size() + 3) / 4 * 4);
    return bytes;
}

std::vector<std::byte> program_of(Stage stage, const ShaderCode& code) {
    ByteWriter writer;
    writer.write(static_cast<std::uint32_t>(stage) << 16U | 4U << 4U);  // of model 4.0
    writer.write(static_cast<std::uint32_t>(code.words().size() + 2));
    for (const std::uint32_t word : code.words())
        writer.write(word);
    return writer.release();
}

}  // namespace

std::vector<std::byte> shader_file(Stage stage, const ShaderCode& code, const SignatureElement& in,
                                   const SignatureElement& out) {
    constexpr std::size_t header = 32, checksum_at = 4, behind_checksum = 20;
    const std::pair<std::string_view, std::vector<std::byte>> chunks[] = {
        {"ISGN", signature_of(in)}, {"OSGN", signature_of(out)}, {"SHDR", program_of(stage, code)}};
    std::vector<std::byte> file(header + 4 * std::size(chunks));
    std::size_t number = 0;
    for (const auto& [tag, content] : chunks) {
        store(&file[header + 4 * number++], static_cast<std::uint32_t>(file.size()));
        for (const char letter : tag)
            file.push_back(static_cast<std::byte>(letter));
        file.resize(file.size() + 4);
        store(&file[file.size() - 4], static_cast<std::uint32_t>(content.size()));
        file.insert(file.end(), content.begin(), content.end());
    }
    std::memcpy(file.data(), "DXBC", 4);
    store(&file[20], std::uint32_t{1});
    store(&file[24], static_cast<std::uint32_t>(file.size()));
    store(&file[28], static_cast<std::uint32_t>(std::size(chunks)));
    const auto checksum = checksum_of(ByteSpan(file).subspan(behind_checksum));
    for (std::size_t i = 0; i < 4; ++i)
        store(&file[checksum_at + 4 * i], checksum[i]);
    return file;
}

}  // namespace yl::d3d12
