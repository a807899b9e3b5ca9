// XXH3 hashes, taken piece by piece.
#pragma once

#include <xxhash.h>

#include <memory>
#include <span>

#include <yl/build_cache.hpp>

namespace yl::batch {

class Hasher {
 public:
    /// Fails by a null state where there is no memory.
    Hasher() : state_(XXH3_createState()) {
        if (state_ != nullptr)
            XXH3_128bits_reset(state_.get());
    }

    void add(const void* bytes, std::size_t count) {
        if (state_ != nullptr)
            XXH3_128bits_update(state_.get(), bytes, count);
    }
    /// Text with its length, so that no two lists of texts are alike.
    void add(std::string_view text) {
        const std::string length = std::to_string(text.size()) + ":";
        add(length.data(), length.size());
        add(text.data(), text.size());
    }
    [[nodiscard]] Hash hash() const {
        if (state_ == nullptr)
            return {};
        const XXH128_hash_t hash = XXH3_128bits_digest(state_.get());
        return {hash.high64, hash.low64};
    }

 private:
    struct Free {
        void operator()(XXH3_state_t* state) const { XXH3_freeState(state); }
    };
    std::unique_ptr<XXH3_state_t, Free> state_;
};

}  // namespace yl::batch
