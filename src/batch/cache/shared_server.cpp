// Entries on a server, by libcurl.
#include <curl/curl.h>
#include <fmt/format.h>

#include <atomic>
#include <cstdio>
#include <thread>

#include <yl/build_cache.hpp>
#include <yl/status_macros.hpp>

namespace yl::batch {
namespace {

namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

struct CloseFile {
    void operator()(std::FILE* file) const { std::fclose(file); }
};
using StdFile = std::unique_ptr<std::FILE, CloseFile>;

struct CloseCurl {
    void operator()(CURL* handle) const { curl_easy_cleanup(handle); }
};
using Curl = std::unique_ptr<CURL, CloseCurl>;

/// How a request ended.
struct Answer {
    CURLcode result = CURLE_OK;
    long status = 0;

    [[nodiscard]] bool is_found() const {
        return result == CURLE_OK && status >= 200 && status < 300;
    }
    [[nodiscard]] bool is_missing() const {
        return result == CURLE_OK && (status == 404 || status == 410);
    }
    /// Worth another try: a server that is busy, a line that broke.
    [[nodiscard]] bool may_pass() const {
        return result != CURLE_OK || status >= 500 || status == 408 || status == 429;
    }
    [[nodiscard]] std::string why() const {
        return result != CURLE_OK ? curl_easy_strerror(result)
                                  : fmt::format("the server answers {}", status);
    }
};

class SharedServer : public SharedCache {
 public:
    SharedServer(std::string url, const SharedCacheOptions& options)
        : url_(std::move(url)), options_(options) {
        // Safe to call again; programs that start threads before should have called it themselves.
        curl_global_init(CURL_GLOBAL_DEFAULT);
        while (url_.ends_with('/'))
            url_.pop_back();
    }

    Result<bool> fetch(const Hash& key, const fs::path& file) const override {
        if (is_resting())
            return false;
        const Answer answer = again_and_again(key, [&](CURL* handle) {
            const StdFile to(std::fopen(file.c_str(), "wb"));
            if (to == nullptr)
                return Answer{CURLE_WRITE_ERROR, 0};
            curl_easy_setopt(handle, CURLOPT_WRITEDATA, to.get());
            return perform(handle);
        });
        if (answer.is_found())
            return true;
        std::error_code error;
        fs::remove(file, error);
        if (answer.is_missing())
            return false;
        return gave_up(key, answer);
    }

    Status store(const Hash& key, const fs::path& file) const override {
        if (is_resting() || is_there(key))
            return {};
        std::error_code error;
        const std::uint64_t bytes = fs::file_size(file, error);
        const Answer answer = again_and_again(key, [&](CURL* handle) {
            const StdFile from(std::fopen(file.c_str(), "rb"));
            if (from == nullptr)
                return Answer{CURLE_READ_ERROR, 0};
            curl_easy_setopt(handle, CURLOPT_UPLOAD, 1L);
            curl_easy_setopt(handle, CURLOPT_READDATA, from.get());
            curl_easy_setopt(handle, CURLOPT_INFILESIZE_LARGE, static_cast<curl_off_t>(bytes));
            return perform(handle);
        });
        if (!answer.is_found())
            return tl::unexpected(gave_up(key, answer).value());
        return {};
    }

    bool is_writable() const override { return options_.is_writable; }
    std::string name() const override { return url_; }

 private:
    static constexpr std::chrono::seconds rest{30};

    [[nodiscard]] std::string url_of(const Hash& key) const {
        const std::string text = key.text();
        return url_ + "/" + text.substr(0, 2) + "/" + text + ".entry";
    }

    [[nodiscard]] bool is_there(const Hash& key) const {
        return again_and_again(key,
                               [&](CURL* handle) {
                                   curl_easy_setopt(handle, CURLOPT_NOBODY, 1L);
                                   return perform(handle);
                               })
            .is_found();
    }

    [[nodiscard]] Curl request(const Hash& key) const {
        Curl handle(curl_easy_init());
        if (handle == nullptr)
            return handle;
        const std::string url = url_of(key);
        curl_easy_setopt(handle.get(), CURLOPT_URL, url.c_str());
        curl_easy_setopt(handle.get(), CURLOPT_NOSIGNAL, 1L);
        curl_easy_setopt(handle.get(), CURLOPT_FOLLOWLOCATION, 1L);
        curl_easy_setopt(handle.get(), CURLOPT_PROTOCOLS_STR, "http,https");
        curl_easy_setopt(handle.get(), CURLOPT_REDIR_PROTOCOLS_STR, "http,https");
        curl_easy_setopt(handle.get(), CURLOPT_FAILONERROR, 0L);
        curl_easy_setopt(handle.get(), CURLOPT_CONNECTTIMEOUT_MS,
                         static_cast<long>(options_.connect_timeout.count()));
        curl_easy_setopt(handle.get(), CURLOPT_LOW_SPEED_LIMIT, 1L);
        curl_easy_setopt(handle.get(), CURLOPT_LOW_SPEED_TIME,
                         std::max(1L, static_cast<long>(options_.stall_timeout.count() / 1000)));
        return handle;
    }

    static Answer perform(CURL* handle) {
        Answer answer;
        answer.result = curl_easy_perform(handle);
        curl_easy_getinfo(handle, CURLINFO_RESPONSE_CODE, &answer.status);
        return answer;
    }

    template <class Once>
    [[nodiscard]] Answer again_and_again(const Hash& key, const Once& once) const {
        Answer answer;
        for (std::uint32_t attempt = 0; attempt <= options_.retries; ++attempt) {
            if (attempt > 0)
                std::this_thread::sleep_for(std::chrono::milliseconds(100U << attempt));
            const Curl handle = request(key);
            if (handle == nullptr)
                return {CURLE_OUT_OF_MEMORY, 0};
            answer = once(handle.get());
            if (!answer.may_pass())
                break;
        }
        return answer;
    }

    /// What is not asked costs no time: builds go on without the server.
    [[nodiscard]] bool is_resting() const {
        return Clock::now().time_since_epoch().count() < resting_until_;
    }

    tl::unexpected<Error> gave_up(const Hash& key, const Answer& answer) const {
        if (answer.may_pass())
            resting_until_ = (Clock::now() + rest).time_since_epoch().count();
        return fail_at({ErrorKind::io, "the shared cache does not serve: " + answer.why()},
                       url_of(key));
    }

    std::string url_;
    SharedCacheOptions options_;
    mutable std::atomic<Clock::rep> resting_until_ = std::numeric_limits<Clock::rep>::min();
};

}  // namespace

std::shared_ptr<const SharedCache> shared_server(std::string url,
                                                 const SharedCacheOptions& options) {
    return std::make_shared<SharedServer>(std::move(url), options);
}

}  // namespace yl::batch
