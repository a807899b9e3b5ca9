// Entries in a folder that several machines see.
#include <yl/build_cache.hpp>

#include <yl/status_macros.hpp>
#include "base/new_file.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

class SharedFolder : public SharedCache {
 public:
    SharedFolder(fs::path folder, const SharedCacheOptions& options)
        : folder_(std::move(folder)), options_(options) {}

    Result<bool> fetch(const Hash& key, const fs::path& file) const override {
        std::error_code error;
        const fs::path place = place_of(key);
        if (!fs::exists(place, error)) {
            YL_CHECK(check_folder());
            return false;
        }
        fs::copy_file(place, file, fs::copy_options::overwrite_existing, error);
        if (error)
            return fail_at({ErrorKind::io, "cannot be copied: " + error.message()}, place.string());
        return true;
    }

    Status store(const Hash& key, const fs::path& file) const override {
        const fs::path place = place_of(key);
        std::error_code error;
        if (fs::exists(place, error))
            return {};
        YL_CHECK(check_folder());
        fs::create_directory(place.parent_path(), error);
        if (error)
            return fail_at({ErrorKind::io, "cannot make the folder: " + error.message()},
                           place.parent_path().string());
        const fs::path part = place.string() + ".part-" + file.filename().string();
        fs::copy_file(file, part, fs::copy_options::overwrite_existing, error);
        if (!error)
            fs::rename(part, place, error);
        if (error) {
            const std::string why = error.message();
            fs::remove(part, error);
            return fail_at({ErrorKind::io, "cannot be written: " + why}, place.string());
        }
        return {};
    }

    bool is_writable() const override { return options_.is_writable; }
    std::string name() const override { return folder_.string(); }

 private:
    /// A network's folder that is not mounted is not made here.
    Status check_folder() const {
        std::error_code error;
        if (!fs::is_directory(folder_, error))
            return fail_at({ErrorKind::missing, "there is no such folder"}, folder_.string());
        return {};
    }

    fs::path place_of(const Hash& key) const {
        const std::string text = key.text();
        return folder_ / text.substr(0, 2) / (text + ".entry");
    }

    fs::path folder_;
    SharedCacheOptions options_;
};

}  // namespace

std::shared_ptr<const SharedCache> shared_folder(fs::path folder,
                                                 const SharedCacheOptions& options) {
    return std::make_shared<SharedFolder>(std::move(folder), options);
}

}  // namespace yl::batch
