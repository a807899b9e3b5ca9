// What this project's own libraries share beside the public interface: exported by shared builds,
// but declared by no public header, and free to change.
#pragma once

#include <yl/api.hpp>

#define YL_INTERNAL YL_API
