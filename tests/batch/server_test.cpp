// A shared cache whose server answers wrongly, or not at all.
#include <arpa/inet.h>
#include <netinet/in.h>
#include <sys/socket.h>

#include <chrono>
#include <thread>

#include "base/descriptor.hpp"
#include "batch/jobs.hpp"

using namespace yl::batch;
using support::must;
using support::text_in;
using support::Workshop;
using namespace std::chrono_literals;

namespace {

/// Answers each request on this machine with the same bytes, or with none.
class OneAnswer {
 public:
    explicit OneAnswer(std::string answer) : answer_(std::move(answer)) {
        sockaddr_in address{};
        address.sin_family = AF_INET;
        address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        socklen_t size = sizeof address;
        auto* const where = reinterpret_cast<sockaddr*>(&address);
        REQUIRE(::bind(socket_.get(), where, size) == 0);
        REQUIRE(::listen(socket_.get(), 16) == 0);
        REQUIRE(::getsockname(socket_.get(), where, &size) == 0);
        port_ = ntohs(address.sin_port);
        thread_ = std::jthread([this] { serve(); });
    }
    ~OneAnswer() { ::shutdown(socket_.get(), SHUT_RDWR); }
    OneAnswer(const OneAnswer&) = delete;
    OneAnswer& operator=(const OneAnswer&) = delete;

    [[nodiscard]] std::string url() const { return "http://127.0.0.1:" + std::to_string(port_); }
    [[nodiscard]] int requests() const { return requests_; }

 private:
    void serve() {
        std::vector<yl::Descriptor> silent;
        while (true) {
            yl::Descriptor peer(::accept(socket_.get(), nullptr, nullptr));
            if (!peer.valid())
                return;
            ++requests_;
            char request[4096];
            if (::recv(peer.get(), request, sizeof request, 0) <= 0)
                continue;
            if (answer_.empty())
                silent.push_back(std::move(peer));
            else
                static_cast<void>(::send(peer.get(), answer_.data(), answer_.size(), MSG_NOSIGNAL));
        }
    }

    std::string answer_;
    yl::Descriptor socket_{::socket(AF_INET, SOCK_STREAM, 0)};
    int port_ = 0;
    std::atomic<int> requests_ = 0;
    std::jthread thread_ = {};
};

std::string answer_of(const std::string& status, std::size_t length, const std::string& body) {
    return "HTTP/1.1 " + status + "\r\nContent-Length: " + std::to_string(length) +
           "\r\nConnection: close\r\n\r\n" + body;
}

}  // namespace

TEST_CASE("whatever a server answers, the files are right") {
    const Workshop shop, good;
    std::string answer;
    std::size_t allowed = 1;  // remarks about one job at least
    SUBCASE("an entry that is none") {
        answer = answer_of("200 OK", 5, "hello");
    }
    SUBCASE("fewer bytes than it said") {
        answer = answer_of("200 OK", 5000, "YLentry\n");
    }
    SUBCASE("nothing") {
        answer = answer_of("200 OK", 0, "");
    }
    SUBCASE("an error of its own") {
        answer = answer_of("500 Internal Server Error", 0, "");
    }
    SUBCASE("no permission") {
        answer = answer_of("403 Forbidden", 0, "");
    }
    SUBCASE("no HTTP") {
        answer = "what?\r\n\r\n";
    }
    SUBCASE("silence") {
        answer = "";
    }
    OneAnswer server(answer);
    shop.write("in", "text");
    const std::vector<Job> jobs = {shop.job("out/a", {"in"}), shop.job("out/b", {"in"}),
                                   shop.job("out/c", {"in"})};
    BuildOptions options = shop.options();
    options.shared = shared_server(
        server.url(), {.connect_timeout = 500ms, .stall_timeout = 1000ms, .retries = 1});
    std::size_t remarks = 0;
    options.on_event = [&](const Event& event) {
        if (event.kind == Event::Kind::remark) {
            ++remarks;
            CHECK_FALSE(event.error.message.empty());
        }
    };
    const Summary summary = must(build(jobs, options));
    CHECK(summary.built == 3);
    CHECK(remarks >= allowed);
    for (const char* name : {"out/a", "out/b", "out/c"})
        CHECK(text_in(shop.path(name)) == "text\n");
    CHECK(server.requests() > 0);
}

TEST_CASE("a server that does not serve is left alone for a while") {
    const OneAnswer server(answer_of("503 Service Unavailable", 0, ""));
    const Workshop shop;
    const auto shared = shared_server(server.url(), {.retries = 2});
    CHECK_FALSE(shared->fetch(hash_text("a"), shop.path("file")));
    const int asked = server.requests();
    CHECK(asked == 3);
    CHECK_FALSE(must(shared->fetch(hash_text("b"), shop.path("file"))));
    must(shared->store(hash_text("b"), shop.path("file")));
    CHECK(server.requests() == asked);
    CHECK_FALSE(std::filesystem::exists(shop.path("file")));
}
