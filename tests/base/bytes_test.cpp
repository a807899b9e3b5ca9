#include "base/bytes.hpp"

#include "base/checked.hpp"
#include "support/check.hpp"

using namespace yl;
using support::must;
using support::must_fail;

TEST_CASE("numbers are read in both byte orders and never beyond the end") {
    const std::uint8_t raw[] = {0x01, 0x02, 0x03, 0x04, 0x05, 0x06, 0x07, 0x08, 0x09};
    ByteReader reader(std::as_bytes(std::span(raw)));
    CHECK(must(reader.read<std::uint16_t>()) == 0x0201);
    CHECK(must(reader.read_big<std::uint16_t>()) == 0x0304);
    CHECK(must(reader.read_big<std::uint32_t>()) == 0x05060708);
    CHECK(reader.left() == 1);
    const Error error = must_fail(reader.read<std::uint16_t>());
    CHECK(error.kind == ErrorKind::malformed);
    CHECK(error.offset == 8);
    CHECK(reader.offset() == 8);
    CHECK(must(reader.read<std::uint8_t>()) == 9);
}

TEST_CASE("seeking, skipping and taking stay within the bytes") {
    const std::uint8_t raw[4] = {10, 11, 12, 13};
    ByteReader reader(std::as_bytes(std::span(raw)));
    must(reader.seek(4));
    CHECK(reader.left() == 0);
    CHECK_FALSE(reader.seek(5));
    must(reader.seek(1));
    CHECK_FALSE(reader.skip(~std::uint64_t{0}));
    const ByteSpan taken = must(reader.take(2));
    CHECK(std::to_integer<int>(taken[0]) == 11);
    CHECK_FALSE(reader.take(2));
    CHECK(reader.offset() == 3);
}

TEST_CASE("what is written is what is read") {
    ByteWriter writer;
    writer.write(std::uint8_t{7});
    writer.pad_to(4);
    writer.write(std::uint64_t{0x1122334455667788});
    writer.write_big(std::uint32_t{0xCAFE1234});
    writer.append("ab");
    CHECK(writer.offset() == 18);
    ByteReader reader(writer.bytes());
    CHECK(must(reader.read<std::uint32_t>()) == 7);
    CHECK(must(reader.read<std::uint64_t>()) == 0x1122334455667788);
    CHECK(must(reader.read_big<std::uint32_t>()) == 0xCAFE1234);
    CHECK(as_text(must(reader.take(2))) == "ab");
}

TEST_CASE("sizes remember an overflow") {
    CHECK(*(CheckedSize(6) * 7 + 8).value() == 50);
    const CheckedSize huge = CheckedSize(std::uint64_t{1} << 63) * 2;
    CHECK(huge.overflowed());
    CHECK((huge + 1).overflowed());
    CHECK_FALSE((CheckedSize(~std::uint64_t{0}) + 1).value().has_value());
    CHECK(CheckedSize(100).fits(100));
    CHECK_FALSE(CheckedSize(101).fits(100));
    CHECK_FALSE(huge.fits(~std::uint64_t{0}));
    CHECK(round_up(0, 64) == 0);
    CHECK(round_up(65, 64) == 128);
    CHECK(ceil_div(9, 4) == 3);
}

TEST_CASE("an error's sentence names place and offset when they are known") {
    CHECK(Error{ErrorKind::malformed, "no good"}.sentence() == "no good");
    CHECK(Error{ErrorKind::malformed, "no good", "a.png", 41}.sentence() ==
          "a.png: at byte 41: no good");
}
