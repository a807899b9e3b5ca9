#include "support/zip_file.hpp"

#include <zip.h>

#include "support/check.hpp"

namespace support {

std::vector<std::byte> zip_file(const std::vector<ZipEntry>& entries) {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(nullptr, 0, 0, &error);
    REQUIRE(source != nullptr);
    zip_source_keep(source);
    zip_t* archive = zip_open_from_source(source, ZIP_TRUNCATE, &error);
    REQUIRE(archive != nullptr);
    for (const ZipEntry& entry : entries) {
        zip_source_t* content =
            zip_source_buffer(archive, entry.content.data(), entry.content.size(), 0);
        const zip_int64_t index =
            zip_file_add(archive, entry.name.c_str(), content, ZIP_FL_ENC_UTF_8);
        REQUIRE(index >= 0);
        const auto number = static_cast<zip_uint64_t>(index);
        REQUIRE(zip_set_file_compression(archive, number,
                                         entry.is_stored ? ZIP_CM_STORE : ZIP_CM_DEFLATE, 0) == 0);
        if (entry.is_encrypted)
            REQUIRE(zip_file_set_encryption(archive, number, ZIP_EM_AES_256, "secret") == 0);
    }
    REQUIRE(zip_dir_add(archive, "empty", ZIP_FL_ENC_UTF_8) >= 0);
    REQUIRE(zip_close(archive) == 0);
    REQUIRE(zip_source_open(source) == 0);
    zip_stat_t stat;
    REQUIRE(zip_source_stat(source, &stat) == 0);
    std::vector<std::byte> bytes(stat.size);
    REQUIRE(zip_source_read(source, bytes.data(), bytes.size()) ==
            static_cast<zip_int64_t>(bytes.size()));
    zip_source_close(source);
    zip_source_free(source);
    return bytes;
}

}  // namespace support
