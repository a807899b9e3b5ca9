// Runs the tool as a person does: as a program, with its output, its errors and its exit code.
#pragma once

#include <sys/wait.h>

#include <cstdio>
#include <nlohmann/json.hpp>
#include <string>

#include "support/check.hpp"
#include "support/files.hpp"

namespace support {

struct Outcome {
    int exit = -1;
    std::string out;
    std::string err;
};

inline Outcome run_ylat(const std::string& arguments, const std::string& environment = "") {
    const TemporaryFolder folder;
    const std::string command = environment + " '" YLAT_PROGRAM "' " + arguments + " >'" +
                                folder.path("out") + "' 2>'" + folder.path("err") + "'";
    const int status = std::system(command.c_str());
    const auto text = [&](const char* name) {
        const auto bytes = read_bytes(folder.path(name));
        return std::string(reinterpret_cast<const char*>(bytes.data()), bytes.size());
    };
    return {WIFEXITED(status) ? WEXITSTATUS(status) : -1, text("out"), text("err")};
}

/// What it gives to programs.
inline nlohmann::json run_json(const std::string& arguments, int exit = 0) {
    const Outcome outcome = run_ylat("--json " + arguments);
    CAPTURE(outcome.err);
    REQUIRE(outcome.exit == exit);
    return nlohmann::json::parse(outcome.out);
}

inline std::string demo_file(const std::string& name) {
    return std::string(DEMO_DATA) + "/" + name;
}

}  // namespace support
