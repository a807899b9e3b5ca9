// Makes the label glyphs when the library is built: reads a font file through FreeType and prints
// the coverage of each letter of some ranges of Unicode in two sizes as C++ source.
//
//     make_glyphs FONT OUTPUT
#include <ft2build.h>
#include FT_FREETYPE_H

#include <cstdio>
#include <fstream>

namespace {

constexpr int sizes[] = {13, 17};  // pixels; small and large

/// Consecutive characters of Unicode.
struct Range {
    unsigned first, last;
};

/// ASCII; the Latin letters of Europe's languages (Latin-1 Supplement, Latin Extended-A); dashes,
/// quotation marks and the ellipsis; the minus sign.
constexpr Range ranges[] = {{0x20, 0x7E},     {0xA0, 0x17F},    {0x2013, 0x2014},
                            {0x2018, 0x201E}, {0x2026, 0x2026}, {0x2212, 0x2212}};

bool write_size(FT_Face face, int pixels, const char* name, std::ofstream& out) {
    if (FT_Set_Pixel_Sizes(face, 0, static_cast<FT_UInt>(pixels)) != 0)
        return false;
    std::size_t offset = 0;
    std::string glyphs;
    std::string coverage;
    for (const Range& range : ranges)
        for (unsigned character = range.first; character <= range.last; ++character) {
            if (FT_Load_Char(face, character, FT_LOAD_RENDER) != 0)
                return false;
            const FT_GlyphSlot slot = face->glyph;
            const FT_Bitmap& bitmap = slot->bitmap;
            glyphs += "    {" + std::to_string(slot->advance.x >> 6) + ", " +
                      std::to_string(slot->bitmap_left) + ", " + std::to_string(slot->bitmap_top) +
                      ", " + std::to_string(bitmap.width) + ", " + std::to_string(bitmap.rows) +
                      ", " + std::to_string(offset) + "},\n";
            for (unsigned y = 0; y < bitmap.rows; ++y)
                for (unsigned x = 0; x < bitmap.width; ++x, ++offset)
                    coverage +=
                        std::to_string(bitmap.buffer[y * static_cast<unsigned>(bitmap.pitch) + x]) +
                        (offset % 24 == 23 ? ",\n" : ",");
        }
    out << "constexpr Glyph " << name << "_glyphs[] = {\n" << glyphs << "};\n";
    out << "constexpr unsigned char " << name << "_coverage[] = {\n" << coverage << "};\n";
    out << "constexpr int " << name << "_ascent = " << (face->size->metrics.ascender >> 6) << ";\n";
    out << "constexpr int " << name << "_line = " << (face->size->metrics.height >> 6) << ";\n";
    return true;
}

void write_ranges(std::ofstream& out) {
    out << "constexpr GlyphRange glyph_ranges[] = {\n";
    for (const Range& range : ranges)
        out << "    {" << range.first << ", " << range.last << "},\n";
    out << "};\n";
}

}  // namespace

int main(int argc, char** argv) {
    FT_Library library = nullptr;
    FT_Face face = nullptr;
    if (argc != 3 || FT_Init_FreeType(&library) != 0 ||
        FT_New_Face(library, argv[1], 0, &face) != 0) {
        std::fprintf(stderr, "usage: make_glyphs FONT OUTPUT, with a font that FreeType reads\n");
        return 2;
    }
    std::ofstream out(argv[2]);
    write_ranges(out);
    bool done =
        write_size(face, sizes[0], "small", out) && write_size(face, sizes[1], "large", out);
    out.close();
    done = done && !out.fail();
    FT_Done_Face(face);
    FT_Done_FreeType(library);
    return done ? 0 : 1;
}
