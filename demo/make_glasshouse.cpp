// Writes the Glasshouse's pictures into a folder: make_glasshouse FOLDER
#include <cstdio>

#include "dawn.hpp"
#include "glasshouse.hpp"
#include "planter.hpp"

int main(int argc, char** argv) {
    if (argc != 2) {
        std::fprintf(stderr, "usage: make_glasshouse FOLDER\n");
        return 2;
    }
    const auto pictures = glasshouse::make_pictures();
    auto written = pictures ? glasshouse::write_pictures(*pictures, argv[1])
                            : tl::unexpected(pictures.error());
    if (written)
        written = glasshouse::write_dawn(argv[1]);
    if (written)
        written = glasshouse::write_planter(argv[1]);
    if (written)
        return 0;
    std::fprintf(stderr, "make_glasshouse: %s\n", written.error().sentence().c_str());
    return 4;
}
