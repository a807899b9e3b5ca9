// The calls of the modules as a program of this machine, to hold WebAssembly to: one request a line on
// standard input, one answer a line on standard output.
//
//     {"load": PATH}              a file into memory: [address, length]
//     {"hash": [address, length]} FNV-1a of memory, 64 bits
//     {"call": NAME, ...}         as the modules answer it
#include <fmt/format.h>

#include <fstream>
#include <iostream>
#include <list>

#include "request.hpp"

using yl::web::Json;

namespace {

std::string hash_of(std::span<const std::byte> bytes) {
    std::uint64_t hash = 0xCBF29CE484222325;
    for (const std::byte byte : bytes)
        hash = (hash ^ std::to_integer<std::uint64_t>(byte)) * 0x100000001B3;
    return fmt::format("{:016x}", hash);
}

std::vector<std::byte> content_of(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    const std::string text(std::istreambuf_iterator<char>(file), {});
    const auto bytes = std::as_bytes(std::span(text));
    return {bytes.begin(), bytes.end()};
}

}  // namespace

int main() {
    yl::web::Objects objects;
    std::list<std::vector<std::byte>> files;
    for (std::string line; std::getline(std::cin, line);) {
        const Json request = Json::parse(line, nullptr, false);
        if (request.is_object() && request.contains("load")) {
            files.push_back(content_of(request["load"].get<std::string>()));
            std::cout << yl::web::place_of(files.back()) << std::endl;
        } else if (request.is_object() && request.contains("hash")) {
            const auto memory = yl::web::memory(request, "hash");
            std::cout << Json(memory ? hash_of(*memory) : "no memory") << std::endl;
        } else {
            std::cout << yl::web::answer(objects, line) << std::endl;
        }
    }
}
